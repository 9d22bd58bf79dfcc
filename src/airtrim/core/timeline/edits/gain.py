"""The gain of tracks over time."""

from collections.abc import Callable
from dataclasses import replace
from typing import ClassVar, Literal, Self

from pydantic import Field

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline import arranging, envelope
from airtrim.core.timeline.bounds import MOST_TRACKS
from airtrim.core.timeline.clips import Shape
from airtrim.core.timeline.cutting import within_episode
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import (
    Fade,
    Frame,
    Gain,
    HistoryName,
    Length,
    Part,
    SomeTracks,
)
from airtrim.core.timeline.edits.wording import decibels, on_tracks, seconds, track_name
from airtrim.core.timeline.envelope import Point
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Timeline
from airtrim.errors import BadInput


class GainPoint(Part):
    """``db`` at a frame, and how it goes on from there."""

    at: Frame
    db: Gain
    shape: Shape = "straight"


class GainSpan(EditBase):
    """Change the gain of a span by ``by_db``, reached and left within ``ramp_frames`` outside."""

    kind: Literal["gain_span"] = "gain_span"
    has_span: ClassVar[bool] = True
    tracks: SomeTracks = ()
    start: Frame
    frames: Length
    by_db: float = Field(ge=-72.0, le=24.0, allow_inf_nan=False)
    ramp_frames: Fade = FRAME_RATE // 5

    def apply(self, timeline: Timeline) -> Timeline:
        def louder(timeline: Timeline, track_id: str, start: int, end: int) -> Timeline:
            track = timeline.track(track_id)
            points = envelope.changed(track.envelope, start, end, self.by_db, self.ramp_frames)
            return arranging.with_track(timeline, replace(track, envelope=points))

        return _on_each(timeline, self.tracks, self.start, self.frames, louder)

    def describe(self, timeline: Timeline) -> str:
        tracks = on_tracks(timeline, self.tracks)
        return f"{decibels(self.by_db)} for {seconds(self.frames)}{tracks}"


class SetEnvelope(EditBase):
    """Set all points of a track's gain."""

    kind: Literal["set_envelope"] = "set_envelope"
    track: str
    points: tuple[GainPoint, ...] = Field(max_length=20_000)

    def apply(self, timeline: Timeline) -> Timeline:
        return _with_points(timeline, self.track, self.points)

    def relocated(self, frames: FrameMap) -> Self:
        return self.model_copy(update={"points": _merged_points(self.track, self.points, frames)})

    def describe(self, timeline: Timeline) -> str:
        return f"Changed the gain of {track_name(timeline, self.track)}"


class TrackPoints(Part):
    """All points of a track's gain."""

    track: str
    points: tuple[GainPoint, ...] = Field(max_length=20_000)


class RideGain(EditBase):
    """Set all points of several tracks' gain in one step: what riding the gain came to."""

    kind: Literal["ride_gain"] = "ride_gain"
    tracks: tuple[TrackPoints, ...] = Field(min_length=1, max_length=MOST_TRACKS)
    name: HistoryName = ""

    def apply(self, timeline: Timeline) -> Timeline:
        for one in self.tracks:
            timeline = _with_points(timeline, one.track, one.points)
        return timeline

    def relocated(self, frames: FrameMap) -> Self:
        moved = tuple(
            one.model_copy(update={"points": _merged_points(one.track, one.points, frames)})
            for one in self.tracks
        )
        return self.model_copy(update={"tracks": moved})

    def describe(self, timeline: Timeline) -> str:
        return self.name or "Rode the gain"


class FadeSpan(EditBase):
    """Fade tracks in (from nothing) or out over a span."""

    kind: Literal["fade_span"] = "fade_span"
    has_span: ClassVar[bool] = True
    tracks: SomeTracks = ()
    start: Frame
    frames: Length
    inwards: bool
    shape: Shape = "round"

    def apply(self, timeline: Timeline) -> Timeline:
        def faded(timeline: Timeline, track_id: str, start: int, end: int) -> Timeline:
            return arranging.fade_span(timeline, track_id, start, end, self.inwards, self.shape)

        return _on_each(timeline, self.tracks, self.start, self.frames, faded)

    def describe(self, timeline: Timeline) -> str:
        way = "in" if self.inwards else "out"
        return f"Faded {way} over {seconds(self.frames)}{on_tracks(timeline, self.tracks)}"


def _on_each(
    timeline: Timeline,
    tracks: tuple[str, ...],
    start_frame: int,
    frames: int,
    change: Callable[[Timeline, str, int, int], Timeline],
) -> Timeline:
    """A change of a span on some tracks, or on all that sound there."""
    start, end = within_episode(timeline, start_frame, frames)
    sounding = [t for t in timeline.tracks if len(t.clips.between(start, end)) and not t.held]
    chosen = tracks or tuple(track.id for track in sounding)
    if not chosen:
        raise BadInput("There is no sound there. Nothing was changed.")
    for track_id in chosen:
        timeline = change(timeline, track_id, start, end)
    return timeline


def _merged_points(
    track_id: str, wanted: tuple[GainPoint, ...], frames: FrameMap
) -> tuple[GainPoint, ...]:
    """Return the points ``wanted`` on the current document: only what the host changed of the
    points that were seen is changed now."""

    def of(timeline: Timeline) -> list[Point]:
        return list(next((t.envelope for t in timeline.tracks if t.id == track_id), ()))

    def moved(points: list[Point]) -> list[Point]:
        at = frames.points([point.at for point in points])
        return [point._replace(at=f) for point, f in zip(points, at, strict=True)]

    mine = [Point(p.at, p.db, p.shape) for p in wanted]
    points = FrameMap.merged(moved(of(frames.seen)), moved(mine), of(frames.now))
    return tuple(GainPoint(at=p.at, db=p.db, shape=p.shape) for p in points)


def _with_points(timeline: Timeline, track_id: str, new: tuple[GainPoint, ...]) -> Timeline:
    points = sorted((Point(p.at, p.db, p.shape) for p in new), key=lambda p: p.at)
    track = timeline.track(track_id)
    return arranging.with_track(timeline, replace(track, envelope=tuple(points)))
