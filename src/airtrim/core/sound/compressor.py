"""The compressor: loud moments held down by a curve, with an attack and a release.

After D. Giannoulis, M. Massberg and J. Reiss, "Digital Dynamic Range Compressor Design: A Tutorial
and Analysis", J. Audio Eng. Soc. 60 (2012): feed-forward, the gain computed in decibels and
smoothed there ("smooth, branching"). Attack and release are time constants: after one, 63 % of a
step is done. The level is the highest sample of the last 5 ms or a little less, over all channels.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.chain import Compressor

Sound = NDArray[np.float32]

HOLD_FRAMES = 240
_PARTS = 8
_PART_FRAMES = HOLD_FRAMES // _PARTS


def curve_db(settings: Compressor, level_db: NDArray[np.float64]) -> NDArray[np.float64]:
    """What comes out (dBFS) for a steady level (dBFS), make-up left out: the static curve with its
    quadratic knee (eq. 4 of the paper).

    >>> settings = Compressor(threshold_db=-20.0, ratio=4.0, knee_db=0.0)
    >>> curve_db(settings, np.array([-30.0, -20.0, -12.0])).tolist()
    [-30.0, -20.0, -18.0]
    """
    level = np.asarray(level_db, np.float64)
    over = level - settings.threshold_db
    slope = 1.0 / settings.ratio - 1.0
    knee = settings.knee_db
    out = np.where(over > 0.0, level + slope * over, level)
    if knee > 0.0:
        inside = level + slope * (over + knee / 2.0) ** 2 / (2.0 * knee)
        out = np.where(2.0 * np.abs(over) <= knee, inside, out)
    return np.asarray(out)


@njit(cache=True, nogil=True)
def _compress(
    sound: NDArray[np.float32],
    threshold: float,
    slope: float,
    knee: float,
    attack: float,
    release: float,
    make_up: float,
    parts: NDArray[np.float64],
    state: NDArray[np.float64],
    gains: NDArray[np.float32],
) -> None:
    """In place; ``parts``: the highest sample of each part of the hold, the newest at ``state``'s
    place; ``state``: reduction (dB), that place, frames into it, the highest of the other parts.
    ``gains`` gets the reduction of each frame in dB where it is as long as the sound."""
    reduction, others = state[0], state[3]
    place, into = int(state[1]), int(state[2])
    lowest = 10.0 ** ((threshold - knee / 2.0) / 20.0)
    reports = len(gains) == len(sound)
    base = 10.0 ** (make_up / 20.0)
    per_db = np.log(10.0) / 20.0
    per_factor = 1.0 / per_db
    known, want = -1.0, 0.0
    newest = parts[place]
    for i in range(len(sound)):
        if into == _PART_FRAMES:
            parts[place] = newest
            place = place + 1 if place + 1 < _PARTS else 0
            parts[place] = 0.0
            others = parts.max()
            into, newest = 0, 0.0
        into += 1
        for c in range(sound.shape[1]):
            value = abs(float(sound[i, c]))
            if value > newest:
                newest = value
        held = max(newest, others)
        if held != known:  # a held level needs no logarithm again
            known = held
            want = 0.0
            if held > lowest:
                over = per_factor * np.log(held) - threshold
                if 2.0 * over >= knee:
                    want = slope * over
                else:
                    want = slope * (over + knee / 2.0) ** 2 / (2.0 * knee)
        rate = attack if want < reduction else release
        reduction = want + (reduction - want) * rate
        if reduction > -1e-5:
            reduction = 0.0
            gain = base
        else:
            gain = base * np.exp(reduction * per_db)
        for c in range(sound.shape[1]):
            sound[i, c] *= gain
        if reports:
            gains[i] = reduction
    parts[place] = newest
    state[0], state[1], state[2], state[3] = reduction, place, into, others


class CompressorRun:
    """Sound streams through, block by block. Begun at a multiple of ``HOLD_FRAMES`` it holds levels
    over the same spans as if begun at any other."""

    def __init__(self, settings: Compressor) -> None:
        self._settings = settings
        self._parts = np.zeros(_PARTS)
        self._state = np.zeros(4)
        self._nothing = np.zeros(0, np.float32)

    @property
    def settling_frames(self) -> int:
        """Frames after which what came before makes no difference above −80 dB."""
        slowest = max(self._settings.release_ms, self._settings.attack_ms)
        return int(12.0 * slowest / 1000.0 * FRAME_RATE) + HOLD_FRAMES

    def process(self, block: Sound, reduction_db: Sound | None = None) -> None:
        """Compress ``(frames, channels)`` in place; ``reduction_db``, as long, is filled."""
        one = self._settings
        _compress(
            block,
            one.threshold_db,
            1.0 / one.ratio - 1.0,
            one.knee_db,
            float(np.exp(-1000.0 / (one.attack_ms * FRAME_RATE))),
            float(np.exp(-1000.0 / (one.release_ms * FRAME_RATE))),
            one.make_up_db,
            self._parts,
            self._state,
            self._nothing if reduction_db is None else reduction_db,
        )
