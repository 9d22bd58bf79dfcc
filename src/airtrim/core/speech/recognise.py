"""Speech recognition in stretches, several at once, with progress and constant memory."""

import bisect
from collections.abc import Callable, Iterator, Sequence
from functools import partial
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
from airtrim.core.speech.unheard import Unheard
from airtrim.core.timeline.words import Word, middle

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
    wanted: Callable[[], int | None] = lambda: None,
    whole_to: Callable[[int], None] = lambda _: None,
    compute: Compute = INLINE,
) -> Iterator[list[Word]]:
    """Yield what ``transcribe`` does, a stretch at a time, as soon as it is known: short ones at
    first, then of about three minutes. ``told`` gets the language that is spoken; ``wanted`` gives
    the frame whose words are wanted next, so that stretches may come in another order, and
    ``whole_to`` gets the frame up to which all words are known with the next that is yielded."""
    for heard in _heard(
        hear, read, frames, model_folder, language, progress, compute, wanted, whole_to
    ):
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
            last = bisect.bisect_left(words, at + length, key=middle)
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
    wanted: Callable[[], int | None] = lambda: None,
    whole_to: Callable[[int], None] = lambda _: None,
) -> Iterator[Heard]:
    """What is heard in pieces, which end where it is quietest. Where the language is to be found,
    the first piece tells it to the others."""
    weights = weights_in(model_folder)
    compute = compute.needing(weights.mark)
    known = languages_in(model_folder)
    spoken = language or (known[0] if len(known) == 1 else "")
    left = Unheard(frames)
    begun: list[int] = []
    lengths: list[int] = []
    since_turned = 0

    def stretches(most: int | None = None) -> Iterator[tuple[Packed, int, Weights, str]]:
        nonlocal since_turned
        while left and (most is None or len(lengths) < most):
            at_hand = wanted() if lengths else None
            if at_hand is not None and left.turn_to(at_hand, partial(_quiet_before, read)):
                since_turned = 0
            start, end = left.next
            seconds = _PIECES_S[min(since_turned, len(_PIECES_S) - 1)]
            sound, length = _piece(read, start, end, seconds)
            left.take(length)
            begun.append(start)
            lengths.append(length)
            since_turned += 1
            yield pack(sound, MODEL_RATE), start, weights, spoken

    heard = 0

    def look() -> None:
        progress(sum(lengths[:heard]) / frames if heard else 0.0)

    for most in (None,) if spoken else (1, None):
        for found in in_order(compute, call, stretches(most), look):
            spoken = found.language
            heard += 1
            whole_to(min([*begun[heard:], frames if left.first is None else left.first]))
            yield found
            look()


def _piece(read: Read, at: int, frames: int, seconds: int) -> tuple[NDArray[np.float32], int]:
    """The next piece at 16 kHz, of at least ``seconds`` where there are so many, and how many
    frames of the take it covers."""
    length = min(frames - at, (seconds + _SEARCH_S) * FRAME_RATE)
    sound = _mono(read, at, length)
    if at + length < frames:
        cut = seconds * MODEL_RATE + _quietest(sound[seconds * MODEL_RATE :])
        sound, length = sound[:cut], cut * (FRAME_RATE // MODEL_RATE)
    return sound, length


def _quiet_before(read: Read, at: int) -> int:
    """Where it is quietest in the last seconds before a frame of a take."""
    start = max(0, at - _SEARCH_S * FRAME_RATE)
    return start + _quietest(_mono(read, start, at - start)) * (FRAME_RATE // MODEL_RATE)


def _quietest(sound: NDArray[np.float32]) -> int:
    """The sample of sound at 16 kHz that has the least around it."""
    hop = MODEL_RATE // 10
    power = np.square(sound[: len(sound) // hop * hop]).reshape(-1, hop).mean(axis=1)
    return int(np.convolve(power, np.ones(3), "same").argmin()) * hop


def _mono(read: Read, at: int, length: int) -> NDArray[np.float32]:
    """A stretch of a take at 16 kHz."""
    stream = soxr.ResampleStream(FRAME_RATE, MODEL_RATE, 1, dtype="float32")
    parts = []
    step = 10 * FRAME_RATE
    for offset in range(0, length, step):
        count = min(step, length - offset)
        mono = read(at + offset, count).mean(axis=1)
        parts.append(stream.resample_chunk(mono, last=offset + count == length))
    return np.concatenate(parts)
