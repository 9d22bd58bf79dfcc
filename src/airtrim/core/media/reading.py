"""Recordings that can be read anywhere, wherever their sound lies."""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

Sound = NDArray[np.float32]


class Readable(Protocol):
    """A recording that can be read anywhere."""

    frames: int
    channels: int

    def read(self, start: int, frames: int) -> Sound:
        """Sound of shape ``(frames, channels)``, silence outside the recording."""
        ...


class InMemory:
    """A recording that lies in an array of shape ``(frames, channels)``.

    >>> InMemory(np.ones((4, 1), np.float32)).read(-1, 3)[:, 0].tolist()
    [0.0, 1.0, 1.0]
    """

    def __init__(self, sound: Sound) -> None:
        self._sound = sound
        self.frames, self.channels = sound.shape

    def read(self, start: int, frames: int) -> Sound:
        """Sound of shape ``(frames, channels)``, silence outside the recording."""
        out = np.zeros((frames, self.channels), np.float32)
        first, last = max(0, start), min(self.frames, start + frames)
        if last > first:
            out[first - start : last - start] = self._sound[first:last]
        return out
