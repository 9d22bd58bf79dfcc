"""Settling snags, and what counts as one."""

from collections.abc import Iterable
from dataclasses import replace
from typing import Literal, Self

from pydantic import Field

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.arranging import with_track
from airtrim.core.timeline.bounds import clamped
from airtrim.core.timeline.cutting import restore, within_episode
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.cutting import cut_all, relocated_spans, unheard_spans
from airtrim.core.timeline.edits.fields import (
    ChangeOfLevel,
    Frame,
    HistoryName,
    Length,
    Number,
    Part,
    SpanToCut,
    Tone,
)
from airtrim.core.timeline.edits.room_tone import covered, reach_of, tone_for
from airtrim.core.timeline.envelope import changed
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import (
    CROSSFADE_FRAMES,
    AirLimit,
    Kept,
    OwnFiller,
    SnagRules,
    Timeline,
)
from airtrim.core.timeline.sources import Sources

_RAMP_FRAMES = FRAME_RATE // 20


class SpanToLevel(Part):
    """``frames`` from ``start`` of a track, and by how many dB."""

    track: str
    start: Frame
    frames: Length
    by_db: ChangeOfLevel


class SpanToCover(Part):
    """``frames`` from ``start`` of a track, and the room tone to put over them. None means that of
    the take that sounds there, which whoever applies the edit has to fill in."""

    track: str
    start: Frame
    frames: Length
    tone: Tone | None = None


class Tidy(EditBase):
    """Settle many snags in one step: put cuts back, change levels, cover, then cut; and remember
    which are to stay, or (``unkeep``) no longer are. All spans are told of the document before."""

    kind: Literal["tidy"] = "tidy"
    cuts: tuple[SpanToCut, ...] = Field(default=(), max_length=20_000)
    covers: tuple[SpanToCover, ...] = Field(default=(), max_length=20_000)
    levels: tuple[SpanToLevel, ...] = Field(default=(), max_length=1000)
    restores: tuple[Number, ...] = Field(default=(), max_length=1000)
    keep: tuple[Kept, ...] = Field(default=(), max_length=20_000)
    unkeep: tuple[Kept, ...] = Field(default=(), max_length=20_000)
    name: HistoryName = ""

    def apply(self, timeline: Timeline) -> Timeline:
        for level in self.levels:
            start, end = within_episode(timeline, level.start, level.frames)
            track = timeline.track(level.track)
            points = changed(track.envelope, start, end, level.by_db, _RAMP_FRAMES)
            timeline = with_track(timeline, replace(track, envelope=points))
        # One level that is out of reach must not keep all else from being settled.
        timeline = clamped(timeline)
        for one in self.covers:
            timeline = covered(timeline, one.track, one.start, one.frames, one.tone)
        timeline = cut_all(timeline, self.cuts, CROSSFADE_FRAMES)
        for number in self.restores:
            timeline = restore(timeline, number)
        gone = set(self.unkeep)
        stay = (*(one for one in timeline.kept if one not in gone), *self.keep)
        return replace(timeline, kept=tuple(dict.fromkeys(stay)))

    def relocated(self, frames: FrameMap) -> Self:
        covers = frames.spans([(cover.start, cover.frames) for cover in self.covers])
        levels = frames.spans([(level.start, level.frames) for level in self.levels])
        update = {
            "cuts": relocated_spans(self.cuts, frames),
            "covers": tuple(
                cover.model_copy(update={"start": start, "frames": length})
                for cover, (start, length) in zip(self.covers, covers, strict=True)
            ),
            "levels": tuple(
                level.model_copy(update={"start": start, "frames": length})
                for level, (start, length) in zip(self.levels, levels, strict=True)
            ),
        }
        return self.model_copy(update=update)

    def describe(self, timeline: Timeline) -> str:
        return self.name or "Settled snags"

    def needs(self) -> Iterable[tuple[str, int]]:
        return reach_of(cover.tone for cover in self.covers)

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        covers = tuple(
            one.model_copy(
                update={"tone": one.tone or tone_for(sources, one.track, one.start, one.frames)}
            )
            for one in self.covers
        )
        cuts = unheard_spans(sources, self.cuts) if snap and self.cuts else self.cuts
        return self.model_copy(update={"covers": covers, "cuts": cuts})


class SetSnagRules(EditBase):
    """Set what counts as a snag in this episode."""

    kind: Literal["set_snag_rules"] = "set_snag_rules"
    air_limit_s: AirLimit
    own_fillers: tuple[OwnFiller, ...] = Field(default=(), max_length=100)

    def apply(self, timeline: Timeline) -> Timeline:
        own = tuple(dict.fromkeys(o for o in self.own_fillers if o.text.strip()))
        return replace(timeline, snag_rules=SnagRules(self.air_limit_s, own))

    def relocated(self, frames: FrameMap) -> Self:
        seen, now = frames.seen.snag_rules, frames.now.snag_rules
        values = frames.values(["air_limit_s"], self, lambda t: t.snag_rules)
        own = FrameMap.merged(seen.own_fillers, self.own_fillers, now.own_fillers)
        return self.model_copy(update={**values, "own_fillers": tuple(own)})

    def describe(self, timeline: Timeline) -> str:
        return "Set what counts as a snag"
