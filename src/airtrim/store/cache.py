"""The one cache of the store: values that were read or computed, bounded by their size.

A key contains every input of its value, so a value is never out of date. A file is identified by
path, size, modification time and inode (``stamp``): a file that another process replaced has
another key. A document is identified by its revision, which is never given twice.
"""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from pathlib import Path
from threading import Lock
from typing import Any, TypeVar

T = TypeVar("T")
Key = tuple[Hashable, ...]
MOST_BYTES = 192_000_000


class Cache:
    """Values by key; the least recently used ones go first.

    Parameters
    ----------
    most_bytes
        Largest total size of all values. A larger single value is returned but not stored.

    Examples
    --------
    >>> cache = Cache(most_bytes=100)
    >>> cache.of(("words", "take-1"), lambda: "hello", size=len)
    'hello'
    """

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._most_bytes = most_bytes
        self._values: OrderedDict[Key, tuple[Any, int]] = OrderedDict()
        self._lock = Lock()
        self.bytes = 0

    def of(self, key: Key, make: Callable[[], T], size: Callable[[T], int]) -> T:
        """Return the value of ``key``; ``make`` returns it where it is not known, and ``size`` its
        bytes. Two threads may both make a value; the first one is stored."""
        known = self.get(key)
        if known is not None:
            return known  # type: ignore[no-any-return]
        value = make()
        self.put(key, value, size(value))
        return value

    def get(self, key: Key) -> Any | None:
        """Return a value, or None."""
        with self._lock:
            found = self._values.get(key)
            if found is None:
                return None
            self._values.move_to_end(key)
            return found[0]

    def put(self, key: Key, value: Any, size: int) -> None:
        """Store a value that takes ``size`` bytes."""
        if value is None or size > self._most_bytes:
            return
        with self._lock:
            if key in self._values:
                return
            self._values[key] = value, size
            self.bytes += size
            while self.bytes > self._most_bytes:
                _, (_, gone) = self._values.popitem(last=False)
                self.bytes -= gone

    def drop(self, is_dropped: Callable[[Key], bool]) -> None:
        """Remove values by their keys, such as those of a deleted episode."""
        with self._lock:
            for key in [key for key in self._values if is_dropped(key)]:
                self.bytes -= self._values.pop(key)[1]


def stamp(path: Path) -> Key:
    """What identifies a file with its content. Raises FileNotFoundError."""
    found = path.stat()
    return str(path), found.st_size, found.st_mtime_ns, found.st_ino


def stamp_of(path: Path) -> Key:
    """``stamp`` of a file that may be missing."""
    try:
        return stamp(path)
    except FileNotFoundError:
        return str(path), None
