"""Whether a stretch is a voice or something else."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from airtrim.core.speech import HOP, MODEL_RATE

_WINDOW = 640
_LOWEST_HZ, _HIGHEST_HZ = 70, 400
_VOICED = 0.55


@dataclass(frozen=True, slots=True)
class Voice:
    """For every 10 ms its ``periodicity`` 0–1: the highest normalised autocorrelation between 70
    and 400 Hz."""

    periodicity: NDArray[np.float32]

    def voiced(self, start: int, end: int) -> float:
        """The part of a span (in hops) that is voiced."""
        span = self.periodicity[start:end]
        return float((span > _VOICED).mean()) if len(span) else 0.0

    def part(self, start: int, end: int) -> "Voice":
        """The same between two hops."""
        return Voice(self.periodicity[start:end])


def voice_of(sound: NDArray[np.float32]) -> Voice:
    """Features of mono ``sound`` at 16 kHz, one for each whole 10 ms."""
    count = len(sound) // HOP
    if count == 0:
        return Voice(np.zeros(0, np.float32))
    padded = np.pad(sound, (_WINDOW // 2, _WINDOW))
    frames = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW)[::HOP][:count]
    window = np.hanning(_WINDOW).astype(np.float32)
    periodicity = np.zeros(count, np.float32)
    low, high = MODEL_RATE // _HIGHEST_HZ, MODEL_RATE // _LOWEST_HZ
    own = np.fft.irfft(np.square(np.abs(np.fft.rfft(window, 2 * _WINDOW))))[: high + 1]
    for first in range(0, count, 2048):
        part = frames[first : first + 2048] * window
        power = np.square(np.abs(np.fft.rfft(part, 2 * _WINDOW, axis=1)))
        correlation = np.fft.irfft(power, axis=1)[:, : high + 1] / (own / own[0])
        peak = correlation[:, low : high + 1].max(axis=1)
        periodicity[first : first + 2048] = peak / np.maximum(correlation[:, 0], 1e-9)
    return Voice(np.clip(periodicity, 0, 1))
