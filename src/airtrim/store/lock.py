"""One server on a folder of data: who has it holds a lock, which ends with its process."""

import fcntl
import json
import os
import socket
from datetime import UTC, datetime
from pathlib import Path
from typing import TextIO

from airtrim.errors import Busy


class FolderLock:
    """The lock of a folder, held from when it is made until it is let go, or the process ends."""

    def __init__(self, root: Path) -> None:
        root.mkdir(parents=True, exist_ok=True)
        path = root / "lock"
        self._file: TextIO = path.open("a+")
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            holder = _holder(path)
            self._file.close()
            raise Busy(
                f"Another Air Trim is at work in this folder{holder}. End it first, or name "
                "another folder."
            ) from error
        self._file.truncate(0)
        record = {
            "process": os.getpid(),
            "machine": socket.gethostname(),
            "since": datetime.now(UTC).isoformat(timespec="seconds"),
        }
        json.dump(record, self._file)
        self._file.flush()

    def release(self) -> None:
        """Let go of it."""
        self._file.close()


def _holder(path: Path) -> str:
    try:
        holder = json.loads(path.read_text())
        return f" (process {holder['process']} on {holder['machine']}, since {holder['since']})"
    except (OSError, ValueError, KeyError, TypeError):
        return ""
