"""Clips of one track: splitting, moving, trimming, fading them."""

from typing import ClassVar, Literal, Self

from airtrim.core.timeline import arranging
from airtrim.core.timeline.clips import Shape
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Fade, Frame, Gain, Length, SomeTracks
from airtrim.core.timeline.edits.wording import track_name
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Timeline


class Split(EditBase):
    """Part the clips at a frame, so that each part can be moved for itself."""

    kind: Literal["split"] = "split"
    point_fields: ClassVar[tuple[str, ...]] = ("at",)
    at: Frame
    tracks: SomeTracks = ()

    def apply(self, timeline: Timeline) -> Timeline:
        return arranging.split(timeline, self.at, self.tracks)

    def describe(self, timeline: Timeline) -> str:
        return "Split clips"


class Join(EditBase):
    """Make one again what was split within a span."""

    kind: Literal["join"] = "join"
    has_span: ClassVar[bool] = True
    start: Frame
    frames: Length

    def apply(self, timeline: Timeline) -> Timeline:
        return arranging.join(timeline, self.start, self.start + self.frames)

    def describe(self, timeline: Timeline) -> str:
        return "Joined clips"


class MoveClip(EditBase):
    """Put the clip that begins at ``at`` where frame ``to`` is, on track ``to_track``."""

    kind: Literal["move_clip"] = "move_clip"
    track: str
    at: Frame
    to_track: str
    to: Frame

    def apply(self, timeline: Timeline) -> Timeline:
        return arranging.move_clip(timeline, self.track, self.at, self.to_track, self.to)

    def relocated(self, frames: FrameMap) -> Self:
        at = frames.clip(self.track, self.at)
        return self.model_copy(update={"at": at, "to": frames.point(self.to)})

    def describe(self, timeline: Timeline) -> str:
        return f"Moved a clip of {track_name(timeline, self.track)}"


class TrimClip(EditBase):
    """Let the clip that begins at ``at`` begin at ``start`` and end at ``end``."""

    kind: Literal["trim_clip"] = "trim_clip"
    track: str
    at: Frame
    start: Frame
    end: Frame

    def apply(self, timeline: Timeline) -> Timeline:
        return arranging.trim_clip(timeline, self.track, self.at, self.start, self.end)

    def relocated(self, frames: FrameMap) -> Self:
        at = frames.clip(self.track, self.at)
        # The ends lie within the take: they move with the clip, whatever the frames around it do.
        by = at - self.at
        start, end = max(0, self.start + by), max(0, self.end + by)
        return self.model_copy(update={"at": at, "start": start, "end": end})

    def describe(self, timeline: Timeline) -> str:
        return f"Trimmed a clip of {track_name(timeline, self.track)}"


class SetClip(EditBase):
    """Set fades and gain of the clip that begins at ``at``. What is None stays."""

    kind: Literal["set_clip"] = "set_clip"
    track: str
    at: Frame
    fade_in: Fade | None = None
    fade_out: Fade | None = None
    shape_in: Shape | None = None
    shape_out: Shape | None = None
    gain_db: Gain | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        return arranging.fade_clip(
            timeline,
            self.track,
            self.at,
            self.fade_in,
            self.fade_out,
            self.shape_in,
            self.shape_out,
            self.gain_db,
        )

    def relocated(self, frames: FrameMap) -> Self:
        return self.model_copy(update={"at": frames.clip(self.track, self.at)})

    def describe(self, timeline: Timeline) -> str:
        return f"Changed a clip of {track_name(timeline, self.track)}"
