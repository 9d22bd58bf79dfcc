"""Placed sounds: put where they hold on to the talk, changed, taken out, let go of."""

from collections.abc import Iterable
from dataclasses import replace
from typing import Annotated, Any, Literal, Self

from pydantic import Field, ValidationError

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline import holding
from airtrim.core.timeline.arranging import free_name, with_new_track
from airtrim.core.timeline.beside import outdated, voices_as_set
from airtrim.core.timeline.bounds import MOST_FRAMES
from airtrim.core.timeline.clips import Clip, Clips, Shape
from airtrim.core.timeline.cutting import open_up
from airtrim.core.timeline.edits.base import KINDS, EditBase
from airtrim.core.timeline.edits.fields import Fade, Frame, Length, Part
from airtrim.core.timeline.edits.wording import count
from airtrim.core.timeline.envelope import copied, moved
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Timeline, Track
from airtrim.core.timeline.parts import index_of, span_of
from airtrim.core.timeline.placed import MOST_SOUNDS, Duck, Hold, Holding, Placed
from airtrim.core.timeline.sources import Sources
from airtrim.core.timeline.talk import Talk
from airtrim.errors import BadInput

_MEASURED_FRAMES = 60 * FRAME_RATE
"""So much of the voices tells how loud they are beside a sound."""

SoundName = Annotated[str, Field(min_length=1, max_length=120)]
Level = Annotated[float, Field(ge=-60.0, le=20.0, allow_inf_nan=False)]
"""In LU beside the voices."""
SoundGain = Annotated[float, Field(ge=-120.0, le=60.0, allow_inf_nan=False)]
Offset = Annotated[int, Field(ge=-MOST_FRAMES, le=MOST_FRAMES)]


class HoldOn(Part):
    """What a sound holds on to: see ``Hold``."""

    kind: Holding
    part: str | None = None
    offset: Offset = 0
    at: Frame = 0

    def of(self, timeline: Timeline) -> Hold:
        """Raises BadInput where the part is not in the episode."""
        if self.kind == "time":
            return Hold("time", at=self.at)
        if self.part is None:
            raise BadInput("Say which part it holds on to. Nothing was changed.")
        index_of(timeline, self.part)
        return Hold(self.kind, self.part, self.offset)

    def relocated(self, frames: FrameMap) -> Self:
        """Return the same for the current document (see ``EditBase.relocated``)."""
        if self.kind != "time":
            return self
        return self.model_copy(update={"at": frames.point(self.at)})


class PlaceSound(EditBase):
    """Place a sound: ``frames`` of a take from frame ``start``, held on to the talk.

    ``level_lu`` is how loud it is alone beside the voices; ``gain_db`` brings it there, worked out
    where it is None. With ``alone_frames`` so much of it is heard before (or, between two parts,
    without) any word: where there is less room, room is made. ``talk`` tells where somebody speaks
    in takes of which the document does not know it yet.
    """

    kind: Literal["place_sound"] = "place_sound"
    take: str
    take_frames: Length
    name: SoundName
    start: Frame = 0
    frames: Length
    hold: HoldOn
    level_lu: Level = 0.0
    gain_db: SoundGain | None = None
    fade_in: Fade = 0
    fade_out: Fade = 0
    shape_in: Shape = "soft"
    shape_out: Shape = "soft"
    duck: Duck | None = None
    alone_frames: Frame = 0
    talk: dict[str, Talk] | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        if len(timeline.placed) >= MOST_SOUNDS:
            raise BadInput(f"An episode holds {MOST_SOUNDS} sounds at most. Nothing was changed.")
        if self.start + self.frames > self.take_frames:
            raise BadInput("The sound is not that long. Nothing was changed.")
        hold = self.hold.of(timeline)
        number = timeline.next_id
        timeline = replace(
            timeline,
            next_id=number + 1,
            talk={**timeline.talk, **(self.talk or {})},
            lengths={**timeline.lengths, self.take: self.take_frames},
        )
        timeline = _with_room(timeline, hold, self.alone_frames)
        one = Placed(
            f"p{number}",
            self.name,
            self.take,
            self.start,
            self.frames,
            hold,
            self.level_lu,
            self.gain_db or 0.0,
            self.fade_in,
            self.fade_out,
            self.shape_in,
            self.shape_out,
            self.duck,
            voices_as_set(timeline),
        )
        return replace(timeline, placed=(*timeline.placed, one))

    def relocated(self, frames: FrameMap) -> Self:
        return self.model_copy(update={"hold": self.hold.relocated(frames)})

    def describe(self, timeline: Timeline) -> str:
        return f"Placed “{self.name}”"

    def needs(self) -> Iterable[tuple[str, int]]:
        return [(self.take, max(self.take_frames, self.start + self.frames))]

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        fresh = heard_talk(sources) if self.talk is None else self.talk
        found = self.model_copy(update={"talk": fresh or None})
        return found.measured(sources.timeline, sources)

    def measured(self, timeline: Timeline, sources: Sources) -> Self:
        """The same with its gain, for a document that it is applied to."""
        if self.gain_db is not None:
            return self
        after = self.apply(timeline)
        return self.model_copy(update={"gain_db": _gain_for(after.placed[-1], after, sources)})


class ChangeSound(EditBase):
    """Change a placed sound; what is None stays. ``duck`` of 0 dB: it does not give way."""

    kind: Literal["change_sound"] = "change_sound"
    sound: str
    name: SoundName | None = None
    start: Frame | None = None
    frames: Length | None = None
    hold: HoldOn | None = None
    level_lu: Level | None = None
    gain_db: SoundGain | None = None
    fade_in: Fade | None = None
    fade_out: Fade | None = None
    shape_in: Shape | None = None
    shape_out: Shape | None = None
    duck: Duck | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        one = placed_of(timeline, self.sound)
        told = {
            name: value
            for name in self.model_fields_set - {"kind", "sound", "hold", "duck"}
            if (value := getattr(self, name)) is not None
        }
        changed = replace(one, **told)
        if self.gain_db is not None:
            changed = replace(changed, beside=voices_as_set(timeline))
        if self.hold is not None:
            changed = replace(changed, hold=self.hold.of(timeline))
        if self.duck is not None:
            changed = replace(changed, duck=self.duck if self.duck.depth_db else None)
        if changed.start + changed.frames > timeline.lengths.get(changed.take, 0):
            raise BadInput("The sound is not that long. Nothing was changed.")
        placed = tuple(changed if other is one else other for other in timeline.placed)
        return replace(timeline, placed=placed)

    def relocated(self, frames: FrameMap) -> Self:
        if self.hold is None:
            return self
        return self.model_copy(update={"hold": self.hold.relocated(frames)})

    def describe(self, timeline: Timeline) -> str:
        return f"Changed “{placed_of(timeline, self.sound).name}”"

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        if self.gain_db is not None or (self.level_lu is None and self.hold is None):
            return self
        after = self.apply(sources.timeline)
        gain_db = _gain_for(placed_of(after, self.sound), after, sources)
        return self.model_copy(update={"gain_db": gain_db})


class LevelSounds(EditBase):
    """Set the level of placed sounds again, beside voices that were changed since: ``gains`` in dB
    by their ids, worked out where None."""

    kind: Literal["level_sounds"] = "level_sounds"
    gains: Annotated[dict[str, SoundGain] | None, Field(max_length=MOST_SOUNDS)] = None

    def apply(self, timeline: Timeline) -> Timeline:
        gains = self.gains or {}
        for sound in gains:
            placed_of(timeline, sound)
        now = voices_as_set(timeline)
        placed = tuple(
            replace(one, gain_db=gains[one.id], beside=now) if one.id in gains else one
            for one in timeline.placed
        )
        return replace(timeline, placed=placed)

    def describe(self, timeline: Timeline) -> str:
        return f"Set the level of {count(len(self.gains or {}), 'sound')} again"

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        if self.gains is not None:
            return self
        timeline = sources.timeline
        gains = {
            one.id: _gain_for(one, timeline, sources)
            for one in timeline.placed
            if outdated(timeline, one)
        }
        if not gains:
            raise BadInput("Every sound is at its level already. Nothing was changed.")
        return self.model_copy(update={"gains": gains})


class TakeSoundOut(EditBase):
    """Take a placed sound out of the episode; room that was made for it stays."""

    kind: Literal["take_sound_out"] = "take_sound_out"
    sound: str

    def apply(self, timeline: Timeline) -> Timeline:
        one = placed_of(timeline, self.sound)
        return replace(timeline, placed=tuple(p for p in timeline.placed if p is not one))

    def describe(self, timeline: Timeline) -> str:
        return f"Took “{placed_of(timeline, self.sound).name}” out"


class LetGo(EditBase):
    """Let go of a placed sound: from here on it is clips and a gain line like any other, on a track
    of its own, and follows nothing."""

    kind: Literal["let_go"] = "let_go"
    sound: str

    def apply(self, timeline: Timeline) -> Timeline:
        one = placed_of(timeline, self.sound)
        index = timeline.placed.index(one)
        alone = holding.laid(timeline, replace(timeline, placed=(one,)))
        track = next((track for track in alone.tracks if track.held), None)
        rest = replace(timeline, placed=(*timeline.placed[:index], *timeline.placed[index + 1 :]))
        if track is None or not len(track.clips):
            raise BadInput("It is not in the episode just now. Nothing was changed.")
        made = with_new_track(rest, free_name(rest, one.name), "music", track.clips)
        first, end = track.clips[0].at, track.clips[-1].end
        points = moved(copied(track.envelope, first, end), first)
        changed: Track = replace(made.tracks[-1], envelope=points)
        return replace(made, tracks=(*made.tracks[:-1], changed))

    def describe(self, timeline: Timeline) -> str:
        return f"Let go of “{placed_of(timeline, self.sound).name}”"


class HearTalk(EditBase):
    """Tell the document where somebody speaks in some takes, for the sounds that hold on to it;
    beside another ``edit``, whose name it bears, or for itself."""

    kind: Literal["hear_talk"] = "hear_talk"
    talk: dict[str, Talk] = Field(min_length=1)
    edit: dict[str, Any] | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        told = replace(timeline, talk={**timeline.talk, **self.talk})
        return told if self.edit is None else self._beside().apply(told)

    def describe(self, timeline: Timeline) -> str:
        if self.edit is not None:
            return self._beside().describe(timeline)
        return "Sounds hold on to the words that were written down"

    def needs(self) -> Iterable[tuple[str, int]]:
        return () if self.edit is None else self._beside().needs()

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        if self.edit is None:
            return self
        whole = self._beside().complete(sources, snap=snap)
        return self.model_copy(update={"edit": whole.model_dump(mode="json")})

    def _beside(self) -> EditBase:
        told = self.edit or {}
        kind = KINDS.get(str(told.get("kind")))
        if kind is None or kind is HearTalk:
            raise BadInput("That change cannot be read. Nothing was changed.")
        try:
            return kind.model_validate(told)
        except ValidationError as error:
            raise BadInput("That change cannot be read. Nothing was changed.") from error


def placed_of(timeline: Timeline, sound: str) -> Placed:
    """A placed sound by its id. Raises BadInput where it is gone."""
    for one in timeline.placed:
        if one.id == sound:
            return one
    raise BadInput("That sound is no longer in the episode. Nothing was changed.")


def heard_talk(sources: Sources) -> dict[str, Talk]:
    """Where somebody speaks in the takes that voices use, as far as the document does not know."""
    timeline = sources.timeline
    voices = {take for t in timeline.tracks if t.kind == "voice" for take in t.clips.takes}
    known = timeline.talk
    return {
        take: talk
        for take, talk in sources.talk(timeline).items()
        if take in voices and known.get(take) != talk
    }


def _with_room(timeline: Timeline, hold: Hold, alone: int) -> Timeline:
    """With so much room before the talk that a sound holds on to, or between two parts."""
    if not alone or hold.part is None or hold.kind not in ("before_talk", "between"):
        return timeline
    index = index_of(timeline, hold.part)
    start, end = span_of(timeline, index)
    if hold.kind == "before_talk":
        talk = holding.first_talk(timeline, start, end)
        there = (start if talk is None else talk) - start
        return open_up(timeline, start, alone - there) if there < alone else timeline
    if index + 1 == len(timeline.sections):
        raise BadInput("No part comes after it. Nothing was changed.")
    last = holding.last_talk(timeline, start, end)
    after = holding.first_talk(timeline, *span_of(timeline, index + 1))
    there = (end if after is None else after) - (end if last is None else last)
    return open_up(timeline, end, alone - there) if there < alone else timeline


def _gain_for(one: Placed, timeline: Timeline, sources: Sources) -> float:
    """What brings a sound to its level beside the voices of its part, or of those around it where
    it has none; 0 dB where either cannot be measured."""
    voices = tuple(track for track in timeline.tracks if track.kind == "voice")
    own = Track("sound", one.name, "music", Clips([Clip(one.take, one.start, one.frames, 0)]))
    sound = sources.loudness(replace(timeline, tracks=(own,)), 0, one.frames)
    for low, high in _beside(one, timeline):
        spoken = sources.loudness(replace(timeline, tracks=voices), low, high)
        if spoken is not None and sound is not None:
            return round(min(60.0, max(-120.0, spoken + one.level_lu - sound)), 2)
    return 0.0


def _beside(one: Placed, timeline: Timeline) -> list[tuple[int, int]]:
    """Where to measure the voices beside a sound: a minute around it in its part, and a minute
    around it anywhere."""
    spot = holding.spot_of(timeline, one)
    middle = 0 if spot is None else spot.at + spot.frames // 2
    out = []
    own = holding.part_span(timeline, one.hold.part)
    for start, end in [*([own] if own else []), (0, timeline.frames)]:
        low = max(start, min(middle - _MEASURED_FRAMES // 2, end - _MEASURED_FRAMES))
        out.append((low, min(end, low + _MEASURED_FRAMES)))
    return [(low, high) for low, high in out if low < high]
