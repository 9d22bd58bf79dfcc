"""A reserve on the disk: what undoes, renames or frees room works on a full disk too."""

import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import Engine
from sqlmodel import Session

from airtrim.store.database import writing

if TYPE_CHECKING:
    from airtrim.store.files import Files

RESERVE_BYTES = 4_000_000
"""The pages that such a change writes take some 100 kB; SQLite needs them twice."""
_LEAST_BYTES = 1_000_000


class Reserve:
    """A file of ``RESERVE_BYTES`` that is deleted when the disk is full, and made again later."""

    def __init__(self, path: Path) -> None:
        self._path = path

    @property
    def missing_bytes(self) -> int:
        """How much of it is to be left free by everything else."""
        return 0 if self._path.exists() else RESERVE_BYTES

    def release(self) -> None:
        """Give the room to whoever writes next."""
        self._path.unlink(missing_ok=True)

    def restore(self, free_bytes: int) -> None:
        """Make it again where the disk has room for it, ``free_bytes`` being free."""
        if not self.missing_bytes or free_bytes < 4 * RESERVE_BYTES:
            return
        made = self._path.with_suffix(".new")
        try:
            with made.open("wb") as file:
                os.posix_fallocate(file.fileno(), 0, RESERVE_BYTES)
            made.rename(self._path)
        except OSError:
            with suppress(OSError):
                made.unlink()


@contextmanager
def freeing(engine: Engine, files: "Files") -> Iterator[Session]:
    """A session like ``writing`` for a change that needs hardly any room, or makes some."""
    if files.free() < _LEAST_BYTES:
        files.reserve.release()
    with writing(engine) as session:
        yield session
