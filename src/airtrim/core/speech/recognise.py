"""Speech recognition on the packaged model, in pieces, with progress and constant memory."""

import bisect
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import soxr
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.pool import ALIGNED, aligning
from airtrim.core.speech.hesitations import is_filler
from airtrim.core.speech.models import load_model
from airtrim.core.timeline.words import Word, WordKind
from airtrim.errors import BadInput

_PIECES_S = (20, 30, 60, 120, 180)
"""How long the first pieces are, and all after them: the first words come soon."""
_SEARCH_S = 20
Read = Callable[[int, int], NDArray[np.float32]]
"""``read(start, frames)`` of a take at 48 kHz, shape ``(frames, channels)``."""


def word_kind(text: str, language: str = ALIGNED) -> WordKind:
    """``filler`` for um, uh, er, hmm and their like, else ``word``.

    >>> word_kind("um"), word_kind("ferry,")
    ('filler', 'word')
    """
    return "filler" if is_filler(text, language) else "word"


def transcribe(
    read: Read,
    frames: int,
    model_folder: Path,
    *,
    language: str = ALIGNED,
    progress: Callable[[float], None] = lambda _: None,
) -> Iterator[Word]:
    """Yield the words of a take and the fillers between them, in order, with exact spans in frames
    at 48 kHz. ``language``: its code (ISO 639-1), empty where it is to be found. ``progress`` gets
    fractions 0–1. Raises BadInput where the recogniser does not know the language."""
    for words in as_they_come(read, frames, model_folder, language=language, progress=progress):
        yield from words


def as_they_come(
    read: Read,
    frames: int,
    model_folder: Path,
    *,
    language: str = ALIGNED,
    progress: Callable[[float], None] = lambda _: None,
    told: Callable[[str], None] = lambda _: None,
) -> Iterator[list[Word]]:
    """Yield what ``transcribe`` does, a stretch at a time, as soon as it is known: short ones at
    first, then of about three minutes. ``told`` gets the language that is spoken."""
    at_work: Callable[[], list[Word]] | None = None
    for words, piece, at, spoken in _pieces(read, frames, model_folder, language, progress):
        told(spoken)
        # A piece is aligned while the next one is recognised; the first one is waited for.
        if at_work:
            yield at_work()
        at_work = aligning(words, piece, at, spoken)
        if at == 0:
            yield at_work()
            at_work = None
    if at_work:
        yield at_work()


def aligned(
    read: Read,
    frames: int,
    words: Sequence[Word],
    *,
    language: str = ALIGNED,
    progress: Callable[[float], None] = lambda _: None,
) -> Iterator[Word]:
    """Yield words that are known already, roughly where they are, with exact spans, and the fillers
    between them: nothing is recognised."""
    at = place = 0
    while at < frames:
        sound, length = _piece(read, at, frames, _PIECES_S[-1])
        last = bisect.bisect_left(words, at + length, key=lambda word: (word.start + word.end) // 2)
        yield from aligning(list(words[place:last]), sound, at, language)()
        place = last
        at += length
        progress(min(1.0, at / frames))


def recognised(
    read: Read,
    frames: int,
    model_folder: Path,
    *,
    language: str = ALIGNED,
    progress: Callable[[float], None] = lambda _: None,
) -> Iterator[Word]:
    """Yield the words as the recogniser alone gives them: which, and roughly where."""
    for words, *_ in _pieces(read, frames, model_folder, language, progress):
        yield from words


def _pieces(
    read: Read,
    frames: int,
    model_folder: Path,
    language: str,
    progress: Callable[[float], None],
) -> Iterator[tuple[list[Word], NDArray[np.float32], int, str]]:
    """Words, sound at 16 kHz, first frame and language of pieces, which end where it is quietest.
    Speech is looked for first, so silence and music give no words."""
    model = load_model(str(model_folder))
    if language and language not in model.supported_languages:
        raise BadInput(
            f"The recogniser does not know the language “{language}”. The careful one knows many: "
            "`pip install airtrim[careful]`; or name the folder of one that does in "
            "AIRTRIM_SPEECH_MODEL."
        )
    at = 0
    last_end = 0
    lengths = iter(_PIECES_S)
    while at < frames:
        piece, length = _piece(read, at, frames, next(lengths, _PIECES_S[-1]))
        language = language or _language_of(model, piece)
        segments, _ = model.transcribe(
            piece,
            language=language,
            word_timestamps=True,
            vad_filter=True,
            condition_on_previous_text=False,
            beam_size=5,
        )
        found: list[Word] = []
        for segment in segments:
            for word in segment.words or ():
                text = word.word.strip()
                start = max(last_end, at + round(word.start * FRAME_RATE))
                end = min(at + length, at + round(word.end * FRAME_RATE))
                if not text or start >= frames:
                    continue
                last_end = end = max(end, start + FRAME_RATE // 100)
                recognised = Word(
                    text, start, end, word_kind(text, language), float(word.probability)
                )
                if found and goes_on(found[-1], word.word):
                    found[-1] = joined(found[-1], recognised)
                else:
                    found.append(recognised)
            progress(min(1.0, (at + segment.end * FRAME_RATE) / frames))
        yield found, piece, at, language
        at += length
        progress(min(1.0, at / frames))


def _language_of(model: Any, piece: NDArray[np.float32]) -> str:
    """The language that is spoken in a piece, which begins a take."""
    if len(model.supported_languages) == 1:
        return str(model.supported_languages[0])
    language, _, _ = model.detect_language(piece, vad_filter=True, language_detection_segments=2)
    return str(language)


def goes_on(before: Word, token: str) -> bool:
    """Whether a token of the recogniser is the rest of a number: ``,000`` after ``11``."""
    return bool(before.text[-1:].isdigit() and re.fullmatch(r"[.,:]\d.*", token))


def joined(first: Word, rest: Word) -> Word:
    """Two words as one; as sure as the less sure."""
    text, sure = first.text + rest.text, min(first.confidence, rest.confidence)
    return replace(first, text=text, end=rest.end, confidence=sure)


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
