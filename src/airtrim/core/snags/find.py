"""Every snag of an episode, read off its words and what sounds in its takes.

A snag is known by where it is in a take, so it is the same one whatever else is edited; what the
host has decided to keep is found again when words or sounds are looked for anew.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from airtrim.core.snags.base import Snag
from airtrim.core.snags.kinds import KINDS
from airtrim.core.snags.listen import Listened
from airtrim.core.snags.talk import talk_of
from airtrim.core.timeline.model import Kept, Timeline
from airtrim.core.timeline.words import TakeWords


def find_snags(
    timeline: Timeline, words: TakeWords, listened: Mapping[str, Listened]
) -> tuple[Snag, ...]:
    """All snags of an episode, in order of time. ``listened`` holds what sounds in each take;
    takes that were not listened to have their words' snags only."""
    talk = talk_of(timeline, words)
    found = [snag for kind in KINDS.values() for snag in kind.find(talk, listened)]
    times: dict[str, int] = {}
    out = []
    for snag in sorted(_not_twice(found), key=lambda s: (s.start, s.end)):
        copy = times.get(snag.id, 0)
        times[snag.id] = copy + 1
        stays = bool(keeping(snag, timeline.kept))
        out.append(replace(snag, kept=stays, copy=copy) if copy or stays else snag)
    return tuple(out)


def kept(snag: Snag) -> Kept:
    """How the document remembers that a snag is to stay."""
    return Kept(snag.kind, snag.take, snag.take_start, snag.take_end)


def keeping(snag: Snag, decided: Sequence[Kept]) -> tuple[Kept, ...]:
    """The decisions by which a snag is to stay: most of it lies where one was kept."""
    return tuple(
        one
        for one in decided
        if one.kind == snag.kind
        and one.take == snag.take
        and 2 * (min(one.end, snag.take_end) - max(one.start, snag.take_start))
        >= min(one.end - one.start, snag.take_end - snag.take_start)
    )


def _not_twice(snags: list[Snag]) -> list[Snag]:
    """Without fillers that lie within an attempt that goes anyway."""
    going = [(s.track, s.cut_start, s.cut_end) for s in snags if s.kind == "repeat"]
    return [
        s
        for s in snags
        if s.kind not in ("filler", "breath", "air")
        or not any(t == s.track and a <= s.start and s.end <= b for t, a, b in going)
    ]
