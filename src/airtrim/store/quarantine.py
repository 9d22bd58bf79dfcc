"""Quarantine: files that no row of the database names, kept for 30 days before they are deleted.

A file without a row is usually a leftover of interrupted work. It can also be the only copy of a
recording, when the database was replaced by an older one. ``check-data --restore-files`` moves
quarantined files back.
"""

import json
import shutil
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

_DATE = "quarantined.json"
KEEP_S = 30 * 24 * 3600.0
"""How long a file stays in quarantine."""


@dataclass(frozen=True, slots=True)
class Quarantined:
    """A folder in quarantine: where it came from (``takes``, ``recordings``, ``exports``), its
    name there, and when it was moved, in seconds since 1970."""

    kind: str
    name: str
    since_s: float
    path: Path


class Quarantine:
    """Quarantine of a data folder: ``quarantine/<kind>/<name>`` beside a file with its date."""

    def __init__(self, root: Path) -> None:
        self._root, self._folder = root, root / "quarantine"

    def add(self, path: Path) -> None:
        """Move a folder of the data into quarantine."""
        target = self._folder / path.parent.name / path.name
        target.parent.mkdir(parents=True, exist_ok=True)
        if target.exists():  # a second file of the same name: keep both
            target = target.with_name(f"{target.name}-{time.time_ns()}")
        # The date comes first. A folder without a date would look new for ever.
        self._date_of(target).write_text(json.dumps({"since_s": time.time(), "name": path.name}))
        path.rename(target)

    def contents(self) -> Iterator[Quarantined]:
        """Yield what is in quarantine, by kind and name."""
        for date in sorted(self._folder.glob(f"*/*.{_DATE}")):
            path = date.with_name(date.name.removesuffix(f".{_DATE}"))
            if not path.exists():
                date.unlink(missing_ok=True)
                continue
            with suppress(OSError, ValueError, KeyError, TypeError):
                record = json.loads(date.read_text())
                since_s = float(record["since_s"])
                yield Quarantined(path.parent.name, str(record["name"]), since_s, path)

    def restore(self, item: Quarantined) -> bool:
        """Move a folder back to its place. False where that place is taken."""
        target = self._root / item.kind / item.name
        if target.exists():
            return False
        target.parent.mkdir(parents=True, exist_ok=True)
        item.path.rename(target)
        self._date_of(item.path).unlink(missing_ok=True)
        return True

    def expired(self) -> Iterator[Quarantined]:
        """Yield what has been in quarantine for over 30 days.

        A clock that was wrong must not delete anything: the folder itself has to be that old, too.
        """
        latest_s = time.time() - KEEP_S
        for item in self.contents():
            if item.since_s < latest_s and self._date_of(item.path).stat().st_mtime < latest_s:
                yield item

    def delete(self, item: Quarantined) -> None:
        """Delete a folder for good."""
        shutil.rmtree(item.path, ignore_errors=True)
        self._date_of(item.path).unlink(missing_ok=True)

    @staticmethod
    def _date_of(path: Path) -> Path:
        return path.with_name(f"{path.name}.{_DATE}")
