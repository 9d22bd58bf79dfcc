"""A recording divided into phrases: spans between pauses, each to be aligned by itself."""

import bisect
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.audio import APART_HOPS, HOP_FRAMES, PhraseAudio
from airtrim.core.speech.align.fillers import NEAR_HOPS, as_filler
from airtrim.core.speech.align.grammar import Segment
from airtrim.core.speech.edges import drawn_to_sound, faintly_sounding, sounding
from airtrim.core.speech.voice import voice_of
from airtrim.core.timeline.snap import runs
from airtrim.core.timeline.words import Word


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
    far: int = 1000
    """So far from any word there is no speech, whatever it sounds like."""


LIMITS = PhraseLimits()


@dataclass(frozen=True, slots=True)
class Phrase:
    """A span between pauses: its words, the audio there and around it, and its hops in that."""

    words: list[Word]
    audio: PhraseAudio
    start: int
    end: int

    def halves(self) -> "list[Phrase]":
        """The same in two parts, parted at its longest pause; nothing where it has none."""
        pauses = [
            (b - a, a, b) for (_, a), (b, _) in pairwise(self._islands()) if b - a >= APART_HOPS
        ]
        if not pauses:
            return []
        _, before, after = max(pauses)
        middle = self.audio.frame((before + after) // 2)
        first = [word for word in self.words if word.start + word.end < 2 * middle]
        rest = [word for word in self.words if word.start + word.end >= 2 * middle]
        return [
            Phrase(first, self.audio, self.start, before),
            Phrase(rest, self.audio, after, self.end),
        ]

    def uncovered_fillers(self, aligned: Sequence[Word]) -> list[Word]:
        """Fillers between two pauses that neither recogniser nor aligner wrote: what sounds there,
        and no word covers."""
        spans = [(self.audio.hop(word.start), self.audio.hop(word.end)) for word in aligned]
        out = []
        islands = self._islands()
        edges = [-LIMITS.far, *(edge for one in islands for edge in one), len(self.audio.loud)]
        for number, (start, end) in enumerate(islands):
            covered = sum(max(0, min(b, end) - max(a, start)) for a, b in spans)
            apart = start - edges[2 * number], edges[2 * number + 3] - end
            if covered > (end - start) // 4 or min(apart) < APART_HOPS:
                continue
            filler = as_filler(self.audio, Segment("uh", start, end), alone=True)
            if filler:
                out.append(filler)
        return out

    def _islands(self) -> list[tuple[int, int]]:
        """Where there is sound in it, in hops."""
        return [
            (a + self.start, b + self.start)
            for a, b in islands_of(self.audio.loud[self.start : self.end])
        ]


def phrases(
    words: Sequence[Word], samples: NDArray[np.float32], first_frame: int
) -> Iterator[Phrase]:
    """``words`` of mono ``samples`` at 16 kHz, which begin at ``first_frame`` of a take, phrase by
    phrase, so that several processes can share what an ``Aligner`` does."""
    loud = sounding(samples, MODEL_RATE)
    rough = drawn_to_sound(list(words), loud, first_frame)
    # Where the recogniser wrote a filler is a hint only: it is often beside its sound.
    hints = [_middle_hop(word, first_frame) for word in rough if word.kind == "filler"]
    faint = faintly_sounding(samples, MODEL_RATE)
    audio = PhraseAudio(samples, loud, faint, voice_of(samples), first_frame, hints)
    plain = [word for word in rough if word.kind != "filler"]
    middles = [_middle_hop(word, first_frame) for word in plain]
    for start, end, own in _divided(plain, loud, first_frame):
        if not own and not _any_between(middles, start - LIMITS.far, end + LIMITS.far):
            continue
        low = max(0, start - LIMITS.around)
        around = audio.part(low, end + LIMITS.around, NEAR_HOPS)
        yield Phrase(own, around, start - low, end - low)


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


def _any_between(places: list[int], low: int, high: int) -> bool:
    index = bisect.bisect_left(places, low)
    return index < len(places) and places[index] <= high


def _middle_hop(word: Word, first_frame: int) -> int:
    return ((word.start + word.end) // 2 - first_frame) // HOP_FRAMES
