"""What sounds as a filler and is part of a word: an "m" that is held, a word that is all vowel.

How words are said is the CMU dictionary's; what is said, the demo's.
"""

from dataclasses import replace

import numpy as np
import pytest
import soundfile
import soxr

from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.aligner import Aligner, load_aligner
from airtrim.core.speech.align.phrases import phrases
from airtrim.core.speech.align.swallowed import parts_of_words
from airtrim.core.speech.fillers import Filler, fillers_in
from airtrim.core.speech.hearing import aligned_words
from airtrim.core.timeline.words import Word
from tests.core.test_fillers import word
from tests.reference import RATE


@pytest.fixture(scope="module")
def aligner() -> Aligner:
    return load_aligner()


@pytest.mark.parametrize(
    ("text", "phones"),
    [
        ("jam.", "JH AE M"),
        ("I’m", "AY M"),
        ("wheelhouse", "W IY L HH AW S"),
        ("11", "IH L EH V AH N"),
        ("Skerrish", ""),
        ("—", ""),
    ],
)
def test_a_words_phones_are_known_by_the_dictionary_or_not(
    aligner: Aligner, text: str, phones: str
) -> None:
    for _ in range(2):  # what was guessed once is still no knowledge
        assert aligner.phones(text) == phones.split()


SHORT = Filler(1.0, 1.15, 0.7, "um")
LONG = Filler(1.0, 1.4, 0.9, "um")


@pytest.mark.parametrize(
    ("filler", "words", "part"),
    [
        (SHORT, [word("jam", 0.7, 1.0)], True),
        (LONG, [word("jam", 0.7, 1.0)], False),
        (Filler(1.0, 1.15, 0.7, "uh"), [word("jam", 0.7, 1.0)], False),
        (SHORT, [word("jam", 0.6, 0.9)], False),
        (SHORT, [word("jar", 0.7, 1.0)], False),
        (SHORT, [word("Skerrim", 0.7, 1.0)], False),
        # A word that begins with "m" is no end of one.
        (SHORT, [word("mum", 1.15, 1.5)], False),
        (SHORT, [word("gave", 0.7, 1.0), word("him", 1.15, 1.2)], True),
        (SHORT, [word("gave", 0.7, 1.0), word("him", 1.15, 1.3)], False),
        (LONG, [word("gave", 0.7, 1.0), word("him", 1.4, 1.45)], False),
        # Of two phones, words are said in less.
        (SHORT, [word("gave", 0.7, 1.0), word("a", 1.15, 1.16)], False),
        (SHORT, [word("up", 0.97, 1.0)], False),
        # What was aligned over it keeps only what is beside it.
        (SHORT, [word("him", 0.97, 1.1)], True),
    ],
)
def test_the_words_beside_tell_a_filler_from_part_of_one(
    aligner: Aligner, filler: Filler, words: list[Word], part: bool
) -> None:
    found = parts_of_words(words, [filler], 0, aligner.phones)
    assert found == ([filler] if part else [])
    later = [replace(w, start=w.start + RATE, end=w.end + RATE) for w in words]
    assert parts_of_words(later, [filler], RATE, aligner.phones) == found


def test_a_sure_word_where_a_short_filler_is_stays() -> None:
    """“Measured him with a string”, heard as “measured um with”. Where it is long, or the
    recogniser not sure, it may have written the word for it."""
    sound = 0.1 * np.sin(2 * np.pi * 140 * np.arange(2 * MODEL_RATE) / MODEL_RATE).astype("f4")

    def doubtful(said: Word, filler: Filler) -> bool:
        (one,) = phrases([word("measured", 0.4, 0.9), said], sound, 0, [filler])
        return bool(one.doubtful)

    assert not doubtful(word("him", 1.0, 1.2, 1.0), SHORT)
    assert doubtful(word("him", 1.0, 1.2, 0.7), SHORT)
    assert doubtful(word("it", 1.0, 1.2, 1.0), SHORT)
    assert doubtful(word("him", 1.0, 1.4, 1.0), LONG)


def held(sound: np.ndarray, at_s: float, by_s: float) -> np.ndarray:
    """Mono sound at 16 kHz with what sounds at a place going on for longer."""
    at, length = round(at_s * MODEL_RATE), 800
    piece = sound[at - length // 2 : at + length // 2] * np.hanning(length)
    longer = np.zeros(round(by_s * MODEL_RATE) + length, np.float32)
    for start in range(0, len(longer) - length, length // 2):
        longer[start : start + length] += piece
    return np.concatenate(
        [sound[:at], longer[length // 2 : -length // 2], sound[at:]], dtype=np.float32
    )


SAID = "The ferry has room for three cars, if one of them is small."
STARTS_S = (5.8, 6.0, 6.3, 6.5, 6.8, 7.1, 7.4, 8.0, 8.3, 8.4, 8.6, 8.8, 9.0)


def test_an_m_that_is_held_is_the_end_of_its_word(demo) -> None:
    """The network takes it for an um; the host would lose the end of a word."""
    by_s = 0.14
    sound, rate = soundfile.read(demo / "sound" / "host-opening.flac", dtype="float32")
    sound = soxr.resample(sound[46 * rate : 58 * rate], rate, MODEL_RATE)
    longer = held(sound, 6.75, by_s)
    assert any(abs(one.start_s - 6.75) < 0.1 for one in fillers_in(longer))
    starts = [at + (by_s if at > 6.75 else 0.0) for at in STARTS_S]
    said = [word(text, at, at + 0.2) for text, at in zip(SAID.split(), starts, strict=True)]
    found = aligned_words(said, longer, 0)
    assert [one.text for one in found] == SAID.split()
    assert found[3].end >= (6.8 + by_s - 0.05) * RATE
