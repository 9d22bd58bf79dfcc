"""The running order: parts of the episode put elsewhere, doubled, laid aside and brought back."""

from dataclasses import replace
from typing import Literal

from airtrim.core.timeline import parts
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Fade, Length
from airtrim.core.timeline.model import CROSSFADE_FRAMES, Timeline


def _name(timeline: Timeline, section_id: str) -> str:
    return timeline.sections[parts.index_of(timeline, section_id)].name


class MovePart(EditBase):
    """Put a part, on all tracks, before another, or at the end where ``before`` is None."""

    kind: Literal["move_part"] = "move_part"
    section: str
    before: str | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.moved(timeline, self.section, self.before, self.crossfade_frames)

    def describe(self, timeline: Timeline) -> str:
        return f"Moved “{_name(timeline, self.section)}”"


class DuplicatePart(EditBase):
    """Put a part once more right after itself."""

    kind: Literal["duplicate_part"] = "duplicate_part"
    section: str
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.doubled(timeline, self.section, self.crossfade_frames)

    def describe(self, timeline: Timeline) -> str:
        return f"Duplicated “{_name(timeline, self.section)}”"


class OnlyPart(EditBase):
    """Let a part be the whole episode; the others stay in the history."""

    kind: Literal["only_part"] = "only_part"
    section: str

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.only(timeline, parts.index_of(timeline, self.section))

    def describe(self, timeline: Timeline) -> str:
        return f"Only “{_name(timeline, self.section)}”"


class PutAside(EditBase):
    """Take a part out of the episode and keep it beside it, whole."""

    kind: Literal["put_aside"] = "put_aside"
    section: str
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.laid_aside(timeline, self.section, self.crossfade_frames)

    def describe(self, timeline: Timeline) -> str:
        return f"Put “{_name(timeline, self.section)}” aside"


class BringBack(EditBase):
    """Put a part that lay aside before another, or at the end where ``before`` is None."""

    kind: Literal["bring_back"] = "bring_back"
    section: str
    before: str | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.brought_back(timeline, self.section, self.before, self.crossfade_frames)

    def describe(self, timeline: Timeline) -> str:
        return f"Brought “{parts.loose_of(timeline, self.section).section.name}” back"


class ThrowAway(EditBase):
    """Let go of a part that lay aside."""

    kind: Literal["throw_away"] = "throw_away"
    section: str

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.thrown_away(timeline, self.section)

    def describe(self, timeline: Timeline) -> str:
        return f"Deleted “{parts.loose_of(timeline, self.section).section.name}”, which lay aside"


class SetWantedLength(EditBase):
    """How long the episode shall become; None: as long as it gets."""

    kind: Literal["set_wanted_length"] = "set_wanted_length"
    frames: Length | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        return replace(timeline, wanted_frames=self.frames)

    def describe(self, timeline: Timeline) -> str:
        return "Set the wanted length" if self.frames else "Removed the wanted length"
