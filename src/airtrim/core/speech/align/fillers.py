"""Fillers kept apart from words: words are aligned as if it were quiet where somebody hesitates."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from airtrim.core.speech import HOP, MODEL_RATE
from airtrim.core.speech.align.audio import EDGES, HOP_FRAMES, fading, quietest, rising
from airtrim.core.speech.edges import faintly_sounding, one_after_another
from airtrim.core.speech.fillers import Filler
from airtrim.core.timeline.words import Word

_FADE = 80
_ROOM_PERCENTILE = 10.0


def quieted(sound: NDArray[np.float32], fillers: Sequence[Filler]) -> NDArray[np.float32]:
    """Mono ``sound`` at 16 kHz with its fillers as faint as its room.

    >>> sound = np.concatenate([np.full(16_000, 0.001), np.full(3_200, 0.1)]).astype(np.float32)
    >>> out = quieted(sound, [Filler(1.0, 1.2, 0.9, "um")])
    >>> round(float(out[17_600]), 4), bool(np.allclose(out[:15_900], sound[:15_900]))
    (0.001, True)
    """
    if not fillers:
        return sound
    hops = np.square(sound[: len(sound) // HOP * HOP]).reshape(-1, HOP).mean(axis=1)
    room = float(np.sqrt(np.percentile(hops, _ROOM_PERCENTILE))) if len(hops) else 0.0
    gain = np.ones(len(sound), np.float32)
    for filler in fillers:
        low, high = (round(edge * MODEL_RATE) for edge in (filler.start_s, filler.end_s))
        level = float(np.sqrt(np.square(sound[low:high]).mean())) if high > low else 0.0
        gain[low:high] = min(1.0, room / level) if level else 1.0
    # Without a step at its edges, which would sound like a consonant.
    return np.asarray(sound * uniform_filter1d(gain, _FADE, mode="nearest"), np.float32)


def with_fillers(
    words: list[Word], fillers: Sequence[Filler], sound: NDArray[np.float32], first_frame: int
) -> list[Word]:
    """Aligned words of mono ``sound`` at 16 kHz, which begins at ``first_frame`` of a take, and its
    fillers, each with the rest of the sound that it stands in: its hum dies away, and what would be
    left of it is audible. Where that goes on to the word beside it, the edge lies where it is
    quietest between the two."""
    faint = faintly_sounding(sound, MODEL_RATE)
    ordered = kept_beside(words, fillers, first_frame)
    starts = [(word.start - first_frame) // HOP_FRAMES for word in ordered]
    ends = [-((first_frame - word.end) // HOP_FRAMES) for word in ordered]
    out = list(ordered)
    for filler in fillers:
        at, to = filler.frames(first_frame)
        start, end = ((edge - first_frame) // HOP_FRAMES for edge in (at, to))
        before = max((edge for edge in ends if edge <= start), default=0)
        after = min((edge for edge in starts if edge >= end), default=len(faint))
        low = rising(faint, start, max(before, start - EDGES.rest))
        high = fading(faint, end, min(after, end + EDGES.rest))
        if low == before < start:
            low = quietest(sound, low, start) + 1
        if high == after > end:
            high = quietest(sound, end, high)
        at, to = (first_frame + hop * HOP_FRAMES for hop in (low, high))
        out.append(Word(filler.text, at, to, "filler", filler.sure))
    return one_after_another(out)


def kept_beside(words: Sequence[Word], fillers: Sequence[Filler], first_frame: int) -> list[Word]:
    """Aligned words of sound that begins at ``first_frame`` of a take, none over a filler."""
    there = [one.frames(first_frame) for one in fillers]
    return one_after_another([_beside(word, there) for word in words])


def _beside(word: Word, fillers: Sequence[tuple[int, int]]) -> Word:
    """A word that was drawn out over the quiet where a filler is ends before it, or begins after
    it, on the side where most of it is."""
    for start, end in fillers:
        if word.start < end and word.end > start:
            if word.start + word.end < start + end:
                word = replace(word, end=max(word.start + 1, start))
            else:
                word = replace(word, start=min(word.end - 1, end))
    return word
