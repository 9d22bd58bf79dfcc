"""Recognition on the packaged model: the demo's words are its words, and silence has none."""

import jiwer
import numpy as np
import pytest
from pydantic import TypeAdapter

from airtrim.core.speech.edges import drawn_to_sound, sounding
from airtrim.core.speech.hearing import aligned_words, goes_on, joined, word_kind
from airtrim.core.speech.models import packaged_model
from airtrim.core.speech.recognise import (
    _piece,
    as_they_come,
    recognised,
    transcribe,
)
from airtrim.core.timeline.finding import plain
from airtrim.core.timeline.words import Word
from airtrim.errors import BadInput
from tests.reference import RATE

_WORDS = TypeAdapter(tuple[Word, ...])


def heard(sound: np.ndarray) -> list[Word]:
    return list(transcribe(lambda at, n: sound[at : at + n], len(sound), packaged_model()))


def test_the_words_that_ship_with_the_demo_are_what_the_recogniser_gives(demo, host_take) -> None:
    """Another processor rounds differently, so that names and the like come out otherwise: words to
    3 %, edges to 50 ms at the median."""
    shipped = _WORDS.validate_json((demo / "words" / "host-opening.json").read_text())
    stretches = list(as_they_come(host_take.read, host_take.frames, packaged_model()))
    assert len(stretches) > 1, "the first words are there before all are"
    assert stretches[0][-1].end < 42 * RATE
    found = [word for stretch in stretches for word in stretch]
    texts = [" ".join(plain(w.text) for w in words) for words in (shipped, found)]
    assert jiwer.wer(*texts) <= 0.03
    edges = [abs(a.start - b.start) for a, b in zip(shipped, found, strict=False)]
    assert np.median(edges) <= 0.05 * RATE


def test_words_that_are_looked_at_come_first_and_all_are_there_in_the_end(host_take) -> None:
    """Words before the gap keep their numbers; in the end none is lost and none comes twice."""
    looked_at = host_take.frames - 20 * RATE
    known: list[int] = []
    stretches = list(
        as_they_come(
            host_take.read,
            host_take.frames,
            packaged_model(),
            wanted=lambda: looked_at,
            whole_to=known.append,
        )
    )
    assert len(stretches) >= 3
    second = stretches[1]
    assert looked_at - 20 * RATE <= second[0].start <= looked_at < second[-1].end
    assert known[0] == known[1] < second[0].start, "what lies between is not known yet"
    assert known[-1] == host_take.frames
    in_order = [w for stretch in as_they_come(*_whole(host_take)) for w in stretch]
    found = sorted((w for stretch in stretches for w in stretch), key=lambda w: w.start)
    texts = [" ".join(plain(w.text) for w in words) for words in (in_order, found)]
    assert jiwer.wer(*texts) <= 0.05, "other pieces may be heard otherwise at their ends"


def _whole(take) -> tuple:
    return take.read, take.frames, packaged_model()


def test_words_do_not_reach_into_long_air(demo, mistakes) -> None:
    """Planted air is exact to the sample; no word may lie in it by more than 60 ms."""
    for name in ("host-opening", "guest", "host-bridge"):
        words = _WORDS.validate_json((demo / "words" / f"{name}.json").read_text())
        for mistake in mistakes[name]:
            if mistake["kind"] != "air":
                continue
            start, end = mistake["start"] * RATE, mistake["end"] * RATE
            for word in words:
                assert min(end, word.end) - max(start, word.start) < 0.06 * RATE, word


def test_what_the_host_reads_is_recognised(demo) -> None:
    """Sentences from the script of the demo, as written there."""
    words = _WORDS.validate_json((demo / "words" / "host-bridge.json").read_text())
    said = jiwer.RemovePunctuation()(" ".join(w.text for w in words).lower())
    for sentence in (
        "the new one will be electric and it will need half the time",
        "half the time means half the talk",
        "the talk is what the boat is for",
    ):
        assert sentence in said


@pytest.mark.parametrize("kind", ["silence", "noise", "tone", "music"])
def test_no_speech_gives_no_words_and_no_error(kind: str) -> None:
    count = 8 * RATE
    sound = {
        "silence": np.zeros(count),
        "noise": 0.003 * np.random.default_rng(1).standard_normal(count),
        "tone": 0.1 * np.sin(2 * np.pi * 330 * np.arange(count) / RATE),
        "music": sum(
            0.05
            * np.sin(2 * np.pi * hertz * np.arange(count) / RATE)
            * (1 + np.sin(4 * np.pi * np.arange(count) / RATE))
            for hertz in (220, 277, 330)
        ),
    }[kind].astype(np.float32)[:, None]
    assert heard(sound) == []


@pytest.mark.parametrize(
    "text", ["um", "Uh,", "er.", "Hmm", "uhh", "Ummm…", "mm", "Ähm,", "äh", "euh"]
)
def test_fillers_are_told_from_words(text: str) -> None:
    assert word_kind(text) == "filler"


@pytest.mark.parametrize("text", ["umbrella", "her", "hum", "ermine", "I", "a", "eh", "heu"])
def test_words_are_not_fillers(text: str) -> None:
    assert word_kind(text) == "word"


def test_edges_are_drawn_to_the_sound() -> None:
    rate = 16_000
    rng = np.random.default_rng(2)
    sound = 0.0005 * rng.standard_normal(4 * rate)
    sound[rate : 2 * rate] += 0.2 * rng.standard_normal(rate)
    loud = sounding(sound.astype(np.float32), rate)
    word = Word("late", round(0.6 * RATE), round(1.9 * RATE), "word", 1.0)
    (drawn,) = drawn_to_sound([word], loud, 0)
    assert drawn.start / RATE == pytest.approx(1.0, abs=0.03)
    assert drawn.end / RATE == pytest.approx(2.0, abs=0.03)


def test_words_spoken_together_keep_their_common_edge() -> None:
    loud = np.ones(300, np.bool_)
    words = [
        Word("one", RATE, round(1.4 * RATE), "word", 1.0),
        Word("two", round(1.4 * RATE), 2 * RATE, "word", 1.0),
    ]
    assert drawn_to_sound(words, loud, 0) == words


def test_in_a_language_without_an_aligner_edges_lie_where_the_sound_is(
    demo, mistakes, host_take
) -> None:
    """Beside planted long air, known to the sample: half as far off as the recogniser's times, or
    less."""
    read, frames = host_take.read, host_take.frames
    bare = list(recognised(read, frames, packaged_model()))
    sound, length = _piece(read, 0, frames, 180)
    assert length == frames
    drawn = aligned_words(bare, sound, 0, "sw")
    assert [w.text for w in drawn] == [w.text for w in bare]

    def off(words: list[Word]) -> list[float]:
        out = []
        for one in mistakes["host-opening"]:
            if one["kind"] == "air" and one["start"] and one["end"] < frames / RATE - 1:
                start, end = one["start"] * RATE, one["end"] * RATE
                out.append(min(abs(w.end - start) for w in words) / RATE)
                out.append(min(abs(w.start - end) for w in words) / RATE)
        return out

    assert len(off(drawn)) == 6
    assert np.median(off(drawn)) <= np.median(off(bare)) / 2


def test_a_language_that_the_recogniser_does_not_know_is_refused_with_what_to_do(host_take) -> None:
    with pytest.raises(BadInput, match="AIRTRIM_SPEECH_MODEL"):
        list(transcribe(host_take.read, RATE, packaged_model(), language="de"))


def test_a_number_that_the_recogniser_gives_in_two_is_one_word() -> None:
    first = Word("11", 100, 200, "word", 0.9)
    assert goes_on(first, ",000")
    assert goes_on(first, ".5")
    for token in (" 000", ",", ", and", "000", " ,000"):
        assert not goes_on(first, token)
    assert not goes_on(Word("eleven", 0, 1, "word", 0.9), ",000")
    whole = Word("11,000", 100, 300, "word", 0.4)
    assert joined(first, Word(",000", 200, 300, "word", 0.4)) == whole
