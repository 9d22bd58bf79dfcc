"""Power of speech and rooms over frequency, and what is read from it."""

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE

Mono = NDArray[np.float32]
Power = NDArray[np.float64]
"""Power of each bin, ``1 / WINDOW_S`` Hz apart, from 0 Hz on; its sum is the power of the sound."""

GRAPH_HZ = np.geomspace(20.0, 20_000.0, 145)
"""Where spectra and curves are told: 14.4 points a decade."""
SIZE = 1 << 14
WINDOW_S = SIZE / FRAME_RATE
MOMENT_FRAMES = FRAME_RATE // 20
"""50 ms: about a syllable, a key, a knock."""


def decibels(power: float | Power) -> NDArray[np.float64]:
    """Power in dB, full scale 0, down to −130.

    >>> round(float(decibels(0.5)), 1)
    -3.0
    """
    return np.asarray(10.0 * np.log10(np.maximum(power, 1e-13)))


def moments(sound: Mono) -> NDArray[np.float64]:
    """Power of every whole 50 ms.

    >>> moments(np.ones(FRAME_RATE // 10, np.float32)).tolist()
    [1.0, 1.0]
    """
    whole = len(sound) // MOMENT_FRAMES
    windows = sound[: whole * MOMENT_FRAMES].reshape(whole, MOMENT_FRAMES)
    return np.asarray(np.mean(np.square(windows, dtype=np.float64), axis=1))


def power_of(sound: Mono) -> NDArray[np.float64]:
    """Power of each bin of a third of a second, averaged (Welch 1967); its sum is the power.

    >>> time_s = np.arange(FRAME_RATE) / FRAME_RATE
    >>> sine = 0.5 * np.sin(2 * np.pi * 1000 * time_s).astype(np.float32)
    >>> round(float(decibels(power_of(sine).sum())), 1)
    -9.0
    """
    from scipy.signal import welch  # slow to import, and seldom needed

    if len(sound) < SIZE:
        sound = np.pad(sound, (0, SIZE - len(sound)))
    _, density = welch(sound, FRAME_RATE, nperseg=SIZE, detrend=False)
    return np.asarray(density, float) / WINDOW_S


def band_power(power: NDArray[np.float64], low: float, high: float) -> float:
    """Power between two frequencies (Hz).

    >>> sine = np.sin(2 * np.pi * 1000 * np.arange(FRAME_RATE) / FRAME_RATE).astype(np.float32)
    >>> round(band_power(power_of(sine), 900, 1100), 2)
    0.5
    """
    first = max(1, round(low * WINDOW_S))
    return float(power[first : max(first + 1, round(high * WINDOW_S))].sum())


def third_octaves(power: NDArray[np.float64]) -> tuple[float, ...]:
    """Power in third octaves around ``GRAPH_HZ``, in dB.

    >>> sine = np.sin(2 * np.pi * 1000 * np.arange(FRAME_RATE) / FRAME_RATE).astype(np.float32)
    >>> len(third_octaves(power_of(sine))), round(max(third_octaves(power_of(sine))), 1)
    (145, -3.0)
    """
    side = 2.0 ** (1.0 / 6.0)
    return tuple(
        round(float(decibels(band_power(power, hz / side, hz * side))), 2) for hz in GRAPH_HZ
    )


def sharpness(speech: Mono) -> float | None:
    """How strong the sharpest moments are between 5 and 9 kHz against the voice's own level.

    >>> time_s = np.arange(FRAME_RATE) / FRAME_RATE
    >>> s, hum = (np.sin(2 * np.pi * hz * time_s).astype(np.float32) for hz in (7000, 200))
    >>> round(sharpness(s + hum)), sharpness(hum) < -60
    (-3, True)
    """
    size = 1024
    if len(speech) < 20 * size:
        return None
    frames = np.lib.stride_tricks.sliding_window_view(speech, size)[:: size // 2]
    spectrum = np.abs(np.fft.rfft(frames * np.hanning(size), axis=1)) ** 2
    low, high = round(5000 * size / FRAME_RATE), round(9000 * size / FRAME_RATE)
    band, whole = spectrum[:, low:high].sum(axis=1), spectrum[:, 1:].sum(axis=1)
    loud = whole > 0.05 * whole.mean()
    if not loud.any():
        return None
    return float(decibels(np.percentile(band[loud], 97) / whole[loud].mean()))
