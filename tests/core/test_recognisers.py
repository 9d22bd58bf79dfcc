"""A second recogniser, other languages: Spanish read by a made voice (own sentences; three phrases
with digital silence between them, so that where each begins and ends is known to the sample)."""

import json
import os
import shutil
from pathlib import Path

import numpy as np
import pytest

from airtrim.core.media.reading import InMemory
from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.speech import recognisers
from airtrim.core.speech.hesitations import KNOWN, is_filler
from airtrim.core.speech.recognise import as_they_come
from airtrim.core.speech.recognisers import folder_of, installed, languages_of
from airtrim.errors import BadInput
from tests.reference import RATE

SPOKEN = Path(__file__).parents[1] / "spoken"


@pytest.fixture(scope="module")
def careful(tmp_path_factory) -> Path:
    return folder_of("careful", tmp_path_factory.mktemp("models"))


def test_the_careful_one_hears_which_language_it_is_and_writes_it(careful, tmp_path) -> None:
    store_take(SPOKEN / "spanish.flac", tmp_path / "sound", tmp_path / "peaks", name="spanish")
    take = TakeReader(tmp_path / "sound")
    told: list[str] = []
    found = as_they_come(take.read, take.frames, careful, language="", told=told.append)
    words = [word for stretch in found for word in stretch]
    assert set(told) == {"es"}
    truth = json.loads((SPOKEN / "spanish.json").read_text())
    text = " ".join(word.text.strip(".,").lower() for word in words)
    for said in ("el barco sale", "de la mañana", "minutos en llegar a la isla", "con sus perros"):
        assert said in text
    edges = [
        min((word.start - start for word in words), key=abs) for start, _ in truth["phrases"]
    ] + [min((word.end - end for word in words), key=abs) for _, end in truth["phrases"]]
    assert np.median(np.abs(edges)) < 0.04 * RATE


def test_it_is_put_together_once_and_checked(careful, tmp_path, monkeypatch) -> None:
    assert installed() == ("quick", "careful")
    written = (careful / "model.bin").stat()
    assert folder_of("careful", careful.parent) == careful
    assert (careful / "model.bin").stat() == written
    monkeypatch.setattr(recognisers, "_SHA256", "0" * 64)
    with pytest.raises(BadInput, match="damaged"):
        folder_of("careful", tmp_path)
    assert not [file for file in tmp_path.rglob("*") if file.name.startswith(("model", "begun"))]
    monkeypatch.setattr(recognisers, "_PARTS", ("not_there_1", "not_there_2"))
    assert installed() == ("quick",)
    with pytest.raises(BadInput, match="not installed"):
        folder_of("careful", tmp_path)


@pytest.mark.parametrize("broken", ["missing", "empty", "cut off", "no vocabulary"])
def test_a_broken_model_is_a_sentence(broken: str, tmp_path) -> None:
    folder = tmp_path / "model"
    if broken != "missing":
        shutil.copytree(folder_of("quick", tmp_path), folder)
    if broken == "empty":
        (folder / "model.bin").write_bytes(b"")
    if broken == "cut off":
        os.truncate(folder / "model.bin", 1_000_000)
    if broken == "no vocabulary":
        for file in (*folder.glob("vocabulary.*"), *folder.glob("tokenizer.json")):
            file.unlink()
    silence = InMemory(np.zeros((RATE, 1), np.float32))
    with pytest.raises(BadInput, match="missing or cannot be read"):
        list(as_they_come(silence.read, silence.frames, folder))


def test_each_knows_its_languages() -> None:
    assert languages_of("quick") == ("en",)
    assert {"en", "es", "de", "fr", "it"} < set(languages_of("careful"))


def test_a_named_folder_takes_the_place_of_the_quick_one(tmp_path) -> None:
    assert folder_of("quick", tmp_path, tmp_path / "mine") == tmp_path / "mine"


def test_a_language_that_is_not_known_is_a_sentence(careful) -> None:
    silence = InMemory(np.zeros((RATE, 1), np.float32))
    with pytest.raises(BadInput, match="does not know the language “xx”"):
        list(as_they_come(silence.read, silence.frames, careful, language="xx"))


@pytest.mark.parametrize("seconds", [0, 3])
def test_silence_has_no_words_in_any_language(careful, seconds: int) -> None:
    silence = InMemory(np.zeros((seconds * RATE, 1), np.float32))
    found = as_they_come(silence.read, silence.frames, careful, language="")
    assert [word for stretch in found for word in stretch] == []


@pytest.mark.parametrize(
    ("language", "fillers", "words"),
    [
        ("en", "um uh er hmm mhm", "a her among oh"),
        ("de", "äh ähm öhm hm", "ehe eher an um"),
        ("es", "eh em mmm", "el este pues he"),
        ("fr", "euh heu hmm", "eu deux et"),
        ("it", "ehm eh mmm", "e è ho"),
        ("pt", "hã éé hum", "há é um"),
    ],
)
def test_hesitations_of_languages(language: str, fillers: str, words: str) -> None:
    assert language in KNOWN
    assert [text for text in fillers.split() if not is_filler(text, language)] == []
    assert [text for text in words.split() if is_filler(text, language)] == []
