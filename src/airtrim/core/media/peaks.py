"""The peak pyramid: (min, max, rms) over 64, 512, 4096 and 32768 frames.

One little-endian int16 file, the levels one after another, read through a memory map, so that a
picture of any span at any zoom reads as many bins as it has columns, give or take eight. Behind
them stands a checksum, so that a turned bit is found. Files from before that end without one.
"""

import itertools
import struct
import zlib
from pathlib import Path
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

BIN_FRAMES = (64, 512, 4096, 32768)
_FULL_SCALE = 32767.0
_CHECKSUM = struct.Struct("<4sI")
_MARK = b"ATPK"
_READ_BYTES = 1 << 20
FLOOR_DB = -66.0
"""What the skyline draws as zero height."""


def _bins(level: int, frames: int) -> int:
    return -(-frames // BIN_FRAMES[level])


class PeakWriter:
    """Builds the base level while sound streams by, the rest when it ends. Constant memory but
    for the base level itself (6 bytes for every 64 frames: 48 MB for three hours)."""

    def __init__(self) -> None:
        self._parts: list[NDArray[np.int16]] = []
        self._rest = np.zeros((0, 1), np.float32)

    def push(self, block: NDArray[np.float32]) -> None:
        """Take the next ``(frames, channels)`` of float32."""
        if len(self._rest):
            block = np.concatenate([self._rest, block])
        whole = len(block) // BIN_FRAMES[0] * BIN_FRAMES[0]
        if whole:
            self._parts.append(_base_level(block[:whole]))
        self._rest = block[whole:].copy()

    def write(self, path: Path) -> None:
        """Write all levels to ``path``."""
        if len(self._rest):
            self._parts.append(_base_level(self._rest))
        level = np.concatenate(self._parts) if self._parts else np.zeros((0, 3), np.int16)
        self._parts = []  # it is there once, not twice
        checksum = 0
        with path.open("wb") as file:
            for finer, coarser in itertools.pairwise((BIN_FRAMES[0], *BIN_FRAMES)):
                if coarser != finer:
                    level = _coarser(level, coarser // finer)
                data = level.astype("<i2", copy=False).tobytes()
                checksum = zlib.crc32(data, checksum)
                file.write(data)
            file.write(_CHECKSUM.pack(_MARK, checksum))


def _base_level(block: NDArray[np.float32]) -> NDArray[np.int16]:
    size = min(BIN_FRAMES[0], len(block))
    shaped = block.reshape(-1, size * block.shape[1])
    rms = np.sqrt(np.einsum("ij,ij->i", shaped, shaped) / shaped.shape[1])
    values = np.stack([shaped.min(axis=1), shaped.max(axis=1), rms], axis=1)
    scaled: NDArray[np.int16] = np.round(np.clip(values, -1.0, 1.0) * _FULL_SCALE).astype(np.int16)
    return scaled


_AT_ONCE = 1 << 16
"""Coarser bins that are worked out at once: of a long take there are millions."""


def _coarser(level: NDArray[np.int16], factor: int) -> NDArray[np.int16]:
    step = _AT_ONCE * factor
    parts = [_coarser_part(level[at : at + step], factor) for at in range(0, len(level), step)]
    return np.concatenate(parts) if parts else level


def _coarser_part(level: NDArray[np.int16], factor: int) -> NDArray[np.int16]:
    starts = np.arange(0, len(level), factor)
    square = np.add.reduceat(level[:, 2].astype(np.float64) ** 2, starts)
    counts = np.diff(np.append(starts, len(level)))
    return np.stack(
        [
            np.minimum.reduceat(level[:, 0], starts),
            np.maximum.reduceat(level[:, 1], starts),
            np.round(np.sqrt(square / counts)).astype(np.int16),
        ],
        axis=1,
    )


class Columns(Protocol):
    """What a picture needs of a take."""

    def columns(self, starts: NDArray[np.int64], ends: NDArray[np.int64]) -> NDArray[np.float32]:
        """Peak and RMS of every span of frames."""
        ...


class NoPeaks:
    """The picture of a take whose sound is missing."""

    def columns(self, starts: NDArray[np.int64], ends: NDArray[np.int64]) -> NDArray[np.float32]:
        """Nothing."""
        return np.zeros((len(starts), 2), np.float32)


def _check(path: Path, size: int) -> None:
    """Raise ValueError where a file of levels of ``size`` bytes is not what was written."""
    found = path.stat().st_size
    if found == size:  # of a version that wrote no checksum
        return
    if found != size + _CHECKSUM.size:
        raise ValueError("The peaks are not as long as their take.")
    checksum = 0
    with path.open("rb") as file:
        for at in range(0, size, _READ_BYTES):
            checksum = zlib.crc32(file.read(min(_READ_BYTES, size - at)), checksum)
        if file.read() != _CHECKSUM.pack(_MARK, checksum):
            raise ValueError("The peaks are not what was written.")


class Peaks:
    """A pyramid on disk, of a take of ``frames`` frames. Raises ValueError where it is broken."""

    def __init__(self, path: Path, frames: int) -> None:
        _check(path, sum(6 * _bins(level, frames) for level in range(len(BIN_FRAMES))))
        self._levels: list[NDArray[np.int16]] = []
        offset = 0
        for level in range(len(BIN_FRAMES)):
            shape = (_bins(level, frames), 3)
            self._levels.append(np.memmap(path, "<i2", "r", offset, shape))
            offset += shape[0] * 6

    def columns(self, starts: NDArray[np.int64], ends: NDArray[np.int64]) -> NDArray[np.float32]:
        """Absolute peak and RMS, full scale 1.0, of the spans from ``starts`` to ``ends``, in
        frames of the take, none empty, in any order; shape ``(spans, 2)``.

        All are read at one level, the coarsest whose bins are no longer than they are on average.
        """
        if not len(starts):
            return np.zeros((0, 2), np.float32)
        width = max(BIN_FRAMES[0], int((ends - starts).mean()))
        level = max(i for i, size in enumerate(BIN_FRAMES) if size <= width)
        size = BIN_FRAMES[level]
        bins = self._levels[level]
        first = np.clip(starts // size, 0, len(bins) - 1)
        last = np.clip(-(-ends // size), first + 1, len(bins))
        count = last - first
        offsets = np.cumsum(count) - count
        part = bins[numbered(first, count)]
        scaled = part.astype(np.float32) / _FULL_SCALE
        top = np.maximum.reduceat(np.maximum(-scaled[:, 0], scaled[:, 1]), offsets)
        mean = np.add.reduceat(np.square(scaled[:, 2]), offsets) / count
        return np.stack([top, np.sqrt(mean)], axis=1).astype(np.float32)


def numbered(first: NDArray[np.int64], count: NDArray[np.int64]) -> NDArray[np.int64]:
    """The numbers of several runs, one after another: ``count`` of them from each ``first``."""
    offsets = np.cumsum(count) - count
    return np.asarray(np.arange(count.sum()) + np.repeat(first - offsets, count))


def to_byte_scale(values: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Linear full-scale values to 0–255 over ``FLOOR_DB`` to 0 dBFS, as the skyline is sent.

    >>> to_byte_scale(np.array([0.0, 0.5, 1.0], np.float32)).tolist()
    [0, 232, 255]
    """
    db = 20.0 * np.log10(np.maximum(values, 1e-6))
    return np.clip(np.round((1.0 - db / FLOOR_DB) * 255.0), 0, 255).astype(np.uint8)
