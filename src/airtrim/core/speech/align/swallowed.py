"""Fillers that are none: the end of a word, or most of it.

An "m" that is held at the end of a word sounds as the end of an um does, and where a short word is
mostly one vowel, that is what an uh is. The words beside a short filler tell: if it was one, they
are there beside it.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from airtrim.core.media import FRAME_RATE
from airtrim.core.speech.align.fillers import kept_beside
from airtrim.core.speech.fillers import Filler
from airtrim.core.timeline.words import Word, middle

Phones = Callable[[str], list[str]]
"""The phones (CMUdict) that a word is said as; none where that is not known."""


@dataclass(frozen=True, slots=True)
class SwallowedLimits:
    """What is taken for part of a word. Tuned on voices kept from training."""

    longest_s: float = 0.24
    """A filler that is no shorter is one."""
    touching_s: float = 0.06
    """No further from the word than this."""
    phone_s: float = 0.03
    """A word needs so much for each phone: the aligner's models have three states of 10 ms."""
    least_phones: int = 3
    """Shorter words are often said in less."""


LIMITS = SwallowedLimits()


def parts_of_words(
    words: Sequence[Word], fillers: Sequence[Filler], first_frame: int, phones: Phones
) -> list[Filler]:
    """Those of ``fillers`` that are part of one of ``words``, which were aligned as if it were
    quiet where fillers are, in sound that begins at ``first_frame`` of a take.

    >>> said = {"gave": ["G", "EY", "V"], "him": ["HH", "IH", "M"]}
    >>> words = [Word("gave", 0, 9_600, "word", 1.0), Word("him", 16_800, 19_200, "word", 1.0)]
    >>> parts_of_words(words, [Filler(0.22, 0.35, 0.7, "um")], 0, said.__getitem__)
    [Filler(start_s=0.22, end_s=0.35, sure=0.7, text='um')]
    >>> parts_of_words(words, [Filler(0.22, 0.52, 0.7, "um")], 0, said.__getitem__)
    []
    """
    kept = kept_beside(words, fillers, first_frame)
    out = []
    for filler in fillers:
        if filler.end_s - filler.start_s >= LIMITS.longest_s:
            continue
        start, end = filler.frames(first_frame)
        reach = round(LIMITS.touching_s * FRAME_RATE)
        near = [w for w in kept if w.start < end + reach and w.end > start - reach]
        if any(_is_of(word, phones(word.text), filler.text, start) for word in near):
            out.append(filler)
    return out


def _is_of(word: Word, phones: list[str], filler: str, start: int) -> bool:
    """Whether a filler that begins at a frame is part of a word that it touches."""
    ends_in_m = filler == "um" and middle(word) < start and phones[-1:] == ["M"]
    needed_s = len(phones) * LIMITS.phone_s
    no_room = word.end - word.start < needed_s * FRAME_RATE
    return ends_in_m or (no_room and len(phones) >= LIMITS.least_phones)
