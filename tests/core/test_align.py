"""Exact words: how they are spoken, and where the aligner finds them.

The demo's mistakes are put there by hand, so where they lie is exact to the sample.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise

import numpy as np
import pytest
import soundfile
import soxr

from airtrim.core.speech.align.phrases import phrases
from airtrim.core.speech.hearing import aligned_words
from airtrim.core.speech.models import packaged_model
from airtrim.core.speech.recognise import recognised
from airtrim.core.speech.spelling import sounds, spoken
from airtrim.core.speech.voice import voice_of
from airtrim.core.timeline.words import Word
from tests.reference import RATE

PHONES = """AA AE AH AO AW AY B CH D DH EH ER EY F G HH IH IY JH K L M N NG OW OY P R S SH T TH
UH UW V W Y Z ZH"""
NAMES = ("guest", "host-bridge", "host-closing")


@pytest.fixture(scope="module")
def sounds_at_16_khz(demo) -> dict[str, np.ndarray]:
    out = {}
    for name in NAMES:
        sound, rate = soundfile.read(demo / "sound" / f"{name}.flac", dtype="float32")
        out[name] = soxr.resample(sound, rate, 16_000)
    return out


@pytest.fixture(scope="module")
def bare_words(demo, once) -> dict[str, list[Word]]:
    """As the recogniser alone gives them."""

    def heard() -> dict[str, list[Word]]:
        out = {}
        for name in NAMES:
            sound, rate = soundfile.read(demo / "sound" / f"{name}.flac", dtype="float32")
            at_48 = soxr.resample(sound, rate, RATE)[:, None]
            read = partial(lambda whole, at, frames: whole[at : at + frames], at_48)
            out[name] = list(recognised(read, len(at_48), packaged_model()))
        return out

    return once("bare-words", heard)


@pytest.fixture(scope="module")
def exact_words(
    bare_words: dict[str, list[Word]],
    sounds_at_16_khz: dict[str, np.ndarray],
    once,
) -> dict[str, list[Word]]:
    def aligned() -> dict[str, list[Word]]:
        return {
            name: aligned_words(words, sounds_at_16_khz[name], 0)
            for name, words in bare_words.items()
        }

    return once("exact-words", aligned)


@pytest.mark.parametrize(
    ("written", "said"),
    [
        ("11,000", "eleven thousand"),
        ("1907,", "nineteen oh seven"),
        ("3rd", "third"),
        ("$5", "five dollars"),
        ("6:30", "six thirty"),
        ("1990s", "nineteen nineties"),
        ("20.5", "twenty point five"),
        ("50%", "fifty percent"),
        ("Don’t,", "don't"),
        ("un-station", "un station"),
        ("…", ""),
        ("naïve", "naïve"),
    ],
)
def test_what_is_written_in_figures_and_signs_is_spoken_in_words(written: str, said: str) -> None:
    assert " ".join(spoken(written)) == said


def test_a_name_in_no_dictionary_gets_phones_that_the_model_knows() -> None:
    """The phones of CMUdict (39, without stress)."""
    known = set(re.split(r"\W+", PHONES))
    for name in ("norrey", "scarra", "wheelhouse", "xyz", "ł", "thorough", "quay"):
        assert set(sounds(name).split()) <= known


def test_a_held_vowel_is_a_voice_and_noise_is_none() -> None:
    time = np.arange(16_000) / 16_000
    vowel = sum(np.sin(2 * np.pi * 120 * n * time) / n for n in range(1, 20)).astype(np.float32)
    noise = np.random.default_rng(1).standard_normal(16_000).astype(np.float32)
    assert voice_of(0.1 * vowel).voiced(10, 90) == 1.0
    assert voice_of(0.1 * noise).voiced(10, 90) < 0.1


def test_fillers_planted_in_the_demo_are_found_where_they_are(
    exact_words: dict[str, list[Word]], mistakes
) -> None:
    """All that stand alone, and most that are joined to words; their edges within 40 ms at the
    median. A filler where there is none is rare."""
    missed, edges, used = [], [], 0
    for name in NAMES:
        found = [w for w in exact_words[name] if w.kind == "filler"]
        used += len(found)
        for one in mistakes[name]:
            if one["kind"] != "filler":
                continue
            start, end = one["start"] * RATE, one["end"] * RATE
            near = [w for w in found if w.start < end and w.end > start]
            if not near:
                missed.append(one)
                continue
            best = max(near, key=lambda w: min(end, w.end) - max(start, w.start))
            edges += [abs(best.start - start) / RATE, abs(best.end - end) / RATE]
            used -= 1
    assert all(one["joined"] for one in missed)
    assert len(missed) <= 1
    assert np.median(edges) <= 0.04
    assert used <= 1, "false ones"


def filler_at(words: list[Word], mistakes, number: int) -> int:
    """Which word is the filler that was planted as the guest's n-th."""
    one = [m for m in mistakes["guest"] if m["kind"] == "filler"][number]
    middle = (one["start"] + one["end"]) / 2 * RATE
    (at,) = [i for i, w in enumerate(words) if w.start <= middle < w.end]
    assert words[at].kind == "filler"
    return at


def test_a_short_word_before_a_filler_keeps_its_own_sound(
    exact_words: dict[str, list[Word]], mistakes
) -> None:
    """“Lonely, but um it is”: the word and the filler are as short and as steady as each other."""
    words = exact_words["guest"]
    at = filler_at(words, mistakes, 1)
    assert [w.text for w in words[at - 2 : at + 2]] == ["lonely,", "but", "um", "it"]


def test_a_word_that_took_a_filler_and_a_pause_to_itself_gives_them_back(
    bare_words: dict[str, list[Word]],
    sounds_at_16_khz: dict[str, np.ndarray],
    exact_words: dict[str, list[Word]],
    mistakes,
) -> None:
    """As the recogniser does: a word begins where the filler before its pause does."""
    right = exact_words["guest"]
    at = filler_at(right, mistakes, 2)
    filler, after = right[at], right[at + 1]
    swallowed = [
        Word(w.text, filler.start, after.start + RATE // 20, w.kind, w.confidence)
        if w.text == after.text and abs(w.start - after.start) < RATE // 2
        else w
        for w in bare_words["guest"]
    ]
    assert swallowed != bare_words["guest"]
    found = aligned_words(swallowed, sounds_at_16_khz["guest"], 0)
    again = found[filler_at(found, mistakes, 2) + 1]
    assert (again.text, again.start) == (after.text, pytest.approx(after.start, abs=RATE // 10))


@dataclass(frozen=True)
class Guest:
    """The guest's words and sound, which of the words are fillers that stand between two pauses,
    and words of such a sound found anew."""

    words: list[Word]
    sound: np.ndarray
    alone: list[int]
    heard: Callable[[list[Word], np.ndarray], list[Word]]


@pytest.fixture
def guest(
    exact_words: dict[str, list[Word]],
    sounds_at_16_khz: dict[str, np.ndarray],
    mistakes,
) -> Guest:
    words = exact_words["guest"]
    planted = [m for m in mistakes["guest"] if m["kind"] == "filler" and not m["joined"]]
    alone = [filler_at(words, {"guest": [one]}, 0) for one in planted]
    return Guest(words, sounds_at_16_khz["guest"], alone, partial(aligned_words, first_frame=0))


def without_fillers(words: list[Word], wrong: dict[int, Word]) -> list[Word]:
    return [wrong.get(i, w) for i, w in enumerate(words) if i in wrong or w.kind == "word"]


def test_a_short_word_written_for_a_filler_leaves(guest: Guest) -> None:
    """As a recogniser writes “dumb” for an “um” between two pauses, right before it goes on."""
    right = guest.words
    for at in guest.alone:
        wrong = replace(right[at], text="dumb", kind="word", confidence=0.7)
        found = guest.heard(without_fillers(right, {at: wrong}), guest.sound)
        assert "dumb" not in [w.text for w in found]
        assert any(w.kind == "filler" and abs(w.start - wrong.start) < 2400 for w in found)


def test_a_doubtful_word_beside_a_filler_is_not_taken_for_it(guest: Guest) -> None:
    """What follows a filler after its pause is a word however unsure the recogniser is of it."""
    right = guest.words
    for at in guest.alone:
        after = right[at + 1]
        words = without_fillers(right, {at + 1: replace(after, confidence=0.2)})
        found = guest.heard(words, guest.sound)
        near = [w.text for w in found if abs(w.start - after.start) < RATE // 10]
        assert after.text in near
        assert any(w.kind == "filler" and w.start < right[at].end for w in found)


def test_a_filler_takes_the_hum_that_dies_away_after_it(guest: Guest) -> None:
    """Faint as it is, it would be heard where the filler was cut. A word keeps its own sound."""
    right = guest.words
    at = guest.alone[0]
    filler, after = right[at], right[at + 1]
    length = RATE * 15 // 100
    assert after.start - filler.end > length + RATE // 10
    end = filler.end // 3
    sound = guest.sound.copy()
    middle = (filler.start + filler.end) // 6
    dying = np.linspace(0.22, 0.16, 2_400, dtype=np.float32)
    sound[end : end + 2_400] += sound[middle - 1_200 : middle + 1_200] * dying
    found = guest.heard(without_fillers(right, {}), sound)
    longer = found[at]
    assert longer.kind == "filler"
    assert longer.end == pytest.approx(filler.end + length, abs=RATE * 4 // 100)
    assert found[at + 1].start == pytest.approx(after.start, abs=RATE // 50)


def test_what_a_word_reaches_over_is_one_phrase() -> None:
    """Nobody knows on which side of the pause it was said."""
    rng = np.random.default_rng(5)
    sound = np.full(4 * 16_000, 1e-4) * rng.standard_normal(4 * 16_000)
    for start in (0.5, 2.5):
        low = round(start * 16_000)
        sound[low : low + 16_000] += 0.1 * rng.standard_normal(16_000)
    within = [Word("so", RATE, RATE * 3 // 2, "word", 1), Word("on", 3 * RATE, 4 * RATE, "word", 1)]
    assert len(list(phrases(within, sound.astype(np.float32), 0))) == 2
    over = [Word("so", RATE, 3 * RATE, "word", 1), within[1]]
    (one,) = phrases(over, sound.astype(np.float32), 0)
    assert [w.text for w in one.words] == ["so", "on"]


def test_words_begin_and_end_where_they_sound(
    exact_words: dict[str, list[Word]], bare_words: dict[str, list[Word]], mistakes
) -> None:
    """Long air is exact to the sample: the words beside it begin and end within 30 ms of it, where
    the recogniser alone is off by a tenth of a second and more."""
    ours, bare = [], []
    for name in NAMES:
        for one in mistakes[name]:
            if one["kind"] != "air" or one["start"] == 0:
                continue
            for words, into in ((exact_words[name], ours), (bare_words[name], bare)):
                into.append(min(abs(w.end / RATE - one["start"]) for w in words))
                into.append(min(abs(w.start / RATE - one["end"]) for w in words))
    assert np.median(ours) <= 0.03
    assert np.median(ours) <= np.median(bare) / 4


def test_words_stay_in_order_and_apart(exact_words: dict[str, list[Word]]) -> None:
    for words in exact_words.values():
        for left, right in pairwise(words):
            assert left.start < left.end <= right.start


@pytest.mark.parametrize("kind", ["nothing", "noise"])
def test_where_the_words_are_not_said_they_stay_as_they_were(kind: str) -> None:
    """A transcript that has nothing to do with the sound is not lost, whatever it is."""
    rng = np.random.default_rng(3)
    sound = np.zeros(48_000) if kind == "nothing" else 0.05 * rng.standard_normal(48_000)
    words = [
        Word("made", 4_800, 9_600, "word", 0.9),
        Word("up,", 9_600, 30_000, "word", 0.2),
        Word("第三", 30_000, 40_000, "word", 0.9),
        Word("12,345,678,901,234,567,890", 40_000, 50_000, "word", 0.9),
    ]
    assert [w.text for w in aligned_words(words, sound.astype(np.float32), 0)] == [
        w.text for w in words
    ]
    assert aligned_words([], sound.astype(np.float32), 0) == []


def test_words_that_cannot_be_spoken_are_kept_beside_what_sounds() -> None:
    """A dash alone in its phrase has nothing to be aligned by, and stays all the same."""
    time = np.arange(8_000) / 16_000
    vowel = sum(np.sin(2 * np.pi * 120 * n * time) / n for n in range(1, 20))
    sound = np.concatenate([np.zeros(16_000), 0.1 * vowel, np.zeros(16_000)]).astype(np.float32)
    kept = aligned_words([Word("—", RATE, RATE + RATE // 2, "word", 0.4)], sound, 0)
    assert "—" in [word.text for word in kept]


def test_a_piece_in_the_middle_of_a_take_is_counted_from_there(
    bare_words: dict[str, list[Word]], sounds_at_16_khz: dict[str, np.ndarray]
) -> None:
    words, sound = bare_words["host-closing"], sounds_at_16_khz["host-closing"]
    later = [Word(w.text, w.start + RATE, w.end + RATE, w.kind, w.confidence) for w in words]
    there = aligned_words(later, sound, RATE)
    here = aligned_words(words, sound, 0)
    assert [(w.start - RATE, w.text) for w in there] == [(w.start, w.text) for w in here]
