"""Which words of two texts are the same, in time that grows with their length.

Runs of three words that stand once in either text are anchors (patience diff, Bram Cohen, common
practice for files of code); between them texts are compared as texts are, by longest matching runs
(difflib), in parts that are small enough for it.
"""

from bisect import bisect_left
from collections.abc import Callable, Iterator, Sequence
from difflib import SequenceMatcher
from itertools import pairwise

_RUN = 3
_WHOLE = 4_000_000
"""Up to so many pairs of words, all is compared at once."""
_PART = 1_000_000
"""A part between anchors with more pairs is left uncompared: two texts that share nothing there, or
nothing but the same few words."""


def matching_pairs(
    a: Sequence[str], b: Sequence[str], check: Callable[[], None] = lambda: None
) -> list[tuple[int, int]]:
    """Places ``(i, j)`` in both texts, rising in both, where ``a[i] == b[j]``.

    ``check`` is called between parts; what it raises ends the work.

    >>> matching_pairs(["we", "leave", "at", "six"], ["we", "left", "at", "six"])
    [(0, 0), (2, 2), (3, 3)]
    """
    if len(a) * len(b) <= _WHOLE:
        return list(_compared(a, b, 0, 0))
    out: list[tuple[int, int]] = []
    anchors = [(0, 0), *_anchors(a, b), (len(a), len(b))]
    for (i, j), (next_i, next_j) in pairwise(anchors):
        check()
        if (next_i - i) * (next_j - j) <= _PART:
            out += _compared(a[i:next_i], b[j:next_j], i, j)
    return out


def _compared(a: Sequence[str], b: Sequence[str], i: int, j: int) -> Iterator[tuple[int, int]]:
    for block in SequenceMatcher(None, a, b, autojunk=False).get_matching_blocks():
        for step in range(block.size):
            yield i + block.a + step, j + block.b + step


def _anchors(a: Sequence[str], b: Sequence[str]) -> list[tuple[int, int]]:
    """Places of runs that stand once in each, the most that rise in both."""
    in_b = _once(b)
    pairs = [(i, in_b[run]) for run, i in _once(a).items() if run in in_b]
    tails: list[int] = []
    last: list[int] = []
    before: list[int] = []
    for index, (_, j) in enumerate(pairs):
        place = bisect_left(tails, j)
        tails[place : place + 1] = [j]
        last[place : place + 1] = [index]
        before.append(last[place - 1] if place else -1)
    out = []
    at = last[-1] if last else -1
    while at >= 0:
        out.append(pairs[at])
        at = before[at]
    return out[::-1]


def _once(words: Sequence[str]) -> dict[tuple[str, ...], int]:
    """Where each run that stands once stands, in order."""
    found: dict[tuple[str, ...], int] = {}
    for place in range(len(words) - _RUN + 1):
        run = tuple(words[place : place + _RUN])
        found[run] = -1 if run in found else place
    return {run: place for run, place in found.items() if place >= 0}
