"""Speech recognition in stretches, several at once, with progress and constant memory."""

import bisect
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import numpy as np
import soxr
from numpy.typing import NDArray

from airtrim.compute.inline import INLINE
from airtrim.compute.order import Compute, in_order
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.packing import Packed, pack
from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.hearing import ALIGNED, Heard, align, hear, recognise
from airtrim.core.speech.models import Weights, weights_in
from airtrim.core.speech.recognisers import languages_in
from airtrim.core.timeline.words import Word

_PIECES_S = (20, 30, 60, 120, 180)
"""How long the first pieces are, and all after them: the first words come soon."""
_SEARCH_S = 20
Read = Callable[[int, int], NDArray[np.float32]]
"""``read(start, frames)`` of a take at 48 kHz, shape ``(frames, channels)``."""


def transcribe(
    read: Read,
    frames: int,
    model_folder: Path,
    *,
    language: str = ALIGNED,
    progress: Callable[[float], None] = lambda _: None,
    compute: Compute = INLINE,
) -> Iterator[Word]:
    """Yield the words of a take and the fillers between them, in order, with exact spans in frames
    at 48 kHz. ``language``: its code (ISO 639-1), empty where it is to be found. ``progress`` gets
    fractions 0–1. Raises BadInput where the recogniser does not know the language."""
    for words in as_they_come(
        read, frames, model_folder, language=language, progress=progress, compute=compute
    ):
        yield from words


def as_they_come(
    read: Read,
    frames: int,
    model_folder: Path,
    *,
    language: str = ALIGNED,
    progress: Callable[[float], None] = lambda _: None,
    told: Callable[[str], None] = lambda _: None,
    compute: Compute = INLINE,
) -> Iterator[list[Word]]:
    """Yield what ``transcribe`` does, a stretch at a time, as soon as it is known: short ones at
    first, then of about three minutes. ``told`` gets the language that is spoken."""
    for heard in _heard(hear, read, frames, model_folder, language, progress, compute):
        told(heard.language)
        yield heard.words


def recognised(
    read: Read,
    frames: int,
    model_folder: Path,
    *,
    language: str = ALIGNED,
    progress: Callable[[float], None] = lambda _: None,
    compute: Compute = INLINE,
) -> Iterator[Word]:
    """Yield the words as the recogniser alone gives them: which, and roughly where."""
    for heard in _heard(recognise, read, frames, model_folder, language, progress, compute):
        yield from heard.words


def aligned(
    read: Read,
    frames: int,
    words: Sequence[Word],
    *,
    language: str = ALIGNED,
    progress: Callable[[float], None] = lambda _: None,
    compute: Compute = INLINE,
) -> Iterator[Word]:
    """Yield words that are known already, roughly where they are, with exact spans, and the fillers
    between them: nothing is recognised."""
    ends: list[int] = []

    def stretches() -> Iterator[tuple[Packed, int, list[Word], str]]:
        at = place = 0
        while at < frames:
            sound, length = _piece(read, at, frames, _PIECES_S[-1])
            last = bisect.bisect_left(words, at + length, key=lambda w: (w.start + w.end) // 2)
            ends.append(at + length)
            yield pack(sound, MODEL_RATE), at, list(words[place:last]), language
            place, at = last, at + length

    done = 0.0
    answers = in_order(compute, align, stretches(), lambda: progress(done))
    for number, found in enumerate(answers):
        yield from found
        done = ends[number] / frames
        progress(done)


def _heard(
    call: Callable[[Packed, int, Weights, str], Heard],
    read: Read,
    frames: int,
    model_folder: Path,
    language: str,
    progress: Callable[[float], None],
    compute: Compute,
) -> Iterator[Heard]:
    """What is heard in pieces, which end where it is quietest. Where the language is to be found,
    the first piece tells it to the others."""
    weights = weights_in(model_folder)
    compute = compute.needing(weights.mark)
    known = languages_in(model_folder)
    spoken = language or (known[0] if len(known) == 1 else "")
    ends: list[int] = []

    def stretches(most: int | None = None) -> Iterator[tuple[Packed, int, Weights, str]]:
        at = ends[-1] if ends else 0
        while at < frames and (most is None or len(ends) < most):
            seconds = _PIECES_S[min(len(ends), len(_PIECES_S) - 1)]
            sound, length = _piece(read, at, frames, seconds)
            ends.append(at + length)
            yield pack(sound, MODEL_RATE), at, weights, spoken
            at += length

    heard = 0

    def look() -> None:
        progress(ends[heard - 1] / frames if heard else 0.0)

    for most in (None,) if spoken else (1, None):
        for found in in_order(compute, call, stretches(most), look):
            spoken = found.language
            yield found
            heard += 1
            look()


def _piece(read: Read, at: int, frames: int, seconds: int) -> tuple[NDArray[np.float32], int]:
    """The next piece at 16 kHz, of at least ``seconds`` where there are so many, and how many
    frames of the take it covers."""
    length = min(frames - at, (seconds + _SEARCH_S) * FRAME_RATE)
    stream = soxr.ResampleStream(FRAME_RATE, MODEL_RATE, 1, dtype="float32")
    parts = []
    step = 10 * FRAME_RATE
    for offset in range(0, length, step):
        count = min(step, length - offset)
        mono = read(at + offset, count).mean(axis=1)
        parts.append(stream.resample_chunk(mono, last=offset + count == length))
    sound = np.concatenate(parts)
    if at + length < frames:
        hop = MODEL_RATE // 10
        search = sound[seconds * MODEL_RATE :]
        power = np.square(search[: len(search) // hop * hop]).reshape(-1, hop).mean(axis=1)
        cut = seconds * MODEL_RATE + int(np.convolve(power, np.ones(3), "same").argmin()) * hop
        sound, length = sound[:cut], cut * (FRAME_RATE // MODEL_RATE)
    return sound, length
