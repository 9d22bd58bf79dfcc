"""A recording divided into phrases: spans between pauses, each to be aligned by itself."""

import bisect
from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.audio import APART_HOPS, HOP_FRAMES, PhraseAudio
from airtrim.core.speech.align.fillers import quieted
from airtrim.core.speech.align.swallowed import LIMITS as SWALLOWED
from airtrim.core.speech.edges import drawn_to_sound, faintly_sounding, sounding
from airtrim.core.speech.fillers import Filler
from airtrim.core.speech.voice import voice_of
from airtrim.core.timeline.finding import plain
from airtrim.core.timeline.snap import runs
from airtrim.core.timeline.words import Word, middle


@dataclass(frozen=True, slots=True)
class PhraseLimits:
    """How a recording is divided; lengths are in hops of 10 ms."""

    shortest_island: int = 8
    """What sounds for less is none, and a gap that is shorter is none."""
    pause: int = 80
    """Two phrases are parted at every pause of this length."""
    longest: int = 700
    """A longer one is parted at a shorter pause, too."""
    longest_joined: int = 1200
    short_island: int = 70
    beside_short: int = 60
    """A pause beside a short island counts for so much less: a filler alone between two pauses
    belongs to what is said around it."""
    around: int = 100
    """How much of what is around it a phrase knows."""
    short_letters: int = 4
    doubt: float = 0.6
    """A word of so many letters, or of which the recogniser is less sure than this (0–1), may have
    been written for a filler."""
    sure: float = 0.8
    sure_letters: int = 3
    """One of at least so many letters, of which it is surer than this, is there, if what sounds as
    a filler is short enough to be part of a word."""
    near_s: float = 0.1
    """How far beside its sound the recogniser may have it."""


LIMITS = PhraseLimits()


@dataclass(frozen=True, slots=True)
class Phrase:
    """A span between pauses: its words, the audio there and around it, its hops in that, and the
    numbers of the words that may be none: the recogniser wrote them for a filler."""

    words: list[Word]
    audio: PhraseAudio
    start: int
    end: int
    doubtful: frozenset[int] = frozenset()

    @property
    def mark(self) -> Hashable:
        """The same for phrases that are aligned alike."""
        sound = hash(self.audio.samples.tobytes())
        return (sound, self.start, self.end, tuple(self.words), self.doubtful)

    def halves(self) -> "list[Phrase]":
        """The same in two parts, parted at its longest pause; nothing where it has none."""
        pauses = [
            (b - a, a, b) for (_, a), (b, _) in pairwise(self._islands()) if b - a >= APART_HOPS
        ]
        if not pauses:
            return []
        _, before, after = max(pauses)
        middle = self.audio.frame((before + after) // 2)
        count = sum(word.start + word.end < 2 * middle for word in self.words)
        later = frozenset(index - count for index in self.doubtful if index >= count)
        return [
            Phrase(self.words[:count], self.audio, self.start, before, self.doubtful - later),
            Phrase(self.words[count:], self.audio, after, self.end, later),
        ]

    def _islands(self) -> list[tuple[int, int]]:
        """Where there is sound in it, in hops."""
        return [
            (a + self.start, b + self.start)
            for a, b in islands_of(self.audio.loud[self.start : self.end])
        ]


def phrases(
    words: Sequence[Word],
    samples: NDArray[np.float32],
    first_frame: int,
    fillers: Sequence[Filler] = (),
) -> Iterator[Phrase]:
    """``words`` of mono ``samples`` at 16 kHz, which begin at ``first_frame`` of a take, phrase by
    phrase, so that several processes can share what an ``Aligner`` does. Where ``fillers`` are it
    is taken to be quiet, and a short word that the recogniser has there may be none."""
    quiet = quieted(samples, fillers)
    loud, faint = sounding(quiet, MODEL_RATE), faintly_sounding(quiet, MODEL_RATE)
    audio = PhraseAudio(quiet, loud, faint, voice_of(quiet), first_frame)
    spoken = [word for word in words if word.kind != "filler"]
    there = [one.frames(first_frame) for one in fillers]
    doubtful = [_may_be_filler(word, there) for word in spoken]
    place = 0
    for start, end, own in _divided(drawn_to_sound(spoken, loud, first_frame), loud, first_frame):
        if own:
            low = max(0, start - LIMITS.around)
            around = audio.part(low, end + LIMITS.around)
            marked = frozenset(i for i in range(len(own)) if doubtful[place + i])
            yield Phrase(own, around, start - low, end - low, marked)
        place += len(own)


def _may_be_filler(word: Word, fillers: Sequence[tuple[int, int]]) -> bool:
    """Whether a word is a short or unsure one that the recogniser has mostly where a filler is."""
    letters = len(plain(word.text))
    if letters > LIMITS.short_letters and word.confidence > LIMITS.doubt:
        return False
    near = round(LIMITS.near_s * FRAME_RATE)
    sure = letters >= LIMITS.sure_letters and word.confidence > LIMITS.sure
    longest = SWALLOWED.longest_s * FRAME_RATE
    over = (
        min(word.end, end + near) - max(word.start, start - near)
        for start, end in fillers
        if not (sure and end - start < longest)
    )
    return max(over, default=0) > (word.end - word.start) / 2


def islands_of(loud: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where there is sound, from hop to hop; what is over at once is none.

    >>> loud = np.zeros(60, np.bool_)
    >>> loud[5:20] = loud[24:40] = loud[55:58] = True
    >>> islands_of(loud)
    [(5, 40)]
    """
    joined: list[tuple[int, int]] = []
    for start, end in runs(loud):
        if joined and start - joined[-1][1] < LIMITS.shortest_island:
            joined[-1] = joined[-1][0], end
        else:
            joined.append((start, end))
    return [(a, b) for a, b in joined if b - a >= LIMITS.shortest_island]


def _divided(
    words: list[Word], loud: NDArray[np.bool_], first_frame: int
) -> Iterator[tuple[int, int, list[Word]]]:
    """Spans between pauses, in hops, and the words in each."""
    spans = _joined_at_doubtful_words(_parted(islands_of(loud)), words, first_frame)
    middles = [_middle_hop(word, first_frame) for word in words]
    place = 0
    for index, (start, end) in enumerate(spans):
        # A word in the pause goes to whichever phrase is nearer.
        reach = (end + spans[index + 1][0]) // 2 if index + 1 < len(spans) else len(loud) + 1
        own = []
        while place < len(words) and middles[place] < reach:
            own.append(words[place])
            place += 1
        yield start, end, own
    if place < len(words):
        yield len(loud), len(loud), words[place:]


def _parted(islands: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Islands of sound joined into spans to be aligned at once: parted at every long pause, and
    otherwise where they would be too long, at the longest pause that counts."""
    if not islands:
        return []
    gaps = [b[0] - a[1] for a, b in pairwise(islands)]
    short = [end - start < LIMITS.short_island for start, end in islands]
    worth = [
        gap - (LIMITS.beside_short if short[i] or short[i + 1] else 0) for i, gap in enumerate(gaps)
    ]
    start, end = islands[0][0], islands[-1][1]
    best = max(range(len(worth)), key=worth.__getitem__, default=None)
    if best is None or (end - start <= LIMITS.longest and gaps[best] < LIMITS.pause):
        return [(start, end)]
    return _parted(islands[: best + 1]) + _parted(islands[best + 1 :])


def _joined_at_doubtful_words(
    spans: list[tuple[int, int]], words: list[Word], first_frame: int
) -> list[tuple[int, int]]:
    """Spans with those joined between which a word stands whose place is in doubt: the recogniser
    gives it sound before and after the pause, as when it writes no filler there."""
    starts = [word.start for word in words]
    out = spans[:1]
    for start, end in spans[1:]:
        before, low = out[-1]
        frame = first_frame + low * HOP_FRAMES
        index = bisect.bisect_left(starts, frame) - 1
        over = index >= 0 and words[index].end > first_frame + start * HOP_FRAMES
        if over and end - before <= LIMITS.longest_joined:
            out[-1] = before, end
        else:
            out.append((start, end))
    return out


def _middle_hop(word: Word, first_frame: int) -> int:
    return (middle(word) - first_frame) // HOP_FRAMES
