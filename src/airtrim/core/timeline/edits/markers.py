"""Marking moments."""

from dataclasses import replace
from typing import Literal

from pydantic import Field

from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Frame
from airtrim.core.timeline.model import Marker, MarkerKind, Timeline
from airtrim.errors import BadInput


class AddMarker(EditBase):
    """Mark a moment."""

    kind: Literal["add_marker"] = "add_marker"
    at: Frame
    marks: MarkerKind = "note"
    name: str = Field(default="", max_length=120)

    def apply(self, timeline: Timeline) -> Timeline:
        at = min(self.at, timeline.frames)
        new = Marker(f"m{timeline.next_id}", at, self.marks, self.name)
        timeline = replace(timeline, next_id=timeline.next_id + 1)
        return _with_markers(timeline, (*timeline.markers, new))

    def describe(self, timeline: Timeline) -> str:
        return f"Added a marker “{self.name}”" if self.name else "Added a marker"


class ChangeMarker(EditBase):
    """Rename a marker, move it, or say what it marks. What is None stays."""

    kind: Literal["change_marker"] = "change_marker"
    marker: str
    at: Frame | None = None
    marks: MarkerKind | None = None
    name: str | None = Field(default=None, max_length=120)

    def apply(self, timeline: Timeline) -> Timeline:
        old, others = _marker(timeline, self.marker)
        changed = Marker(
            old.id,
            old.at if self.at is None else min(self.at, timeline.frames),
            self.marks or old.kind,
            old.name if self.name is None else self.name,
        )
        return _with_markers(timeline, (*others, changed))

    def describe(self, timeline: Timeline) -> str:
        return "Moved a marker" if self.at is not None else "Changed a marker"


class RemoveMarker(EditBase):
    """Take a marker away."""

    kind: Literal["remove_marker"] = "remove_marker"
    marker: str

    def apply(self, timeline: Timeline) -> Timeline:
        _, others = _marker(timeline, self.marker)
        return _with_markers(timeline, others)

    def describe(self, timeline: Timeline) -> str:
        return "Removed a marker"


def _marker(timeline: Timeline, marker_id: str) -> tuple[Marker, tuple[Marker, ...]]:
    """A marker, and all others."""
    old = next((m for m in timeline.markers if m.id == marker_id), None)
    if old is None:
        raise BadInput("That marker is no longer in the episode. Nothing was changed.")
    return old, tuple(m for m in timeline.markers if m is not old)


def _with_markers(timeline: Timeline, markers: tuple[Marker, ...]) -> Timeline:
    return replace(timeline, markers=tuple(sorted(markers, key=lambda m: m.at)))
