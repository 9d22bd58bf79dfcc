"""What is heavy in writing words down, as calls on a stretch that any machine can answer."""

import re
from collections.abc import Hashable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.packing import Packed, unpack
from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.aligner import load_aligner
from airtrim.core.speech.align.fillers import with_fillers
from airtrim.core.speech.align.phrases import phrases
from airtrim.core.speech.align.swallowed import parts_of_words
from airtrim.core.speech.edges import drawn_to_sound, one_after_another, sounding
from airtrim.core.speech.fillers import encoded, fillers_in
from airtrim.core.speech.hesitations import is_filler
from airtrim.core.speech.models import Weights, load
from airtrim.core.speech.twice import heard_apart, said_twice
from airtrim.core.speech.voiceprint import voiceprints
from airtrim.core.timeline.words import Word, WordKind
from airtrim.errors import BadInput

ALIGNED = "en"
"""The language of the aligner that ships."""

_FAR = 10 * FRAME_RATE


@dataclass(frozen=True, slots=True)
class Heard:
    """What is said in a stretch, and in which language."""

    words: list[Word]
    language: str


def hear(packed: Packed, at: int, weights: Weights, language: str) -> Heard:
    """The words of a stretch at 16 kHz that begins at frame ``at`` of its take, and the fillers
    between them, with exact spans; ``language`` (ISO 639-1) is found where it is empty. Raises
    BadInput where the recogniser does not know it."""
    sound = _mono(packed)
    found = _recognised(sound, at, weights, language)
    if not found.words:
        return found
    frames, loud = encoded(sound), sounding(sound, MODEL_RATE)
    words = heard_apart(
        found.words,
        sound,
        at,
        loud,
        said_twice(frames, loud),
        lambda part, start: _recognised(part, start, weights, found.language).words,
    )
    return replace(found, words=aligned_words(words, sound, at, found.language, frames))


def recognise(packed: Packed, at: int, weights: Weights, language: str) -> Heard:
    """The same as the recogniser alone gives it: which words, and roughly where."""
    return _recognised(_mono(packed), at, weights, language)


def align(packed: Packed, at: int, words: list[Word], language: str) -> list[Word]:
    """Words that are known, with exact spans, and the fillers between them."""
    return aligned_words(words, _mono(packed), at, language)


def print_voices(packed: Packed, starts: NDArray[np.int64]) -> NDArray[np.float32]:
    """Voiceprints of windows of a stretch at 16 kHz; see ``voiceprints``."""
    return voiceprints(_mono(packed), starts)


def _mono(packed: Packed) -> NDArray[np.float32]:
    return unpack(packed)[:, 0]


def word_kind(text: str, language: str = ALIGNED) -> WordKind:
    """``filler`` for um, uh, er, hmm and their like, else ``word``.

    >>> word_kind("um"), word_kind("ferry,")
    ('filler', 'word')
    """
    return "filler" if is_filler(text, language) else "word"


def aligned_words(
    words: list[Word],
    sound: NDArray[np.float32],
    first_frame: int,
    language: str = ALIGNED,
    frames: NDArray[np.float32] | None = None,
) -> list[Word]:
    """Words with exact spans, and the fillers between them, phrase by phrase. In a language that
    has no aligner, edges are drawn to where the sound is. ``frames`` as from ``encoded``."""
    if language != ALIGNED:
        return one_after_another(drawn_to_sound(words, sounding(sound, MODEL_RATE), first_frame))
    # Far from any word there is no speech, whatever it sounds like.
    fillers = [
        one
        for one in fillers_in(sound, frames)
        if any(
            word.start - _FAR < first_frame + one.start_s * FRAME_RATE < word.end + _FAR
            for word in words
        )
    ]
    aligner = load_aligner()
    aligner.forget()
    known: dict[Hashable, list[Word]] = {}

    def aligned() -> list[Word]:
        found = []
        for part in phrases(words, sound, first_frame, fillers):
            mark = part.mark
            if mark not in known:
                known[mark] = aligner.align(part)
            found += known[mark]
        return found

    found = aligned()
    while none := parts_of_words(found, fillers, first_frame, aligner.phones):
        fillers = [one for one in fillers if one not in none]
        found = aligned()
    return with_fillers(found, fillers, sound, first_frame)


def _recognised(sound: NDArray[np.float32], at: int, weights: Weights, language: str) -> Heard:
    """Speech is looked for first, so silence and music give no words."""
    model = load(weights)
    if language and language not in model.supported_languages:
        raise BadInput(
            f"The recogniser does not know the language “{language}”. The careful one knows many: "
            "`pip install airtrim[careful]`; or name the folder of one that does in "
            "AIRTRIM_SPEECH_MODEL."
        )
    language = language or _language_of(model, sound)
    segments, _ = model.transcribe(
        sound,
        language=language,
        word_timestamps=True,
        vad_filter=True,
        condition_on_previous_text=False,
        beam_size=5,
    )
    stop = at + len(sound) * (FRAME_RATE // MODEL_RATE)
    found: list[Word] = []
    reached = 0
    for word in (word for segment in segments for word in segment.words or ()):
        text = word.word.strip()
        start = max(reached, at + round(word.start * FRAME_RATE))
        end = min(stop, at + round(word.end * FRAME_RATE))
        if not text or start >= stop:
            continue
        reached = end = max(end, start + FRAME_RATE // 100)
        one = Word(text, start, end, word_kind(text, language), float(word.probability))
        if found and goes_on(found[-1], word.word):
            found[-1] = joined(found[-1], one)
        else:
            found.append(one)
    return Heard(found, language)


def _language_of(model: Any, sound: NDArray[np.float32]) -> str:
    if len(model.supported_languages) == 1:
        return str(model.supported_languages[0])
    language, _, _ = model.detect_language(sound, vad_filter=True, language_detection_segments=2)
    return str(language)


def goes_on(before: Word, token: str) -> bool:
    """Whether a token of the recogniser is the rest of a number: ``,000`` after ``11``."""
    return bool(before.text[-1:].isdigit() and re.fullmatch(r"[.,:]\d.*", token))


def joined(first: Word, rest: Word) -> Word:
    """Two words as one; as sure as the less sure."""
    text, sure = first.text + rest.text, min(first.confidence, rest.confidence)
    return replace(first, text=text, end=rest.end, confidence=sure)
