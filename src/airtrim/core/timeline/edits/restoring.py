"""What is done to cuts afterwards: putting them back, moving their edges and crossfades."""

from dataclasses import replace
from typing import ClassVar, Literal

from pydantic import Field

from airtrim.core.timeline.bounds import MOST_FRAMES
from airtrim.core.timeline.clips import Shape
from airtrim.core.timeline.cutting import move_edges, restore
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Fade, Frame, Length, Number
from airtrim.core.timeline.model import CROSSFADE_FRAMES, Timeline
from airtrim.errors import BadInput


class SetSplice(EditBase):
    """Set the crossfade of every track's splice at a frame; what is None stays as it is."""

    kind: Literal["set_splice"] = "set_splice"
    point_fields: ClassVar[tuple[str, ...]] = ("at",)
    at: Frame
    crossfade_frames: Fade | None = None
    shape: Shape | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        tracks = []
        done = 0
        for track in timeline.tracks:
            index = track.clips.first_from(self.at)
            if 0 < index < len(track.clips):
                left, right = track.clips[index - 1], track.clips[index]
                if right.at == self.at == left.end and not left.continues_into(right):
                    fade = self.crossfade_frames
                    right = right._replace(
                        fade_in=right.fade_in if fade is None else fade,
                        shape_in=self.shape or right.shape_in,
                    )
                    track = replace(track, clips=track.clips.with_one(index, right))
                    done += 1
            tracks.append(track)
        if not done:
            raise BadInput("There is no splice there any more. Nothing was changed.")
        return replace(timeline, tracks=tuple(tracks))

    def describe(self, timeline: Timeline) -> str:
        return "Changed a crossfade"


class MoveEdges(EditBase):
    """Move the edges of cut number ``cut``: the left by ``left`` frames, the right by ``right``
    (both counted in what was there before the cut; earlier where negative)."""

    kind: Literal["move_edges"] = "move_edges"
    cut: Number
    left: int = Field(default=0, ge=-MOST_FRAMES, le=MOST_FRAMES)
    right: int = Field(default=0, ge=-MOST_FRAMES, le=MOST_FRAMES)

    def apply(self, timeline: Timeline) -> Timeline:
        place = timeline.cuts.index_of(self.cut)
        mark = None if place is None else timeline.cuts[place]
        fade = CROSSFADE_FRAMES
        shape: Shape = "round"
        if mark is not None:
            for track in timeline.tracks:
                index = track.clips.first_from(mark.at)
                if index < len(track.clips) and track.clips[index].at == mark.at:
                    right = track.clips[index]
                    fade, shape = right.fade_in or fade, right.shape_in
        return move_edges(timeline, self.cut, self.left, self.right, fade, shape)

    def describe(self, timeline: Timeline) -> str:
        return "Moved the edge of a cut"


class Restore(EditBase):
    """Put what cut number ``cut`` took out back in its place."""

    kind: Literal["restore"] = "restore"
    cut: Number

    def apply(self, timeline: Timeline) -> Timeline:
        return restore(timeline, self.cut)

    def describe(self, timeline: Timeline) -> str:
        return "Put a cut back"


class RestoreAll(EditBase):
    """Put everything that was cut within a span back."""

    kind: Literal["restore_all"] = "restore_all"
    has_span: ClassVar[bool] = True
    start: Frame
    frames: Length

    def apply(self, timeline: Timeline) -> Timeline:
        end = self.start + self.frames
        cuts = timeline.cuts
        held = [c.id for c in cuts[cuts.first_from(self.start) : cuts.first_after(end)]]
        if not held:
            raise BadInput("Nothing was cut there. Nothing was changed.")
        for number in reversed(held):
            timeline = restore(timeline, number)
        return timeline

    def describe(self, timeline: Timeline) -> str:
        return "Put cuts back"
