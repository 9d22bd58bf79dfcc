"""What is said twice and written once: found by its sound, and heard again in two halves.

A recogniser is trained on tidy transcripts. Of "it belongs to, it belongs to my cousin" it often
writes one; its encoder hears both, and hears them alike. Where a stretch of sound comes again soon
and the words do not, what lies before and what lies after the place between is heard by itself:
neither half says anything twice. What is written then stands only where it tells the same words on
both sides.
"""

import bisect
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from airtrim.core.speech import HOP_S, MODEL_RATE, frame_at
from airtrim.core.speech.edges import drawn_to_sound
from airtrim.core.speech.fillers import FRAME_S
from airtrim.core.timeline.finding import plain
from airtrim.core.timeline.snap import runs
from airtrim.core.timeline.words import Word, middle

Hear = Callable[[NDArray[np.float32], int], list[Word]]
"""Words of mono sound at 16 kHz that begins at a frame of its take."""

_BLOCK = 512
_HOPS = round(FRAME_S / HOP_S)


@dataclass(frozen=True, slots=True)
class TwiceLimits:
    """What counts as the same sound, and how much is heard again. Tuned on voices and texts that
    ``bench/`` does not have."""

    alike: float = 0.62
    """How alike the encoder's frames are on average (0–1), over ``least_s``."""
    least_s: float = 0.4
    soonest_s: float = 0.3
    latest_s: float = 3.6
    """How long after its beginning a stretch begins again."""
    pace: int = 2
    """So many frames the second may run ahead or behind."""
    break_frames: int = 5
    """Two stretches that lie no further apart, and come again as soon, are one."""
    pause_s: float = 0.15
    around_s: float = 7.0
    """What is heard again begins and ends at a pause, no further off than this."""
    near_s: float = 0.15
    """How far a stretch may begin or end from where it seems to."""
    far_s: float = 0.4
    """How far a word may lie from where it is heard: a recogniser's times are rough."""
    written_alike: float = 0.9
    """How alike the letters of what is written twice are (0–1)."""
    heard_alike: float = 0.6
    """The same of what is heard in halves, where the first is often broken off."""
    other_words: int = 2
    """So many words more or fewer may be heard than were written, but for those said twice."""
    most_per_minute: int = 6
    """How often something is heard again at the most: of a song everything comes again."""


LIMITS = TwiceLimits()


class Twice(NamedTuple):
    """From ``start_s`` to ``end_s`` something sounds that sounds again ``by_s`` later."""

    start_s: float
    end_s: float
    by_s: float


def said_twice(frames: NDArray[np.float32], loud: NDArray[np.bool_]) -> list[Twice]:
    """Stretches that come again soon, in order, by the encoder's ``frames`` (see ``encoded``) and
    by whether each 10 ms is ``loud``.

    >>> said_twice(np.zeros((0, 384), np.float32), np.zeros(0, np.bool_))
    []
    """
    count = min(len(frames), len(loud) // _HOPS)
    heard = np.asarray(loud[: count * _HOPS].reshape(-1, _HOPS).any(axis=1), np.bool_)
    if not heard.any():
        return []
    likeness = _likeness(frames[:count], heard)
    length = round(LIMITS.least_s / FRAME_S)
    if count <= length:
        return []
    summed = np.cumsum(np.pad(likeness, ((1, 0), (0, 0))), axis=0, dtype=np.float64)
    alike = (summed[length:] - summed[:-length]) / length
    first = round(LIMITS.soonest_s / FRAME_S)
    alike[:, :first] = 0.0
    best, by = alike.max(axis=1), alike.argmax(axis=1)
    spans: list[tuple[int, int, int]] = []
    for low, high in runs(best > LIMITS.alike):
        apart = int(by[low + int(best[low:high].argmax())])
        if spans:
            before, end, other = spans[-1]
            if low - end <= LIMITS.break_frames and abs(apart - other) <= LIMITS.break_frames:
                low, apart = before, other
                spans.pop()
        spans.append((low, min(high - 1 + length, low + apart), apart))
    return [Twice(*(FRAME_S * count for count in span)) for span in spans]


def _likeness(frames: NDArray[np.float32], heard: NDArray[np.bool_]) -> NDArray[np.float32]:
    """How like each frame is to those after it, shape ``(frames, latest)``; nothing is like
    silence."""
    own = frames - frames[heard].mean(axis=0)
    own /= np.linalg.norm(own, axis=1, keepdims=True) + 1e-9
    own[~heard] = 0.0
    latest = round(LIMITS.latest_s / FRAME_S) + LIMITS.pace
    padded = np.pad(own, ((0, _BLOCK + latest), (0, 0)))
    out = np.empty((len(own), latest), np.float32)
    for at in range(0, len(own), _BLOCK):
        some = min(_BLOCK, len(own) - at)
        each = own[at : at + some] @ padded[at : at + some + latest].T
        row, column = each.strides
        # The diagonals of each block: a frame beside the one so many later.
        out[at : at + some] = np.lib.stride_tricks.as_strided(
            each, (some, latest), (row + column, column)
        )
    return np.asarray(maximum_filter1d(out, 2 * LIMITS.pace + 1, axis=1), np.float32)


def heard_apart(
    words: list[Word],
    sound: NDArray[np.float32],
    at: int,
    loud: NDArray[np.bool_],
    found: Sequence[Twice],
    hear: Hear,
) -> list[Word]:
    """The recogniser's ``words`` of mono ``sound`` at 16 kHz, which begins at frame ``at`` of its
    take, with what it wrote once although it is ``found`` twice; ``loud`` as from ``sounding``."""
    out, drawn = list(words), drawn_to_sound(words, loud, at)
    pauses = [(a, b) for a, b in runs(~loud) if (b - a) * HOP_S >= LIMITS.pause_s]
    left = math.ceil(len(loud) * HOP_S / 60 * LIMITS.most_per_minute)
    heard_to = 0.0
    for one in found:
        span = _between_pauses(one, pauses, len(loud) * HOP_S)
        if span is None or one.start_s < heard_to or not left:
            continue
        begin, _, end = (frame_at(edge, at) for edge in span)
        low, high = (bisect.bisect_left(drawn, edge, key=middle) for edge in (begin, end))
        if low == high or _told(drawn[low:high], one, at):
            continue
        left -= 1
        first, second = (
            hear(sound[round(a * MODEL_RATE) : round(b * MODEL_RATE)], frame_at(a, at))
            for a, b in pairwise(span)
        )
        count = _same(first, second, one, at)
        more = len(first) + len(second) - count - (high - low)
        if count and abs(more) <= LIMITS.other_words:
            out[low:high] = [*_written_alike(first, second[:count]), *second]
            drawn = drawn_to_sound(out, loud, at)
            heard_to = span[2]
    return out


def _between_pauses(
    one: Twice, pauses: Sequence[tuple[int, int]], whole_s: float
) -> tuple[float, float, float] | None:
    """Where what is heard again begins, is parted and ends, in seconds: in the middle of pauses,
    parted where the second begins if there is none; None where they are too far away."""
    middles = [(a + b) / 2 * HOP_S for a, b in pauses]
    again = one.start_s + one.by_s
    begin = max((m for m in middles if m <= one.start_s + LIMITS.near_s), default=0.0)
    end = min((m for m in middles if m >= again + one.end_s - one.start_s), default=whole_s)
    within = [m for m in middles if one.end_s - LIMITS.near_s <= m <= again + LIMITS.near_s]
    between = max(within, default=max(one.end_s, again - HOP_S))
    far = one.start_s - begin > LIMITS.around_s or end - again > LIMITS.around_s
    return None if far or between - begin < LIMITS.pause_s else (begin, between, end)


def _told(words: Sequence[Word], one: Twice, at: int) -> bool:
    """Whether the words tell that something is said twice there."""
    first, second = (
        [i for i, word in enumerate(words) if abs(word.start - start) <= frame_at(LIMITS.far_s, 0)]
        for start in (frame_at(one.start_s, at), frame_at(one.start_s + one.by_s, at))
    )
    stop = bisect.bisect_left(words, frame_at(one.end_s, at), key=middle)
    return any(
        _spelt_alike(words[i:stop], words[j : j + stop - i]) >= LIMITS.written_alike
        for i in first
        for j in second
        if i < stop <= j
    )


def _same(first: list[Word], second: list[Word], one: Twice, at: int) -> int:
    """How many words at the end of the first half are how the second begins; 0 where they are not
    the same."""
    least = frame_at(one.start_s - LIMITS.far_s, at)
    counts = range(1, min(len(first), len(second)) + 1)
    likeness = {
        n: _spelt_alike(first[-n:], second[:n]) for n in counts if middle(first[-n]) >= least
    }
    best = max(likeness, key=likeness.__getitem__, default=0)
    return best if likeness.get(best, 0.0) >= LIMITS.heard_alike else 0


def _written_alike(first: list[Word], again: list[Word]) -> list[Word]:
    """The first half with its end written as it is ``again``: what is broken off is heard wrong."""
    rest = first[-len(again) :]
    alike = [replace(a, text=b.text.rstrip(".,")) for a, b in zip(rest, again, strict=True)]
    return [*first[: -len(again)], *alike]


def _spelt_alike(first: Sequence[Word], second: Sequence[Word]) -> float:
    """How alike the letters of words are (0–1)."""
    a, b = (" ".join(plain(word.text) for word in words) for words in (first, second))
    return SequenceMatcher(None, a, b).ratio() if a and b else 0.0
