"""The database and the files of one folder of data."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from copy import copy
from pathlib import Path
from typing import Self, TypeVar

from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session, SQLModel, col, select

from airtrim.compute.inline import INLINE
from airtrim.compute.order import Compute
from airtrim.errors import CannotStart, NotFound
from airtrim.store.cache import Cache
from airtrim.store.database import open_engine, reading
from airtrim.store.files import Files
from airtrim.store.identity import confirm_identity, refuse_missing_database
from airtrim.store.tables import GuestRow, RecordingRow, ShowRow

Row = TypeVar("Row", bound=SQLModel)
Dated = TypeVar("Dated", GuestRow, RecordingRow)


def row_of(session: Session, kind: type[Row], key: int | str, missing: str) -> Row:
    """One row. Raises NotFound, with what is ``missing`` as a sentence, where it is not there."""
    row = session.get(kind, key)
    if row is None:
        raise NotFound(missing)
    return row


def by_age(session: Session, kind: type[Dated], where: bool) -> list[Dated]:
    """The rows of a kind for which a condition holds, oldest first."""
    query = select(kind).where(where).order_by(col(kind.created_at))
    return list(session.exec(query).all())


def _make_private(root: Path, database: Path) -> None:
    """Restrict the data to their owner: the database holds the tokens of guests and copy links.
    A folder of somebody else's, shared on purpose, stays as it is."""
    for path, mode in ((root, 0o700), (database, 0o600)):
        with suppress(PermissionError, FileNotFoundError):
            path.chmod(mode)


class Rows:
    """What every table's part of the store has. Safe for many threads and processes."""

    def __init__(self, root: Path, keep_free_bytes: int = 0, *, adopt: bool = False) -> None:
        root.mkdir(mode=0o700, parents=True, exist_ok=True)
        self.files = Files(root, keep_free_bytes)
        self.compute: Compute = INLINE
        """What does heavy work on what is kept here."""
        database = root / "airtrim.db"
        if not adopt:
            refuse_missing_database(root, database)
        self.engine = open_engine(database)
        try:
            self.identity = confirm_identity(self.engine, root, adopt=adopt)
        except CannotStart:
            self.engine.dispose()
            raise
        _make_private(root, database)
        self.cache = Cache()

    def with_compute(self, compute: Compute) -> Self:
        """The same, whose heavy work is done elsewhere."""
        other = copy(self)
        other.compute = compute
        return other

    def close(self) -> None:
        """Let go of the database."""
        self.engine.dispose()

    def answers(self) -> bool:
        """Whether the database can be read."""
        try:
            with reading(self.engine) as session:
                session.exec(select(ShowRow.id).limit(1)).first()
        except SQLAlchemyError:
            return False
        return True

    def is_database_sound(self) -> bool:
        """Whether SQLite finds no damage in the database. Takes a second per gigabyte."""
        try:
            with self.engine.connect() as connection:
                return connection.exec_driver_sql("PRAGMA quick_check(1)").scalar() == "ok"
        except SQLAlchemyError:
            return False

    @contextmanager
    def versions(self) -> Iterator[Callable[[], int]]:
        """A function that tells a number which is another one once anybody else has written."""
        with self.engine.connect() as connection:
            raw = connection.connection.driver_connection
            assert raw is not None
            yield lambda: int(raw.execute("PRAGMA data_version").fetchone()[0])
