"""Where sections begin."""

from collections.abc import Iterable
from dataclasses import replace
from typing import Literal, Self

from pydantic import Field

from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Frame, Part
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Section, Timeline
from airtrim.errors import BadInput


class SectionStart(Part):
    """A boundary at frame ``at``; ``id`` is that of the section that is to begin there."""

    id: str | None = None
    at: Frame
    name: str = Field(default="", max_length=120)


class SetSections(EditBase):
    """Set all section boundaries at once. The first always starts at 0; a section that is told by
    its id, or that starts where one started before, keeps its gain; a new one takes the gain of
    the sound it came from."""

    kind: Literal["set_sections"] = "set_sections"
    sections: tuple[SectionStart, ...] = Field(min_length=1, max_length=500)

    def apply(self, timeline: Timeline) -> Timeline:
        starts = sorted(self.sections, key=lambda s: s.at)
        if starts[0].at != 0:
            raise BadInput("The first section has to start at 0:00.0.")
        if len({s.at for s in starts}) != len(starts):
            raise BadInput("Two sections cannot start at the same moment.")
        if starts[-1].at and starts[-1].at >= timeline.frames:
            raise BadInput("A section cannot start after the end of the episode.")
        at_same = {s.at: s for s in timeline.sections}
        by_id = {s.id: s for s in timeline.sections}
        given = {s.id for s in starts if s.id}
        out: list[Section] = []
        next_id = timeline.next_id
        for number, new in enumerate(starts):
            name = new.name or f"Section {number + 1}"
            old = by_id.get(new.id or "")
            if old is None and (same := at_same.get(new.at)) and same.id not in given:
                old = same
            if old and all(s.id != old.id for s in out):
                out.append(replace(old, at=new.at, name=name))
                continue
            source = [s for s in timeline.sections if s.at <= new.at][-1]
            out.append(Section(f"s{next_id}", new.at, name, source.gain_db))
            next_id += 1
        return replace(timeline, sections=tuple(out), next_id=next_id)

    def relocated(self, frames: FrameMap) -> Self:
        """Only the boundaries that the host changed are changed now."""

        def of(sections: Iterable[Section | SectionStart]) -> list[tuple[str, int, str]]:
            return [(s.id or "", s.at, s.name) for s in sections]

        def moved(starts: list[tuple[str, int, str]]) -> list[tuple[str, int, str]]:
            # The first section always starts at 0.
            at = frames.points([start for _, start, _ in starts if start])
            rest = iter(at)
            return [(key, next(rest) if start else 0, name) for key, start, name in starts]

        merged = FrameMap.merged(
            moved(of(frames.seen.sections)), moved(of(self.sections)), of(frames.now.sections)
        )
        return self.model_copy(
            update={
                "sections": tuple(
                    SectionStart(id=key or None, at=at, name=name) for key, at, name in merged
                )
            }
        )

    def describe(self, timeline: Timeline) -> str:
        more = len(self.sections) - len(timeline.sections)
        if more > 0:
            return "Added a section" if more == 1 else f"Added {more} sections"
        return "Removed a section" if more else "Set sections"
