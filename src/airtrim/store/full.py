"""Whether what went wrong is a disk that is full, by whatever layer it was noticed."""

import errno
import sqlite3

from sqlalchemy.exc import OperationalError

_NEARLY_NONE = 1_000_000


def is_full(error: BaseException, free: int) -> bool:
    """Whether ``error`` comes of a full disk, of which ``free`` bytes are left.

    The system and SQLite mostly say so. SQLite also tells an input/output error where it cannot
    grow a mapped file, and libraries that write sound only notice that not all was written: those
    count where the disk is full indeed.
    """
    if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
        return True
    if isinstance(error, OperationalError):
        code = getattr(error.orig, "sqlite_errorcode", 0) & 0xFF
        return code == sqlite3.SQLITE_FULL or (
            code in (sqlite3.SQLITE_IOERR, sqlite3.SQLITE_CANTOPEN) and free < _NEARLY_NONE
        )
    noticed = isinstance(error, (OSError, RuntimeError, AssertionError))
    return noticed and free < _NEARLY_NONE
