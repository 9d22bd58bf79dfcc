"""A recording while it is made: numbered pieces of raw sound, on disk before they are acknowledged.

``sound`` holds float32 samples, the channels of a frame side by side; ``log`` one record a piece.
A piece counts once its record is whole; what a crash left behind it is cut off by the next piece.
``heard`` tells when pieces were heard, by the server's clock; losing some of it loses no sound.
"""

import fcntl
import os
import struct
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.alignment import Reading
from airtrim.core.media.decode import BLOCK_FRAMES, LONGEST_S, Block
from airtrim.errors import BadInput, OutOfPlace

MOST_FRAMES = FRAME_RATE
"""A piece holds a second at most; half a second is what the browser sends."""
LONGEST_GAP_FRAMES = 60 * FRAME_RATE
LONGEST_FRAMES = round(LONGEST_S * FRAME_RATE)
"""No recording is longer than a take can be."""

_RECORD = struct.Struct("<QII")  # first frame, frames, CRC-32
_READING = struct.Struct("<QdI")  # frame, seconds, run


@dataclass(frozen=True, slots=True)
class Gap:
    """``frames`` from frame ``at`` that never arrived and are silent."""

    at: int
    frames: int


class Pieces:
    """The pieces of one recording of ``channels`` channels, in a folder of its own."""

    def __init__(self, folder: Path, channels: int) -> None:
        self._folder, self._channels = folder, channels

    def _records(self) -> list[tuple[int, int, int]]:
        log = self._folder / "log"
        data = log.read_bytes() if log.exists() else b""
        whole = len(data) // _RECORD.size * _RECORD.size
        return list(_RECORD.iter_unpack(data[:whole]))

    @staticmethod
    def _end(records: list[tuple[int, int, int]]) -> int:
        return records[-1][0] + records[-1][1] if records else 0

    def state(self) -> tuple[int, int]:
        """The number of the next piece, and the frames that are safe."""
        records = self._records()
        return len(records), self._end(records)

    def gaps(self) -> list[Gap]:
        """Where sound is missing."""
        found, reached = [], 0
        for start, frames, _ in self._records():
            if start > reached:
                found.append(Gap(reached, start - reached))
            reached = start + frames
        return found

    def add(
        self, number: int, start: int, data: bytes, most_frames: int = LONGEST_FRAMES
    ) -> tuple[int, int]:
        """Keep piece ``number``, which begins at frame ``start``; returns ``state()`` after it.
        No recording is longer than ``most_frames``.

        A piece that is here already is acknowledged again. Raises OutOfPlace, with the number
        that is wanted, for a piece too early or another one under a known number, and BadInput
        for what cannot be a piece. Missing frames before ``start`` become silence.
        """
        size = 4 * self._channels
        frames = len(data) // size
        if len(data) % size or not 0 < frames <= MOST_FRAMES:
            raise BadInput("That is no piece of this recording. What came before it is safe.")
        with self._locked():
            records = self._records()
            checksum = zlib.crc32(data)
            if number < len(records):
                if records[number] == (start, frames, checksum):
                    return len(records), self._end(records)
                raise OutOfPlace("Another piece is kept under that number.", len(records))
            if number > len(records):
                raise OutOfPlace("A piece before this one has not come yet.", len(records))
            reached = self._end(records)
            if not reached <= start <= reached + LONGEST_GAP_FRAMES:
                raise OutOfPlace("That piece does not follow the one before it.", len(records))
            if start + frames > most_frames:
                raise BadInput(
                    "That is more than can have been recorded by now. What came before it is safe."
                )
            with (self._folder / "sound").open("ab") as sound:
                sound.truncate(reached * size)
                sound.truncate(start * size)  # a gap is a hole in the file: it takes no room
                sound.write(data)
                sound.flush()
                os.fsync(sound.fileno())
            with (self._folder / "log").open("ab") as log:
                log.truncate(len(records) * _RECORD.size)
                log.write(_RECORD.pack(start, frames, checksum))
                log.flush()
                os.fsync(log.fileno())
            return len(records) + 1, start + frames

    def note(self, reading: Reading) -> None:
        """Keep when a frame was heard."""
        with self._locked(), (self._folder / "heard").open("ab") as file:
            file.write(_READING.pack(reading.frame, reading.at_s, reading.run))

    def readings(self) -> list[Reading]:
        """When its frames were heard."""
        path = self._folder / "heard"
        data = path.read_bytes() if path.exists() else b""
        whole = len(data) // _READING.size * _READING.size
        return [Reading(*values) for values in _READING.iter_unpack(data[:whole])]

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """The first channel between two frames, shape ``(frames, 1)``."""
        size = 4 * self._channels
        with (self._folder / "sound").open("rb") as file:
            file.seek(start * size)
            data = file.read(frames * size)
        # A crash can leave a part of a frame at the end of the file.
        part = np.frombuffer(data[: len(data) // size * size], "<f4").reshape(-1, self._channels)
        return part[:, :1].astype(np.float32)

    def checksums(self) -> Iterator[tuple[int, bytes]]:
        """The checksum (CRC-32) that was kept of each piece, and the bytes that are there."""
        records = self._records()
        if not records:
            return
        size = 4 * self._channels
        with (self._folder / "sound").open("rb") as file:
            for start, frames, told in records:
                file.seek(start * size)
                yield told, file.read(frames * size)

    @contextmanager
    def _locked(self) -> Iterator[None]:
        self._folder.mkdir(parents=True, exist_ok=True)
        with (self._folder / "lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            yield

    def channel(self, index: int) -> Iterator[Block]:
        """One channel as mono blocks, shape ``(frames, 1)``."""
        _, frames = self.state()
        size = 4 * self._channels
        with (self._folder / "sound").open("rb") as file:
            for at in range(0, frames, BLOCK_FRAMES):
                data = file.read(min(BLOCK_FRAMES, frames - at) * size)
                block = np.frombuffer(data, "<f4").reshape(-1, self._channels)
                yield block[:, index : index + 1].astype(np.float32)
