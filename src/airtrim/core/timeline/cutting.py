"""Taking spans out of every track, putting them back, and making room."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable
from dataclasses import replace

from airtrim.core.timeline.model import Clip, Marker, Piece, Removed, Section, Timeline, Track
from airtrim.errors import BadInput

_new = tuple.__new__
"""Makes a named tuple without its own constructor, which takes most of the time of an edit when
thousands of clips move."""


def _moved(clips: Iterable[Clip], by: int) -> list[Clip]:
    return [
        _new(Clip, (take, start, frames, at + by, gain_db, fade_in, fade_out))
        for take, start, frames, at, gain_db, fade_in, fade_out in clips
    ]


def _marks_moved(marks: Iterable[Removed], by: int) -> list[Removed]:
    return [_new(Removed, (number, at + by, piece)) for number, at, piece in marks]


def _split(clip: Clip, at: int) -> tuple[Clip, Clip]:
    first = at - clip.at
    left = clip._replace(frames=first, fade_out=0)
    right = clip._replace(start=clip.start + first, frames=clip.frames - first, at=at, fade_in=0)
    return left, right


def _part(
    clips: tuple[Clip, ...], start: int, end: int
) -> tuple[list[Clip], list[Clip], tuple[Clip, ...]]:
    """Clips before, within and from a span, split at its edges."""
    first = bisect_right(clips, start, key=lambda clip: clip.end)
    last = bisect_left(clips, end, first, key=lambda clip: clip.at)
    before, within, after = list(clips[:first]), list(clips[first:last]), clips[last:]
    if within and within[0].at < start:
        left, within[0] = _split(within[0], start)
        before.append(left)
    if within and within[-1].end > end:
        within[-1], right = _split(within[-1], end)
        after = (right, *after)
    return before, within, after


def cut(timeline: Timeline, start: int, frames: int, crossfade_frames: int) -> Timeline:
    """Take a span out of every track and close up; what it held is kept at the splice."""
    end = min(start + frames, timeline.frames)
    if start >= end:
        raise BadInput("There is no sound there to cut. Nothing was changed.")
    frames = end - start
    tracks: list[Track] = []
    taken: list[tuple[Clip, ...]] = []
    for track in timeline.tracks:
        before, within, after = _part(track.clips, start, end)
        taken.append(tuple(_moved(within, -start)))
        if before and within and before[-1].continues_into(within[0]):
            before[-1] = before[-1]._replace(fade_out=crossfade_frames)
        if after and within and within[-1].continues_into(after[0]):
            after = (after[0]._replace(fade_in=crossfade_frames), *after[1:])
        clips = (*before, *_moved(after, -frames))
        tracks.append(replace(track, clips=clips))

    first = bisect_right(timeline.cuts, start, key=lambda mark: mark.at)
    last = bisect_left(timeline.cuts, end, key=lambda mark: mark.at)
    inside = timeline.cuts[first:last]
    taken_out = Removed(
        timeline.next_id,
        start,
        Piece(
            frames,
            frames + sum(mark.piece.removed for mark in inside),
            tuple(track.id for track in timeline.tracks),
            tuple(taken),
            tuple(replace(s, at=s.at - start) for s in timeline.sections if start <= s.at < end),
            tuple(_marks_moved(inside, -start)),
            tuple(replace(m, at=m.at - start) for m in timeline.markers if start <= m.at < end),
        ),
    )
    cuts = (
        *timeline.cuts[:first],
        taken_out,
        *_marks_moved(timeline.cuts[last:], -frames),
    )
    return replace(
        timeline,
        tracks=tuple(tracks),
        sections=_sections_after_cut(timeline.sections, start, end),
        cuts=cuts,
        markers=tuple(
            replace(m, at=m.at - frames) if m.at >= end else m
            for m in timeline.markers
            if not start <= m.at < end
        ),
        next_id=timeline.next_id + 1,
    )


def _sections_after_cut(sections: tuple[Section, ...], start: int, end: int) -> tuple[Section, ...]:
    """Sections wholly inside a cut go with it; one that reaches beyond it now starts there."""
    kept = [s for s in sections if s.at < start]
    inside = [s for s in sections if start <= s.at < end]
    later = [replace(s, at=s.at - (end - start)) for s in sections if s.at >= end]
    if inside and not (later and later[0].at == start):
        kept.append(replace(inside[-1], at=start))
    return (*kept, *later)


def restore(timeline: Timeline, cut_id: int) -> Timeline:
    """Put what a cut took out back in its place."""
    place = next((i for i, mark in enumerate(timeline.cuts) if mark.id == cut_id), None)
    if place is None:
        raise BadInput("That cut is no longer in the episode. Nothing was changed.")
    mark = timeline.cuts[place]
    at, piece = mark.at, mark.piece
    taken = dict(zip(piece.tracks, piece.clips, strict=True))
    tracks = []
    for track in timeline.tracks:
        before, _, after = _part(track.clips, at, at)
        clips = [
            *before,
            *_moved(taken.get(track.id, ()), at),
            *_moved(after, piece.frames),
        ]
        tracks.append(replace(track, clips=_joined(clips)))
    cuts = (
        *timeline.cuts[:place],
        *_marks_moved(piece.cuts, at),
        *_marks_moved(timeline.cuts[place + 1 :], piece.frames),
    )
    return replace(
        timeline,
        tracks=tuple(tracks),
        sections=_sections_after_restore(timeline.sections, at, piece),
        cuts=cuts,
        markers=tuple(
            sorted(
                [
                    *_markers_moved(timeline.markers, at, piece.frames),
                    *(replace(m, at=m.at + at) for m in piece.markers),
                ],
                key=lambda m: m.at,
            )
        ),
    )


def open_up(timeline: Timeline, at: int, frames: int) -> Timeline:
    """Make ``frames`` of room at frame ``at`` on every track. A section that starts there takes
    the room in; a cut made there stays before it."""
    tracks = []
    for track in timeline.tracks:
        before, _, after = _part(track.clips, at, at)
        tracks.append(replace(track, clips=(*before, *_moved(after, frames))))
    return replace(
        timeline,
        tracks=tuple(tracks),
        sections=tuple(replace(s, at=s.at + frames) if s.at > at else s for s in timeline.sections),
        cuts=tuple(
            Removed(c.id, c.at + frames, c.piece) if c.at > at else c for c in timeline.cuts
        ),
        markers=_markers_moved(timeline.markers, at, frames),
    )


def _markers_moved(markers: tuple[Marker, ...], at: int, frames: int) -> tuple[Marker, ...]:
    return tuple(replace(m, at=m.at + frames) if m.at >= at else m for m in markers)


def _joined(clips: list[Clip]) -> tuple[Clip, ...]:
    out: list[Clip] = []
    for clip in clips:
        if out and out[-1].continues_into(clip):
            out[-1] = out[-1]._replace(frames=out[-1].frames + clip.frames, fade_out=clip.fade_out)
        else:
            out.append(clip)
    return tuple(out)


def _sections_after_restore(
    sections: tuple[Section, ...], at: int, piece: Piece
) -> tuple[Section, ...]:
    gains = {s.id: s for s in sections}
    returned = []
    for section in piece.sections:
        now = gains.get(section.id)
        if now is not None and now.at != at:
            continue  # its boundary was moved elsewhere in the meantime: that stands
        kept = now or section
        returned.append(replace(section, at=section.at + at, name=kept.name, gain_db=kept.gain_db))
    ids = {s.id for s in returned}
    moved = [
        replace(s, at=s.at + piece.frames) if s.at >= at else s for s in sections if s.id not in ids
    ]
    merged = sorted([*moved, *returned], key=lambda s: s.at)
    return tuple(merged)
