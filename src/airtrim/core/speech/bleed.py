"""Words that a microphone hears faintly from somebody who speaks at another one.

Where two people sit in one room each is heard at both microphones, and the recogniser writes down
what it hears twice. At the microphone of the other the same words come ten and more decibels softer
than what is said there (common practice: three times as far from the other as from the speaker).
Each microphone is held against its own speech: how far it was turned up makes no difference.
"""

from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher

import numpy as np

from airtrim.core.timeline.finding import plain
from airtrim.core.timeline.words import Word

Level = Callable[[int, int], float]
"""``level(start, end)``: of a take between two of its frames, in dBFS."""


@dataclass(frozen=True, slots=True)
class BleedLimits:
    """From when a word is another's. Tuned on a made talk of the demo's two voices."""

    softer_db: float = 6.0
    """So much softer than at the other microphone, each beside its own speech, where the same is
    written there."""
    much_softer_db: float = 15.0
    """The same where something else is written there: what is faint is often misheard."""
    least_over: float = 0.5
    """How much of a word has to lie under what is said at the other (0–1)."""
    alike: float = 0.6
    most_levels: int = 200
    """By so many words, from all over, is told how loud a take's own speech is."""


LIMITS = BleedLimits()


def bled(words: Sequence[Word], own: Level, others: Sequence[Word], other: Level) -> set[int]:
    """The numbers of those ``words`` that somebody else said at another microphone: they lie under
    ``others``, in frames of the same take, and are softer here (``own``) than there (``other``),
    each beside its own speech. Where nobody speaks at this microphone at all, none."""
    if not words or not others:
        return set()
    apart = _speech(others, other) - _speech(words, own)
    ends = [word.end for word in others]
    found = set()
    for number, word in enumerate(words):
        index = bisect_left(ends, word.start)
        over, same = 0, False
        while index < len(others) and others[index].start < word.end:
            said = others[index]
            over += max(0, min(word.end, said.end) - max(word.start, said.start))
            same = same or _alike(word.text, said.text)
            index += 1
        if over < LIMITS.least_over * (word.end - word.start):
            continue
        softer = other(word.start, word.end) - own(word.start, word.end) - apart
        if softer >= (LIMITS.softer_db if same else LIMITS.much_softer_db):
            found.add(number)
    return found


def _speech(words: Sequence[Word], level: Level) -> float:
    """How loud the louder words of a take are."""
    every = -(-len(words) // LIMITS.most_levels)
    return float(np.percentile([level(word.start, word.end) for word in words[::every]], 90))


def _alike(one: str, other: str) -> bool:
    a, b = plain(one), plain(other)
    return a == b or SequenceMatcher(None, a, b).ratio() >= LIMITS.alike
