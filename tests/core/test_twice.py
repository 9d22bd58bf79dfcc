"""What is said twice and written once: found by its sound, heard again in halves."""

import numpy as np
import pytest
import soundfile
import soxr

from airtrim.core.speech import HOP_S, MODEL_RATE
from airtrim.core.speech.edges import sounding
from airtrim.core.speech.fillers import encoded
from airtrim.core.speech.twice import LIMITS, Twice, heard_apart, said_twice
from airtrim.core.timeline.words import Word
from tests.reference import RATE, Sound


@pytest.fixture(scope="module")
def guest(demo) -> Sound:
    sound, rate = soundfile.read(demo / "sound" / "guest.flac", dtype="float32")
    return soxr.resample(sound, rate, MODEL_RATE)


LONG_S = 2.5
"""Longer attempts a recogniser writes down, and their pace is not the same to the end."""


def twice_in(sound: Sound) -> list[Twice]:
    return said_twice(encoded(sound), sounding(sound, MODEL_RATE))


def test_attempts_sound_like_what_comes_after_them(guest: Sound, mistakes) -> None:
    """The truth of the demo: where an attempt was planted it sounds again, and hardly elsewhere."""
    repeats = [(m["start"], m["end"]) for m in mistakes["guest"] if m["kind"] == "repeat"]
    planted = [(start, end) for start, end in repeats if end - start < LONG_S]
    found = twice_in(guest)

    def met(start: float, end: float) -> list[Twice]:
        return [one for one in found if min(one.end_s, end) - max(one.start_s, start) > 0.3]

    assert len(planted) == 2
    assert all(met(start, end) for start, end in planted)
    others = len(found) - sum(len(met(start, end)) for start, end in planted)
    assert others <= len(guest) / MODEL_RATE / 20, found


def test_words_copied_after_themselves_are_found_at_their_place(guest: Sound) -> None:
    """A second of talk put in again after a pause, at another level and in other noise."""
    loud = sounding(guest, MODEL_RATE)
    at_s = next(hop for hop in range(1500, len(loud)) if loud[hop : hop + 120].all()) * HOP_S
    start, length, pause = (round(s * MODEL_RATE) for s in (at_s, 1.2, 0.3))
    again = guest[start : start + length]
    quiet = np.zeros(pause, "f4")
    rng = np.random.default_rng(1)
    sound = np.concatenate([guest[: start + length], quiet, 0.6 * again, guest[start + length :]])
    sound = (sound + rng.normal(0, 2e-3, len(sound))).astype("f4")
    near = [one for one in twice_in(sound) if abs(one.start_s - at_s) < 0.4]
    assert near
    assert near[0].by_s == pytest.approx(1.5, abs=0.06)


def test_a_steady_sound_or_none_says_nothing_twice() -> None:
    """A drone is like itself everywhere; without words there it is not heard again."""
    assert twice_in(np.zeros(4_000, "f4")) == []
    time = np.arange(8 * MODEL_RATE) / MODEL_RATE
    drone = (0.1 * np.sin(2 * np.pi * 220 * time)).astype("f4")
    loud = sounding(drone, MODEL_RATE)

    def hear(sound: Sound, at: int) -> list[Word]:
        raise AssertionError("it was heard again")

    assert heard_apart([], drone, 0, loud, twice_in(drone), hear) == []


def word(text: str, start_s: float, end_s: float) -> Word:
    return Word(text, round(start_s * RATE), round(end_s * RATE), "word", 0.9)


def spoken(text: str, start_s: float, end_s: float) -> list[Word]:
    """Words that share a span."""
    parts = text.split()
    edges = np.linspace(start_s, end_s, len(parts) + 1)
    return [word(part, edges[i], edges[i + 1]) for i, part in enumerate(parts)]


def texts(words: list[Word]) -> str:
    return " ".join(w.text for w in words)


LOUD = np.zeros(700, np.bool_)
LOUD[50:200] = LOUD[240:330] = LOUD[370:640] = True
"""Three stretches of sound: before an attempt, the attempt, and what is said in the end."""
TALK = [*spoken("a hole in it", 0.5, 2.0), *spoken("it belongs to", 2.4, 3.3)]
ONCE = [*TALK, *spoken("my cousin who never wears gloves", 4.6, 6.4)]
AGAIN = Twice(2.4, 3.3, 1.3)
SOUND = np.zeros(7 * MODEL_RATE, "f4")


class Heard:
    """Answers for the halves of what is heard again, and what was asked."""

    def __init__(self, first: str, second: str) -> None:
        self.answers = [first, second]
        self.asked: list[tuple[float, float]] = []

    def __call__(self, sound: Sound, at: int) -> list[Word]:
        start, length = at / RATE, len(sound) / MODEL_RATE
        self.asked.append((start, start + length))
        return spoken(self.answers[len(self.asked) - 1], start + 0.2, start + length - 0.2)


def test_what_was_written_once_is_written_twice() -> None:
    hear = Heard("it belongs to", "it belongs to my cousin who never wears gloves")
    out = heard_apart(ONCE, SOUND, 0, LOUD, [AGAIN], hear)
    assert texts(out) == "a hole in it it belongs to it belongs to my cousin who never wears gloves"
    assert [round(edge, 2) for span in hear.asked for edge in span] == [2.2, 3.5, 3.5, 6.7]


def test_a_word_broken_off_is_written_as_it_is_the_second_time() -> None:
    hear = Heard("it belong so", "it belongs to my cousin who never wears gloves")
    out = heard_apart(ONCE, SOUND, 0, LOUD, [AGAIN], hear)
    assert texts(out[4:10]) == "it belongs to it belongs to"


@pytest.mark.parametrize(
    ("first", "second"),
    [
        ("the weather was", "it belongs to my cousin who never wears gloves"),
        ("it belongs to", "it belongs to"),
        ("", ""),
    ],
    ids=["other words", "words lost", "nothing"],
)
def test_what_does_not_say_the_same_twice_changes_nothing(first: str, second: str) -> None:
    assert heard_apart(ONCE, SOUND, 0, LOUD, [AGAIN], Heard(first, second)) == ONCE


def test_what_is_written_twice_is_not_heard_again() -> None:
    told = [*TALK, *spoken("it belongs to my cousin who never wears gloves", 3.7, 6.4)]
    hear = Heard("", "")
    assert heard_apart(told, SOUND, 0, LOUD, [AGAIN], hear) == told
    assert hear.asked == []


def test_of_a_song_only_so_much_is_heard_again() -> None:
    """Everything comes again in it."""
    loud = np.tile(LOUD, 8)
    words = [w for k in range(8) for w in spoken("na sing me a song now", 7 * k + 0.6, 7 * k + 6)]
    found = [Twice(7 * k + 2.4, 7 * k + 3.3, 1.3) for k in range(8)]
    asked = 0

    def hear(sound: Sound, at: int) -> list[Word]:
        nonlocal asked
        asked += 1
        return []

    assert heard_apart(words, np.zeros(56 * MODEL_RATE, "f4"), 0, loud, found, hear) == words
    assert asked == 2 * LIMITS.most_per_minute
