"""Who speaks on one track: voices told apart by how they sound, not by what they say."""

import json

import numpy as np
import pytest
import soxr

from airtrim.core.media.reading import InMemory
from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.speech import voiceprint
from airtrim.core.speech.voices import told_apart, with_voices
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.speakers import speaker_of
from airtrim.core.timeline.words import Word, speakers_in
from tests.reference import RATE

TURN_S = 6
PAUSE = 2 * RATE // 5
"""Between two turns; they are cut out of the takes in the middle of sentences."""


@pytest.fixture(scope="module")
def spoken(demo, host_take, tmp_path_factory):
    """The demo's two voices, each with its words."""
    folder = tmp_path_factory.mktemp("guest")
    store_take(demo / "sound" / "guest.flac", folder / "sound", folder / "peaks", name="guest")
    takes = {"host-opening": host_take, "guest": TakeReader(folder / "sound")}
    words = {
        name: [Word(**word) for word in json.loads((demo / "words" / f"{name}.json").read_text())]
        for name in takes
    }
    return takes, words


def on_one_track(spoken, turns: int) -> tuple[InMemory, list[Word], list[str]]:
    """A talk of the two in turns, its words, and who says each."""
    takes, words = spoken
    sound, said, who = [], [], []
    at = 0
    for turn in range(turns):
        name = list(takes)[turn % 2]
        start = (5 + turn // 2 * TURN_S) * RATE
        end = start + TURN_S * RATE
        sound.append(takes[name].read(start, end - start).mean(axis=1, keepdims=True))
        for word in words[name]:
            if start <= word.start and word.end <= end:
                moved = at - start
                said.append(Word(word.text, word.start + moved, word.end + moved, word.kind, 0.9))
                who.append(name)
        sound.append(np.zeros((PAUSE, 1), np.float32))
        at += end - start + PAUSE
    return InMemory(np.concatenate(sound)), said, who


def test_two_voices_on_one_track_are_told_apart(spoken) -> None:
    take, words, who = on_one_track(spoken, 10)
    found = with_voices(take, words)
    names = dict(zip(("1", "2"), dict.fromkeys(who), strict=True))
    right = [names.get(word.voice) == name for word, name in zip(found, who, strict=True)]
    assert np.mean(right) >= 0.97
    assert [(w.text, w.start) for w in found] == [(w.text, w.start) for w in words]


def test_one_voice_alone_is_one(spoken) -> None:
    takes, words = spoken
    for name, take in takes.items():
        assert {word.voice for word in with_voices(take, words[name])} == {""}


@pytest.mark.parametrize(("seconds", "words"), [(0, 0), (1, 0), (1, 1), (3, 2)])
def test_next_to_nothing_is_one_voice(seconds: int, words: int) -> None:
    take = InMemory(np.zeros((seconds * RATE, 1), np.float32))
    said = [Word("a", n * RATE, n * RATE + 4800, "word", 0.9) for n in range(words)]
    assert with_voices(take, said) == tuple(said)


def test_the_layers_are_those_of_the_literature(spoken) -> None:
    """Against the equations of an LSTM (Hochreiter and Schmidhuber 1997, with forget gates by Gers
    and others 2000), step by step."""
    sound = soxr.resample(spoken[0]["guest"].read(10 * RATE, 2 * RATE)[:, 0], RATE, 16_000)
    (found,) = voiceprint.voiceprints(sound, np.array([0]))
    with np.load(voiceprint.WEIGHTS) as kept:
        of = {name: kept[name].astype(np.float64) for name in kept.files}
    line = voiceprint._levelled(voiceprint._mel(sound)[: voiceprint.WINDOW_HOPS]).astype(float)
    for layer in range(3):
        hidden, cell, out = np.zeros(256), np.zeros(256), []
        for row in line:
            gates = of[f"lstm.weight_ih_l{layer}"] @ row + of[f"lstm.bias_ih_l{layer}"]
            gates += of[f"lstm.weight_hh_l{layer}"] @ hidden + of[f"lstm.bias_hh_l{layer}"]
            enter, forget, new, leave = np.split(gates, 4)
            cell = cell / (1 + np.exp(-forget)) + np.tanh(new) / (1 + np.exp(-enter))
            hidden = np.tanh(cell) / (1 + np.exp(-leave))
            out.append(hidden)
        line = np.array(out)
    raw = np.maximum(0, of["linear.weight"] @ line[-1] + of["linear.bias"])
    assert found @ (raw / np.linalg.norm(raw)) > 0.99999


def test_how_many_there_are_is_found_among_points_of_four_kinds() -> None:
    """Voiceprints as four directions with scatter: four groups, in the order that they come."""
    rng = np.random.default_rng(4)
    kinds = np.eye(4, 256)[np.repeat(np.tile(np.arange(4), 6), 12)]
    prints = kinds + rng.normal(0, 0.03, kinds.shape)
    prints = (prints / np.linalg.norm(prints, axis=1, keepdims=True)).astype(np.float32)
    assert (told_apart(prints) == np.repeat(np.tile(np.arange(4), 6), 12)).mean() > 0.98


def test_a_name_takes_the_place_of_a_voice() -> None:
    words = tuple(
        Word("a", n * RATE, n * RATE + 4800, "word", 0.9, "1" if n < 3 else "2") for n in range(6)
    )
    timeline = Timeline()
    assert speakers_in(timeline, "take", words) == ((0, "Voice 1"), (3, "Voice 2"))
    timeline.speakers["take"] = ((3, "Ilva"), (5, ""))
    voices = speakers_in(timeline, "take", words)
    assert [speaker_of(voices, n) for n in (2, 3, 4, 5)] == ["Voice 1", "Ilva", "Ilva", "Voice 2"]
