"""The running order: parts of the episode put elsewhere, doubled, laid aside and brought back."""

from collections.abc import Iterable
from dataclasses import replace
from typing import TYPE_CHECKING, Literal, Self

from airtrim.core.timeline import parts
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Fade, Length, Tone
from airtrim.core.timeline.edits.room_tone import reach_of, spans_of
from airtrim.core.timeline.model import CROSSFADE_FRAMES, Timeline
from airtrim.core.timeline.sources import Sources
from airtrim.core.timeline.tone import is_tone


def _name(timeline: Timeline, section_id: str) -> str:
    return timeline.sections[parts.index_of(timeline, section_id)].name


def _rooms(sources: Sources) -> dict[str, dict[str, Tone]]:
    """The room tone of every take of a voice with which a part begins or ends."""
    timeline = sources.timeline
    edges = [section.at for section in timeline.sections] + [timeline.frames]
    clips = [
        clip
        for track in timeline.tracks
        if track.kind == "voice"
        for at in edges
        for clip in track.clips.between(max(0, at - 1), at + 1)
    ]
    for loose in timeline.aside:
        clips += [clip for own in loose.piece.clips if len(own) for clip in (own[0], own[-1])]
    takes = {clip.take for clip in clips if not is_tone(clip.take)}
    known = timeline.room_tones
    found = {take: known.get(take) or sources.room_tone(take) for take in sorted(takes)}
    return {
        "tones": {
            take: Tone(take=take, start=tone.start, frames=tone.frames)
            for take, tone in found.items()
            if tone is not None
        }
    }


class _OverSeams(EditBase):
    """An edit that makes new seams. ``tones`` are the room tones of the takes at the edges of
    parts, which go on over them; None means theirs, which whoever applies it has to fill in."""

    if TYPE_CHECKING:
        tones: dict[str, Tone] | None

    def needs(self) -> Iterable[tuple[str, int]]:
        return reach_of((self.tones or {}).values())

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        return self if self.tones is not None else self.model_copy(update=_rooms(sources))


class MovePart(_OverSeams):
    """Put a part, on all tracks, before another, or at the end where ``before`` is None."""

    kind: Literal["move_part"] = "move_part"
    section: str
    before: str | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES
    tones: dict[str, Tone] | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.moved(
            timeline, self.section, self.before, self.crossfade_frames, spans_of(self.tones)
        )

    def describe(self, timeline: Timeline) -> str:
        return f"Moved “{_name(timeline, self.section)}”"


class DuplicatePart(_OverSeams):
    """Put a part once more right after itself."""

    kind: Literal["duplicate_part"] = "duplicate_part"
    section: str
    crossfade_frames: Fade = CROSSFADE_FRAMES
    tones: dict[str, Tone] | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.doubled(timeline, self.section, self.crossfade_frames, spans_of(self.tones))

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


class PutAside(_OverSeams):
    """Take a part out of the episode and keep it beside it, whole."""

    kind: Literal["put_aside"] = "put_aside"
    section: str
    crossfade_frames: Fade = CROSSFADE_FRAMES
    tones: dict[str, Tone] | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.laid_aside(timeline, self.section, self.crossfade_frames, spans_of(self.tones))

    def describe(self, timeline: Timeline) -> str:
        return f"Put “{_name(timeline, self.section)}” aside"


class BringBack(_OverSeams):
    """Put a part that lay aside before another, or at the end where ``before`` is None."""

    kind: Literal["bring_back"] = "bring_back"
    section: str
    before: str | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES
    tones: dict[str, Tone] | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        return parts.brought_back(
            timeline, self.section, self.before, self.crossfade_frames, spans_of(self.tones)
        )

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
