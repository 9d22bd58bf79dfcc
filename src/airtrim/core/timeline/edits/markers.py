"""Marking moments."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Frame, Link, Part, Sha256
from airtrim.core.timeline.edits.wording import count
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Marker, MarkerKind, Timeline
from airtrim.errors import BadInput

MOST_CHAPTERS = 500


class ChapterAt(Part):
    """A chapter of the released file."""

    at: Frame
    title: str = Field(default="", max_length=120)
    link: Link = ""
    artwork: Sha256 | None = None


class AddMarker(EditBase):
    """Mark a moment."""

    kind: Literal["add_marker"] = "add_marker"
    point_fields: ClassVar[tuple[str, ...]] = ("at",)
    at: Frame
    marks: MarkerKind = "note"
    name: str = Field(default="", max_length=120)
    link: Link = ""
    artwork: Sha256 | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        at = min(self.at, timeline.frames)
        new = Marker(f"m{timeline.next_id}", at, self.marks, self.name, self.link, self.artwork)
        timeline = replace(timeline, next_id=timeline.next_id + 1)
        return _with_markers(timeline, (*timeline.markers, new))

    def describe(self, timeline: Timeline) -> str:
        what = "a chapter" if self.marks == "chapter" else "a marker"
        return f"Added {what} “{self.name}”" if self.name else f"Added {what}"


class ChangeMarker(EditBase):
    """Rename a marker, move it, say what it marks, or give it a link or a picture. What is None
    stays; ``artwork`` empty takes the picture away."""

    kind: Literal["change_marker"] = "change_marker"
    point_fields: ClassVar[tuple[str, ...]] = ("at",)
    marker: str
    at: Frame | None = None
    marks: MarkerKind | None = None
    name: str | None = Field(default=None, max_length=120)
    link: Link | None = None
    artwork: Sha256 | Literal[""] | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        old, others = _marker(timeline, self.marker)
        changed = Marker(
            old.id,
            old.at if self.at is None else min(self.at, timeline.frames),
            self.marks or old.kind,
            old.name if self.name is None else self.name,
            old.link if self.link is None else self.link,
            old.artwork if self.artwork is None else self.artwork or None,
        )
        return _with_markers(timeline, (*others, changed))

    def describe(self, timeline: Timeline) -> str:
        what = "a chapter" if _kind(timeline, self.marker) == "chapter" else "a marker"
        return f"Moved {what}" if self.at is not None else f"Changed {what}"


class RemoveMarker(EditBase):
    """Take a marker away."""

    kind: Literal["remove_marker"] = "remove_marker"
    marker: str

    def apply(self, timeline: Timeline) -> Timeline:
        _, others = _marker(timeline, self.marker)
        return _with_markers(timeline, others)

    def describe(self, timeline: Timeline) -> str:
        return f"Removed {'a chapter' if _kind(timeline, self.marker) == 'chapter' else 'a marker'}"


class SetChapters(EditBase):
    """Set all chapters anew, in place of those there are."""

    kind: Literal["set_chapters"] = "set_chapters"
    chapters: Annotated[tuple[ChapterAt, ...], Field(max_length=MOST_CHAPTERS)]

    def apply(self, timeline: Timeline) -> Timeline:
        others = tuple(m for m in timeline.markers if m.kind != "chapter")
        first = timeline.next_id
        made = tuple(
            Marker(
                f"m{first + n}",
                min(one.at, timeline.frames),
                "chapter",
                one.title,
                one.link,
                one.artwork,
            )
            for n, one in enumerate(self.chapters)
        )
        timeline = replace(timeline, next_id=first + len(made))
        return _with_markers(timeline, (*others, *made))

    def relocated(self, frames: FrameMap) -> Self:
        """Only the chapters that the host changed are changed now."""

        def of(timeline: Timeline) -> list[ChapterAt]:
            return [
                ChapterAt(at=m.at, title=m.name, link=m.link, artwork=m.artwork)
                for m in timeline.markers
                if m.kind == "chapter"
            ]

        def moved(chapters: Sequence[ChapterAt]) -> list[ChapterAt]:
            at = frames.points([chapter.at for chapter in chapters])
            return [c.model_copy(update={"at": f}) for c, f in zip(chapters, at, strict=True)]

        chapters = FrameMap.merged(moved(of(frames.seen)), moved(self.chapters), of(frames.now))
        return self.model_copy(update={"chapters": tuple(chapters)})

    def describe(self, timeline: Timeline) -> str:
        return f"Set {count(len(self.chapters), 'chapter')}"


def _kind(timeline: Timeline, marker_id: str) -> str:
    return next((m.kind for m in timeline.markers if m.id == marker_id), "note")


def _marker(timeline: Timeline, marker_id: str) -> tuple[Marker, tuple[Marker, ...]]:
    """A marker, and all others."""
    old = next((m for m in timeline.markers if m.id == marker_id), None)
    if old is None:
        raise BadInput("That marker is no longer in the episode. Nothing was changed.")
    return old, tuple(m for m in timeline.markers if m is not old)


def _with_markers(timeline: Timeline, markers: tuple[Marker, ...]) -> Timeline:
    return replace(timeline, markers=tuple(sorted(markers, key=lambda m: m.at)))
