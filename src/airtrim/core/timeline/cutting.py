"""Taking spans out of every track, putting them back, and making room."""

from dataclasses import replace

from airtrim.core.timeline.model import Clip, Marker, Piece, Removed, Section, Timeline, Track
from airtrim.errors import BadInput


def _moved(clip: Clip, by: int) -> Clip:
    return Clip(
        clip.take, clip.start, clip.frames, clip.at + by, clip.gain_db, clip.fade_in, clip.fade_out
    )


def _split(clip: Clip, at: int) -> tuple[Clip, Clip]:
    first = at - clip.at
    left = replace(clip, frames=first, fade_out=0)
    right = replace(clip, start=clip.start + first, frames=clip.frames - first, at=at, fade_in=0)
    return left, right


def _part(
    clips: tuple[Clip, ...], start: int, end: int
) -> tuple[list[Clip], list[Clip], list[Clip]]:
    """Clips before, within and from a span, split at its edges."""
    before: list[Clip] = []
    within: list[Clip] = []
    after: list[Clip] = []
    for clip in clips:
        if clip.end <= start:
            before.append(clip)
            continue
        if clip.at >= end:
            after.append(clip)
            continue
        middle = clip
        if middle.at < start:
            left, middle = _split(middle, start)
            before.append(left)
        if middle.end > end:
            middle, right = _split(middle, end)
            after.append(right)
        within.append(middle)
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
        taken.append(tuple(_moved(clip, -start) for clip in within))
        if before and within and before[-1].continues_into(within[0]):
            before[-1] = replace(before[-1], fade_out=crossfade_frames)
        if after and within and within[-1].continues_into(after[0]):
            after[0] = replace(after[0], fade_in=crossfade_frames)
        clips = (*before, *(_moved(clip, -frames) for clip in after))
        tracks.append(replace(track, clips=clips))

    inside = [mark for mark in timeline.cuts if start < mark.at < end]
    taken_out = Removed(
        timeline.next_id,
        start,
        Piece(
            frames,
            tuple(track.id for track in timeline.tracks),
            tuple(taken),
            tuple(replace(s, at=s.at - start) for s in timeline.sections if start <= s.at < end),
            tuple(Removed(mark.id, mark.at - start, mark.piece) for mark in inside),
            tuple(replace(m, at=m.at - start) for m in timeline.markers if start <= m.at < end),
        ),
    )
    cuts = (
        *(mark for mark in timeline.cuts if mark.at <= start),
        taken_out,
        *(Removed(m.id, m.at - frames, m.piece) for m in timeline.cuts if m.at >= end),
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
            *(_moved(clip, at) for clip in taken.get(track.id, ())),
            *(_moved(clip, piece.frames) for clip in after),
        ]
        tracks.append(replace(track, clips=_joined(clips)))
    cuts = (
        *timeline.cuts[:place],
        *(Removed(c.id, c.at + at, c.piece) for c in piece.cuts),
        *(Removed(c.id, c.at + piece.frames, c.piece) for c in timeline.cuts[place + 1 :]),
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
        tracks.append(replace(track, clips=(*before, *(_moved(clip, frames) for clip in after))))
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
            out[-1] = replace(out[-1], frames=out[-1].frames + clip.frames, fade_out=clip.fade_out)
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
