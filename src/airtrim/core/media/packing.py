"""Stretches of sound made small, to travel between processes and machines."""

import io
from dataclasses import dataclass

import numpy as np
import soundfile

from airtrim.core.media.reading import InMemory, Sound

_FULL_SCALE = 2.0**23


@dataclass(frozen=True, slots=True)
class Packed:
    """A stretch of sound as 24-bit FLAC, at ``level`` (a power of two) of what it is."""

    flac: bytes
    level: float


def pack(sound: Sound, rate: int) -> Packed:
    """Sound of shape ``(frames, channels)`` or ``(frames,)``. What was kept in 24 bits or fewer
    comes out as it went in; all else to 24 bits of its own level.

    >>> sound = np.array([[0.5], [-3.0], [2.0**-20]], np.float32)
    >>> bool((unpack(pack(sound, 48_000)) == sound).all())
    True
    """
    low, high = float(sound.min(initial=0.0)), float(sound.max(initial=0.0))
    level = 1.0
    while low * level < -1.0 or high * level > 1.0 - 1.0 / _FULL_SCALE:
        level /= 2.0
    whole = np.rint(sound * np.float32(_FULL_SCALE * level)).astype(np.int32) << 8
    out = io.BytesIO()
    soundfile.write(out, whole, rate, "PCM_24", format="FLAC")
    return Packed(out.getvalue(), level)


def unpack(packed: Packed) -> Sound:
    """The sound again, of shape ``(frames, channels)``."""
    sound, _ = soundfile.read(io.BytesIO(packed.flac), dtype="float32", always_2d=True)
    return np.asarray(sound / np.float32(packed.level), np.float32)


@dataclass(frozen=True, slots=True)
class Stretch:
    """A stretch of a recording that begins at its frame ``start``, read as the recording would be:
    what lies outside is silence. ``frames`` of the whole recording."""

    sound: Sound
    start: int
    frames: int

    @property
    def channels(self) -> int:
        """How many there are."""
        return int(self.sound.shape[1])

    def read(self, start: int, frames: int) -> Sound:
        """Sound of shape ``(frames, channels)``, ``start`` in frames of the recording."""
        return InMemory(self.sound).read(start - self.start, frames)
