"""Where placed sounds are: laid out anew after every edit from what each holds on to.

They stand on tracks of their own (``Track.held``), whose clips and gain nobody edits: they follow.
"""

from dataclasses import dataclass, replace

from airtrim.core.timeline.arranging import free_name, settled, with_new_track
from airtrim.core.timeline.clips import NONE, Clip, Clips, joined
from airtrim.core.timeline.ducking import ducked
from airtrim.core.timeline.envelope import Envelope, Point, without_idle
from airtrim.core.timeline.model import Cuts, Section, Timeline, Track
from airtrim.core.timeline.placed import Hold, Placed
from airtrim.core.timeline.talk import Spans, spoken_between

LOOP_CROSSFADE_FRAMES = 48_000
"""A sound that begins again does so over a second, where it has sound beyond its edges."""
MOST_REPEATS = 500
"""A sound under a part begins again at most so often: a frame of it under a day would be billions
of clips."""
_REACH_FRAMES = 30 * 48_000

Lane = tuple[list[Clip], list[tuple[int, Envelope]]]
"""Of one track: its clips, and the gain of each sound by where it begins."""


@dataclass(frozen=True, slots=True)
class Spot:
    """Where a placed sound is on the timeline, and what a host has to know about it."""

    at: int
    frames: int
    skip: int = 0
    notice: str = ""


def laid(before: Timeline, after: Timeline) -> Timeline:
    """The document after an edit with every placed sound where its rule says. What a sound held on
    to and is gone, it holds to the time at which it was ``before``."""
    if not after.placed and not any(track.held for track in after.tracks):
        return after
    placed = tuple(kept for one in after.placed if (kept := _kept(before, after, one)))
    bare = replace(after, placed=placed, tracks=tuple(_emptied(t) for t in after.tracks))
    lanes: list[Lane] = []
    for one in placed:
        spot = spot_of(bare, one)
        if spot is None or spot.frames <= 0:
            continue
        clips = _clips(one, spot)
        lane = next((lane for lane in lanes if _free(lane[0], spot)), None)
        if lane is None:
            lane = [], []
            lanes.append(lane)
        lane[0].extend(clips)
        lane[1].append((spot.at, _gain(bare, one, spot)))
    done = settled(_with_lanes(bare, lanes))
    if len(done.sections) < len(bare.sections):
        # The episode ends earlier now, and a part at its end went: what held on to it is laid anew.
        return laid(bare, done)
    return done


def spot_of(timeline: Timeline, one: Placed) -> Spot | None:
    """Where a sound is; None while its part lies aside or is cut out. ``timeline`` may hold the
    sounds' own clips: they are not looked at."""
    hold = one.hold
    if hold.kind == "time":
        lost = "What it held on to is gone: it keeps to its time." if hold.lost else ""
        return Spot(hold.at, one.frames, notice=lost)
    span = part_span(timeline, hold.part)
    if span is None:
        return None
    start, end = span
    if hold.kind == "under":
        most = MOST_REPEATS * one.frames
        notice = "It is too short to go on to the end." if end - start > most else ""
        return Spot(start, min(end - start, most), notice=notice)
    if hold.kind == "before_talk":
        talk = first_talk(timeline, start, end)
        ends = (start if talk is None else talk) + hold.offset
        at = ends - one.frames
        notice = "" if talk is not None else _NO_WORDS.format("begins")
        if at < 0:
            notice = notice or "There is less room than it is long: it begins later in the sound."
            return Spot(0, one.frames + at, -at, notice)
        return Spot(at, one.frames, notice=notice)
    talk = last_talk(timeline, start, end)
    notice = "" if talk is not None else _NO_WORDS.format("ends")
    last = end if talk is None else talk
    if hold.kind == "after_talk":
        at = max(0, last + hold.offset)
        return Spot(at, one.frames, notice=notice)
    after = first_talk(timeline, end, _after(timeline, end))
    middle = (last + (end if after is None else after)) // 2
    if after is not None and talk is not None and after - last < one.frames:
        notice = "There is less room than it is long: it lies over words."
    return Spot(max(0, middle - one.frames // 2), one.frames, notice=notice)


_NO_WORDS = "No words are known there: it holds to where the part {}."


def first_talk(timeline: Timeline, start: int, end: int) -> int | None:
    """The first frame between two at which somebody speaks."""
    while start < end:
        found = _talk(timeline, start, min(end, start + _REACH_FRAMES))
        if len(found):
            return int(found[0, 0])
        start += _REACH_FRAMES
    return None


def last_talk(timeline: Timeline, start: int, end: int) -> int | None:
    """The frame after the last between two at which somebody speaks."""
    while start < end:
        found = _talk(timeline, max(start, end - _REACH_FRAMES), end)
        if len(found):
            return int(found[-1, 1])
        end -= _REACH_FRAMES
    return None


def _talk(timeline: Timeline, start: int, end: int) -> Spans:
    voices = [track.clips for track in timeline.tracks if track.kind == "voice"]
    return spoken_between(voices, timeline.talk, start, end)


def part_span(timeline: Timeline, section_id: str | None) -> tuple[int, int] | None:
    """First frame of a part, and the first after it, leaving placed sounds aside."""
    for index, section in enumerate(timeline.sections):
        if section.id == section_id:
            return section.at, _end(timeline, index)
    return None


def _end(timeline: Timeline, index: int) -> int:
    sections = timeline.sections
    if index + 1 < len(sections):
        return sections[index + 1].at
    own = max((t.frames for t in timeline.tracks if not t.held), default=0)
    return max(own, sections[index].at)


def _after(timeline: Timeline, start: int) -> int:
    """Where the part that begins at a frame ends."""
    for index, section in enumerate(timeline.sections):
        if section.at == start:
            return _end(timeline, index)
    return start


def _kept(before: Timeline, after: Timeline, one: Placed) -> Placed | None:
    """A sound whose part is still there, lies aside, or can be put back; else one that holds to its
    time, or none where it went with its part."""
    part = one.hold.part
    if one.hold.kind == "time" or _among(part, after.sections):
        return one
    if _among(part, [loose.section for loose in after.aside]) or _cut_out(part, after.cuts):
        return one
    spot = spot_of(before, one)
    if spot is None:
        return None
    return replace(one, hold=Hold("time", at=spot.at, lost=True))


def _among(part: str | None, sections: "tuple[Section, ...] | list[Section]") -> bool:
    return any(section.id == part for section in sections)


def _cut_out(part: str | None, cuts: Cuts) -> bool:
    """Whether a part was taken out by a cut, or by one within it, and can be put back."""
    waiting = [cuts]
    while waiting:
        for cut in waiting.pop():
            if _among(part, cut.piece.sections):
                return True
            if len(cut.piece.cuts):
                waiting.append(cut.piece.cuts)
    return False


def _emptied(track: Track) -> Track:
    return replace(track, clips=NONE, envelope=()) if track.held else track


def _free(clips: list[Clip], spot: Spot) -> bool:
    # Two that touched would be a splice.
    return all(clip.end < spot.at or spot.at + spot.frames < clip.at for clip in clips)


def _clips(one: Placed, spot: Spot) -> list[Clip]:
    """The sound as clips: several where it begins again."""
    out: list[Clip] = []
    at, end, skip = spot.at, spot.at + spot.frames, spot.skip
    while at < end:
        frames = min(one.frames - skip, end - at)
        fade = LOOP_CROSSFADE_FRAMES if out else 0
        out.append(Clip(one.take, one.start + skip, frames, at, one.gain_db, fade, apart=bool(out)))
        at, skip = at + frames, 0
    out[0] = out[0]._replace(fade_in=min(one.fade_in, out[0].frames), shape_in=one.shape_in)
    out[-1] = out[-1]._replace(fade_out=min(one.fade_out, out[-1].frames), shape_out=one.shape_out)
    return out


def _gain(timeline: Timeline, one: Placed, spot: Spot) -> Envelope:
    end = spot.at + spot.frames
    if one.duck is None:
        return Point(spot.at, 0.0), Point(end, 0.0)
    reach = one.duck.attack + one.duck.hold + one.duck.release
    talk = _talk(timeline, max(0, spot.at - reach), end + reach)
    return ducked(talk, spot.at, end, one.duck)


def _with_lanes(timeline: Timeline, lanes: list[Lane]) -> Timeline:
    """With each lane on a track for sounds, of which there are as many as needed."""
    own = [track.id for track in timeline.tracks if track.held]
    kept = {*own[: len(lanes)]}
    tracks = tuple(t for t in timeline.tracks if not t.held or t.id in kept)
    timeline = replace(timeline, tracks=tracks)
    while len(own) < len(lanes):
        timeline = with_new_track(timeline, free_name(timeline, "Sounds"), "music")
        made = replace(timeline.tracks[-1], held=True)
        timeline = replace(timeline, tracks=(*timeline.tracks[:-1], made))
        own.append(made.id)
    filled = dict(zip(own, lanes, strict=False))
    return replace(
        timeline,
        tracks=tuple(
            _filled(track, *filled[track.id]) if track.held else track for track in timeline.tracks
        ),
    )


def _filled(track: Track, clips: list[Clip], gains: list[tuple[int, Envelope]]) -> Track:
    in_order = sorted(clips, key=lambda clip: clip.at)
    points = [point for _, own in sorted(gains, key=lambda one: one[0]) for point in own]
    return replace(track, clips=joined(Clips(in_order)), envelope=without_idle(tuple(points)))
