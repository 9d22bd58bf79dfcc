"""Parts of an episode: its sections as wholes, each with all that stands in it, so that they can be
put in another order, laid aside, brought back and doubled.

An episode is taken apart into runs of parts that stay together, and laid out anew. Where parts
followed each other before they do so after it, to the bit; where two meet that did not, their sound
is crossfaded.
"""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from airtrim.core.timeline import envelope
from airtrim.core.timeline.clips import NONE, Clips, joined
from airtrim.core.timeline.cutting import copied, crossed, merges, sewn
from airtrim.core.timeline.envelope import Envelope, Point
from airtrim.core.timeline.model import Cuts, Loose, Piece, Section, Timeline, Track, joined_cuts
from airtrim.core.timeline.placed import MOST_SOUNDS
from airtrim.core.timeline.seams import Tones, alone, overlapped
from airtrim.errors import BadInput

NO_TONES: Tones = {}
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


def moved(
    timeline: Timeline, section_id: str, before: str | None, crossfade: int, tones: Tones = NO_TONES
) -> Timeline:
    """A part put before another, or at the end; ``crossfade`` in frames, here and below."""
    index = index_of(timeline, section_id)
    order = [other for other in range(len(timeline.sections)) if other != index]
    place = _place(timeline, order, before)
    if place == index:
        raise BadInput("It already stands there. Nothing was changed.")
    return _laid_out(timeline, [*order[:place], index, *order[place:]], crossfade, tones)


def only(timeline: Timeline, index: int) -> Timeline:
    """A part as an episode of its own, with all that sounds in it; placed sounds are let go of, so
    that also what reaches into it from its neighbours stays."""
    part = _laid_out(timeline, [index], 0)
    tracks = tuple(replace(track, held=False) for track in part.tracks)
    return replace(part, tracks=tracks, placed=(), aside=(), waiting=(), wanted_frames=None)


def doubled(
    timeline: Timeline, section_id: str, crossfade: int, tones: Tones = NO_TONES
) -> Timeline:
    """A part once more right after itself, with the sounds that hold on to it, without its cuts and
    markers."""
    index = index_of(timeline, section_id)
    if len(timeline.sections) >= MOST_PARTS:
        raise BadInput(f"An episode has {MOST_PARTS} parts at most. Nothing was changed.")
    piece = _piece(timeline, index, index)
    if not piece.frames:
        raise BadInput("There is no sound in that part. Nothing was changed.")
    piece = replace(piece, removed=piece.frames, cuts=Cuts(), markers=())
    timeline, section = _of_its_own(timeline, timeline.sections[index], timeline.sections)
    order: list[int | Loose] = [*range(len(timeline.sections))]
    order.insert(index + 1, Loose(section, piece))
    twice = _laid_out(timeline, order, crossfade, tones)
    own = [one for one in timeline.placed if one.hold.part == section_id]
    own = own[: max(0, MOST_SOUNDS - len(timeline.placed))]
    return replace(
        twice,
        next_id=twice.next_id + len(own),
        placed=(
            *twice.placed,
            *(
                replace(one, id=f"p{number}", hold=replace(one.hold, part=section.id))
                for number, one in enumerate(own, twice.next_id)
            ),
        ),
    )


def laid_aside(
    timeline: Timeline, section_id: str, crossfade: int, tones: Tones = NO_TONES
) -> Timeline:
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
    others = [one.section for one in timeline.aside]
    timeline, section = _of_its_own(timeline, timeline.sections[index], others)
    loose = Loose(replace(section, at=0), piece, tracks)
    order = [other for other in range(len(timeline.sections)) if other != index]
    left = _laid_out(timeline, order, crossfade, tones)
    return replace(left, aside=(*timeline.aside, loose))


def brought_back(
    timeline: Timeline,
    section_id: str,
    before: str | None,
    crossfade: int,
    tones: Tones = NO_TONES,
) -> Timeline:
    """A part that lay aside put before another, or at the end. A track that was deleted meanwhile
    comes back with it."""
    loose = loose_of(timeline, section_id)
    timeline = thrown_away(timeline, section_id)
    timeline, section = _of_its_own(timeline, loose.section, timeline.sections)
    loose = replace(loose, section=section)
    # Where there is no sound left, what came back is all there is.
    order: list[int | Loose] = [*range(len(timeline.sections))] if timeline.frames else []
    order.insert(_place(timeline, range(len(order)), before) if order else 0, loose)
    return _laid_out(timeline, order, crossfade, tones)


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


def _of_its_own(
    timeline: Timeline, section: Section, others: Sequence[Section]
) -> tuple[Timeline, Section]:
    """A section with an id that none of the others has: a cut that was put back may have brought a
    section again that lies aside."""
    if all(other.id != section.id for other in others):
        return timeline, section
    own = replace(section, id=f"s{timeline.next_id}")
    return replace(timeline, next_id=timeline.next_id + 1), own


def _place(timeline: Timeline, order: Sequence[int], before: str | None) -> int:
    if before is None:
        return len(order)
    index = index_of(timeline, before)
    if index not in order:
        raise BadInput("It already stands there. Nothing was changed.")
    return order.index(index)


def _laid_out(
    timeline: Timeline, order: Order, crossfade: int, tones: Tones = NO_TONES
) -> Timeline:
    placed: list[tuple[Piece, int]] = []
    sections: list[Section] = []
    at = 0
    for first, last in _runs(order):
        if isinstance(first, Loose):
            piece = first.piece
            sections.append(replace(first.section, at=at))
        else:
            assert isinstance(last, int)
            piece = _piece(timeline, first, last)
            later = at - timeline.sections[first].at
            own = timeline.sections[first : last + 1]
            sections += [replace(section, at=section.at + later) for section in own]
        placed.append((piece, at))
        at += piece.frames
    tracks = tuple(
        replace(
            track,
            clips=_with_rooms(track, _clips(track.id, placed, crossfade), placed, crossfade, tones),
            envelope=_envelope(track.id, placed),
        )
        for track in _tracks(timeline, order)
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
        sections=tuple(sections),
        cuts=joined_cuts(Cuts(), *(piece.cuts.moved(at) for piece, at in placed)).at_most(total),
        markers=tuple(sorted(markers, key=lambda marker: marker.at)),
    )


def _with_rooms(
    track: Track,
    clips: Clips,
    placed: Sequence[tuple[Piece, int]],
    crossfade: int,
    tones: Tones,
) -> Clips:
    if track.kind != "voice" or not tones:
        return clips
    seams = [(before, at, at + piece.frames) for (_, before), (piece, at) in pairwise(placed)]
    return overlapped(clips, seams, tones, crossfade)


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
    piece = copied(timeline, start, end)
    return replace(
        piece,
        removed=piece.frames + own.removed,
        clips=tuple(
            alone(_uncrossed(clips, track.clips, start), piece.frames)
            for clips, track in zip(piece.clips, timeline.tracks, strict=True)
        ),
        cuts=own.moved(-start),
        markers=tuple(
            replace(marker, at=marker.at - start)
            for marker in timeline.markers
            if start <= marker.at < end or (ends and marker.at >= end)
        ),
    )


def _uncrossed(own: Clips, clips: Clips, start: int) -> Clips:
    """The ``own`` clips of a piece that begins at a frame of a track; a crossfade with what came
    before stays behind."""
    before = clips.first_from(start) - 1
    if len(own) and own[0].at == 0 and before >= 0 and clips[before].end == start:
        return own.with_one(0, own[0]._replace(fade_in=0, shape_in="round"))
    return own


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
    points: list[Point] = []
    for piece, at in placed:
        own = dict(zip(piece.tracks, piece.envelopes, strict=True)).get(track, ())
        points += envelope.moved(own or (Point(0, 0.0), Point(piece.frames, 0.0)), at)
    return envelope.without_idle(tuple(points))
