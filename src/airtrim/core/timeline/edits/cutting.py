"""Taking spans out of every track, and putting them in elsewhere."""

from collections.abc import Sequence
from typing import ClassVar, Literal, Self

from pydantic import Field

from airtrim.core.timeline import arranging
from airtrim.core.timeline.clips import Clip, Clips
from airtrim.core.timeline.cutting import copied, cut, merged, move, put_in, within_episode
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import (
    Fade,
    Frame,
    HistoryName,
    Length,
    Number,
    Part,
    SpanToCut,
)
from airtrim.core.timeline.edits.wording import count, seconds, track_name
from airtrim.core.timeline.envelope import Point
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import CROSSFADE_FRAMES, Piece, Timeline
from airtrim.core.timeline.snap import unheard
from airtrim.core.timeline.sources import Sources
from airtrim.errors import BadInput


class Cut(EditBase):
    """Take ``frames`` from ``start`` out of every track and close up."""

    kind: Literal["cut"] = "cut"
    has_span: ClassVar[bool] = True
    start: Frame
    frames: Length
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        return cut(timeline, self.start, self.frames, self.crossfade_frames)

    def describe(self, timeline: Timeline) -> str:
        return f"Cut {seconds(self.frames)}"

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        moved = unheard_span(sources, self.start, self.frames) if snap else {}
        return self.model_copy(update=moved)


class CutMany(EditBase):
    """Take several spans out of every track, in one step. Each stays a cut of its own; spans that
    touch or overlap become one."""

    kind: Literal["cut_many"] = "cut_many"
    spans: tuple[SpanToCut, ...] = Field(min_length=1, max_length=5000)
    crossfade_frames: Fade = CROSSFADE_FRAMES
    name: HistoryName = ""

    def apply(self, timeline: Timeline) -> Timeline:
        return cut_all(timeline, self.spans, self.crossfade_frames)

    def relocated(self, frames: FrameMap) -> Self:
        return self.model_copy(update={"spans": relocated_spans(self.spans, frames)})

    def describe(self, timeline: Timeline) -> str:
        return self.name or f"Cut {count(len(self.spans), 'span')}"

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        return self.model_copy(update={"spans": unheard_spans(sources, self.spans)} if snap else {})


class KeepOnly(EditBase):
    """Cut everything before and after a span."""

    kind: Literal["keep_only"] = "keep_only"
    has_span: ClassVar[bool] = True
    start: Frame
    frames: Length
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        start, end = within_episode(timeline, self.start, self.frames)
        if start == 0 and end == timeline.frames:
            raise BadInput("That is the whole episode. Nothing was changed.")
        if end < timeline.frames:
            timeline = cut(timeline, end, timeline.frames - end, self.crossfade_frames)
        return cut(timeline, 0, start, self.crossfade_frames) if start else timeline

    def describe(self, timeline: Timeline) -> str:
        return f"Kept only {seconds(self.frames)}"

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        moved = unheard_span(sources, self.start, self.frames) if snap else {}
        return self.model_copy(update=moved)


class CutAlone(EditBase):
    """Take a span out of one track. What touches it closes up, to that track's next pause; all
    else stays where it is."""

    kind: Literal["cut_alone"] = "cut_alone"
    has_span: ClassVar[bool] = True
    track: str
    start: Frame
    frames: Length
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        start, end = within_episode(timeline, self.start, self.frames)
        return arranging.cut_alone(timeline, self.track, start, end, self.crossfade_frames)

    def describe(self, timeline: Timeline) -> str:
        return f"Cut {seconds(self.frames)} of {track_name(timeline, self.track)} alone"


class Move(EditBase):
    """Take a span out of every track and put it in where frame ``to`` is."""

    kind: Literal["move"] = "move"
    has_span: ClassVar[bool] = True
    point_fields: ClassVar[tuple[str, ...]] = ("to",)
    start: Frame
    frames: Length
    to: Frame
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        return move(timeline, self.start, self.frames, self.to, self.crossfade_frames)

    def describe(self, timeline: Timeline) -> str:
        return f"Moved {seconds(self.frames)}"

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        moved = unheard_span(sources, self.start, self.frames) if snap else {}
        return self.model_copy(update=moved)


class CopiedTrack(Part):
    """What was copied of a track: clips and gain, counted from the start of the span."""

    track: str
    clips: tuple[Clip, ...]
    envelope: tuple[Point, ...] = ()


class Paste(EditBase):
    """Put a copy of ``frames`` from ``start``, as they were at ``revision``, in at a frame.
    ``copied`` is what stood there, which whoever applies the edit has to fill in."""

    kind: Literal["paste"] = "paste"
    point_fields: ClassVar[tuple[str, ...]] = ("at",)
    revision: Number
    start: Frame
    frames: Length
    at: Frame
    copied: tuple[CopiedTrack, ...] | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        if not self.copied:
            raise BadInput("There is nothing to paste. Nothing was changed.")
        piece = Piece(
            self.frames,
            self.frames,
            tuple(part.track for part in self.copied),
            tuple(Clips(part.clips) for part in self.copied),
            envelopes=tuple(part.envelope for part in self.copied),
        )
        here = {track.id for track in timeline.tracks}
        if not any(len(part.clips) and part.track in here for part in self.copied):
            raise BadInput("The tracks it was copied from are gone. Nothing was changed.")
        return put_in(timeline, self.at, piece, self.crossfade_frames)

    def describe(self, timeline: Timeline) -> str:
        return f"Pasted {seconds(self.frames)}"

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        source = sources.timeline_at(self.revision)
        end = min(self.start + self.frames, source.frames)
        if end <= self.start:
            raise BadInput("There is nothing to paste. Nothing was changed.")
        piece = copied(source, self.start, end)
        tracks = tuple(
            CopiedTrack(track=track, clips=tuple(clips), envelope=points)
            for track, clips, points in zip(piece.tracks, piece.clips, piece.envelopes, strict=True)
            if len(clips)
        )
        return self.model_copy(update={"copied": tracks, "frames": end - self.start})


def cut_all(timeline: Timeline, several: Sequence[SpanToCut], crossfade_frames: int) -> Timeline:
    """The document without all of them, from the end to the start, so that what comes before stays
    where it was said to be."""
    if any(span.start >= timeline.frames for span in several):
        raise BadInput("There is no sound there to cut. Nothing was changed.")
    spans = merged((span.start, span.start + span.frames) for span in several)
    for start, end in reversed(spans):
        timeline = cut(timeline, start, end - start, crossfade_frames)
    return timeline


def relocated_spans(spans: Sequence[SpanToCut], frames: FrameMap) -> tuple[SpanToCut, ...]:
    """Return the spans for the current document (see ``EditBase.relocated``)."""
    moved = frames.spans([(span.start, span.frames) for span in spans])
    return tuple(SpanToCut(start=start, frames=length) for start, length in moved)


def unheard_spans(sources: Sources, spans: Sequence[SpanToCut]) -> tuple[SpanToCut, ...]:
    """The spans with their edges moved to where they will not be heard."""
    timeline = sources.timeline
    moved = unheard(
        timeline,
        sources.sound(timeline),
        sources.words(timeline),
        [(span.start, span.frames) for span in spans],
    )
    return tuple(SpanToCut(start=start, frames=frames) for start, frames in moved)


def unheard_span(sources: Sources, start: int, frames: int) -> dict[str, int]:
    """The same of one span, as values of an edit."""
    (moved,) = unheard_spans(sources, [SpanToCut(start=start, frames=frames)])
    return {"start": moved.start, "frames": moved.frames}
