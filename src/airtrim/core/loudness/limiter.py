"""A true-peak limiter with look-ahead.

The gain that each moment needs is held over the look-ahead, released exponentially, and smoothed
by two moving averages that together are as long as the look-ahead: the full reduction is reached
just when the peak arrives, and the gain has no corners. (Common practice for look-ahead limiters.)
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from airtrim.core.loudness.truepeak import BOUND, PHASES, TAPS, peak_track
from airtrim.core.media import FRAME_RATE

LOOKAHEAD_FRAMES = 240
"""5 ms."""
RELEASE_S = 0.08
SPARE_DB = 0.25
"""It stops this much lower than it is told: four-times oversampling misses as much of a peak
between its points in sound up to 20 kHz, and the smoothed gain a little."""
SETTLE_FRAMES = FRAME_RATE
"""After one second the release has forgotten its past to far below −80 dB."""

DELAY_FRAMES = LOOKAHEAD_FRAMES + TAPS // 2
"""Sound leaves the limiter this many frames after it entered."""


@njit(cache=True, nogil=True)
def _gain_track(
    peaks: NDArray[np.float32],
    ceiling: float,
    release: float,
    hold: int,
    needed: NDArray[np.float64],
    box: NDArray[np.float64],
    state: NDArray[np.float64],
    out: NDArray[np.float64],
) -> None:
    """Smoothed gain for each new peak value, delayed by ``hold`` frames.

    ``needed`` (hold + 1), ``box`` (2, hold // 2) are rings; ``state`` holds: gain, the two sums,
    ring position, box position, age of the smallest value in ``needed``.
    """
    gain, sum0, sum1 = state[0], state[1], state[2]
    position, box_position = int(state[3]), int(state[4])
    size, half = len(needed), box.shape[1]
    lowest, lowest_age = state[5], int(state[6])
    for i in range(len(peaks)):
        want = 1.0
        if peaks[i] > ceiling:
            want = ceiling / peaks[i]
        needed[position] = want
        position = position + 1 if position + 1 < size else 0
        lowest_age += 1
        if want <= lowest:
            lowest, lowest_age = want, 0
        elif lowest_age >= size:
            lowest = 2.0
            for j in range(size):  # oldest first, so that the newest of equals wins
                k = position + j
                if k >= size:
                    k -= size
                if needed[k] <= lowest:
                    lowest, lowest_age = needed[k], size - 1 - j
        gain = lowest if lowest < gain else gain + (lowest - gain) * release
        sum0 += gain - box[0, box_position]
        box[0, box_position] = gain
        first = sum0 / half
        sum1 += first - box[1, box_position]
        box[1, box_position] = first
        box_position = box_position + 1 if box_position + 1 < half else 0
        if box_position == 0:  # sums are made anew now and then, so that rounding cannot gather
            sum0 = box[0].sum()
            sum1 = box[1].sum()
        out[i] = min(1.0, sum1 / half)
    state[0], state[1], state[2] = gain, sum0, sum1
    state[3], state[4] = position, box_position
    state[5], state[6] = lowest, lowest_age


class GainTrack:
    """The recursion of the limiter: from true peaks (linear) to gain, ``delay`` values later.

    ``hop``: frames that one peak stands for. With 1 it is the limiter itself; with more it tells
    what the limiter will do to loudness without rendering. Calls continue one another.
    """

    def __init__(self, ceiling_dbtp: float, hop: int = 1) -> None:
        self.delay = max(2, LOOKAHEAD_FRAMES // hop // 2 * 2)
        half = self.delay // 2
        self._ceiling = 10.0 ** ((ceiling_dbtp - SPARE_DB) / 20.0)
        self._release = 1.0 - float(np.exp(-hop / (RELEASE_S * FRAME_RATE)))
        self._needed = np.ones(self.delay + 1)
        self._box = np.ones((2, half))
        self._state = np.array([1.0, half, half, 0.0, 0.0, 1.0, 0.0])

    def __call__(self, peaks: NDArray[np.float32]) -> NDArray[np.float64]:
        out = np.empty(len(peaks))
        _gain_track(
            peaks,
            self._ceiling,
            self._release,
            self.delay,
            self._needed,
            self._box,
            self._state,
            out,
        )
        return out


class Limiter:
    """Streams ``(frames, channels)`` blocks through; output is ``DELAY_FRAMES`` late.

    ``ceiling_dbtp``: no true peak of the output exceeds it, of sound up to 20 kHz, which is more
    than an MP3 of speech holds.
    """

    def __init__(self, channels: int, ceiling_dbtp: float) -> None:
        self._track = GainTrack(ceiling_dbtp)
        self._ceiling = 10.0 ** ((ceiling_dbtp - SPARE_DB) / 20.0)
        self._context = np.zeros((TAPS, channels), np.float32)
        self._delayed = np.zeros((DELAY_FRAMES, channels), np.float32)

    def process(self, block: NDArray[np.float32]) -> NDArray[np.float32]:
        """The next ``len(block)`` frames of delayed, limited sound."""
        sound = np.concatenate([self._context, block])
        peaks = np.empty(len(block), np.float32)
        peak_track(sound, PHASES, BOUND, self._ceiling, peaks)
        self._context = sound[len(block) :]
        gain = self._track(peaks)
        delayed = np.concatenate([self._delayed, block])
        self._delayed = delayed[len(block) :]
        return np.asarray(delayed[: len(block)] * gain[:, None].astype(np.float32))
