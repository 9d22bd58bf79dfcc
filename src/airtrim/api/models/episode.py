"""An episode as it is opened, and changes of it."""

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from airtrim.api.models.page import PageView
from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.bounds import MOST_FRAMES, MOST_NUMBER
from airtrim.core.timeline.chain import Chain
from airtrim.core.timeline.edits import Edit
from airtrim.core.timeline.edits.gain import GainPoint
from airtrim.core.timeline.model import Colour, Layout, MarkerKind, TrackKind
from airtrim.core.timeline.tags import Tags


class TrackView(BaseModel):
    """A track, without its clips. ``held``: placed sounds stand on it, which follow the talk."""

    id: str
    name: str
    kind: TrackKind
    gain_db: float
    muted: bool
    soloed: bool
    colour: Colour | None
    frames: int
    envelope: list[GainPoint]
    chain: Chain
    held: bool


class SectionView(BaseModel):
    """A section and where it lies."""

    id: str
    at: int
    frames: int
    name: str
    gain_db: float


class MarkerView(BaseModel):
    """A marked moment."""

    id: str
    at: int
    kind: MarkerKind
    name: str
    link: str
    artwork: str | None


class LoudnessView(BaseModel):
    """Loudness settings; ``target`` is ``target_lufs`` with the usual one filled in."""

    layout: Layout
    target_lufs: float | None
    target: float
    usual_target: float
    ceiling_dbtp: float
    gain_db: float


class TakeView(BaseModel):
    """A recording of the episode. ``transcribed`` says whether its words have been written down,
    ``music`` whether it stands on a track of music, ``missing`` whether its sound is gone from the
    disk, ``damaged`` whether it is not as it was kept, ``reworded`` whether it had other words;
    ``language`` is that of its words and ``recogniser`` what wrote them, empty where not known."""

    id: str
    name: str
    frames: int
    channels: int
    notice: str | None
    transcribed: bool
    music: bool
    missing: bool
    damaged: bool
    reworded: bool
    language: str
    recogniser: str


class EpisodeView(BaseModel):
    """An episode as it stands at ``revision``; ``before`` is the revision before the last edit;
    ``speakers`` are the names given to who speaks, beside those of tracks; ``notices`` are
    sentences about what had to be changed when its history was read."""

    id: int
    title: str
    show_id: int
    show: str
    revision: int
    frames: int
    trimmed: int
    cuts: int
    tracks: list[TrackView]
    sections: list[SectionView]
    markers: list[MarkerView]
    speakers: list[str]
    loudness: LoudnessView
    tags: Tags
    artwork: str | None
    takes: list[TakeView]
    undo: str | None
    redo: str | None
    before: int
    notices: list[str]
    content: str


LONGEST_STRETCH_FRAMES = 600 * FRAME_RATE


MOST_COLUMNS = 40_000


class Stretch(BaseModel):
    """A part of the Page that a browser shows, its skyline ``columns`` wide."""

    start: int = Field(ge=0, le=MOST_FRAMES)
    frames: int = Field(gt=0, le=LONGEST_STRETCH_FRAMES)
    columns: int = Field(gt=0, le=MOST_COLUMNS)


class RevisionRequest(BaseModel):
    """The revision that the host was looking at."""

    revision: int = Field(ge=0, le=MOST_NUMBER)


class Mark(RevisionRequest):
    """A span that the host selected, or with 0 ``frames`` a point, in frames of ``revision``."""

    start: int = Field(ge=0, le=MOST_FRAMES)
    frames: int = Field(default=0, ge=0, le=MOST_FRAMES)


class Marks(BaseModel):
    """Marks to map to the current document."""

    marks: list[Mark] = Field(default=[], max_length=8)


class MarkView(BaseModel):
    """Where a mark is in the document of the answer."""

    start: int
    frames: int


class MarksView(BaseModel):
    """The marks of a request in the document at ``revision``; null where their audio changed."""

    revision: int
    marks: list[MarkView | None]


class ChangeRequest(RevisionRequest, Marks):
    """A change, and what the browser shows: ``shown`` and ``marks`` come with the answer as they
    are after the change."""

    shown: list[Stretch] = Field(default=[], max_length=3)


class EditRequest(ChangeRequest):
    """An edit. Its frames are those of ``revision``, which the host saw; the server maps them to
    the current document. ``own`` are revisions that the same client made itself since: values that
    it changed itself are not a conflict. ``snap`` moves the edges of a cut to the quietest
    moment within 30 ms."""

    edit: Edit
    own: list[Annotated[int, Field(ge=0, le=MOST_NUMBER)]] = Field(default=[], max_length=200)
    snap: bool = True


class JumpRequest(ChangeRequest):
    """A state to go to: the revision ``to``."""

    to: int = Field(ge=0, le=MOST_NUMBER)


class HistoryItem(BaseModel):
    """A named edit; ``done`` is False for what was undone."""

    revision: int
    name: str
    done: bool
    made_at: datetime


class StretchView(BaseModel):
    """A stretch as it stands after a change: what is on it, and its skyline, the bytes of
    ``/skyline`` in base 64."""

    page: PageView
    columns: int
    skyline: str


class ChangedView(EpisodeView):
    """An episode after a change, with the stretches that were asked for."""

    stretches: list[StretchView]
    marks: list[MarkView | None]


class RoomToneView(BaseModel):
    """The room tone of a take, ``chosen`` by hand or found. 0 frames: there is none to be found."""

    start: int
    frames: int
    level_dbfs: float
    chosen: bool
