"""Uploads while they come in: bytes beside a log of the parts that are safe.

``<id>`` holds the bytes, ``<id>.info`` what the upload is, ``<id>.parts`` a record for each part:
its place, its length, its SHA-256. How far an upload is, is what its log says; bytes beyond that
were left by something that was stopped, and are cut off before anything follows. So offset and
bytes are one truth whenever the process ends.
"""

import hashlib
import os
import struct
import time
import zlib
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import BinaryIO
from uuid import uuid4

from pydantic import BaseModel, Field, ValidationError

from airtrim.errors import BadInput, NotFound
from airtrim.store.files import Files, is_plain

EXPIRE_S = 7 * 24 * 3600
"""An upload to which nothing has come for a week is thrown away: it was given up, or not brought in
since that was called off, or it is no sound, or its episode is gone."""

_RECORD = struct.Struct("<QQ32s")
_CHECK = struct.Struct("<I")
_READ_BYTES = 1 << 20


class Upload(BaseModel):
    """An upload: its length in bytes, and what the browser says of it."""

    size: int = Field(gt=0)
    metadata: dict[str, str]


class Part:
    """Bytes on their way onto the end of an upload; they count once they are kept."""

    def __init__(self, path: Path, log: Path, offset: int) -> None:
        self._log, self._offset = log, offset
        self._file: BinaryIO = path.open("r+b")
        self._file.truncate(offset)
        self._file.seek(offset)
        self._digest = hashlib.sha256()
        self.length = 0

    def write(self, data: bytes) -> None:
        """Put bytes after those that are there."""
        self._file.write(data)
        self._digest.update(data)
        self.length += len(data)

    @property
    def sha256(self) -> bytes:
        """Of all bytes of the part."""
        return self._digest.digest()

    def keep(self) -> int:
        """Let it count, on disk before it is told; returns how far the upload is now."""
        if self.length:
            self._file.flush()
            os.fsync(self._file.fileno())
            record = _RECORD.pack(self._offset, self.length, self.sha256)
            whole = len(_records(self._log)) * (_RECORD.size + _CHECK.size)
            with self._log.open("ab") as log:
                log.truncate(whole)
                log.write(record + _CHECK.pack(zlib.crc32(record)))
                log.flush()
                os.fsync(log.fileno())
        self._file.close()
        return self._offset + self.length

    def drop(self) -> None:
        """Forget it."""
        if not self._file.closed:
            self._file.truncate(self._offset)
            self._file.close()


class Uploads:
    """Uploads of a folder of data. Who writes to one sees to it that nobody else does."""

    def __init__(self, files: Files) -> None:
        self._files = files

    def create(self, size: int, metadata: dict[str, str]) -> str:
        """A new upload; returns its id."""
        self._files.need(size)
        upload_id = uuid4().hex
        path = self._files.upload(upload_id)
        with self._files.told_when_full():
            path.touch()
            self._log(upload_id).touch()
            # Last: an upload is there once this is.
            info = Upload(size=size, metadata=metadata).model_dump_json()
            self._files.keep(self._info(upload_id), info.encode())
        return upload_id

    def copy_in(self, source: Path, metadata: dict[str, str]) -> str:
        """A file of this machine as a whole upload; returns its id."""
        upload_id = self.create(source.stat().st_size, metadata)
        part = self.part(upload_id, 0)
        with self._files.told_when_full(), source.open("rb") as file:
            while data := file.read(_READ_BYTES):
                part.write(data)
            part.keep()
        return upload_id

    def get(self, upload_id: str) -> Upload:
        """What an upload is. Raises NotFound where it is not here, or cannot be read."""
        try:
            return Upload.model_validate_json(self._info(upload_id).read_bytes())
        except (OSError, ValidationError) as error:
            raise NotFound("That upload is not here. Add the file again.") from error

    def offset(self, upload_id: str) -> int:
        """How many bytes are safe."""
        records = _records(self._log(upload_id))
        return records[-1][0] + records[-1][1] if records else 0

    def part(self, upload_id: str, offset: int) -> Part:
        """Begin a part at ``offset``, which has to be where the last one ended."""
        return Part(self._files.upload(upload_id), self._log(upload_id), offset)

    def check(self, upload_id: str) -> None:
        """Read all of it again. Raises BadInput where it is not what was sent."""
        path = self._files.upload(upload_id)
        with path.open("rb") as file:
            for _, length, sha256 in _records(self._log(upload_id)):
                digest = hashlib.sha256()
                left = length
                while left and (data := file.read(min(left, _READ_BYTES))):
                    digest.update(data)
                    left -= len(data)
                if left or digest.digest() != sha256:
                    raise BadInput(
                        "What lies on the disk is not what was sent: the upload was damaged. "
                        "Nothing was added; add the file again."
                    )

    def remove(self, upload_id: str) -> None:
        """Throw one away."""
        for path in self._paths(upload_id):
            path.unlink(missing_ok=True)

    def whole(self) -> Iterator[tuple[str, Upload]]:
        """Those of which all has come. Files that are no upload's are passed over."""
        for path in sorted(self._files.uploads.glob("*.info")):
            try:
                upload = self.get(path.stem)
                if self.offset(path.stem) == upload.size:
                    yield path.stem, upload
            except (NotFound, BadInput, OSError):
                continue

    def expired(self) -> Iterator[str]:
        """Those to which nothing has come for a week; other files are passed over."""
        for path in sorted(self._files.uploads.glob("*.info")):
            if is_plain(path.stem) and self._touched(path.stem) < time.time() - EXPIRE_S:
                yield path.stem

    def _touched(self, upload_id: str) -> float:
        """When something last came, in seconds since 1970; 0 where it has gone meanwhile."""
        last = 0.0
        for path in self._paths(upload_id):
            with suppress(FileNotFoundError):
                last = max(last, path.stat().st_mtime)
        return last

    def _paths(self, upload_id: str) -> tuple[Path, Path, Path]:
        # What an upload is first: without that it is not there.
        return self._info(upload_id), self._log(upload_id), self._files.upload(upload_id)

    def _info(self, upload_id: str) -> Path:
        return self._files.upload(upload_id).with_suffix(".info")

    def _log(self, upload_id: str) -> Path:
        return self._files.upload(upload_id).with_suffix(".parts")


def _records(log: Path) -> list[tuple[int, int, bytes]]:
    """The parts that are safe: up to the first record that was not written whole."""
    try:
        data = log.read_bytes()
    except FileNotFoundError:
        return []
    found: list[tuple[int, int, bytes]] = []
    step = _RECORD.size + _CHECK.size
    reached = 0
    for at in range(0, len(data) - step + 1, step):
        record = data[at : at + _RECORD.size]
        (check,) = _CHECK.unpack(data[at + _RECORD.size : at + step])
        start, length, sha256 = _RECORD.unpack(record)
        if check != zlib.crc32(record) or start != reached:
            break
        found.append((start, length, sha256))
        reached = start + length
    return found
