"""Whether a sound is a filler: a voice, held on one sound, neither too short nor too long."""

from dataclasses import dataclass

from airtrim.core.speech.align.audio import APART_HOPS, PhraseAudio
from airtrim.core.speech.align.grammar import Segment
from airtrim.core.timeline.words import Word

NEAR_HOPS = 60
"""How far beside its sound the recogniser may have written a filler."""


@dataclass(frozen=True, slots=True)
class FillerLimits:
    """What a filler's sound is like; lengths are in hops of 10 ms.

    Tuned on made speech with known fillers (``bench/speech``), judged on voices tuning never saw.
    """

    shortest: int = 13
    shortest_first: int = 18
    """With which a phrase begins: it may be the beginning of a word."""
    shortest_hinted: int = 8
    """Between two pauses, where the recogniser wrote one, too."""
    longest: int = 120
    longest_alone: int = 70
    """Between two pauses: what goes on for longer is something that is said."""
    least_voiced: float = 0.6
    """How much of it is a voice (0–1)."""
    most_change_db: float = 2.4
    """How much its spectrum moves from hop to hop."""
    most_change_alone_db: float = 3.0
    more_change_db: float = 0.05
    """How much more a long one may move, for each hop over ``long``."""
    long: int = 20


LIMITS = FillerLimits()


def as_filler(
    audio: PhraseAudio, segment: Segment, *, alone: bool, steady: bool = True
) -> Word | None:
    """What the grammar took for a filler, if it is one: long enough, and a voice, if ``steady`` one
    held on one sound; ``alone``: between two pauses."""
    start, end = audio.trimmed(segment.start, segment.end)
    length = end - start
    hinted = any(start - NEAR_HOPS <= hint <= end + NEAR_HOPS for hint in audio.hints)
    first = not alone and not audio.faint[max(0, start - 2 * APART_HOPS) : start - 2].any()
    least = LIMITS.shortest_first if first else LIMITS.shortest
    if hinted and alone:
        least = LIMITS.shortest_hinted
    if length < least or length > (LIMITS.longest_alone if alone else LIMITS.longest):
        return None
    most_db = LIMITS.most_change_alone_db if alone else LIMITS.most_change_db
    most_db += LIMITS.more_change_db * max(0, length - LIMITS.long)
    voiced, change_db = audio.voice.voiced(start, end), audio.voice.change(start, end)
    if voiced < LIMITS.least_voiced or (steady and change_db > most_db):
        return None
    sure = min(0.99, 0.4 + length / 100 + (0.2 if hinted else 0.0) + (0.1 if alone else 0.0))
    start, end = audio.with_faint(segment.start, segment.end)
    return Word(segment.text, audio.frame(start), audio.frame(end), "filler", round(sure, 2))
