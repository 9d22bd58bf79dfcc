"""Fillers by the encoder: what is none, windows, and words aligned as if it were quiet there."""

import numpy as np
import pytest
import soundfile
import soxr

from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.fillers import quieted, with_fillers
from airtrim.core.speech.align.phrases import phrases
from airtrim.core.speech.fillers import Filler, encoded, fillers_in
from airtrim.core.timeline.words import Word
from tests.reference import RATE, Sound

Made = dict[str, Sound]


@pytest.fixture(scope="module")
def guest(demo) -> Sound:
    sound, rate = soundfile.read(demo / "sound" / "guest.flac", dtype="float32")
    return soxr.resample(sound, rate, MODEL_RATE)


def hum(seconds: float, hertz: float = 120.0) -> Sound:
    time = np.arange(round(seconds * MODEL_RATE)) / MODEL_RATE
    return (0.05 * sum(np.sin(2 * np.pi * hertz * n * time) / n for n in range(1, 9))).astype("f4")


@pytest.mark.parametrize("kind", ["silence", "noise", "a chord", "a whistle", "clicks"])
def test_what_is_no_voice_is_no_filler(kind: str) -> None:
    rng = np.random.default_rng(2)
    frames = 20 * MODEL_RATE
    made = {
        "silence": np.zeros(frames),
        "noise": 0.05 * rng.standard_normal(frames),
        "a chord": hum(20, 220) + hum(20, 277) + hum(20, 330),
        "a whistle": hum(20, 900),
        "clicks": np.where(np.arange(frames) % 5_000 < 40, 0.3, 0.0),
    }
    assert fillers_in(made[kind].astype(np.float32)) == []


def test_fillers_are_the_same_wherever_a_window_ends(guest: Sound) -> None:
    """The encoder hears half a minute at once; where that begins must not decide what is found."""
    whole = fillers_in(guest)
    later = fillers_in(guest[7 * MODEL_RATE :])
    starts = [one.start_s for one in whole if one.start_s > 8 and one.sure > 0.9]
    found = np.array([one.start_s + 7 for one in later])
    assert len(starts) >= 3
    assert all(np.abs(found - start).min() < 0.06 for start in starts)


def test_a_sound_of_a_second_or_less_is_heard() -> None:
    assert fillers_in(np.zeros(0, np.float32)) == []
    assert len(encoded(np.zeros(MODEL_RATE // 2, np.float32))) == 25


def test_a_word_beside_a_filler_that_it_swallowed_gets_its_own_place(
    guest: Sound, mistakes
) -> None:
    """Quiet where the filler was: the sound that is left is the words'."""
    planted = next(m for m in mistakes["guest"] if m["kind"] == "filler" and m["joined"])
    filler = Filler(planted["start"], planted["end"], 0.9, "um")
    quiet = quieted(guest, [filler])
    low, high = (round(edge * MODEL_RATE) for edge in (filler.start_s, filler.end_s))
    inside = quiet[low + 80 : high - 80]
    room = np.percentile(np.square(guest[: len(guest) // 160 * 160]).reshape(-1, 160).mean(1), 10)
    assert np.square(inside).mean() <= 2 * room
    assert np.array_equal(quiet[: low - 80], guest[: low - 80])


def word(text: str, start_s: float, end_s: float, confidence: float = 0.9) -> Word:
    return Word(text, round(start_s * RATE), round(end_s * RATE), "word", confidence)


def test_a_short_word_where_a_filler_is_may_be_none_and_a_long_sure_one_not() -> None:
    sound = np.concatenate([hum(0.5), np.zeros(3_200, "f4"), hum(0.5), np.zeros(3_200, "f4")])
    filler = Filler(0.7, 1.2, 0.9, "um")
    said = [word("so", 0.0, 0.5), word("on", 0.7, 1.1), word("unusual", 0.8, 1.2)]
    (phrase,) = phrases(said, sound, 0, [filler])
    assert [said[i].text for i in sorted(phrase.doubtful)] == ["on"]
    unsure = [said[0], said[1], word("unusual", 0.8, 1.2, 0.3)]
    (phrase,) = phrases(unsure, sound, 0, [filler])
    assert len(phrase.doubtful) == 2


def test_a_filler_ends_where_the_word_after_it_begins() -> None:
    """And takes the faint rest of its sound, not that of the word."""
    sound = np.concatenate(
        [np.zeros(8_000, "f4"), hum(0.4), 0.02 * hum(0.1), np.zeros(8_000, "f4")]
    )
    filler = Filler(0.5, 0.9, 0.9, "um")
    rest = with_fillers([word("after", 2.3, 2.4)], [filler], sound, RATE)
    assert [(w.text, w.kind) for w in rest] == [("um", "filler"), ("after", "word")]
    assert rest[0].start == pytest.approx(1.5 * RATE, abs=RATE // 50)
    assert 1.9 * RATE - RATE // 50 <= rest[0].end <= 2.05 * RATE
    (found, after) = with_fillers([word("after", 1.8, 2.2)], [filler], sound, RATE)
    assert found.end <= after.start
