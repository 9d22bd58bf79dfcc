"""What is done to one track alone: its clips moved, trimmed, faded, silenced and covered."""

from dataclasses import replace

from airtrim.core.timeline import envelope
from airtrim.core.timeline.bounds import MOST_TRACKS
from airtrim.core.timeline.clips import Clip, Clips, Shape, joined
from airtrim.core.timeline.cutting import crossed, divided, merges, open_up, parted, sewn
from airtrim.core.timeline.model import Span, Timeline, Track, TrackKind
from airtrim.core.timeline.tone import is_tone, tone_clip
from airtrim.errors import BadInput


def with_track(timeline: Timeline, track: Track) -> Timeline:
    """The timeline with a track changed; what pointed beyond a new end is brought within it.

    Raises BadInput where placed sounds stand on it: what they hold on to says where they are."""
    known = timeline.track(track.id)
    if known.held and (known.clips != track.clips or known.envelope != track.envelope):
        raise BadInput(
            f"The sounds on “{track.name}” hold on to the talk. Change them in the Rundown, or "
            "let go of them there first. Nothing was changed."
        )
    tracks = tuple(track if t.id == track.id else t for t in timeline.tracks)
    return settled(replace(timeline, tracks=tracks))


def free_name(timeline: Timeline, name: str) -> str:
    """``name``, with a number after it where a track has it already."""
    taken = {track.name for track in timeline.tracks}
    names = (name[:70], *(f"{name[:70]} {number}" for number in range(2, len(taken) + 3)))
    return next(one for one in names if one not in taken)


def with_new_track(
    timeline: Timeline, name: str, kind: TrackKind, clips: Clips = Clips()
) -> Timeline:
    """The document with one more track, after the others."""
    if len(timeline.tracks) >= MOST_TRACKS:
        raise BadInput(f"An episode holds {MOST_TRACKS} tracks at most. Nothing was changed.")
    track = Track(f"t{timeline.next_id}", name, kind, clips)
    return replace(timeline, tracks=(*timeline.tracks, track), next_id=timeline.next_id + 1)


def settled(timeline: Timeline) -> Timeline:
    """Marks and boundaries held within the episode, where its end has moved."""
    end = timeline.frames
    sections = tuple(s for s in timeline.sections if s.at == 0 or s.at < end)
    markers = tuple(replace(m, at=end) if m.at > end else m for m in timeline.markers)
    cuts = timeline.cuts
    if len(cuts) and cuts[-1].at > end:
        cuts = cuts.at_most(end)
    if len(sections) == len(timeline.sections) and markers == timeline.markers:
        sections, markers = timeline.sections, timeline.markers
    return replace(timeline, sections=sections, markers=markers, cuts=cuts)


def not_held(timeline: Timeline) -> tuple[str, ...]:
    """The ids of all tracks but those of placed sounds."""
    return tuple(track.id for track in timeline.tracks if not track.held)


def clip_at(track: Track, at: int) -> tuple[int, Clip]:
    """The clip that begins at a frame, and its place. Raises BadInput where there is none."""
    index = track.clips.first_from(at)
    if index == len(track.clips) or track.clips[index].at != at:
        raise BadInput("That clip is no longer there. Nothing was changed.")
    return index, track.clips[index]


def length_of(timeline: Timeline, take: str) -> int:
    """Frames of a take, as far as the document knows."""
    if is_tone(take):
        return 1 << 40
    known = timeline.lengths.get(take)
    if known is not None:
        return known
    return max(
        c.start + c.frames for track in timeline.tracks for c in track.clips if c.take == take
    )


def laid_over(clips: Clips, clip: Clip) -> Clips:
    """A clip put among others on its track. Where it reaches over a neighbour the overlap becomes
    a crossfade as long as itself: both end at its middle, and go on under each other.

    Raises BadInput where one would lie wholly under the other."""
    first, last = clips.first_sounding(clip.at), clips.first_from(clip.end)
    for other in clips[first:last]:
        if (other.at <= clip.at and clip.end <= other.end) or (
            clip.at <= other.at and other.end <= clip.end
        ):
            raise BadInput(
                "It would cover a whole clip there. Move that one first, or put it on a track of "
                "its own. Nothing was changed."
            )
    before, after = clips[:first], clips[last:]
    over = list(clips[first:last])
    left = next((other for other in over if other.at < clip.at), None)
    right = next((other for other in over if other.end > clip.end), None)
    if left is not None:
        overlap = left.end - clip.at
        half = overlap // 2
        before = joined(before, [left._replace(frames=left.frames - (overlap - half))])
        clip = clip._replace(
            at=clip.at + half,
            start=clip.start + half,
            frames=clip.frames - half,
            fade_in=overlap,
        )
    if right is not None:
        overlap = clip.end - right.at
        half = overlap // 2
        clip = clip._replace(frames=clip.frames - (overlap - half))
        right = right._replace(
            at=right.at + half,
            start=right.start + half,
            frames=right.frames - half,
            fade_in=overlap,
        )
        after = joined([right], after)
    return joined(before, [clip], after)


def move_clip(timeline: Timeline, track_id: str, at: int, to_track: str, to: int) -> Timeline:
    """Put the clip that begins at ``at`` where frame ``to`` is, on a track."""
    track = timeline.track(track_id)
    index, clip = clip_at(track, at)
    rest = joined(track.clips[:index], track.clips[index + 1 :])
    clip = clip._replace(at=to, fade_in=clip.fade_in if _free(track, index) else 0)
    if to_track == track_id:
        return with_track(timeline, replace(track, clips=laid_over(rest, clip)))
    other = timeline.track(to_track)
    over = laid_over(other.clips, clip)
    left = with_track(timeline, replace(other, clips=over))
    return with_track(left, replace(track, clips=rest))


def _free(track: Track, index: int) -> bool:
    """Whether a clip does not touch the one before it, so that its fade in is its own."""
    return index == 0 or track.clips[index - 1].end < track.clips[index].at


def trim_clip(timeline: Timeline, track_id: str, at: int, start: int, end: int) -> Timeline:
    """Let the clip that begins at ``at`` begin at ``start`` and end at ``end`` instead; its sound
    stays where it is. An edge goes no further than its take and its neighbours do."""
    track = timeline.track(track_id)
    index, clip = clip_at(track, at)
    low = max(clip.at - clip.start, track.clips[index - 1].end if index else 0)
    high = clip.at - clip.start + length_of(timeline, clip.take)
    if index + 1 < len(track.clips):
        high = min(high, track.clips[index + 1].at)
    start, end = max(low, start), min(high, end)
    if end <= start:
        raise BadInput("Nothing would be left of that clip. Nothing was changed.")
    changed = clip._replace(
        start=clip.start + start - clip.at,
        at=start,
        frames=end - start,
        fade_in=min(clip.fade_in, end - start),
        fade_out=min(clip.fade_out, end - start),
    )
    return with_track(timeline, replace(track, clips=track.clips.with_one(index, changed)))


def fade_clip(
    timeline: Timeline,
    track_id: str,
    at: int,
    fade_in: int | None,
    fade_out: int | None,
    shape_in: Shape | None,
    shape_out: Shape | None,
    gain_db: float | None,
) -> Timeline:
    """Set the fades and the gain of the clip that begins at ``at``; None leaves what is there."""
    track = timeline.track(track_id)
    index, clip = clip_at(track, at)
    changed = clip._replace(
        fade_in=clip.fade_in if fade_in is None else min(fade_in, clip.frames),
        fade_out=clip.fade_out if fade_out is None else min(fade_out, clip.frames),
        shape_in=shape_in or clip.shape_in,
        shape_out=shape_out or clip.shape_out,
        gain_db=clip.gain_db if gain_db is None else gain_db,
    )
    return with_track(timeline, replace(track, clips=track.clips.with_one(index, changed)))


def split(timeline: Timeline, at: int, tracks: tuple[str, ...]) -> Timeline:
    """Part the clips that sound at a frame, so that each part can be moved for itself."""
    done = 0
    chosen = tracks or not_held(timeline)
    for track in timeline.tracks:
        index = track.clips.first_sounding(at)
        if track.id not in chosen or index == len(track.clips):
            continue
        clip = track.clips[index]
        if not clip.at < at < clip.end:
            continue
        left, right = parted(clip, at)
        clips = joined(
            track.clips[:index], [left, right._replace(apart=True)], track.clips[index + 1 :]
        )
        timeline = with_track(timeline, replace(track, clips=clips))
        done += 1
    if not done:
        raise BadInput("No clip sounds there to be split. Nothing was changed.")
    return timeline


def join(timeline: Timeline, start: int, end: int) -> Timeline:
    """Make one again what was split between two frames and still goes on."""
    done = 0
    for track in timeline.tracks:
        if track.held:
            continue
        clips = track.clips
        for index in range(clips.first_from(end + 1) - 1, max(0, clips.first_from(start) - 1), -1):
            left, right = clips[index - 1], clips[index]._replace(apart=False)
            if start <= right.at <= end and clips[index].apart and merges(left, right):
                rest = joined([right], clips[index + 1 :])
                clips = sewn(clips[:index], rest)
                done += 1
        if clips is not track.clips:
            timeline = with_track(timeline, replace(track, clips=clips))
    if not done:
        raise BadInput("Nothing was split there that could be joined. Nothing was changed.")
    return timeline


def silence(timeline: Timeline, tracks: tuple[str, ...], start: int, end: int) -> Timeline:
    """Take the sound of a span away on some tracks; nothing moves."""
    done = 0
    for track_id in tracks or not_held(timeline):
        track = timeline.track(track_id)
        before, within, after = divided(track.clips, start, end)
        if len(within):
            timeline = with_track(timeline, replace(track, clips=joined(before, after)))
            done += 1
    if not done:
        raise BadInput("There is no sound there. Nothing was changed.")
    return timeline


def cover(
    timeline: Timeline, track_id: str, start: int, end: int, tone: Span, crossfade_frames: int
) -> Timeline:
    """Put room tone over a span of one track; nothing moves."""
    track = timeline.track(track_id)
    before, within, after = divided(track.clips, start, end)
    if not len(within):
        raise BadInput("There is no sound there to cover. Nothing was changed.")
    fill = Clips([tone_clip(tone, timeline.next_id, start, end - start)])
    fill = crossed(before, fill, crossfade_frames)
    after = crossed(fill, after, crossfade_frames)
    changed = with_track(timeline, replace(track, clips=joined(before, fill, after)))
    return replace(changed, next_id=timeline.next_id + 1)


def uncover(timeline: Timeline, track_id: str, at: int) -> Timeline:
    """Bring back what was under the room tone that begins at ``at``, or under silence there: the
    sound on both sides has to be of one take that went on between them."""
    track = timeline.track(track_id)
    clips = track.clips
    index = clips.first_sounding(at)
    tone = index < len(clips) and is_tone(clips[index].take) and clips[index].at <= at
    left_index, right_index = index - 1, index + 1 if tone else index
    if left_index >= 0 and right_index < len(clips):
        left, right = clips[left_index], clips[right_index]
        gap = right.at - left.end
        if (
            left.take == right.take
            and left.gain_db == right.gain_db
            and right.start - left.start - left.frames == gap
        ):
            whole = left._replace(
                frames=left.frames + gap + right.frames,
                fade_out=right.fade_out,
                shape_out=right.shape_out,
            )
            back = joined(clips[:left_index], [whole], clips[right_index + 1 :])
            return with_track(timeline, replace(track, clips=back))
    raise BadInput("What was there cannot be told any more. Undo brings it back.")


def cut_alone(
    timeline: Timeline, track_id: str, start: int, end: int, crossfade_frames: int
) -> Timeline:
    """Take a span out of one track. What touches it closes up, to the track's next pause; what
    comes later, and every other track, stays where it is."""
    track = timeline.track(track_id)
    before, within, after = divided(track.clips, start, end)
    if not len(within):
        raise BadInput("That track has no sound there to cut. Nothing was changed.")
    run = after.touching() if len(after) and after[0].at == end else 0
    closed = crossed(before, after[:run].moved(start - end), crossfade_frames)
    clips = joined(before, closed, after[run:])
    return with_track(timeline, replace(track, clips=clips))


def fade_span(
    timeline: Timeline, track_id: str, start: int, end: int, inwards: bool, shape: Shape
) -> Timeline:
    """Fade a track in or out over a span. Where a clip begins (or ends) within it with nothing
    touching, the fade is the clip's own; elsewhere it is points of the track's gain."""
    track = timeline.track(track_id)
    clips = track.clips
    for index in range(clips.first_sounding(start - 1), clips.first_from(end)):
        clip = clips[index]
        if inwards and start <= clip.at < end and _free(track, index):
            changed = clip._replace(fade_in=min(end, clip.end) - clip.at, shape_in=shape)
        elif not inwards and start < clip.end <= end and _ends(track, index):
            changed = clip._replace(fade_out=clip.end - max(start, clip.at), shape_out=shape)
        else:
            continue
        return with_track(timeline, replace(track, clips=track.clips.with_one(index, changed)))
    if not len(track.clips.between(start, end)):
        raise BadInput("That track has no sound there to fade. Nothing was changed.")
    points = track.envelope
    low = envelope.value_at(points, start, before=True)
    high = envelope.value_at(points, end)
    slope: Shape = "soft" if shape == "soft" else "straight"
    floor = envelope.FLOOR_DB
    if inwards:
        ramp = [
            envelope.Point(start, low),
            envelope.Point(start, floor, slope),
            envelope.Point(end, high),
        ]
    else:
        ramp = [
            envelope.Point(start, low, slope),
            envelope.Point(end, floor),
            envelope.Point(end, high),
        ]
    out = (*(p for p in points if p.at < start), *ramp, *(p for p in points if p.at > end))
    return with_track(timeline, replace(track, envelope=out))


def _ends(track: Track, index: int) -> bool:
    clips = track.clips
    return index + 1 == len(clips) or clips[index].end < clips[index + 1].at


def add_air(
    timeline: Timeline, at: int, frames: int, tones: dict[str, Span], crossfade_frames: int
) -> Timeline:
    """Make room at a frame on every track. A voice that sounds there gets its room tone (by the id
    of its track in ``tones``); music that plays there goes on playing as far as it goes, and is
    taken up again after it."""
    opened = open_up(timeline, at, frames)
    number = timeline.next_id
    tracks = []
    for old, track in zip(timeline.tracks, opened.tracks, strict=True):
        index = old.clips.first_sounding(at - 1 if at else 0)
        sounding = index < len(old.clips) and old.clips[index].at <= at
        before, _, after = divided(track.clips, at, at)
        if sounding and track.id in tones:
            fill = Clips([tone_clip(tones[track.id], number, at, frames)])
            number += 1
            fill = crossed(before, fill, crossfade_frames)
            after = crossed(fill, after, crossfade_frames)
            track = replace(track, clips=joined(before, fill, after))
        elif sounding and track.kind == "music" and len(before) and len(after):
            left, right = before[-1], after[0]
            goes_on = left.start + left.frames == right.start and left.take == right.take
            if goes_on and left.end == at:
                longer = left._replace(frames=left.frames + min(frames, right.frames))
                before = joined(before[:-1], [longer])
                after = crossed(before, after, crossfade_frames)
                track = replace(track, clips=joined(before, after))
        tracks.append(track)
    return replace(opened, tracks=tuple(tracks), next_id=number)
