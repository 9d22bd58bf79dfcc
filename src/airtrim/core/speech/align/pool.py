"""Aligners side by side, one in a process for each of two cores."""

import os
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import lru_cache, partial
from multiprocessing import get_context

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.aligner import Aligner
from airtrim.core.speech.align.fillers import with_fillers
from airtrim.core.speech.align.phrases import Phrase, phrases
from airtrim.core.speech.edges import drawn_to_sound, in_order, sounding
from airtrim.core.speech.fillers import fillers_in
from airtrim.core.timeline.words import Word
from airtrim.processes import follow

ALIGNED = "en"
"""The language of the aligner that ships."""

_PROCESSES = min(2, os.cpu_count() or 1)
_FAR = 10 * FRAME_RATE
_FEW = 2
"""So many phrases are aligned sooner than processes are started."""


@lru_cache(maxsize=1)
def load_aligner() -> Aligner:
    """The aligner of this process, loaded once."""
    return Aligner()


def aligning(
    words: list[Word], sound: NDArray[np.float32], first_frame: int, language: str = ALIGNED
) -> Callable[[], list[Word]]:
    """The aligning of words, begun, and the fillers between them; what is returned waits for them;
    see ``phrases``. In a language that has no aligner, edges are drawn to where the sound is."""
    if language != ALIGNED:
        drawn = drawn_to_sound(words, sounding(sound, MODEL_RATE), first_frame)
        return lambda: in_order(drawn)
    # Far from any word there is no speech, whatever it sounds like.
    fillers = [
        one
        for one in fillers_in(sound)
        if any(
            word.start - _FAR < first_frame + one.start_s * FRAME_RATE < word.end + _FAR
            for word in words
        )
    ]
    parts = list(phrases(words, sound, first_frame, fillers))
    begun = _begun(parts)
    return lambda: with_fillers([w for one in begun for w in one()], fillers, sound, first_frame)


def _begun(parts: list[Phrase]) -> list[Callable[[], list[Word]]]:
    if len(parts) <= _FEW or _PROCESSES == 1:
        return [partial(load_aligner().align, part) for part in parts]
    pool = _pool()
    # The longest first, so that neither process ends up with all that is left.
    order = sorted(range(len(parts)), key=lambda i: parts[i].start - parts[i].end)
    begun = {i: pool.submit(_align, parts[i]) for i in order}
    return [begun[i].result for i in range(len(parts))]


def _align(part: Phrase) -> list[Word]:
    return load_aligner().align(part)


@lru_cache(maxsize=1)
def _pool() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(_PROCESSES, get_context("spawn"), _begin, (os.getpid(),))


def _begin(parent: int) -> None:
    follow(parent)
    load_aligner()
