"""What a check knows, what it says, and how a host can put it right by one press."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from airtrim.core.loudness.levelling import Levels
from airtrim.core.snags.base import Snag
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import PlacedWord
from airtrim.errors import Place

State = Literal["good", "look", "stop"]
"""``stop``: it ought not to go out like this; ``look``: a host should know of it."""
Doing = Literal["measure", "even_out", "export"]
"""What is done besides an edit of the document."""


@dataclass(frozen=True, slots=True)
class Remedy:
    """One press: an ``edit`` of the document, something to be done (``doing``), or the ``place`` to
    go to, at frame ``at`` where that is told."""

    says: str
    edit: Mapping[str, Any] | None = None
    doing: Doing | None = None
    place: Place | None = None
    at: int | None = None


@dataclass(frozen=True, slots=True)
class Line:
    """What was found: a matter by its name, how it stands, and the reason in a sentence."""

    id: str
    title: str
    state: State
    reason: str
    remedy: Remedy | None = None


@dataclass(frozen=True, slots=True)
class Gentler:
    """A voice whose loud moments a compressor would hold down, and the edit that puts it there."""

    name: str
    edit: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Facts:
    """What is known of an episode. ``levels`` and ``edges`` (how long it is silent before the first
    sound and after the last, in frames) are None before it is measured; ``taken`` are season and
    number of the show's other episodes; ``credits`` what the sounds in it ask to be named by;
    ``behind`` how many edits the newest file is behind, None where there is none; ``gentler`` what
    would spare the limiter work that is heard."""

    timeline: Timeline
    title: str
    show: str
    words: Sequence[PlacedWord] = ()
    snags: Sequence[Snag] = ()
    levels: Levels | None = None
    edges: tuple[int, int] | None = None
    artwork: bytes | None = None
    taken: frozenset[tuple[int | None, int]] = frozenset()
    credits: Sequence[str] = ()
    behind: int | None = None
    gentler: Gentler | None = None
    transcribed: bool = True


Check = Callable[[Facts], Line | None]
"""None where it has nothing to say just now."""

CHECKS: list[tuple[int, Check]] = []
"""Every check, with its place in the list."""


def check(place: int) -> Callable[[Check], Check]:
    """Register a check at a place of the list."""

    def register(one: Check) -> Check:
        CHECKS.append((place, one))
        return one

    return register


def checked(facts: Facts) -> list[Line]:
    """All lines, in order."""
    found = [one(facts) for _, one in sorted(CHECKS, key=lambda pair: pair[0])]
    return [line for line in found if line is not None]


def word_for(lines: Sequence[Line]) -> str:
    """All of it in a word, or what is missing.

    >>> word_for([Line("a", "Title", "good", "")])
    'Ready'
    >>> word_for([Line("a", "Title", "stop", ""), Line("b", "Artwork", "look", "")])
    'Not yet: title'
    """
    missing = [line.title for line in lines if line.state == "stop"]
    if missing:
        return "Not yet: " + ", ".join(title[0].lower() + title[1:] for title in missing)
    look = sum(line.state == "look" for line in lines)
    return f"Ready, with {look} to look at" if look else "Ready"
