"""Whether a stretch is a voice held on one sound, as a filler is, or something else."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from airtrim.core.speech import HOP, MODEL_RATE

_WINDOW = 640
_LOWEST_HZ, _HIGHEST_HZ = 70, 400
_VOICED = 0.55
_BANDS = 20


@dataclass(frozen=True, slots=True)
class Voice:
    """For every 10 ms: ``periodicity`` 0–1 (the highest normalised autocorrelation between 70 and
    400 Hz), and ``bands``, the spectrum in 20 mel bands in dB without its mean."""

    periodicity: NDArray[np.float32]
    bands: NDArray[np.float32]

    def voiced(self, start: int, end: int) -> float:
        """The part of a span (in hops) that is voiced."""
        span = self.periodicity[start:end]
        return float((span > _VOICED).mean()) if len(span) else 0.0

    def change(self, start: int, end: int) -> float:
        """How much the spectrum moves in the middle of a span, in dB for every 30 ms; the quarter
        in which it moves most is left out, since a vowel may pass into a hum."""
        inner = (end - start) // 6
        span = self.bands[start + inner : end - inner]
        if len(span) < 5:
            return np.inf
        moves = np.sort(np.mean(np.square(span[3:] - span[:-3]), axis=1))
        return float(np.sqrt(moves[: max(2, len(moves) * 3 // 4)].mean()))


def voice_of(sound: NDArray[np.float32]) -> Voice:
    """Features of mono ``sound`` at 16 kHz, one for each whole 10 ms."""
    count = len(sound) // HOP
    if count == 0:
        return Voice(np.zeros(0, np.float32), np.zeros((0, _BANDS), np.float32))
    padded = np.pad(sound, (_WINDOW // 2, _WINDOW))
    frames = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW)[::HOP][:count]
    window = np.hanning(_WINDOW).astype(np.float32)
    filters = _mel_filters()
    periodicity = np.zeros(count, np.float32)
    bands = np.zeros((count, _BANDS), np.float32)
    low, high = MODEL_RATE // _HIGHEST_HZ, MODEL_RATE // _LOWEST_HZ
    own = np.fft.irfft(np.square(np.abs(np.fft.rfft(window, 2 * _WINDOW))))[: high + 1]
    for first in range(0, count, 2048):
        part = frames[first : first + 2048] * window
        power = np.square(np.abs(np.fft.rfft(part, 2 * _WINDOW, axis=1)))
        correlation = np.fft.irfft(power, axis=1)[:, : high + 1] / (own / own[0])
        peak = correlation[:, low : high + 1].max(axis=1)
        periodicity[first : first + 2048] = peak / np.maximum(correlation[:, 0], 1e-9)
        mel = 10.0 * np.log10(power @ filters.T + 1e-7)
        bands[first : first + 2048] = mel - mel.mean(axis=1, keepdims=True)
    return Voice(np.clip(periodicity, 0, 1), bands)


def _mel_filters() -> NDArray[np.float32]:
    """Triangles on the mel scale from 100 to 6,000 Hz (2595·log10(1 + f/700), O'Shaughnessy 1987;
    from memory)."""
    mel = np.linspace(2595 * np.log10(1 + 100 / 700), 2595 * np.log10(1 + 6000 / 700), _BANDS + 2)
    edges = 700 * (10 ** (mel / 2595) - 1)
    hertz = np.fft.rfftfreq(2 * _WINDOW, 1 / MODEL_RATE)
    rising = (hertz - edges[:-2, None]) / (edges[1:-1] - edges[:-2])[:, None]
    falling = (edges[2:, None] - hertz) / (edges[2:] - edges[1:-1])[:, None]
    return np.maximum(0, np.minimum(rising, falling)).astype(np.float32)
