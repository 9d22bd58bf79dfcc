"""Identity of a data folder: whether a database belongs to the files beside it.

The database and the folder carry the same mark. A database without it (lost and created again,
truncated to nothing, or taken from another folder) knows nothing about the recordings on the disk.
Without the mark, every one of them would look like a leftover.
"""

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from uuid import uuid4

from sqlalchemy import Engine
from sqlmodel import Session, select

from airtrim.errors import CannotStart
from airtrim.store.database import reading, writing
from airtrim.store.tables import IdentityRow, RecordingRow, SoundRow, TakeRow

_MARK = "folder-id"
MEDIA_FOLDERS = ("takes", "recordings")
"""Folders with data that cannot be computed again."""


@dataclass(frozen=True, slots=True)
class Identity:
    """``folder``: the mark that database and folder share. ``generation``: part of each address
    that a browser may cache for good; it changes when ids start over."""

    folder: str
    generation: str


def confirm_identity(engine: Engine, root: Path, *, adopt: bool = False) -> Identity:
    """Return the identity of the data in ``root`` and mark a new folder.

    Parameters
    ----------
    adopt
        Accept the database even if it does not belong to the files, and mark the folder with it.

    Raises
    ------
    CannotStart
        The folder holds recordings that the database does not belong to. Nothing is changed.
    """
    with reading(engine) as session:
        row = session.exec(select(IdentityRow)).first()
    if row is None:
        with writing(engine) as session:
            row = session.get(IdentityRow, 1) or new_identity()
            session.add(row)
    identity = Identity(row.folder, row.generation)
    if _mark_of(root) == identity.folder:
        return identity
    if not adopt and not _may_adopt(engine, root):
        raise CannotStart(_foreign(root, sum(1 for _ in _media(root))))
    write_mark(root, identity.folder)
    return identity


def refuse_missing_database(root: Path, database: Path) -> None:
    """Raise CannotStart where ``root`` holds recordings but ``database`` is missing or empty."""
    is_missing = not database.exists() or database.stat().st_size == 0
    if is_missing and (count := sum(1 for _ in _media(root))):
        raise CannotStart(_foreign(root, count))


def _foreign(root: Path, count: int) -> str:
    return (
        f"“{root}” holds {count} recordings, but its database is missing, empty, or belongs to "
        "another folder. Nothing was changed. Put the right “airtrim.db” back, or restore a backup "
        "with “airtrim restore”. If there is neither, “airtrim check-data --adopt” starts with "
        "the database as it is and keeps all recordings."
    )


def new_identity() -> IdentityRow:
    """Identity of a new database."""
    return IdentityRow(folder=uuid4().hex, generation=uuid4().hex[:12])


def write_mark(root: Path, folder: str) -> None:
    """Mark a data folder with the identity of its database."""
    part = root / f"{_MARK}.part"
    part.write_text(folder)
    part.replace(root / _MARK)


def _mark_of(root: Path) -> str | None:
    with suppress(OSError, ValueError):
        return (root / _MARK).read_text().strip()
    return None


def _media(root: Path) -> Iterator[Path]:
    for name in MEDIA_FOLDERS:
        with suppress(FileNotFoundError):
            yield from (root / name).iterdir()


def _may_adopt(engine: Engine, root: Path) -> bool:
    """Whether a folder with another mark, or none, may get the mark of this database: the folder
    holds no recordings, or the database names one of them. Names of recordings are random, so a
    database of another folder names none."""
    names = {path.name for path in _media(root)}
    return not names or _names_any(engine, names)


def _names_any(engine: Engine, names: set[str]) -> bool:
    with Session(engine) as session:
        for table in (TakeRow, SoundRow, RecordingRow):
            if names.intersection(session.exec(select(table.id)).all()):
                return True
    return False
