"""Bringing recordings into the episode."""

from dataclasses import replace
from typing import ClassVar, Literal, Self

from pydantic import Field

from airtrim.core.timeline.arranging import free_name, with_new_track
from airtrim.core.timeline.bounds import MOST_TRACKS
from airtrim.core.timeline.clips import Clip, Clips, joined
from airtrim.core.timeline.cutting import cut, exchange, open_up
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import (
    ChangeOfLevel,
    Frame,
    Length,
    Number,
    Part,
    PartName,
    TrackName,
)
from airtrim.core.timeline.edits.wording import seconds
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import (
    CROSSFADE_FRAMES,
    Marker,
    MarkerKind,
    Section,
    Timeline,
    TrackKind,
)
from airtrim.core.timeline.parts import MOST_PARTS
from airtrim.errors import BadInput

MOST_PLAYED = 1000
PLAYED_IN = "Played in"
"""The track of sounds that were played in while recording."""


class Place(EditBase):
    """Put a whole take on a track, after what is there unless ``at`` says where. A track that is
    not there yet is made. With ``insert`` what is later makes room on every track; without, a take
    longer than the free space at ``at`` is refused. With ``part`` it is a part of that name: after
    all others, or before the one that begins at ``at``, with ``insert``."""

    kind: Literal["place"] = "place"
    point_fields: ClassVar[tuple[str, ...]] = ("at",)
    take: str
    take_frames: Length
    track_name: TrackName = "Voice"
    track_kind: TrackKind = "voice"
    at: Frame | None = None
    insert: bool = False
    gain_db: ChangeOfLevel = 0.0
    part: PartName | None = None

    def apply(self, timeline: Timeline) -> Timeline:
        at = timeline.frames if self.at is None else self.at
        inside = self.insert and at < timeline.frames
        if inside:
            timeline = open_up(timeline, at, self.take_frames)
        if self.part and (inside or at == timeline.frames):
            timeline = _with_part(timeline, self.part, at, self.take_frames)
        clip = Clip(self.take, 0, self.take_frames, at, self.gain_db)
        timeline = _knowing(timeline, self.take, self.take_frames)
        return _put(timeline, clip, self.track_name, self.track_kind)

    def describe(self, timeline: Timeline) -> str:
        return f"Added a recording to {self.track_name}"

    def needs(self) -> list[tuple[str, int]]:
        return [(self.take, self.take_frames)]


class MarkerAt(Part):
    """A moment to mark."""

    at: Frame
    kind: MarkerKind = "flag"
    name: str = Field(default="", max_length=120)


class PlayedIn(Part):
    """A sound that was played in while recording: ``frames`` of a take from ``start`` on, from
    frame ``at`` of the recording."""

    take: str
    take_frames: Length
    start: Frame = 0
    frames: Length
    at: Frame
    gain_db: ChangeOfLevel = 0.0


class RecordedTake(Part):
    """A take of a recording, the track it goes to, and its gain there."""

    take: str
    track_name: str = Field(min_length=1, max_length=80)
    gain_db: ChangeOfLevel = 0.0


class Record(EditBase):
    """Put what was recorded into the episode: one take a microphone, all ``frames`` long.

    It goes after what is there unless ``at`` says where. There, ``replacing`` frames are cut from
    every track first, then everything later makes room; with ``alongside`` nothing moves, and the
    takes have to fit beside what sounds there. ``markers`` are counted from the takes' start, of
    which ``skip`` frames are left out: the delay of what was played along. ``played`` are sounds
    that were played in, counted likewise; each ends where the next begins.
    """

    kind: Literal["record"] = "record"
    takes: tuple[RecordedTake, ...] = Field(min_length=1, max_length=MOST_TRACKS)
    frames: Length
    skip: Frame = 0
    at: Frame | None = None
    replacing: Frame = 0
    alongside: bool = False
    markers: tuple[MarkerAt, ...] = ()
    played: tuple[PlayedIn, ...] = Field(default=(), max_length=MOST_PLAYED)

    def apply(self, timeline: Timeline) -> Timeline:
        at = timeline.frames if self.at is None else min(self.at, timeline.frames)
        frames = self.frames - self.skip
        if frames <= 0:
            raise BadInput("The recording is shorter than the delay of what was played along.")
        number = timeline.next_id
        if self.replacing:
            timeline = cut(timeline, at, self.replacing, CROSSFADE_FRAMES)
        if not self.alongside and at < timeline.frames:
            timeline = open_up(timeline, at, frames)
        for take in self.takes:
            clip = Clip(take.take, self.skip, frames, at, take.gain_db)
            timeline = _knowing(timeline, take.take, self.frames)
            timeline = _put(timeline, clip, take.track_name, "voice")
        timeline = self._with_played(timeline, at)
        if self.replacing and not self.alongside:
            place = timeline.cuts.index_of(number)
            assert place is not None
            mark = timeline.cuts[place]._replace(instead=frames)
            timeline = replace(timeline, cuts=timeline.cuts.with_one(place, mark))
        markers = list(timeline.markers)
        for number, new in enumerate(self.markers, timeline.next_id):
            start = at + max(0, new.at - self.skip)
            markers.append(Marker(f"m{number}", start, new.kind, new.name))
        return replace(
            timeline,
            markers=tuple(sorted(markers, key=lambda m: m.at)),
            next_id=timeline.next_id + len(self.markers),
        )

    def relocated(self, frames: FrameMap) -> Self:
        if self.at is None:
            return self
        if not self.replacing:
            return self.model_copy(update={"at": frames.point(self.at)})
        start, length = frames.span(self.at, self.replacing)
        return self.model_copy(update={"at": start, "replacing": length})

    def describe(self, timeline: Timeline) -> str:
        where = "Recorded over a span" if self.replacing else "Recorded"
        tracks = " and ".join(take.track_name for take in self.takes)
        return f"{where}: {seconds(self.frames - self.skip)} on {tracks}"

    def needs(self) -> list[tuple[str, int]]:
        recorded = [(take.take, self.frames) for take in self.takes]
        return recorded + [
            (one.take, max(one.take_frames, one.start + one.frames)) for one in self.played
        ]

    def _with_played(self, timeline: Timeline, at: int) -> Timeline:
        """With what was played in, from frame ``at`` on, on a track of its own."""
        clips = []
        played = sorted(self.played, key=lambda one: one.at)
        ends = [*(later.at for later in played[1:]), self.frames]
        for one, end in zip(played, ends, strict=False):
            late = max(0, self.skip - one.at)
            whole = min(one.frames, one.take_frames - one.start)
            frames = min(whole, min(end, self.frames) - one.at) - late
            if frames <= 0:
                continue
            fade = min(CROSSFADE_FRAMES, frames // 2)
            clips.append(
                Clip(
                    one.take,
                    one.start + late,
                    frames,
                    at + one.at + late - self.skip,
                    one.gain_db,
                    fade_in=fade if late else 0,
                    fade_out=fade if frames + late < whole else 0,
                )
            )
            timeline = _knowing(timeline, one.take, one.take_frames)
        if not clips:
            return timeline
        free = (
            track.name
            for track in timeline.tracks
            if track.name.startswith(PLAYED_IN)
            and not track.held
            and not len(track.clips.between(clips[0].at, clips[-1].end))
        )
        name = next(free, None) or free_name(timeline, PLAYED_IN)
        for clip in clips:
            timeline = _put(timeline, clip, name, "music")
        return timeline


class ChooseTake(EditBase):
    """Exchange what cut number ``cut`` took out with what was recorded in its place."""

    kind: Literal["choose_take"] = "choose_take"
    cut: Number

    def apply(self, timeline: Timeline) -> Timeline:
        return exchange(timeline, self.cut, CROSSFADE_FRAMES)

    def describe(self, timeline: Timeline) -> str:
        return "Chose the other take"


def _with_part(timeline: Timeline, name: str, at: int, frames: int) -> Timeline:
    """With a part of its own where room was made, or where the episode ends; the only one of an
    empty episode."""
    if not timeline.frames:
        return replace(timeline, sections=(replace(timeline.sections[0], name=name),))
    if len(timeline.sections) >= MOST_PARTS:
        raise BadInput(f"An episode has {MOST_PARTS} parts at most. Nothing was changed.")
    made = Section(f"s{timeline.next_id}", at, name)
    later = (replace(s, at=at + frames) if s.at == at else s for s in timeline.sections)
    sections = tuple(sorted((made, *later), key=lambda section: section.at))
    return replace(timeline, sections=sections, next_id=timeline.next_id + 1)


def _knowing(timeline: Timeline, take: str, frames: int) -> Timeline:
    return replace(timeline, lengths={**timeline.lengths, take: frames})


def _put(timeline: Timeline, clip: Clip, track_name: str, kind: TrackKind) -> Timeline:
    """The clip on the track of that name, which is made if it is not there yet."""
    for index, track in enumerate(timeline.tracks):
        if track.name == track_name:
            place = track.clips.first_sounding(clip.at)
            if track.held or (place < len(track.clips) and track.clips[place].at < clip.end):
                raise BadInput(
                    f"Something is already there on “{track.name}”. Nothing was changed."
                )
            clips = joined(track.clips[:place], [clip], track.clips[place:])
            tracks = list(timeline.tracks)
            tracks[index] = replace(track, clips=clips)
            return replace(timeline, tracks=tuple(tracks))
    return with_new_track(timeline, track_name, kind, Clips([clip]))
