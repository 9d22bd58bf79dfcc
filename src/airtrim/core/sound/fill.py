"""Room tone without end: noise with the spectrum of a room, for covering and for adding air."""

from collections.abc import Callable
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from airtrim.core.timeline.tone import tone_of

Sound = NDArray[np.float32]

ENDLESS_FRAMES = 1 << 40
_BLOCK = 8192
_HOP = _BLOCK // 2
_EXACT_FRAMES = 48_000 * 30


class _Sound(Protocol):
    """A take that can be read anywhere."""

    def read(self, start: int, frames: int) -> Sound:
        """``frames`` from frame ``start``."""
        ...


def made_up(take: str, takes: Callable[[str], _Sound]) -> "RoomToneFill":
    """The room tone that a take's name says, made of a recording among ``takes``."""
    tone, seed = tone_of(take)
    return RoomToneFill(takes(tone.take).read(tone.start, tone.frames), seed)


class RoomToneFill:
    """A take of made-up room tone that can be read anywhere and never repeats.

    ``sound`` is the room tone to be like, shape ``(frames, channels)``, half a second or more. Its
    power spectrum is estimated by Welch's method (1967); white noise, drawn anew for each block
    from ``seed``, is shaped by it and overlapped under a sine window, whose squares add up to one,
    so the level is even. No sound of the original is used twice, so there is no loop to be heard.
    """

    frames = ENDLESS_FRAMES

    def __init__(self, sound: Sound, seed: int) -> None:
        from scipy import signal  # slow to import, and seldom needed

        self._seed = seed
        size = min(_BLOCK, len(sound))
        centred = np.asarray(sound, np.float64) - sound.mean(axis=0)
        _, power = signal.welch(centred, fs=1.0, nperseg=size, axis=0, detrend=False)
        at = np.linspace(0, len(power) - 1, _BLOCK // 2 + 1)
        grid = np.arange(len(power))
        self.channels = sound.shape[1]
        self._shape = np.stack(
            # One-sided density over half a cycle a sample: white noise of power 1 has 2.
            [np.sqrt(np.interp(at, grid, power[:, c]) / 2.0) for c in range(self.channels)],
            axis=1,
        )
        self._shape[0] = 0.0
        self._window = np.sin(np.pi * (np.arange(_BLOCK) + 0.5) / _BLOCK)[:, None]
        self.rms = float(np.sqrt(np.mean(np.square(centred))))

    def read(self, start: int, frames: int) -> Sound:
        """Sound of shape ``(frames, channels)``."""
        first = start // _HOP - 1
        last = (start + frames - 1) // _HOP
        out = np.zeros(((last - first + 2) * _HOP, self.channels))
        for number in range(first, last + 1):
            at = (number - first) * _HOP
            out[at : at + _BLOCK] += self._block(number)
        skip = start - first * _HOP
        return out[skip : skip + frames].astype(np.float32)

    def _block(self, number: int) -> NDArray[np.float64]:
        drawn = np.random.default_rng((self._seed, number + 1))
        white = drawn.standard_normal((_BLOCK, self.channels))
        shaped = np.fft.irfft(np.fft.rfft(white, axis=0) * self._shape, _BLOCK, axis=0)
        return np.asarray(shaped * self._window)


class FillPeaks:
    """The picture of made-up room tone: exact for short spans, its mean level for long ones."""

    def __init__(self, fill: RoomToneFill) -> None:
        self._fill = fill

    def columns(self, starts: NDArray[np.int64], ends: NDArray[np.int64]) -> NDArray[np.float32]:
        """As of a recording's peaks."""
        low, high = (int(starts.min()), int(ends.max())) if len(starts) else (0, 0)
        if not 0 < high - low <= _EXACT_FRAMES:
            level = np.array([3.5 * self._fill.rms, self._fill.rms], np.float32)
            return np.tile(level, (len(starts), 1))
        sound = self._fill.read(low, high - low)
        # Every other reduction is a span itself; what lies between two is thrown away.
        spans = np.stack([starts - low, ends - low], axis=1).ravel()
        top = np.maximum.reduceat(np.append(np.abs(sound).max(axis=1), 0.0), spans)[::2]
        energy = np.add.reduceat(np.append(np.square(sound).mean(axis=1), 0.0), spans)[::2]
        return np.stack([top, np.sqrt(energy / (ends - starts))], axis=1).astype(np.float32)
