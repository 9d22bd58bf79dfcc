"""Places to part at: noted while listening, then parted at in one step."""

from dataclasses import replace
from typing import Annotated, Literal, Self

from pydantic import Field

from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Frame
from airtrim.core.timeline.edits.wording import count
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Marker, Section, Timeline
from airtrim.core.timeline.parts import MOST_PARTS
from airtrim.errors import BadInput


class NotePlaces(EditBase):
    """Note places to part at."""

    kind: Literal["note_places"] = "note_places"
    places: Annotated[tuple[Frame, ...], Field(min_length=1, max_length=MOST_PARTS)]

    def apply(self, timeline: Timeline) -> Timeline:
        noted = {marker.at for marker in timeline.markers if marker.kind == "part"}
        fresh = sorted({min(at, timeline.frames) for at in self.places} - noted)
        if not fresh:
            raise BadInput("That place is noted already. Nothing was changed.")
        first = timeline.next_id
        made = [Marker(f"m{first + i}", at, "part", "") for i, at in enumerate(fresh)]
        markers = sorted([*timeline.markers, *made], key=lambda marker: marker.at)
        return replace(timeline, markers=tuple(markers), next_id=first + len(made))

    def relocated(self, frames: FrameMap) -> Self:
        return self.model_copy(update={"places": tuple(frames.points(self.places))})

    def describe(self, timeline: Timeline) -> str:
        return f"Noted {count(len(self.places), 'place')} to part at"


class PartAtPlaces(EditBase):
    """Begin a part at each place that was noted. Its sound stays as it is."""

    kind: Literal["part_at_places"] = "part_at_places"

    def apply(self, timeline: Timeline) -> Timeline:
        taken = {section.at for section in timeline.sections}
        places = [at for at in _places(timeline) if at not in taken and at < timeline.frames]
        if not places:
            raise BadInput("Note a place to part at first. Nothing was changed.")
        if len(timeline.sections) + len(places) > MOST_PARTS:
            raise BadInput(f"An episode has {MOST_PARTS} parts at most. Nothing was changed.")
        number = timeline.next_id
        sections: list[Section] = []
        for section, end in timeline.parts:
            sections.append(section)
            for part, at in enumerate((p for p in places if section.at < p < end), 2):
                name = f"{section.name[:110]}, part {part}"
                sections.append(Section(f"s{number}", at, name, section.gain_db))
                number += 1
        kept = tuple(marker for marker in timeline.markers if marker.kind != "part")
        return replace(timeline, sections=tuple(sections), markers=kept, next_id=number)

    def describe(self, timeline: Timeline) -> str:
        return f"Parted at {count(len(_places(timeline)), 'place')}"


def _places(timeline: Timeline) -> list[int]:
    return [marker.at for marker in timeline.markers if marker.kind == "part"]
