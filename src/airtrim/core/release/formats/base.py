"""What a format of released files is: how it is written, tagged, and how large it comes out."""

from abc import ABC, abstractmethod
from collections.abc import Iterator
from pathlib import Path
from typing import ClassVar

import numpy as np
from mutagen.mp3 import MP3
from mutagen.wave import WAVE
from numpy.typing import NDArray

from airtrim.core.release.tags import Id3Version, write_id3
from airtrim.core.timeline.model import Layout
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput

Sound = NDArray[np.float32]

FORMATS: "dict[str, Format]" = {}
"""Every format there is, by its name. One is registered when its class is defined."""


class Format(ABC):
    """A format. ``name`` is what its files end in, too; ``title`` is what it is called; ``kbits``
    are the constant rates it is offered at, none for one that has no choice; ``overshoots`` says
    that decoding gives higher peaks than what was encoded, so that they have to be tried out."""

    name: ClassVar[str]
    title: ClassVar[str]
    kbits: ClassVar[tuple[int, ...]] = ()
    overshoots: ClassVar[bool] = False

    def __init_subclass__(cls) -> None:
        FORMATS[cls.name] = cls()

    def label(self, kbits: int | None) -> str:
        """What it is called on the screen, at a rate."""
        return f"{self.title}, {kbits} kbit/s" if kbits else self.title

    def usual_kbits(self, layout: Layout) -> int | None:
        """The rate for speech, where there is a choice."""
        return None

    def check_kbits(self, kbits: int | None) -> None:
        """Raises BadInput for a rate that is not offered."""
        if self.kbits and kbits is not None and kbits not in self.kbits:
            offered = ", ".join(map(str, self.kbits))
            raise BadInput(f"{self.title} is offered at {offered} kbit/s.")

    @abstractmethod
    def size_bytes(self, *, frames: int, channels: int, kbits: int | None) -> int:
        """About how large the sound comes out (tags and artwork not counted)."""

    @abstractmethod
    def write(
        self,
        blocks: Iterator[Sound],
        path: Path,
        *,
        frames: int,
        channels: int,
        kbits: int | None,
    ) -> None:
        """Write ``frames`` of 48 kHz ``blocks``, shape ``(n, channels)``, full scale ±1."""

    @abstractmethod
    def opened(self, path: Path) -> MP3 | WAVE:
        """A finished file, opened for its tags."""

    def tag(
        self,
        path: Path,
        tags: Tags,
        *,
        artwork: bytes | None = None,
        version: Id3Version = "2.3",
        duration_s: float | None = None,
    ) -> None:
        """Write tags into a finished file in place. Raises BadInput for bad artwork."""
        file = self.opened(path)
        write_id3(file, tags, artwork=artwork, version=version, duration_s=duration_s)

    def why_untagged(self, frames: int, channels: int) -> str | None:
        """Why a file of this length can hold no tags, as a sentence; None where it can."""
        return None


def format_named(name: str) -> Format:
    """Raises BadInput, with those that there are."""
    if name not in FORMATS:
        titles = "; ".join(form.title for form in FORMATS.values())
        raise BadInput(f"“{name[:40]}” is no format that Air Trim writes. It writes {titles}.")
    return FORMATS[name]
