"""Parts of an episode: its sections as wholes, each with all that stands in it, so that they can be
put in another order, laid aside, brought back and doubled.

An episode is taken apart into runs of parts that stay together, and laid out anew. Where parts
followed each other before they do so after it, to the bit; where two meet that did not, their sound
is crossfaded.
"""

from collections.abc import Sequence
from dataclasses import replace

from airtrim.core.timeline import envelope
from airtrim.core.timeline.clips import NONE, Clips, joined
from airtrim.core.timeline.cutting import crossed, divided, merges, sewn
from airtrim.core.timeline.envelope import Envelope, Point
from airtrim.core.timeline.model import Cuts, Loose, Piece, Section, Timeline, Track, joined_cuts
from airtrim.errors import BadInput

MOST_PARTS = 500
MOST_ASIDE = 200

Order = Sequence[int | Loose]
"""What an episode is laid out of: its parts by their places now, and parts that lay aside."""


def index_of(timeline: Timeline, section_id: str) -> int:
    """Where a part stands. Raises BadInput where it is gone."""
    for index, section in enumerate(timeline.sections):
        if section.id == section_id:
            return index
    raise BadInput("That part is no longer in the episode. Nothing was changed.")


def span_of(timeline: Timeline, first: int, last: int | None = None) -> tuple[int, int]:
    """First frame of a part, or of several up to ``last``, and the first after it."""
    sections = timeline.sections
    last = first if last is None else last
    end = sections[last + 1].at if last + 1 < len(sections) else timeline.frames
    return sections[first].at, end


def moved(timeline: Timeline, section_id: str, before: str | None, crossfade: int) -> Timeline:
    """A part put before another, or at the end; ``crossfade`` in frames, here and below."""
    index = index_of(timeline, section_id)
    order = [other for other in range(len(timeline.sections)) if other != index]
    place = _place(timeline, order, before)
    if place == index:
        raise BadInput("It already stands there. Nothing was changed.")
    return _laid_out(timeline, [*order[:place], index, *order[place:]], crossfade)


def doubled(timeline: Timeline, section_id: str, crossfade: int) -> Timeline:
    """A part once more right after itself, without its cuts and markers."""
    index = index_of(timeline, section_id)
    if len(timeline.sections) >= MOST_PARTS:
        raise BadInput(f"An episode has {MOST_PARTS} parts at most. Nothing was changed.")
    piece = _piece(timeline, index, index)
    if not piece.frames:
        raise BadInput("There is no sound in that part. Nothing was changed.")
    piece = replace(piece, removed=piece.frames, cuts=Cuts(), markers=())
    section = replace(timeline.sections[index], id=f"s{timeline.next_id}")
    order: list[int | Loose] = [*range(len(timeline.sections))]
    order.insert(index + 1, Loose(section, piece))
    return _laid_out(replace(timeline, next_id=timeline.next_id + 1), order, crossfade)


def laid_aside(timeline: Timeline, section_id: str, crossfade: int) -> Timeline:
    """A part taken out of the episode and kept beside it, whole."""
    index = index_of(timeline, section_id)
    if len(timeline.aside) >= MOST_ASIDE:
        raise BadInput(f"{MOST_ASIDE} parts can be put aside at most. Nothing was changed.")
    if len(timeline.sections) == 1:
        raise BadInput("It is the only part: without it there would be no episode.")
    piece = _piece(timeline, index, index)
    if not any(len(clips) for clips in piece.clips):
        raise BadInput("There is no sound in that part. Nothing was changed.")
    tracks = tuple(
        replace(track, clips=NONE, envelope=())
        for track, clips in zip(timeline.tracks, piece.clips, strict=True)
        if len(clips)
    )
    loose = Loose(replace(timeline.sections[index], at=0), piece, tracks)
    order = [other for other in range(len(timeline.sections)) if other != index]
    left = _laid_out(timeline, order, crossfade)
    return replace(left, aside=(*timeline.aside, loose))


def brought_back(
    timeline: Timeline, section_id: str, before: str | None, crossfade: int
) -> Timeline:
    """A part that lay aside put before another, or at the end. A track that was deleted meanwhile
    comes back with it."""
    loose = loose_of(timeline, section_id)
    timeline = thrown_away(timeline, section_id)
    if any(section.id == section_id for section in timeline.sections):
        # A cut that was put back meanwhile brought a part of that name.
        loose = replace(loose, section=replace(loose.section, id=f"s{timeline.next_id}"))
        timeline = replace(timeline, next_id=timeline.next_id + 1)
    # Where there is no sound left, what came back is all there is.
    order: list[int | Loose] = [*range(len(timeline.sections))] if timeline.frames else []
    order.insert(_place(timeline, range(len(order)), before) if order else 0, loose)
    return _laid_out(timeline, order, crossfade)


def thrown_away(timeline: Timeline, section_id: str) -> Timeline:
    """Without a part that lay aside."""
    loose = loose_of(timeline, section_id)
    return replace(timeline, aside=tuple(one for one in timeline.aside if one is not loose))


def loose_of(timeline: Timeline, section_id: str) -> Loose:
    """A part that lies aside. Raises BadInput where it does not any more."""
    for one in timeline.aside:
        if one.section.id == section_id:
            return one
    raise BadInput("That part does not lie aside any more. Nothing was changed.")


def _place(timeline: Timeline, order: Sequence[int], before: str | None) -> int:
    if before is None:
        return len(order)
    index = index_of(timeline, before)
    if index not in order:
        raise BadInput("It already stands there. Nothing was changed.")
    return order.index(index)


def _laid_out(timeline: Timeline, order: Order, crossfade: int) -> Timeline:
    runs: list[tuple[Piece, list[tuple[Section, int]]]] = []
    for first, last in _runs(order):
        if isinstance(first, Loose):
            runs.append((first.piece, [(first.section, 0)]))
        else:
            assert isinstance(last, int)
            start = timeline.sections[first].at
            own = [(s, s.at - start) for s in timeline.sections[first : last + 1]]
            runs.append((_piece(timeline, first, last), own))
    starts = [0]
    for piece, _ in runs:
        starts.append(starts[-1] + piece.frames)
    placed = [(piece, at) for (piece, _), at in zip(runs, starts, strict=False)]
    tracks = tuple(
        replace(
            track,
            clips=_clips(track.id, placed, crossfade),
            envelope=_envelope(track.id, placed),
        )
        for track in _tracks(timeline, order)
    )
    sections = tuple(
        replace(section, at=at + within)
        for (_, own), at in zip(runs, starts, strict=False)
        for section, within in own
    )
    total = max((track.frames for track in tracks), default=0)
    if sections[-1].at and sections[-1].at >= total:
        raise BadInput("A part without sound cannot stand at the end. Nothing was changed.")
    markers = [
        replace(marker, at=min(marker.at + at, total))
        for piece, at in placed
        for marker in piece.markers
    ]
    return replace(
        timeline,
        tracks=tracks,
        sections=sections,
        cuts=joined_cuts(Cuts(), *(piece.cuts.moved(at) for piece, at in placed)).at_most(total),
        markers=tuple(sorted(markers, key=lambda marker: marker.at)),
    )


def _runs(order: Order) -> list[tuple[int | Loose, int | Loose]]:
    """First and last of what stays together."""
    out: list[tuple[int | Loose, int | Loose]] = []
    for one in order:
        if out and isinstance(one, int) and isinstance(out[-1][1], int) and one == out[-1][1] + 1:
            out[-1] = out[-1][0], one
        else:
            out.append((one, one))
    return out


def _piece(timeline: Timeline, first: int, last: int) -> Piece:
    """All that stands in some parts. A cut where a part begins was made at the end of the one
    before it, unless something stands in its place."""
    start, end = span_of(timeline, first, last)
    ends = last == len(timeline.sections) - 1
    cuts = timeline.cuts
    at_start = cuts[cuts.first_from(start) : cuts.first_after(start)]
    at_end = cuts[max(cuts.first_after(start), cuts.first_from(end)) : cuts.first_after(end)]
    own = joined_cuts(
        [cut for cut in at_start if cut.instead or first == 0],
        cuts[cuts.first_after(start) : cuts.first_from(end)],
        [cut for cut in at_end if ends or not cut.instead],
    )
    return Piece(
        end - start,
        end - start + own.removed,
        tuple(track.id for track in timeline.tracks),
        tuple(_within(track.clips, start, end).moved(-start) for track in timeline.tracks),
        cuts=own.moved(-start),
        markers=tuple(
            replace(marker, at=marker.at - start)
            for marker in timeline.markers
            if start <= marker.at < end or (ends and marker.at >= end)
        ),
        envelopes=tuple(envelope.copied(track.envelope, start, end) for track in timeline.tracks),
    )


def _within(clips: Clips, start: int, end: int) -> Clips:
    """Clips between two frames; a crossfade with what came before stays behind."""
    before, within, _ = divided(clips, start, end)
    if len(before) and len(within) and before[-1].end == within[0].at == start:
        return within.with_one(0, within[0]._replace(fade_in=0, shape_in="round"))
    return within


def _tracks(timeline: Timeline, order: Order) -> list[Track]:
    tracks = list(timeline.tracks)
    for one in order:
        here = {track.id for track in tracks}
        if isinstance(one, Loose):
            tracks += [track for track in one.tracks if track.id not in here]
    return tracks


def _clips(track: str, placed: Sequence[tuple[Piece, int]], crossfade: int) -> Clips:
    out = NONE
    for piece, at in placed:
        own = dict(zip(piece.tracks, piece.clips, strict=True)).get(track, NONE).moved(at)
        if len(out) and len(own) and merges(out[-1], own[0]):
            out = sewn(out, own)
        else:
            out = joined(out, crossed(out, own, crossfade))
    return out


def _envelope(track: str, placed: Sequence[tuple[Piece, int]]) -> Envelope:
    own = [
        (dict(zip(piece.tracks, piece.envelopes, strict=True)).get(track, ()), piece.frames, at)
        for piece, at in placed
    ]
    points: list[Point] = []
    for inside, frames, at in own:
        points += envelope.moved(inside or (Point(0, 0.0), Point(frames, 0.0)), at)
    return envelope.without_idle(tuple(points))
