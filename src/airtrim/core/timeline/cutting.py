"""Taking spans out of every track, putting them back, making room, and moving spans elsewhere."""

from collections.abc import Iterable
from dataclasses import replace

from airtrim.core.timeline import envelope
from airtrim.core.timeline.clips import NONE, Clip, Clips, Shape, joined
from airtrim.core.timeline.envelope import Envelope
from airtrim.core.timeline.model import (
    Marker,
    Piece,
    Removed,
    Section,
    Timeline,
    Track,
    joined_cuts,
)
from airtrim.errors import BadInput


def parted(clip: Clip, at: int) -> tuple[Clip, Clip]:
    """A clip as two, split at a frame within it."""
    first = at - clip.at
    left = clip._replace(frames=first, fade_out=0, shape_out="round")
    right = clip._replace(
        start=clip.start + first,
        frames=clip.frames - first,
        at=at,
        fade_in=0,
        shape_in="round",
        apart=False,
    )
    return left, right


def divided(clips: Clips, start: int, end: int) -> tuple[Clips, Clips, Clips]:
    """Clips before, within and from a span, split at its edges. With ``start == end`` what is
    within is to be left aside."""
    first = clips.first_sounding(start)
    last = max(first, clips.first_from(end))
    before, within, after = clips[:first], clips[first:last], clips[last:]
    if len(within) and within[0].at < start:
        left, right = parted(within[0], start)
        before = clips[: first + 1].with_one(first, left)
        within = within.with_one(0, right)
    if len(within) and within[-1].end > end:
        left, right = parted(within[-1], end)
        within = within.with_one(len(within) - 1, left)
        after = clips[last - 1 :].with_one(0, right)
    return before, within if end > start else NONE, after


def merges(left: Clip, right: Clip) -> bool:
    """Whether two clips are one again once they touch."""
    return left.continues_into(right) and not right.apart


def sewn(*parts: Clips) -> Clips:
    """Parts one after another; where sound goes on over a seam it is one clip again."""
    out: list[Clips] = []
    for part in parts:
        if not len(part):
            continue
        if out and merges(out[-1][-1], part[0]):
            left, right = out[-1][-1], part[0]
            whole = left._replace(
                frames=left.frames + right.frames,
                fade_out=right.fade_out,
                shape_out=right.shape_out,
            )
            out[-1] = joined(out[-1][:-1], [whole])
            part = part[1:]
            if not len(part):
                continue
        out.append(part)
    return joined(*out)


def crossed(before: Clips, after: Clips, frames: int, shape: Shape = "round") -> Clips:
    """``after`` with a crossfade into it where it now touches ``before``."""
    if not len(before) or not len(after) or before[-1].end != after[0].at:
        return after
    if before[-1].continues_into(after[0]):
        return after
    return after.with_one(0, after[0]._replace(fade_in=frames, shape_in=shape))


def extract(
    timeline: Timeline, start: int, end: int, crossfade_frames: int, shape: Shape = "round"
) -> tuple[Timeline, Piece]:
    """Take a span out of every track and close up: (what stays, what was taken)."""
    frames = end - start
    tracks: list[Track] = []
    taken: list[Clips] = []
    inside_gain: list[Envelope] = []
    anchors: list[Envelope] = []
    for track in timeline.tracks:
        before, within, after = divided(track.clips, start, end)
        taken.append(within.moved(-start))
        closed = after.moved(-frames)
        if len(within) and len(after) and within[-1].continues_into(after[0]):
            closed = crossed(before, closed, crossfade_frames, shape)
        kept, inside, held = envelope.cut_out(track.envelope, start, end)
        inside_gain.append(inside)
        anchors.append(held)
        if len(within) or len(after) or kept != track.envelope:
            track = replace(track, clips=joined(before, closed), envelope=kept)
        tracks.append(track)

    cuts = timeline.cuts
    first, last = cuts.first_after(start), cuts.first_from(end)
    last = max(first, last)
    inside_cuts = cuts[first:last]
    shortened = tuple(
        (mark.id, min(end, mark.at + mark.instead) - start)
        for mark in cuts.replacing()
        if mark.at <= start < mark.at + mark.instead
    )
    # Where the end was taken and a pause stood before it, boundaries in the pause go as well.
    sections = _sections_after_cut(timeline.sections, start, end)
    total = max((track.frames for track in tracks), default=0)
    past_end = [s for s in sections if s.at and s.at >= total]
    piece = Piece(
        frames,
        frames + inside_cuts.removed,
        tuple(track.id for track in timeline.tracks),
        tuple(taken),
        tuple(
            replace(s, at=s.at - start)
            for s in timeline.sections
            if start <= s.at < end or s.id in {p.id for p in past_end}
        ),
        inside_cuts.moved(-start),
        tuple(replace(m, at=m.at - start) for m in timeline.markers if start <= m.at < end),
        shortened,
        tuple(inside_gain),
        tuple(anchors),
    )
    left = replace(
        timeline,
        tracks=tuple(tracks),
        sections=tuple(s for s in sections if s not in past_end),
        cuts=joined_cuts(
            cuts[:first].lengthened({mark: -by for mark, by in shortened}),
            cuts[last:].moved(-frames),
        ),
        markers=tuple(
            replace(m, at=m.at - frames) if m.at >= end else m
            for m in timeline.markers
            if not start <= m.at < end
        ),
    )
    return left, piece


def merged(spans: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    """Spans ``(start, end)`` in order, those that touch or overlap made one."""
    out: list[tuple[int, int]] = []
    for start, end in sorted(spans):
        if out and start <= out[-1][1]:
            out[-1] = out[-1][0], max(out[-1][1], end)
        else:
            out.append((start, end))
    return out


def within_episode(timeline: Timeline, start: int, frames: int) -> tuple[int, int]:
    """Start and end of a span, held within the episode. Raises BadInput where nothing is left."""
    end = min(start + frames, timeline.frames)
    if start >= end:
        raise BadInput("There is no sound there. Nothing was changed.")
    return start, end


def cut(
    timeline: Timeline,
    start: int,
    frames: int,
    crossfade_frames: int,
    *,
    shape: Shape = "round",
    number: int | None = None,
) -> Timeline:
    """Take a span out of every track and close up; what it held is kept at the splice."""
    end = min(start + frames, timeline.frames)
    if start >= end:
        raise BadInput("There is no sound there to cut. Nothing was changed.")
    left, piece = extract(timeline, start, end, crossfade_frames, shape)
    mark = Removed(timeline.next_id if number is None else number, start, piece)
    place = timeline.cuts.first_after(start)
    return replace(
        left,
        cuts=joined_cuts(left.cuts[:place], [mark], left.cuts[place:]),
        next_id=timeline.next_id + (number is None),
    )


def _sections_after_cut(sections: tuple[Section, ...], start: int, end: int) -> tuple[Section, ...]:
    """Sections wholly inside a cut go with it; one that reaches beyond it now starts there."""
    kept = [s for s in sections if s.at < start]
    inside = [s for s in sections if start <= s.at < end]
    later = [replace(s, at=s.at - (end - start)) for s in sections if s.at >= end]
    if inside and not (later and later[0].at == start):
        kept.append(replace(inside[-1], at=start))
    return (*kept, *later)


def found_cut(timeline: Timeline, number: int) -> tuple[int, Removed]:
    """Where a cut stands, and the cut. Raises BadInput where it is gone."""
    place = timeline.cuts.index_of(number)
    if place is None:
        raise BadInput("That cut is no longer in the episode. Nothing was changed.")
    return place, timeline.cuts[place]


def restore(timeline: Timeline, cut_id: int) -> Timeline:
    """Put what a cut took out back in its place."""
    place, mark = found_cut(timeline, cut_id)
    at, piece = mark.at, mark.piece
    taken = dict(zip(piece.tracks, piece.clips, strict=True))
    gains = dict(zip(piece.tracks, piece.envelopes or ((),) * len(piece.tracks), strict=True))
    held = dict(zip(piece.tracks, piece.anchors or ((),) * len(piece.tracks), strict=True))
    tracks = []
    for track in timeline.tracks:
        before, _, after = divided(track.clips, at, at)
        within = taken.get(track.id, NONE).moved(at)
        clips = sewn(before, within, after.moved(piece.frames))
        points = envelope.put_back(
            track.envelope, at, piece.frames, gains.get(track.id, ()), held.get(track.id, ())
        )
        tracks.append(replace(track, clips=clips, envelope=points))
    longer = dict(piece.shortened)
    for other in timeline.cuts.replacing():
        if other.at <= at < other.at + other.instead:
            longer[other.id] = piece.frames
    cuts = joined_cuts(
        timeline.cuts[:place].lengthened(longer),
        piece.cuts.moved(at),
        timeline.cuts[place + 1 :].lengthened(longer).moved(piece.frames),
    )
    total = max((track.frames for track in tracks), default=0)
    sections = _sections_after_restore(timeline.sections, at, piece)
    return replace(
        timeline,
        tracks=tuple(tracks),
        sections=tuple(s for s in sections if s.at == 0 or s.at < total),
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


def move_edges(
    timeline: Timeline, cut_id: int, left: int, right: int, crossfade_frames: int, shape: Shape
) -> Timeline:
    """Take a cut back and make it again with its edges ``left`` and ``right`` frames later (earlier
    where negative), its number kept. Each edge may give back or take what is there."""
    _, mark = found_cut(timeline, cut_id)
    if mark.instead:
        raise BadInput("A take stands in that cut's place; choose between the takes instead.")
    start, end = mark.at + left, mark.at + mark.piece.frames + right
    whole = restore(timeline, cut_id)
    start, end = max(0, start), min(end, whole.frames)
    if end - start < 1:
        raise BadInput("Nothing would be left of that cut. Put it back instead.")
    return cut(whole, start, end - start, crossfade_frames, shape=shape, number=cut_id)


def open_up(timeline: Timeline, at: int, frames: int) -> Timeline:
    """Make ``frames`` of room at frame ``at`` on every track. A section that starts there takes
    the room in; a cut made there stays before it."""
    tracks = []
    for track in timeline.tracks:
        before, _, after = divided(track.clips, at, at)
        points = tuple(p._replace(at=p.at + frames) if p.at >= at else p for p in track.envelope)
        tracks.append(replace(track, clips=joined(before, after.moved(frames)), envelope=points))
    return _opened_up(timeline, tracks, at, frames)


def _opened_up(timeline: Timeline, tracks: list[Track], at: int, frames: int) -> Timeline:
    """With tracks that were opened up already, all else that has to make room."""
    place = timeline.cuts.first_after(at)
    longer = {
        mark.id: frames
        for mark in timeline.cuts.replacing()
        if mark.at <= at < mark.at + mark.instead
    }
    return replace(
        timeline,
        tracks=tuple(tracks),
        sections=tuple(replace(s, at=s.at + frames) if s.at > at else s for s in timeline.sections),
        cuts=joined_cuts(
            timeline.cuts[:place].lengthened(longer), timeline.cuts[place:].moved(frames)
        ),
        markers=_markers_moved(timeline.markers, at, frames),
    )


def copied(timeline: Timeline, start: int, end: int) -> Piece:
    """What sounds in a span, to be put in elsewhere: clips and gain, without cuts and markers."""
    tracks = timeline.tracks
    return Piece(
        end - start,
        end - start,
        tuple(track.id for track in tracks),
        tuple(divided(track.clips, start, end)[1].moved(-start) for track in tracks),
        envelopes=tuple(envelope.copied(track.envelope, start, end) for track in tracks),
    )


def put_in(timeline: Timeline, at: int, piece: Piece, crossfade_frames: int) -> Timeline:
    """Put a piece in at a frame; what is later makes room. Its sound belongs to the section that
    it comes to stand in; cuts and markers come with it."""
    at = min(at, timeline.frames)
    taken = dict(zip(piece.tracks, piece.clips, strict=True))
    gains = dict(zip(piece.tracks, piece.envelopes or ((),) * len(piece.tracks), strict=True))
    tracks = []
    for track in timeline.tracks:
        before, _, after = divided(track.clips, at, at)
        within = crossed(before, taken.get(track.id, NONE).moved(at), crossfade_frames)
        after = crossed(within, after.moved(piece.frames), crossfade_frames)
        points = envelope.put_in(track.envelope, at, piece.frames, gains.get(track.id, ()))
        tracks.append(replace(track, clips=joined(before, within, after), envelope=points))
    opened = _opened_up(timeline, tracks, at, piece.frames)
    place = opened.cuts.first_after(at)
    markers = [*opened.markers, *(replace(m, at=m.at + at) for m in piece.markers)]
    return replace(
        opened,
        cuts=joined_cuts(opened.cuts[:place], piece.cuts.moved(at), opened.cuts[place:]),
        markers=tuple(sorted(markers, key=lambda m: m.at)),
    )


def move(timeline: Timeline, start: int, frames: int, to: int, crossfade_frames: int) -> Timeline:
    """Take a span out of every track and put it in where frame ``to`` is now."""
    start, end = within_episode(timeline, start, frames)
    to = min(to, timeline.frames)
    if start <= to <= end:
        raise BadInput("It already stands there. Nothing was changed.")
    left, taken = extract(timeline, start, end, crossfade_frames)
    piece = Piece(
        end - start,
        end - start,
        taken.tracks,
        taken.clips,
        cuts=taken.cuts,
        markers=taken.markers,
        envelopes=tuple(envelope.copied(t.envelope, start, end) for t in timeline.tracks),
    )
    return put_in(left, to if to < start else to - (end - start), piece, crossfade_frames)


def exchange(timeline: Timeline, cut_id: int, crossfade_frames: int) -> Timeline:
    """Put what a cut took out back, and take out in turn what stands in its place."""
    _, mark = found_cut(timeline, cut_id)
    if not mark.instead:
        raise BadInput("There is no other recording in its place any more. Nothing was changed.")
    number = timeline.next_id
    after = restore(cut(timeline, mark.at, mark.instead, crossfade_frames), cut_id)
    # What was taken out now stands before what came back, as the other way round before.
    stands, out = found_cut(after, number)
    out = out._replace(at=mark.at, instead=mark.piece.frames)
    others = joined_cuts(after.cuts[:stands], after.cuts[stands + 1 :])
    place = others.first_after(mark.at)
    return replace(after, cuts=joined_cuts(others[:place], [out], others[place:]))


def _markers_moved(markers: tuple[Marker, ...], at: int, frames: int) -> tuple[Marker, ...]:
    return tuple(replace(m, at=m.at + frames) if m.at >= at else m for m in markers)


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
    if merged[0].at:  # what came back has no boundary at the start: the section there reaches on
        merged[0] = replace(merged[0], at=0)
    return tuple(merged)
