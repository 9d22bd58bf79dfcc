"""The API of snags: found, heard as they would be, decided, tidied, undone."""

import io

import numpy as np
import pytest
import soundfile

from airtrim.api import searching
from airtrim.core.timeline.words import Word
from airtrim.services.finding import keep_words
from tests.api.host import RATE, Host


def stumbling(host: Host) -> int:
    """An episode of 40 s: a filler, long air and a false start, each word a tone of its own."""
    said = "one (um) two ~ the boat is | the boat is late today"
    rng = np.random.default_rng(4)
    sound = 0.001 * rng.standard_normal(40 * RATE)
    words, at = [], 2.0
    for text in said.split():
        if text in "|~":
            at += 0.5 if text == "|" else 3.0
            continue
        start = round(at * RATE)
        tone = np.sin(2 * np.pi * (300 + 40 * len(words)) * np.arange(RATE // 2) / RATE)
        sound[start : start + RATE // 2] += 0.2 * tone
        kind = "filler" if text.startswith("(") else "word"
        words.append(Word(text.strip("()"), start, start + RATE // 2, kind, 0.9))
        at += 0.6
    buffer = io.BytesIO()
    soundfile.write(buffer, sound.astype(np.float32), RATE, format="WAV", subtype="PCM_16")
    episode = host.filled(buffer.getvalue())
    take = host.view(episode)["takes"][0]["id"]
    keep_words(host.state.store, take, tuple(words))
    return episode


def found(host: Host, episode: int) -> dict:
    revision = host.view(episode)["revision"]
    answer = host.client.get(f"/api/episodes/{episode}/snags", params={"revision": revision})
    assert answer.status_code == 200, answer.text
    return answer.json()


def one(host: Host, episode: int, kind: str) -> dict:
    return next(s for s in found(host, episode)["snags"] if s["kind"] == kind)


def post(host: Host, episode: int, path: str, revision: int | None = None, **body):
    at = host.view(episode)["revision"] if revision is None else revision
    return host.client.post(f"/api/episodes/{episode}/{path}", json={"revision": at, **body})


def audio(host: Host, episode: int, start: int, frames: int, **query) -> np.ndarray:
    revision = host.view(episode)["revision"]
    answer = host.client.get(
        f"/api/episodes/{episode}/audio",
        params={"revision": revision, "start": start, "frames": frames, **query},
    )
    assert answer.status_code == 200, answer.text
    return soundfile.read(io.BytesIO(answer.content))[0]


def test_what_is_heard_beforehand_is_what_is_there_afterwards(host: Host) -> None:
    episode = stumbling(host)
    for kind, do in (("filler", "cut"), ("repeat", "cut"), ("air", "trim")):
        snag = one(host, episode, kind)
        assert snag["does"] == do
        start = max(0, snag["start"] - RATE)
        before = audio(host, episode, start, 4 * RATE, snag=snag["id"], do=do)
        answer = post(host, episode, "snags", decisions=[{"id": snag["id"], "do": do}])
        assert answer.status_code == 200, answer.text
        assert np.array_equal(before, audio(host, episode, start, 4 * RATE))
    assert {s["kind"] for s in found(host, episode)["snags"]} == {"air"}  # at both ends


def test_decisions_are_one_step_named_and_undone(host: Host) -> None:
    episode = stumbling(host)
    before = host.view(episode)
    snags = found(host, episode)["snags"]
    assert sorted(s["kind"] for s in snags) == ["air", "air", "air", "filler", "repeat"]
    decisions = [{"id": s["id"], "do": s["does"]} for s in snags]
    view = post(host, episode, "snags", decisions=decisions).json()
    assert view["undo"] == "Settled 5 snags"
    saved = sum(s["saves"] for s in snags)
    assert abs(before["frames"] - view["frames"] - saved) < 0.3 * RATE  # edges move a little
    undone = post(host, episode, "undo").json()
    assert undone["frames"] == before["frames"]
    assert found(host, episode)["snags"] == snags


def test_keeping_and_deciding_again(host: Host) -> None:
    episode = stumbling(host)
    snag = one(host, episode, "filler")
    view = post(host, episode, "snags", decisions=[{"id": snag["id"], "do": "keep"}]).json()
    assert view["undo"] == "Kept a filler"
    assert one(host, episode, "filler")["kept"]
    tidy = {t["how"]: t for t in found(host, episode)["tidy"]}
    assert "filler" not in tidy["close"]["counts"]
    again = post(host, episode, "snags/reopen", decisions=[{"id": snag["id"], "do": "keep"}])
    assert again.status_code == 200
    assert not one(host, episode, "filler")["kept"]
    refused = post(host, episode, "snags/reopen", decisions=[{"id": snag["id"], "do": "keep"}])
    assert refused.status_code == 422
    assert "not kept" in refused.json()["sentence"]


def test_covering_puts_room_tone_over_it_and_moves_nothing(host: Host) -> None:
    episode = stumbling(host)
    before = host.view(episode)
    snag = one(host, episode, "filler")
    view = post(host, episode, "snags", decisions=[{"id": snag["id"], "do": "cover"}]).json()
    assert view["frames"] == before["frames"]
    sound = audio(host, episode, snag["start"] + 4800, snag["frames"] - 9600)
    assert 0 < np.abs(sound).max() < 0.01
    assert found(host, episode)["complete"], "room tone has no words to wait for"


def test_tidying_comes_out_as_long_as_it_said(host: Host) -> None:
    episode = stumbling(host)
    proposals = {t["how"]: t for t in found(host, episode)["tidy"]}
    assert proposals["close"]["frames"] < proposals["gentle"]["frames"]
    view = post(host, episode, "tidy", how="gentle").json()
    assert view["undo"] == "Tidied gently"
    assert abs(view["frames"] - proposals["gentle"]["frames"]) < 0.3 * RATE
    again = post(host, episode, "tidy", how="gentle")
    assert again.status_code == 422
    assert "nothing to tidy" in again.json()["sentence"]


def test_what_counts_as_a_snag_can_be_set_and_undone(host: Host) -> None:
    episode = stumbling(host)
    rules = {
        "kind": "set_snag_rules",
        "air_limit_s": 5.0,
        "own_fillers": [{"text": "today", "at_start": False}],
    }
    assert host.edit(episode, rules).status_code == 200
    after = found(host, episode)
    assert after["air_limit_s"] == 5.0
    assert [s["text"] for s in after["snags"] if s["kind"] == "filler"] == ["um", "today"]
    assert all(s["frames"] > 5 * RATE for s in after["snags"] if s["kind"] == "air")
    post(host, episode, "undo")
    assert found(host, episode)["own_fillers"] == []


def test_what_cannot_be_is_told(host: Host) -> None:
    episode = stumbling(host)
    snag = one(host, episode, "filler")
    gone = post(host, episode, "snags", decisions=[{"id": "filler:none:5", "do": "cut"}])
    assert gone.status_code == 422
    assert "not there any more" in gone.json()["sentence"]
    wrong = post(host, episode, "snags", decisions=[{"id": snag["id"], "do": "restore"}])
    assert wrong.status_code == 422
    old = host.view(episode)["revision"]
    over = {"kind": "cut", "start": snag["start"] - 100, "frames": snag["frames"] + 200}
    host.edit(episode, over)
    stale = post(host, episode, "snags", revision=old, decisions=[{"id": snag["id"], "do": "cut"}])
    assert stale.status_code == 409
    assert found(host, episode)["snags"]


def test_a_tidying_cannot_bring_in_sound_of_elsewhere(host: Host) -> None:
    episode = stumbling(host)
    track = host.view(episode)["tracks"][0]["id"]
    tone = {"take": "of-another", "start": 0, "frames": RATE}
    cover = {"track": track, "start": RATE, "frames": RATE, "tone": tone}
    answer = host.edit(episode, {"kind": "tidy", "covers": [cover]})
    assert answer.status_code == 422
    assert "no such recording" in answer.json()["sentence"]


def test_a_long_episodes_snags_are_found_in_a_process_of_their_own(
    host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    episode = stumbling(host)
    here = found(host, episode)
    host.state.store.cache.drop(lambda key: "snags" in str(key[0]))
    monkeypatch.setattr(searching, "MANY_WORDS", 1)
    try:
        assert found(host, episode) == here
        # What was found there is known here, so that a decision does not look again.
        assert host.state.store.known_snags(episode, host.view(episode)["revision"])
        decision = {"id": one(host, episode, "filler")["id"], "do": "cut", "attempt": -1}
        assert post(host, episode, "snags", decisions=[decision]).status_code == 200
        after = found(host, episode)
        assert len(after["snags"]) < len(here["snags"])
        # Where somebody ends that process, the search goes on here.
        for process in next(iter(searching._pools.values()))._processes.values():
            process.kill()
        host.state.store.cache.drop(lambda key: "snags" in str(key[0]))
        assert found(host, episode) == after
    finally:
        searching.end()
