"""Snags, and what is decided about them."""

from pydantic import BaseModel, Field

from airtrim.api.models.episode import ChangeRequest
from airtrim.core.snags.base import Do
from airtrim.core.snags.decide import How
from airtrim.core.timeline.model import OwnFiller, SnagKind


class AttemptView(BaseModel):
    """One attempt of a repeat."""

    start: int
    frames: int
    text: str


class SnagView(BaseModel):
    """A snag, where it stands; ``does`` is what would be done about it, and ``saves`` by how many
    frames that makes the episode shorter. Taking it out takes ``cut_frames`` from ``cut_start``."""

    id: str
    kind: SnagKind
    track: str
    start: int
    frames: int
    text: str
    confidence: float
    reason: str
    does: Do
    choices: tuple[Do, ...]
    saves: int
    cut_start: int
    cut_frames: int
    attempts: list[AttemptView]
    kept: bool


class TidyView(BaseModel):
    """What a whole pass would do: the episode's length after it, how many snags of each kind it
    settles, and how many pauses it shortens."""

    how: How
    frames: int
    counts: dict[SnagKind, int]
    pauses: int


class SnagKindView(BaseModel):
    """A kind of snag, and what it is called: one of them, many, and a list of them."""

    kind: SnagKind
    one: str
    many: str
    title: str


class SnagsView(BaseModel):
    """The snags of an episode, all kinds that there are, what counts as one there, and what tidying
    would do. ``complete`` is False while words are still being written down."""

    snags: list[SnagView]
    kinds: list[SnagKindView]
    air_limit_s: float
    own_fillers: tuple[OwnFiller, ...]
    tidy: list[TidyView]
    complete: bool


class DecisionRequest(BaseModel):
    """What is to be done about a snag; of a repeat, which attempt stays (the last: −1)."""

    id: str = Field(max_length=200)
    do: Do
    attempt: int = Field(default=-1, ge=-1, le=100)


class DecideRequest(ChangeRequest):
    """Decisions to carry out as one edit."""

    decisions: list[DecisionRequest] = Field(min_length=1, max_length=20_000)


class TidyRequest(ChangeRequest):
    """A whole pass."""

    how: How
