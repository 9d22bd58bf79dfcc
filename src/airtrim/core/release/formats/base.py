"""What a format of released files is: how it is written, tagged, and how large it comes out."""

from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.release.chapters import Chapter
from airtrim.core.release.labels import Labels
from airtrim.core.timeline.model import Layout
from airtrim.errors import BadInput

Sound = NDArray[np.float32]

FORMATS: "dict[str, Format]" = {}
"""Every format there is, by its name. One is registered when its class is defined."""


class Format(ABC):
    """A format. ``name`` is what its files end in, too; ``title`` is what it is called; ``kbits``
    are the rates it is offered at, none for one that has no choice; ``overshoots`` says that
    decoding gives higher peaks than what was encoded, so that they have to be tried out;
    ``usual``: what feeds carry; ``to_keep``: it is for the shelf at home, not for feeds."""

    name: ClassVar[str]
    title: ClassVar[str]
    kbits: ClassVar[tuple[int, ...]] = ()
    overshoots: ClassVar[bool] = False
    usual: ClassVar[bool] = False
    to_keep: ClassVar[bool] = False

    def __init_subclass__(cls) -> None:
        if "name" in vars(cls):  # others are what several have in common
            FORMATS[cls.name] = cls()

    def label(self, kbits: int | None) -> str:
        """What it is called on the screen, at a rate."""
        return f"{self.title}, {kbits} kbit/s" if kbits else self.title

    def words(self, layout: Layout, kbits: int | None) -> str:
        """What a host calls it at a rate; empty where it is one rate among many."""
        return ""

    def usual_kbits(self, layout: Layout) -> int | None:
        """The rate for speech, where there is a choice."""
        return None

    def check_kbits(self, kbits: int | None) -> None:
        """Raises BadInput for a rate that is not offered."""
        if self.kbits and kbits is not None and kbits not in self.kbits:
            offered = ", ".join(map(str, self.kbits))
            raise BadInput(f"{self.title} is offered at {offered} kbit/s.")

    def size_bytes(self, *, frames: int, channels: int, kbits: int | None) -> int:
        """About how large the sound comes out (tags and artwork not counted); by the rate, where
        there is one."""
        return round(frames / FRAME_RATE * (kbits or 0) * 125)

    @abstractmethod
    def write(
        self,
        blocks: Iterator[Sound],
        path: Path,
        *,
        frames: int,
        channels: int,
        kbits: int | None,
        chapters: Sequence[Chapter] = (),
    ) -> None:
        """Write ``frames`` of 48 kHz ``blocks``, shape ``(n, channels)``, full scale ±1. Chapters
        are for containers that take them only then; the others get them by ``label_file``."""

    @abstractmethod
    def label_file(self, path: Path, labels: Labels) -> None:
        """Write what it says of itself into a finished file, in place of what was there. Raises
        BadInput for bad artwork."""

    def why_untagged(self, frames: int, channels: int) -> str | None:
        """Why a file of this length can hold no tags, as a sentence; None where it can."""
        return None


def offered() -> list[Format]:
    """Every format, those that feeds carry first, those to keep last."""
    return sorted(FORMATS.values(), key=lambda form: (not form.usual, form.to_keep, form.name))


def format_named(name: str) -> Format:
    """Raises BadInput, with those that there are."""
    if name not in FORMATS:
        titles = "; ".join(form.title for form in FORMATS.values())
        raise BadInput(f"“{name[:40]}” is no format that Air Trim writes. It writes {titles}.")
    return FORMATS[name]
