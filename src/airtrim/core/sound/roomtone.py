"""Room tone: the sound of the room while nobody speaks, found in a take by itself."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.peaks import BIN_FRAMES, Columns
from airtrim.core.timeline.words import Word

SHORTEST_FRAMES = FRAME_RATE // 2
LONGEST_FRAMES = 5 * FRAME_RATE

_BIN = BIN_FRAMES[1]
_WINDOW = -(-SHORTEST_FRAMES // _BIN)


@dataclass(frozen=True, slots=True)
class RoomToneLimits:
    """What counts as the room alone (common practice)."""

    beside_words_frames: int = FRAME_RATE // 10
    steady_db: float = 4.0
    """It is drawn out while the room stays within this of its quietest stretch."""
    silent_dbfs: float = -89.0
    """What is under this is digital silence, and no room."""


LIMITS = RoomToneLimits()


@dataclass(frozen=True, slots=True)
class RoomTone:
    """``frames`` of a take from frame ``start``, and their RMS level in dBFS."""

    start: int
    frames: int
    level_dbfs: float


def find_room_tone(peaks: Columns, frames: int, words: tuple[Word, ...]) -> RoomTone | None:
    """The quietest stretch of 0.5 s or more without words in a take of ``frames`` frames.

    A stretch is as quiet as its loudest moment (about 11 ms), so that one with a knock or a breath
    in it does not win; it is drawn out to 5 s at most while the room stays within 4 dB of it.
    Words keep 0.1 s to either side. Digital silence is no room (common practice). None where there
    is no such stretch.
    """
    count = frames // _BIN
    if count < _WINDOW:
        return None
    level = _levels(peaks, count)
    usable = level > LIMITS.silent_dbfs
    for word in words:
        low = max(0, word.start - LIMITS.beside_words_frames) // _BIN
        usable[low : -(-(word.end + LIMITS.beside_words_frames) // _BIN)] = False
    free = np.convolve(usable, np.ones(_WINDOW, np.int64), "valid") == _WINDOW
    if not free.any():
        return None
    loudest = np.where(free, _running_maximum(level, _WINDOW), np.inf)
    first = int(np.argmin(loudest))
    last = first + _WINDOW
    most = float(loudest[first]) + LIMITS.steady_db
    while last < count and usable[last] and level[last] <= most and _fits(first, last):
        last += 1
    while first > 0 and usable[first - 1] and level[first - 1] <= most and _fits(first, last):
        first -= 1
    return RoomTone(first * _BIN, (last - first) * _BIN, _mean_db(level[first:last]))


def level_of(peaks: Columns, start: int, frames: int) -> float:
    """RMS level in dBFS of a span of a take, give or take its edges by 11 ms."""
    first = start // _BIN
    count = max(1, frames // _BIN)
    return _mean_db(_levels(peaks, count, first))


def _fits(first: int, last: int) -> bool:
    return (last - first + 1) * _BIN <= LONGEST_FRAMES


def _levels(peaks: Columns, count: int, first: int = 0) -> NDArray[np.float64]:
    starts = (first + np.arange(count, dtype=np.int64)) * _BIN
    rms = peaks.columns(starts, starts + _BIN)[:, 1].astype(np.float64)
    return np.asarray(20.0 * np.log10(np.maximum(rms, 1e-5)))


def _running_maximum(values: NDArray[np.float64], window: int) -> NDArray[np.float64]:
    windows = np.lib.stride_tricks.sliding_window_view(values, window)
    return np.asarray(windows.max(axis=1))


def _mean_db(level: NDArray[np.float64]) -> float:
    return float(10.0 * np.log10(np.mean(10.0 ** (level / 10.0))))
