"""What is decided about snags, as one edit; and tidying: a whole pass decided at once."""

import bisect
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from airtrim.core.media import FRAME_RATE
from airtrim.core.snags.base import Do, Snag
from airtrim.core.snags.find import kept
from airtrim.core.snags.kinds import KINDS
from airtrim.core.snags.pauses import closed_up, left_of_air, trimmed_air
from airtrim.core.snags.talk import Talk
from airtrim.core.timeline.cutting import merged
from airtrim.core.timeline.edits.fields import SpanToCut
from airtrim.core.timeline.edits.room_tone import known_tone
from airtrim.core.timeline.edits.snags import SpanToCover, SpanToLevel, Tidy
from airtrim.core.timeline.model import Kept, Timeline
from airtrim.core.timeline.sources import Sources
from airtrim.errors import BadInput

How = Literal["gentle", "close"]


@dataclass(frozen=True, slots=True)
class Decision:
    """What to do about a snag; ``attempt``: which of a repeat's is to stay (the last: −1)."""

    snag: Snag
    do: Do
    attempt: int = -1


def decided(decisions: Sequence[Decision], name: str = "") -> Tidy:
    """All decisions as one edit. Raises BadInput where something cannot be done about a snag."""
    cuts: list[SpanToCut] = []
    covers: list[SpanToCover] = []
    levels: list[SpanToLevel] = []
    restores: list[int] = []
    keep: list[Kept] = []
    for one in decisions:
        snag = one.snag
        if one.do not in snag.choices:
            raise BadInput(
                f"A {KINDS[snag.kind].one} cannot be settled like that. Nothing was changed."
            )
        length = snag.end - snag.start
        if one.do == "keep":
            keep.append(kept(snag))
        elif one.do == "cover":
            covers.append(SpanToCover(track=snag.track, start=snag.start, frames=length))
        elif one.do == "level":
            by_db = -snag.by_db
            levels.append(
                SpanToLevel(track=snag.track, start=snag.start, frames=length, by_db=by_db)
            )
        elif one.do == "restore":
            restores.append(snag.number)
        else:
            spans = KINDS[snag.kind].cuts(snag, one.do, one.attempt)
            cuts.extend(_span(start, end) for start, end in spans)
    return Tidy(
        cuts=tuple(cuts),
        covers=tuple(covers),
        levels=tuple(levels),
        restores=tuple(dict.fromkeys(restores)),
        keep=tuple(keep),
        name=name or _name(decisions),
    )


def _span(start: int, end: int) -> SpanToCut:
    return SpanToCut(start=start, frames=end - start)


_DONE = {
    "cut": "Cut",
    "trim": "Trimmed",
    "cover": "Covered",
    "level": "Evened out",
    "restore": "Put back",
    "keep": "Kept",
}


def _name(decisions: Sequence[Decision]) -> str:
    """“Cut 4 fillers”, or the number where it is of several kinds."""
    kinds = {d.snag.kind for d in decisions}
    done = {d.do for d in decisions}
    count = len(decisions)
    what = "snags" if count != 1 else "snag"
    if len(kinds) == 1:
        kind = KINDS[next(iter(kinds))]
        what = kind.one if count == 1 else kind.many
    verb = _DONE[next(iter(done))] if len(done) == 1 else "Settled"
    if count == 1 and len(kinds) == 1:
        return f"{verb} a {what}" if what != "long air" else f"{verb} long air"
    return f"{verb} {count} {what}"


def coverable(edit: Tidy, sources: Sources) -> Tidy:
    """The same with its room tones, and without what would be covered where none is known: in a
    whole pass, that is no reason to settle nothing."""
    covers = []
    for one in edit.covers:
        track = sources.timeline.track(one.track)
        tone = one.tone or known_tone(sources, track, one.start, one.start + one.frames)
        if tone is not None:
            covers.append(one.model_copy(update={"tone": tone}))
    return edit.model_copy(update={"covers": tuple(covers)})


@dataclass(frozen=True, slots=True)
class _Pass:
    """How far a whole pass goes: which air counts as long, and how much of it is left."""

    longest_air_s: float
    pause_s: float


_PASSES = {
    "gentle": _Pass(longest_air_s=1.5, pause_s=0.8),
    "close": _Pass(longest_air_s=1.0, pause_s=0.5),
}


@dataclass(frozen=True, slots=True)
class Proposal:
    """A whole pass: the edit, how long the episode is after it, how many of each kind it settles,
    and how many pauses it shortens."""

    edit: Tidy
    frames: int
    counts: dict[str, int]
    pauses: int


def tidy(talk: Talk, snags: Sequence[Snag], how: How) -> Proposal:
    """What tidying gently, or closely, would do. What is kept stays kept.

    Fillers, first attempts and noises go; pauses beyond a limit are brought to a natural length
    (0.8 s gently, 0.5 s closely; common practice: 0.4 to 0.8 s); closely, breaths that stand out
    are covered and the softer ones stay.
    """
    limits = _PASSES[how]
    pause = round(limits.pause_s * FRAME_RATE)
    chosen = [
        Decision(snag, snag.does)
        for snag in snags
        if not snag.kept and snag.does != "keep" and _goes(snag, how)
    ]
    whole = [d.snag for d in chosen if d.snag.kind == "repeat"]
    gone = sorted(
        (d.snag.start, d.snag.end) for d in chosen if d.do == "cut" and d.snag.kind != "repeat"
    )
    stay = [(s.start, s.end) for s in snags if s.kept and s.kind in ("air", "filler", "noise")]
    attempts = merged((snag.cut_start, snag.cut_end) for snag in whole)
    cuts = list(attempts)
    pauses = 0
    longest = round(limits.longest_air_s * FRAME_RATE)
    for before, after in _pauses(talk, stay, [*attempts, *gone]):
        inside = _touched(gone, before, after)
        again = _touched(attempts, before, after)
        left = after - before - sum(min(b, after) - max(a, before) for a, b in again)
        if inside:
            cuts.append(closed_up(before, inside[0][0], inside[-1][1], after, pause))
        elif left > longest:
            keep = left_of_air(before, after, pause, talk.timeline.frames)
            if again:  # what is left of the pause lies before the attempt that goes
                cuts.append((min(before + keep, again[0][0]), again[-1][1]))
            else:
                cuts.append(trimmed_air(before, after, keep, talk.timeline.frames))
            pauses += 1
    # Under music there is no pause to be brought to a length, but what is chosen goes all the same.
    spans = merged(cuts)
    covers = [d for d in chosen if d.do == "cover" and not _within(d.snag.start, spans)]
    for one in chosen:
        if one.do == "cut" and not _touched(spans, one.snag.start, one.snag.end):
            if "cover" in one.snag.choices and _skips(talk.timeline, one.snag):
                covers.append(Decision(one.snag, "cover"))
            else:
                cuts.append((one.snag.cut_start, one.snag.cut_end))
    spans = merged(cuts)
    counts: dict[str, int] = {}
    for one in chosen:
        counts[one.snag.kind] = counts.get(one.snag.kind, 0) + 1
    edit = Tidy(
        cuts=tuple(_span(a, b) for a, b in spans),
        covers=decided(covers).covers,
        name="Tidied gently" if how == "gentle" else "Tidied closely",
    )
    after_it = talk.timeline.frames - sum(b - a for a, b in spans)
    return Proposal(edit, after_it, counts, pauses)


def _skips(timeline: Timeline, snag: Snag) -> bool:
    """Whether a cut would let music skip: such as follows the talk is laid anew, and does not."""
    return any(
        track.kind == "music" and not track.held and track.clips.between(snag.start, snag.end)
        for track in timeline.tracks
    )


def _goes(snag: Snag, how: How) -> bool:
    """Whether a whole pass is sure enough of a snag to settle it."""
    kind = KINDS[snag.kind]
    least = kind.gentle if how == "gentle" else kind.close
    return least is not None and snag.confidence >= least


def _pauses(
    talk: Talk, stay: Sequence[tuple[int, int]], leaving: Sequence[tuple[int, int]]
) -> list[tuple[int, int]]:
    """Stretches in which nobody would speak any more, and nothing else sounds."""
    leaving = merged(leaving)
    kept = [(w.start, w.end) for w in talk.words if not _within((w.start + w.end) // 2, leaving)]
    if not kept:
        return []
    out = []
    reached = 0
    for start, end in merged([*kept, *talk.besides, *stay]):
        if start > reached:
            out.append((reached, start))
        reached = max(reached, end)
    if talk.timeline.frames > reached:
        out.append((reached, talk.timeline.frames))
    return out


def _within(frame: int, spans: Sequence[tuple[int, int]]) -> bool:
    """Whether a frame lies in one of the spans, which are in order and do not overlap."""
    index = bisect.bisect_right(spans, frame, key=lambda span: span[0]) - 1
    return index >= 0 and frame < spans[index][1]


def _touched(spans: Sequence[tuple[int, int]], start: int, end: int) -> Sequence[tuple[int, int]]:
    """The spans, in order, that lie in another at least in part."""
    first = bisect.bisect_right(spans, start, key=lambda span: span[1])
    last = bisect.bisect_left(spans, end, key=lambda span: span[0])
    return spans[first:last]
