"""Room tone: covering, silencing, air, and where it is taken from."""

from collections.abc import Iterable
from dataclasses import replace
from typing import ClassVar, Literal, Self

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline import arranging
from airtrim.core.timeline.cutting import cut, within_episode
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Air, Fade, Frame, Length, SomeTracks, Tone
from airtrim.core.timeline.edits.wording import on_tracks, seconds, track_name
from airtrim.core.timeline.model import CROSSFADE_FRAMES, Span, Timeline, Track
from airtrim.core.timeline.sources import Sources
from airtrim.core.timeline.tone import is_tone, tone_of
from airtrim.errors import BadInput


class Silence(EditBase):
    """Take the sound of a span away on some tracks; nothing moves."""

    kind: Literal["silence"] = "silence"
    has_span: ClassVar[bool] = True
    tracks: SomeTracks = ()
    start: Frame
    frames: Length

    def apply(self, timeline: Timeline) -> Timeline:
        start, end = within_episode(timeline, self.start, self.frames)
        return arranging.silence(timeline, self.tracks, start, end)

    def describe(self, timeline: Timeline) -> str:
        return f"Silenced {seconds(self.frames)}{on_tracks(timeline, self.tracks)}"


class Cover(EditBase):
    """Put room tone over a span of one track; nothing moves. ``tone`` None means that of the take
    that sounds there, which whoever applies the edit has to fill in."""

    kind: Literal["cover"] = "cover"
    has_span: ClassVar[bool] = True
    track: str
    start: Frame
    frames: Length
    tone: Tone | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        return covered(
            timeline, self.track, self.start, self.frames, self.tone, self.crossfade_frames
        )

    def describe(self, timeline: Timeline) -> str:
        return f"Covered {seconds(self.frames)} on {track_name(timeline, self.track)}"

    def needs(self) -> Iterable[tuple[str, int]]:
        return reach_of([self.tone])

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        if self.tone is not None:
            return self
        return self.model_copy(
            update={"tone": tone_for(sources, self.track, self.start, self.frames)}
        )


class Uncover(EditBase):
    """Bring back what lies under the room tone, or the silence, at a frame of a track."""

    kind: Literal["uncover"] = "uncover"
    point_fields: ClassVar[tuple[str, ...]] = ("at",)
    track: str
    at: Frame

    def apply(self, timeline: Timeline) -> Timeline:
        return arranging.uncover(timeline, self.track, self.at)

    def describe(self, timeline: Timeline) -> str:
        return "Brought back what was covered"


class AddAir(EditBase):
    """Make ``frames`` of room at a frame, with room tone for every voice that sounds there.
    ``tones`` None means theirs, which whoever applies the edit has to fill in."""

    kind: Literal["add_air"] = "add_air"
    point_fields: ClassVar[tuple[str, ...]] = ("at",)
    at: Frame
    frames: Air
    tones: dict[str, Tone] | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        at = min(self.at, timeline.frames)
        return arranging.add_air(
            timeline, at, self.frames, spans_of(self.tones), self.crossfade_frames
        )

    def describe(self, timeline: Timeline) -> str:
        return f"Added {seconds(self.frames)} of air"

    def needs(self) -> Iterable[tuple[str, int]]:
        return reach_of((self.tones or {}).values())

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        if self.tones is not None:
            return self
        return self.model_copy(update={"tones": _tones_at(sources, self.at)})


class SetAir(EditBase):
    """Make the air from ``start`` as long as ``to_frames``: its middle is cut, or added to."""

    kind: Literal["set_air"] = "set_air"
    has_span: ClassVar[bool] = True
    start: Frame
    frames: Length
    to_frames: Air
    tones: dict[str, Tone] | None = None
    crossfade_frames: Fade = CROSSFADE_FRAMES

    def apply(self, timeline: Timeline) -> Timeline:
        start, end = within_episode(timeline, self.start, self.frames)
        frames = end - start
        if self.to_frames == frames:
            raise BadInput("It is that long already. Nothing was changed.")
        half = self.to_frames // 2
        if self.to_frames < frames:
            return cut(timeline, start + half, frames - self.to_frames, self.crossfade_frames)
        more = self.to_frames - frames
        middle = start + frames // 2
        return arranging.add_air(
            timeline, middle, more, spans_of(self.tones), self.crossfade_frames
        )

    def describe(self, timeline: Timeline) -> str:
        return f"Set air to {seconds(self.to_frames)}"

    def needs(self) -> Iterable[tuple[str, int]]:
        return reach_of((self.tones or {}).values())

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        if self.tones is not None:
            return self
        middle = self.start + self.frames // 2
        return self.model_copy(update={"tones": _tones_at(sources, middle)})


class ChooseRoomTone(EditBase):
    """Take ``frames`` from ``start`` of the timeline as the room tone of every recording of a voice
    that sounds throughout them."""

    kind: Literal["choose_room_tone"] = "choose_room_tone"
    has_span: ClassVar[bool] = True
    start: Frame
    frames: Length

    def apply(self, timeline: Timeline) -> Timeline:
        if self.frames < FRAME_RATE // 2:
            raise BadInput("Room tone needs half a second or more. Nothing was changed.")
        end = self.start + self.frames
        chosen = {
            clip.take: Span(clip.take, clip.start + self.start - clip.at, self.frames)
            for track in timeline.tracks
            if track.kind == "voice"
            for clip in track.clips
            if clip.at <= self.start and end <= clip.end
        }
        if not chosen:
            raise BadInput("No one recording sounds throughout the selection. Nothing was changed.")
        return replace(timeline, room_tones={**timeline.room_tones, **chosen})

    def describe(self, timeline: Timeline) -> str:
        return "Chose room tone"


class FindRoomTone(EditBase):
    """Leave the room tone of a take to be found, where it was chosen."""

    kind: Literal["find_room_tone"] = "find_room_tone"
    take: str

    def apply(self, timeline: Timeline) -> Timeline:
        found = {take: span for take, span in timeline.room_tones.items() if take != self.take}
        return replace(timeline, room_tones=found)

    def describe(self, timeline: Timeline) -> str:
        return "Left room tone to be found"


def covered(
    timeline: Timeline,
    track: str,
    start_frame: int,
    frames: int,
    tone: Tone | None,
    crossfade_frames: int = CROSSFADE_FRAMES,
) -> Timeline:
    """The document with room tone over a span of a track."""
    if tone is None:
        raise BadInput("No room tone is known for that. Choose one first.")
    start, end = within_episode(timeline, start_frame, frames)
    return arranging.cover(timeline, track, start, end, tone.span, crossfade_frames)


def tone_for(sources: Sources, track_id: str, start: int, frames: int) -> Tone:
    """The room tone that goes over a span of a track. Raises BadInput where none is known."""
    track = sources.timeline.track(track_id)
    tone = known_tone(sources, track, start, start + frames)
    if tone is None:
        raise BadInput(
            f"No room tone is known for {track.name}. Select half a second in which "
            "nobody speaks, and take it as room tone first."
        )
    return tone


def known_tone(sources: Sources, track: Track, start: int, end: int) -> Tone | None:
    """The room tone of what sounds on a track in a span; of another take there if need be."""
    near = list(track.clips.between(start, end))
    others = sorted(track.clips, key=lambda clip: abs(clip.at - start))
    for clip in [*near, *others]:
        if is_tone(clip.take):
            made_of, _ = tone_of(clip.take)
            return Tone(take=made_of.take, start=made_of.start, frames=made_of.frames)
        tone = sources.timeline.room_tones.get(clip.take) or sources.room_tone(clip.take)
        if tone is not None:
            return Tone(take=clip.take, start=tone.start, frames=tone.frames)
    return None


def reach_of(tones: Iterable[Tone | None]) -> list[tuple[str, int]]:
    """What is needed of the takes that room tones are taken from."""
    return [(tone.take, tone.start + tone.frames) for tone in tones if tone]


def _tones_at(sources: Sources, at: int) -> dict[str, Tone]:
    """The room tone of every voice that sounds at a frame, by its track."""
    start, end = max(0, at - 1), at + 1
    voices = [
        track
        for track in sources.timeline.tracks
        if track.kind == "voice" and len(track.clips.between(start, end))
    ]
    found = {track.id: known_tone(sources, track, start, end) for track in voices}
    return {track: tone for track, tone in found.items() if tone is not None}


def spans_of(tones: dict[str, Tone] | None) -> dict[str, Span]:
    """Room tones as spans, by what they are told by."""
    return {key: tone.span for key, tone in (tones or {}).items()}
