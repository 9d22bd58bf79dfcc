"""Aligners side by side, one in a process for each of two cores."""

import os
from concurrent.futures import Future, ProcessPoolExecutor
from functools import lru_cache
from multiprocessing import get_context

import numpy as np
from numpy.typing import NDArray

from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.aligner import Aligner
from airtrim.core.speech.align.phrases import Phrase, phrases
from airtrim.core.speech.edges import drawn_to_sound, sounding
from airtrim.core.timeline.words import Word
from airtrim.processes import follow

ALIGNED = "en"
"""The language of the aligner that ships."""

_PROCESSES = min(2, os.cpu_count() or 1)
_FEW = 2
"""So many phrases are aligned sooner than processes are started."""


@lru_cache(maxsize=1)
def load_aligner() -> Aligner:
    """The aligner of this process, loaded once."""
    return Aligner()


def aligning(
    words: list[Word], sound: NDArray[np.float32], first_frame: int, language: str = ALIGNED
) -> list[Future[list[Word]]]:
    """The aligning of words, begun: a result for every phrase, in order; see ``phrases``. In a
    language that has no aligner, their edges are drawn to where the sound is."""
    if language != ALIGNED:
        return [_given(drawn_to_sound(words, sounding(sound, MODEL_RATE), first_frame))]
    parts = list(phrases(words, sound, first_frame))
    if len(parts) > _FEW and _PROCESSES > 1:
        pool = _pool()
        # The longest first, so that neither process ends up with all that is left.
        order = sorted(range(len(parts)), key=lambda i: parts[i].start - parts[i].end)
        begun = {i: pool.submit(_align, parts[i]) for i in order}
        return [begun[i] for i in range(len(parts))]
    return [_given(_align(part)) for part in parts]


def _given(words: list[Word]) -> Future[list[Word]]:
    done: Future[list[Word]] = Future()
    done.set_result(words)
    return done


def _align(part: Phrase) -> list[Word]:
    return load_aligner().align(part)


@lru_cache(maxsize=1)
def _pool() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(_PROCESSES, get_context("spawn"), _begin, (os.getpid(),))


def _begin(parent: int) -> None:
    follow(parent)
    load_aligner()
