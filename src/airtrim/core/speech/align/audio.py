"""The audio of a phrase, and what is known of each of its hops."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.speech import HOP, HOP_S
from airtrim.core.speech.voice import Voice
from airtrim.core.timeline.snap import runs
from airtrim.core.timeline.words import Word

HOP_FRAMES = round(FRAME_RATE * HOP_S)
"""A hop in frames of the take."""

APART_HOPS = 10
"""Quiet of this length parts what is said before it from what is said after it."""


@dataclass(frozen=True, slots=True)
class EdgeLimits:
    """Where a word's sound may begin and end, in hops.

    Tuned on made speech with known edges (``bench/speech``).
    """

    beside: int = 30
    """The most quiet that is given to a phrase at either end: faint words begin in it."""
    least_beside: int = 10
    """The least, however soon something else sounds."""
    release_after: int = 12
    """How soon after a word its last sound (the release of a “t”) may come."""
    shortest_release: int = 3
    longest_release: int = 25
    """How long such a sound is, where it is no voice."""
    longest_syllable: int = 40
    """How long it is where it is one."""
    rest: int = 25
    """How far a filler's hum is followed."""


EDGES = EdgeLimits()
_LEAST_VOICED_IN_SYLLABLE = 0.1
"""How much of a faint syllable is a voice (0–1)."""


@dataclass(frozen=True, slots=True)
class PhraseAudio:
    """Mono samples at 16 kHz, and for every hop whether it is ``loud`` or ``faint`` and how much of
    a ``voice`` it is."""

    samples: NDArray[np.float32]
    loud: NDArray[np.bool_]
    faint: NDArray[np.bool_]
    voice: Voice
    first_frame: int

    def frame(self, hop: int) -> int:
        """A hop as a frame of the take."""
        return self.first_frame + hop * HOP_FRAMES

    def hop(self, frame: int) -> int:
        """A frame of the take as a hop."""
        return (frame - self.first_frame) // HOP_FRAMES

    def hops(self, start: int, end: int) -> NDArray[np.float32]:
        """The samples between two hops."""
        return self.samples[start * HOP : end * HOP]

    def part(self, start: int, end: int) -> "PhraseAudio":
        """The same between two hops."""
        voice = self.voice.part(start, end)
        loud, faint = self.loud[start:end], self.faint[start:end]
        return PhraseAudio(self.hops(start, end), loud, faint, voice, self.frame(start))

    def with_room(self, start: int, end: int) -> tuple[int, int]:
        """A span with some of the quiet around it, in which faint words begin and end: half of what
        lies before what else sounds, if that is not too little."""
        before, after = np.flatnonzero(self.loud[:start]), np.flatnonzero(self.loud[end:])
        quiet_before = start - int(before[-1]) - 1 if len(before) else 2 * EDGES.beside
        quiet_after = int(after[0]) if len(after) else 2 * EDGES.beside
        low, high = (
            min(EDGES.beside, max(EDGES.least_beside, quiet // 2))
            for quiet in (quiet_before, quiet_after)
        )
        return max(0, start - low), end + high

    def with_faint(self, start: int, end: int) -> tuple[int, int]:
        """A span without silence at either end, but with the faint beginning and end that the sound
        has within it."""
        low, high = trimmed(self.loud, start, end)
        rest = np.flatnonzero(self.faint[high:end])
        return rising(self.faint, low, start), high + int(rest[-1]) + 1 if len(rest) else high

    def released(self, end: int, most: int) -> int:
        """An end with what sounds after it once more, as the release of a “t” or a faint syllable,
        if that begins and is over soon and quiet follows."""
        for first, last in runs(
            self.faint[end:most][: EDGES.release_after + EDGES.longest_syllable]
        ):
            start, after = end + first, end + last
            voiced = self.voice.voiced(start, after) >= _LEAST_VOICED_IN_SYLLABLE
            longest = EDGES.longest_syllable if voiced else EDGES.longest_release
            soon = (
                first <= EDGES.release_after and EDGES.shortest_release <= last - first <= longest
            )
            if soon and after + APART_HOPS <= most and not self.faint[after:][:APART_HOPS].any():
                return after
        return end

    def with_voice(self, words: list[Word], begin: int) -> list[Word]:
        """Words found after a hop: one after a pause begins with the voice."""
        ordered = sorted(words, key=lambda word: word.start)
        ends = [begin, *(self.hop(word.end) for word in ordered)]
        out = []
        for i, word in enumerate(ordered):
            start = low = self.hop(word.start)
            least = max(ends[i], start - EDGES.rest)
            while low > least and self.loud[low - 1] and self.voice.voiced(low - 1, low):
                low -= 1
            out.append(replace(word, start=self.frame(low)) if ends[i] < low < start else word)
        return out


def trimmed(loud: NDArray[np.bool_], start: int, end: int) -> tuple[int, int]:
    """A span without silence at either end; unchanged where all of it is silent."""
    inside = np.flatnonzero(loud[start:end])
    return (start + int(inside[0]), start + int(inside[-1]) + 1) if len(inside) else (start, end)


def rising(faint: NDArray[np.bool_], start: int, least: int) -> int:
    """A beginning with the faint sound right before it, from ``least`` on."""
    while start > least and faint[start - 1]:
        start -= 1
    return start


def fading(faint: NDArray[np.bool_], end: int, most: int) -> int:
    """An end with the faint sound right after it, up to ``most``."""
    while end < min(most, len(faint)) and faint[end]:
        end += 1
    return end


def quietest(sound: NDArray[np.float32], start: int, end: int) -> int:
    """The quietest hop of a span."""
    power = np.square(sound[start * HOP : end * HOP]).reshape(-1, HOP).sum(axis=1)
    return start + int(power.argmin())
