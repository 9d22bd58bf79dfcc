"""Transcripts over the API: out as files, in as the words of a recording; corrections of many."""

import itertools
import json
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from airtrim.core.timeline.words import Word
from airtrim.errors import Cancelled
from airtrim.services import transcribing
from airtrim.services.finding import keep_words
from tests.api.host import RATE, Host
from tests.api.test_editing import SAID, spoken
from tests.api.test_recordings import add, begin, keep_all


def get(host: Host, episode: int, path: str, **query):
    revision = host.view(episode)["revision"]
    return host.client.get(
        f"/api/episodes/{episode}/{path}", params={"revision": revision, **query}
    )


def texts(host: Host, episode: int) -> list[str]:
    page = get(host, episode, "page", start=0, frames=60 * RATE).json()
    return [w["text"] for w in page["words"]]


def post(host: Host, episode: int, path: str, **body):
    revision = host.view(episode)["revision"]
    return host.client.post(f"/api/episodes/{episode}/{path}", json={"revision": revision, **body})


def test_a_transcript_is_timed_to_the_edited_episode_and_to_the_raw_take(host: Host) -> None:
    episode = spoken(host, *SAID)
    take = host.view(episode)["takes"][0]["id"]
    host.edit(episode, {"kind": "cut", "start": 2 * RATE, "frames": RATE})
    edited = get(host, episode, "transcript", format="json")
    assert "attachment" in edited.headers["content-disposition"]
    first = edited.json()["segments"][0]
    assert first["body"].startswith("the")
    assert first["startTime"] == pytest.approx(2.0, abs=0.01)
    raw = get(host, episode, "transcript", format="json", take=take).json()["segments"][0]
    assert raw["body"].startswith("So")
    assert raw["startTime"] == pytest.approx(2.0, abs=0.01)
    for form, begins in (("vtt", "WEBVTT"), ("srt", "1\n00:00:02"), ("txt", "the ferry")):
        assert get(host, episode, "transcript", format=form).text.startswith(begins)
    assert get(host, episode, "transcript", format="doc").status_code == 422


def test_a_transcript_made_elsewhere_becomes_the_words_of_a_recording(host: Host) -> None:
    episode = host.filled()
    take = host.view(episode)["takes"][0]["id"]
    vtt = "WEBVTT\n\n00:00.500 --> 00:02.000\nWords from elsewhere.\n"
    answer = host.client.put(
        f"/api/takes/{take}/transcript", params={"name": "a.vtt"}, content=vtt.encode()
    )
    assert answer.status_code == 202, answer.text
    done = host.work(answer.json()["id"])
    assert done["state"] == "done", done
    assert texts(host, episode) == ["Words", "from", "elsewhere."]
    broken = host.client.put(
        f"/api/takes/{take}/transcript", params={"name": "a.srt"}, content=b"1\nx --> y\nhm\n"
    )
    assert broken.status_code == 422
    assert "times are broken" in broken.json()["sentence"]
    assert texts(host, episode) == ["Words", "from", "elsewhere."]
    # What stood there before comes back, and can be exchanged again.
    none = host.client.post(f"/api/takes/{take}/words/back")
    assert none.status_code == 422
    other = b"1\n00:00:00,500 --> 00:00:02,000\nQuite others.\n"
    again = host.client.put(
        f"/api/takes/{take}/transcript", params={"name": "b.srt"}, content=other
    )
    host.work(again.json()["id"])
    assert texts(host, episode) == ["Quite", "others."]
    assert host.view(episode)["takes"][0]["reworded"]
    for expected in (["Words", "from", "elsewhere."], ["Quite", "others."]):
        back = host.client.post(f"/api/takes/{take}/words/back")
        assert host.work(back.json()["id"])["state"] == "done"
        assert texts(host, episode) == expected
    # The same job done twice, as after a crash, does not lose what was there before.
    store = host.state.store
    before = store.words_before(take)
    now = store.words(store.timeline(episode, host.view(episode)["revision"]))[take]
    keep_words(store, take, now)
    assert store.words_before(take) == before
    page = get(host, episode, "page", start=0, frames=60 * RATE).json()
    word = page["words"][0]
    host.edit(episode, {"kind": "correct_word", "take": take, "word": 0, "text": "Verbs"})
    refused = host.client.put(
        f"/api/takes/{take}/transcript", params={"name": "a.vtt"}, content=vtt.encode()
    )
    assert refused.status_code == 422, word
    assert "corrected by hand" in refused.json()["sentence"]


def test_all_of_the_same_are_corrected_in_one_step(host: Host) -> None:
    episode = spoken(host, *SAID)
    view = post(host, episode, "correct-all", old="ferry", new="packet").json()
    assert view["undo"] == "Corrected 2 words to “packet”"
    assert texts(host, episode).count("packet") == 2
    post(host, episode, "undo")
    assert texts(host, episode).count("ferry") == 2
    assert post(host, episode, "correct-all", old="xyz", new="y").status_code == 422


def test_a_script_is_held_against_the_episode_and_its_spelling_taken_over(host: Host) -> None:
    episode = spoken(host, *SAID)
    none = get(host, episode, "script/held")
    assert none.status_code == 422
    assert "no script" in none.json()["sentence"]
    script = "So, the Ferry leaves at 6. You know: the ferry is very small."
    host.edit(episode, {"kind": "set_script", "text": script})
    held = get(host, episode, "script/held").json()
    assert [(d["kind"], d["meant"]) for d in held["differences"]] == [("left_out", "very")]
    view = post(host, episode, "script/spelling").json()
    assert view["undo"] == "Took over the script’s spelling"
    assert texts(host, episode)[:4] == ["So,", "the", "Ferry", "leaves"]
    assert post(host, episode, "script/spelling").status_code == 422
    assert json.loads(get(host, episode, "transcript", format="json").text)["segments"]


def test_who_speaks_is_told_in_every_format_and_undone(host: Host) -> None:
    episode = spoken(host, *SAID)
    take = host.view(episode)["takes"][0]["id"]
    words = [{"take": take, "first": 0, "last": 3}]
    host.edit(episode, {"kind": "name_speaker", "words": words, "name": "Marit"})
    assert host.view(episode)["undo"] == "Marit speaks here"
    page = get(host, episode, "page", start=0, frames=60 * RATE).json()
    assert [w["speaker"] for w in page["words"]][:5] == ["Marit"] * 4 + [""]
    for raw in ({}, {"take": take}):
        assert "<v Marit>So" in get(host, episode, "transcript", format="vtt", **raw).text
    refused = host.client.put(
        f"/api/takes/{take}/transcript",
        params={"name": "a.vtt"},
        content=b"WEBVTT\n\n00:00.500 --> 00:02.000\nOthers.\n",
    )
    assert refused.status_code == 422
    assert "Speakers were named" in refused.json()["sentence"]
    post(host, episode, "undo")
    assert "Marit" not in get(host, episode, "transcript", format="vtt").text


def stretches(*spoken: str) -> list[list[Word]]:
    """Words of a second each, a stretch for every sentence."""
    numbers = itertools.count()
    return [
        [
            Word(text, n * RATE, n * RATE + RATE // 2, "word", 0.9)
            for text, n in zip(said, numbers, strict=False)
        ]
        for said in (one.split() for one in spoken)
    ]


def test_words_are_on_the_page_while_the_rest_is_still_being_heard(
    host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    episode = host.filled()
    (job,) = [j for j in host.client.get("/api/jobs").json() if j["kind"] == "transcribe"]
    take = host.view(episode)["takes"][0]["id"]
    seen: list[object] = []

    def heard(*_: object, progress: Callable[[float], None], **__: object) -> Iterator[list[Word]]:
        first, second = stretches("The fery leaves", "at six")
        assert texts(host, episode) == []
        yield first
        progress(0.5)
        seen.append(host.client.get(f"/api/jobs/{job['id']}").json()["doing"])
        seen.append(texts(host, episode))
        (hit,) = get(host, episode, "find", text="leaves").json()
        seen.append(hit["start"] // RATE)
        assert not get(host, episode, "snags").json()["complete"]
        assert not get(host, episode, "page", start=0, frames=6 * RATE).json()["air"]
        fixed = {"kind": "correct_word", "take": take, "word": 1, "text": "ferry"}
        assert host.edit(episode, fixed).status_code == 200
        yield second

    monkeypatch.setattr(transcribing, "as_they_come", heard)
    assert host.work(job["id"])["state"] == "done"
    assert seen == ["Writing down the words: 3 so far", ["The", "fery", "leaves"], 2]
    assert texts(host, episode) == ["The", "ferry", "leaves", "at", "six"]
    assert get(host, episode, "snags").json()["complete"]
    folder = host.state.store.files.take(take)
    assert not (folder / "words-coming.json").exists()


def test_words_are_written_first_where_a_host_looks_and_only_those_with_numbers_are_corrected(
    host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    episode = host.filled()
    (job,) = [j for j in host.client.get("/api/jobs").json() if j["kind"] == "transcribe"]
    take = host.view(episode)["takes"][0]["id"]
    at_once = host.view(episode)["revision"]

    def heard(
        *_: object,
        wanted: Callable[[], int | None],
        whole_to: Callable[[int], None],
        **__: object,
    ) -> Iterator[list[Word]]:
        first, second = stretches("The ferry leaves", "at sics")
        assert wanted() is None
        cut = {"kind": "cut", "start": 0, "frames": RATE}
        assert host.edit(episode, cut).status_code == 200
        body = {"revision": host.view(episode)["revision"], "at": 3 * RATE}
        looked = host.client.put(f"/api/episodes/{episode}/looked-at", json=body)
        assert looked.status_code == 204
        assert wanted() == 4 * RATE, "the frame of the recording that is there"
        whole_to(0)
        yield second
        assert texts(host, episode) == ["at", "sics"]
        fixed = {"kind": "correct_word", "take": take, "word": 1, "text": "six"}
        refused = host.edit(episode, fixed)
        assert refused.status_code == 422
        assert "still on their way" in refused.json()["sentence"]
        whole_to(6 * RATE)
        yield first
        assert host.edit(episode, fixed | {"word": 4}).status_code == 200

    monkeypatch.setattr(transcribing, "as_they_come", heard)
    done = host.work(job["id"])
    assert done["state"] == "done", done
    assert texts(host, episode) == ["ferry", "leaves", "at", "six"]
    assert not host.state.store.files.looked_at(take).exists()
    body = {"revision": at_once, "at": 3 * RATE}
    host.client.put(f"/api/episodes/{episode}/looked-at", json=body)
    assert not host.state.store.files.looked_at(take).exists(), "all is written down"


def test_words_that_had_come_go_with_a_cancelled_job_and_old_ones_stay_till_new_ones_are_there(
    host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    episode = host.filled()
    (job,) = [j for j in host.client.get("/api/jobs").json() if j["kind"] == "transcribe"]

    def left(*_: object, **__: object) -> Iterator[list[Word]]:
        yield from stretches("Half of it")
        assert texts(host, episode) == ["Half", "of", "it"]
        raise Cancelled("Cancelled.")

    monkeypatch.setattr(transcribing, "as_they_come", left)
    assert host.work(job["id"])["state"] == "cancelled"
    assert texts(host, episode) == []

    def anew(*_: object, **__: object) -> Iterator[list[Word]]:
        before = texts(host, episode)
        for stretch in stretches("All of", "it"):
            yield stretch
            assert texts(host, episode) == before

    monkeypatch.setattr(transcribing, "as_they_come", anew)
    take = host.view(episode)["takes"][0]["id"]
    keep_words(host.state.store, take, tuple(stretches("Words of before")[0]))
    host.client.post(f"/api/jobs/{job['id']}/again")
    assert host.work(job["id"])["state"] == "done"
    assert texts(host, episode) == ["All", "of", "it"]


def test_a_voice_is_named_once_and_by_hand_where_it_was_taken_for_another(host: Host) -> None:
    episode = host.filled()
    take = host.view(episode)["takes"][0]["id"]
    words = stretches("Is it late? It is. Yes.")[0]
    voices = "111221"
    heard = tuple(replace(word, voice=voice) for word, voice in zip(words, voices, strict=True))
    keep_words(host.state.store, take, heard)

    def speakers() -> list[str]:
        page = get(host, episode, "page", start=0, frames=60 * RATE).json()
        return [w["speaker"] for w in page["words"]]

    assert speakers() == [f"Voice {voice}" for voice in voices]
    by_hand = [{"take": take, "first": 5, "last": 5}]
    host.edit(episode, {"kind": "name_speaker", "words": by_hand, "name": "Ilva"})
    named = {"kind": "name_voice", "take": take, "voice": "1", "name": " Tobin "}
    assert host.edit(episode, named).status_code == 200
    assert host.view(episode)["undo"] == "Voice 1 is Tobin"
    assert speakers() == ["Tobin"] * 3 + ["Voice 2"] * 2 + ["Ilva"]
    assert "<v Voice 2>It" in get(host, episode, "transcript", format="vtt").text
    post(host, episode, "undo")
    assert speakers()[:3] == ["Voice 1"] * 3
    for wrong in ({"voice": "3"}, {"voice": "x"}, {"name": " "}, {"take": "elsewhere"}):
        refused = host.edit(episode, {**named, **wrong})
        assert refused.status_code == 422, wrong


def test_words_are_written_anew_by_another_recogniser_and_in_another_language(host: Host) -> None:
    told = {one["name"]: one["languages"] for one in host.client.get("/api/recognisers").json()}
    assert told["quick"] == ["en"]
    assert "es" in told["careful"]
    spoken_there = Path(__file__).parents[1] / "spoken" / "spanish.flac"
    episode = host.filled(spoken_there.read_bytes(), "spanish.flac")
    take = host.view(episode)["takes"][0]
    assert (take["language"], take["recogniser"]) == ("", "")
    keep_words(host.state.store, take["id"], tuple(stretches("Words in English")[0]))
    for wrong in (
        {"recogniser": "quick", "language": "es"},
        {"recogniser": "careful", "language": "klingon"},
        {"recogniser": "other"},
    ):
        assert host.client.post(f"/api/takes/{take['id']}/words", json=wrong).status_code == 422
    body = {"recogniser": "careful", "language": "es"}
    begun = host.client.post(f"/api/takes/{take['id']}/words", json=body)
    assert begun.status_code == 202, begun.text
    assert host.work(begun.json()["id"])["state"] == "done"
    after = host.view(episode)["takes"][0]
    assert (after["language"], after["recogniser"]) == ("es", "careful")
    assert after["reworded"]
    assert "barco" in texts(host, episode)
    back = host.client.post(f"/api/takes/{take['id']}/words/back").json()
    assert host.work(back["id"])["state"] == "done"
    assert texts(host, episode) == ["Words", "in", "English"]


def test_what_two_microphones_in_one_room_hear_is_written_once(
    host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Tobin speaks for three seconds, then Marit; each is heard at the other's, 14 dB softer."""
    rng = np.random.default_rng(5)
    voices = 0.1 * rng.standard_normal((6 * RATE, 2)).astype(np.float32)
    voices[3 * RATE :, 0] = voices[: 3 * RATE, 1] = 0.0
    both = voices @ np.array([[1.0, 0.2], [0.2, 1.0]], np.float32)
    episode = host.new_episode()
    recording = begin(host, episode, "Tobin", "Marit").json()["id"]
    done = host.work(add(host, recording, keep_all(host, recording, both)).json()["id"])
    assert done["state"] == "done", done
    spoken = stretches("One two three four five")[0]
    monkeypatch.setattr(transcribing, "as_they_come", lambda *_, **__: iter([spoken]))
    jobs = [j for j in host.client.get("/api/jobs").json() if j["kind"] == "transcribe"]
    assert len(jobs) == 2
    for job in jobs:
        assert host.work(job["id"])["state"] == "done"
    page = get(host, episode, "page", start=0, frames=6 * RATE).json()
    tracks = {track["id"]: track["name"] for track in host.view(episode)["tracks"]}
    assert [(tracks[w["track"]], w["text"]) for w in page["words"]] == [
        ("Tobin", "One"),
        ("Tobin", "two"),
        ("Tobin", "three"),
        ("Marit", "four"),
        ("Marit", "five"),
    ]
