"""De-essing: sharp s lowered where they stand out of the voice.

The band around the s is split off by a second-order band-pass, compressed against the level of the
whole voice, and what it loses is taken from the sound: where nothing is sharp, nothing is changed
(split-band de-essing, common practice).
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.chain import DeEss

_Q = 1.1
_FAST_MS, _SLOW_MS = 1.5, 40.0
_VOICE_MS = 300.0


@njit(cache=True, nogil=True)
def _deess(
    sound: NDArray[np.float32],
    b0: float,
    a1: float,
    a2: float,
    threshold: float,
    most: float,
    fast: float,
    slow: float,
    voice: float,
    state: NDArray[np.float64],
    shared: NDArray[np.float64],
) -> None:
    """In place. ``state`` per channel: the band-pass's two values; ``shared``: power of the band,
    power of the voice, gain (dB)."""
    in_band, whole, gain_db = shared[0], shared[1], shared[2]
    channels = sound.shape[1]
    band = np.zeros(channels)
    per_db = np.log(10.0) / 20.0
    for i in range(len(sound)):
        power = 0.0
        all_power = 0.0
        for c in range(channels):
            x = sound[i, c]
            y = b0 * x + state[c, 0]
            state[c, 0] = -a1 * y + state[c, 1]
            state[c, 1] = -b0 * x - a2 * y
            band[c] = y
            power += y * y
            all_power += x * x
        in_band = power + (in_band - power) * (fast if power > in_band else slow)
        whole = all_power + (whole - all_power) * voice
        want = 0.0
        if in_band > threshold * (whole + 1e-8):
            over = 10.0 * np.log10(in_band / (threshold * (whole + 1e-8)))
            want = -min(over, most)
        gain_db = want + (gain_db - want) * (fast if want < gain_db else slow)
        if gain_db < -1e-5:
            less = 1.0 - np.exp(gain_db * per_db)
            for c in range(channels):
                sound[i, c] -= less * band[c]
        else:
            gain_db = 0.0
    shared[0], shared[1], shared[2] = in_band, whole, gain_db


def _kept(ms: float) -> float:
    """What a smoothing with a time constant keeps from frame to frame."""
    return float(np.exp(-1000.0 / (ms * FRAME_RATE)))


class DeEssRun:
    """Sound streams through, block by block."""

    settling_frames = int(12.0 * _VOICE_MS / 1000.0 * FRAME_RATE)

    def __init__(self, settings: DeEss, channels: int) -> None:
        w = 2.0 * np.pi * settings.hz / FRAME_RATE
        alpha = np.sin(w) / (2.0 * _Q)
        self._b0 = alpha / (1.0 + alpha)
        self._a1 = -2.0 * np.cos(w) / (1.0 + alpha)
        self._a2 = (1.0 - alpha) / (1.0 + alpha)
        self._settings = settings
        self._state = np.zeros((channels, 2))
        self._shared = np.zeros(3)

    def process(self, block: NDArray[np.float32]) -> None:
        """De-ess ``(frames, channels)`` in place."""
        fast, slow, voice = (_kept(ms) for ms in (_FAST_MS, _SLOW_MS, _VOICE_MS))
        _deess(
            block,
            self._b0,
            self._a1,
            self._a2,
            10.0 ** (self._settings.threshold_db / 10.0),
            self._settings.most_db,
            fast,
            slow,
            voice,
            self._state,
            self._shared,
        )
