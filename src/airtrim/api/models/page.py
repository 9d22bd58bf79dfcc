"""What a stretch of the Page is drawn from, and places found on it."""

from pydantic import BaseModel

from airtrim.api.models.rundown import PlacedView
from airtrim.core.timeline.clips import Shape
from airtrim.core.timeline.words import PlacedWord


class SpliceView(BaseModel):
    """A cut in place: where its splice is and what it took out. ``retake`` where something was
    recorded in its place that it can be exchanged with. ``crossfade_frames`` and ``shape`` are
    those of the splice."""

    cut: int
    at: int
    frames: int
    text: str
    retake: bool
    crossfade_frames: int
    shape: Shape


class AirView(BaseModel):
    """A stretch in which nobody speaks, longer than the air limit, and the track it is shown on."""

    track: str
    start: int
    frames: int


class ClipView(BaseModel):
    """A clip: where it lies, what it is of, and its own gain and fades. ``tone``: it is room tone
    that was made up; ``touches``: the clip before ends where it begins; ``goes_on``: and its sound
    goes on from there."""

    track: str
    start: int
    frames: int
    take: str
    take_start: int
    gain_db: float
    fade_in: int
    fade_out: int
    shape_in: Shape
    shape_out: Shape
    tone: bool
    touches: bool
    goes_on: bool


class ToneView(BaseModel):
    """Where the room tone of a take sounds."""

    track: str
    start: int
    frames: int


class PageView(BaseModel):
    """What stands on a stretch of the Page; ``sounds`` are those that are placed there."""

    revision: int
    start: int
    frames: int
    words: list[PlacedWord]
    splices: list[SpliceView]
    air: list[AirView]
    clips: list[ClipView]
    sounds: list[PlacedView]
    room_tones: list[ToneView]


class SpanView(BaseModel):
    """A stretch of the timeline; empty where there is none."""

    start: int
    frames: int


class PlaceView(BaseModel):
    """A place on the timeline, or None."""

    at: int | None


class HitView(BaseModel):
    """Where what was looked for is said."""

    track: str
    start: int
    frames: int
    text: str
    before: str
    after: str
