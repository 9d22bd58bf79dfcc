"""What a snag is, and what a kind of snag is: how it is found, called and settled."""

from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar, Literal

from airtrim.core.snags.listen import Listened
from airtrim.core.snags.talk import Talk
from airtrim.core.timeline.model import SnagKind

Do = Literal["cut", "trim", "cover", "level", "restore", "keep"]
"""What can be done about a snag: take it out, shorten it, put room tone over it, bring it to the
level around it, put back what was cut, or leave it."""

REGISTERED: "dict[SnagKind, Kind]" = {}
"""Kinds whose class is defined."""


@dataclass(frozen=True, slots=True)
class Attempt:
    """One attempt of a repeat, on the timeline, with its words."""

    start: int
    end: int
    text: str


@dataclass(frozen=True, slots=True)
class Snag:
    """A snag: its span on the timeline and in its take, what is said there, how sure it is (0–1),
    why it is one, what would be done about it and what could be, and how many frames that saves.

    ``cut_start`` and ``cut_end``: what taking it out takes. ``number``: of the cut that goes
    through a word. ``by_db``: how far a level is off."""

    kind: SnagKind
    track: str
    take: str
    take_start: int
    take_end: int
    start: int
    end: int
    text: str
    confidence: float
    reason: str
    does: Do
    choices: tuple[Do, ...]
    cut_start: int = 0
    cut_end: int = 0
    attempts: tuple[Attempt, ...] = ()
    number: int = 0
    by_db: float = 0.0
    kept: bool = False
    copy: int = 0
    """The same sound may stand in an episode more than once: how often it did before this one."""

    @property
    def id(self) -> str:
        """Its name as long as its take is not heard anew."""
        return f"{self.kind}:{self.take}:{self.take_start}:{self.copy}"

    @property
    def saves(self) -> int:
        """Frames that the episode gets shorter by, if what would be done is done."""
        return self.cut_end - self.cut_start if self.does in ("cut", "trim") else 0


class Kind(ABC):
    """A kind of snag: its names, how sure one has to be that a whole pass settles it, where it is
    found, and what is cut where it is taken out."""

    kind: ClassVar[SnagKind]
    one: ClassVar[str]
    many: ClassVar[str]
    gentle: ClassVar[float | None] = None
    close: ClassVar[float | None] = None
    """From which confidence (0–1) on tidying settles it, gently and closely; None: never."""

    def __init_subclass__(cls) -> None:
        REGISTERED[cls.kind] = cls()

    @property
    def title(self) -> str:
        """How a list of them is headed."""
        return self.many.capitalize()

    @abstractmethod
    def find(self, talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
        """All of them in an episode. ``listened`` holds what sounds in each take."""

    def cuts(self, snag: Snag, do: Do, attempt: int) -> list[tuple[int, int]]:
        """The spans that go where one is taken out or trimmed."""
        return [(snag.cut_start, snag.cut_end)] if snag.cut_end > snag.cut_start else []
