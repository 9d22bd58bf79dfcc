"""The API of sound: what a track measures, its chain tried, kept and undone, what it needs made."""

import io
import json
from collections.abc import Callable

import numpy as np
import pytest
import soundfile

from airtrim.core.sound import learnt
from airtrim.core.timeline.words import Word
from airtrim.services.finding import keep_words
from tests.api.host import RATE, Host

SECONDS = 24


def talking(host: Host, gains_db: tuple[float, ...] = (0.0,), knocks: float = 0.0) -> int:
    """An episode of one voice in a noisy room with a hum: bursts of a second, half one apart; and
    knocks, three a second."""
    rng = np.random.default_rng(7)
    time = np.arange(SECONDS * RATE) / RATE
    sound = 0.003 * rng.standard_normal(len(time)) + 0.002 * np.sin(2 * np.pi * 50 * time)
    burst = rng.standard_normal(RATE // 10) * np.exp(-np.arange(RATE // 10) / RATE / 0.01)
    for start in range(0, len(time) - RATE, RATE // 3):
        sound[start : start + len(burst)] += knocks * burst
    words, at, number = [], 2.0, 0
    while at < SECONDS - 2:
        start = round(at * RATE)
        gain = 10 ** (gains_db[number % len(gains_db)] / 20)
        pitch = np.arange(RATE) * 2 * np.pi * 140 / RATE
        burst = sum(np.sin(n * pitch) / n for n in range(1, 20))
        sound[start : start + RATE] += 0.05 * gain * burst * np.hanning(RATE) ** 0.2
        words.append(Word(f"word{number}", start, start + RATE, "word", 0.9))
        at, number = at + 2.0, number + 1
    buffer = io.BytesIO()
    soundfile.write(buffer, sound.astype(np.float32), RATE, format="WAV", subtype="PCM_24")
    episode = host.filled(buffer.getvalue())
    keep_words(host.state.store, host.view(episode)["takes"][0]["id"], tuple(words))
    return episode


def voice(host: Host, episode: int) -> dict:
    return host.view(episode)["tracks"][0]


def sound_of(host: Host, episode: int) -> dict:
    view = host.view(episode)
    where = {"revision": view["revision"], "track": view["tracks"][0]["id"]}
    answer = host.client.get(f"/api/episodes/{episode}/sound", params=where)
    assert answer.status_code == 200, answer.text
    return answer.json()


def heard(host: Host, episode: int, at: int, count: int, **listening: object):  # type: ignore[no-untyped-def]
    view = host.view(episode)
    where: dict = {
        "revision": view["revision"],
        "start": at,
        "frames": count,
        "content": view["content"],
    }
    if listening:
        where["listening"] = json.dumps({"track": view["tracks"][0]["id"], **listening})
    answer = host.client.get(f"/api/episodes/{episode}/audio", params=where)
    assert answer.status_code == 200, answer.text
    return soundfile.read(io.BytesIO(answer.content))[0], answer


def set_chain(host: Host, episode: int, change: Callable[[dict], None]) -> dict:
    track = voice(host, episode)
    change(track["chain"])
    edit = {"kind": "set_chain", "track": track["id"], "chain": track["chain"]}
    answer = host.edit(episode, edit)
    assert answer.status_code == 200, answer.text
    return answer.json()


def clean(host: Host, episode: int) -> dict | None:
    body = {"revision": host.view(episode)["revision"]}
    answer = host.client.post(f"/api/episodes/{episode}/clean", json=body)
    assert answer.status_code == 202, answer.text
    return answer.json() and host.work(answer.json()["id"])


def level_db(sound: np.ndarray) -> float:
    return float(10 * np.log10(np.mean(sound**2) + 1e-12))


PAUSE = round(1.2 * RATE), round(0.6 * RATE)


def test_suggestions_are_told_with_reasons_and_nothing_is_done_unasked(host: Host) -> None:
    episode = talking(host)
    before = host.view(episode)["revision"]
    found = sound_of(host, episode)
    assert found["hum_hz"] == pytest.approx(50.0, abs=0.1)
    assert found["voice_dbfs"] - found["room_dbfs"] < 40
    steps = {one["step"]: one for one in found["suggestions"]}
    assert {"hum", "noise"} <= set(steps)
    assert "50.0 Hz" in steps["hum"]["reason"]
    assert host.view(episode)["revision"] == before
    assert not voice(host, episode)["chain"]["hum"]["on"]
    done = host.edit(
        episode,
        {
            "kind": "set_chain",
            "track": voice(host, episode)["id"],
            "chain": steps["hum"]["chain"],
            "name": steps["hum"]["title"],
        },
    ).json()
    assert done["undo"] == "Take out the hum at 50 Hz"
    assert "hum" not in {one["step"] for one in sound_of(host, episode)["suggestions"]}


def test_what_is_listened_to_lies_within_the_episode(host: Host) -> None:
    """Though somebody speaks at its very end only."""
    episode = talking(host)
    for frames in (SECONDS * RATE, 21 * RATE, 5 * RATE):
        whole = host.view(episode)["frames"]
        if whole > frames:
            host.edit(episode, {"kind": "cut", "start": 0, "frames": whole - frames})
        found = sound_of(host, episode)
        assert found["sample_start"] >= 0
        assert found["sample_start"] + found["sample_frames"] <= host.view(episode)["frames"]


def test_the_room_is_lowered_once_it_is_made_and_undo_brings_it_back(host: Host) -> None:
    episode = talking(host)
    raw, answer = heard(host, episode, *PAUSE)
    assert "immutable" in answer.headers["cache-control"]
    set_chain(host, episode, lambda chain: chain["noise"].update(on=True, strength=1.0))
    assert not sound_of(host, episode)["cleaned"]
    # Until it is made the recording is heard as it is, and no browser may keep that.
    waiting, answer = heard(host, episode, *PAUSE)
    assert answer.headers["cache-control"] == "no-store"
    assert np.array_equal(waiting, raw)
    assert clean(host, episode)["state"] == "done"
    assert clean(host, episode) is None
    assert sound_of(host, episode)["cleaned"]
    now, answer = heard(host, episode, *PAUSE)
    assert "immutable" in answer.headers["cache-control"]
    assert level_db(now) < level_db(raw) - 18
    body = {"revision": host.view(episode)["revision"]}
    host.client.post(f"/api/episodes/{episode}/undo", json=body)
    assert np.array_equal(heard(host, episode, *PAUSE)[0], raw)


def test_noise_that_changes_is_told_with_its_reason_and_taken_out(host: Host) -> None:
    episode = talking(host, knocks=0.05)
    found = sound_of(host, episode)
    assert found["noise_method"] == "learnt"
    assert "noise changes" in found["noise_reason"]
    (step,) = [one for one in found["suggestions"] if one["step"] == "noise"]
    assert step["chain"]["noise"]["method"] == "learnt"
    raw, _ = heard(host, episode, *PAUSE)
    whole = {**step["chain"]["noise"], "strength": 1.0}
    set_chain(host, episode, lambda chain: chain["noise"].update(whole))
    assert clean(host, episode)["result"]["cleaned"] == 1
    now, _ = heard(host, episode, *PAUSE)
    assert level_db(now) < level_db(raw) - 25
    # What each method made is there when the host goes back and forth between them.
    set_chain(host, episode, lambda chain: chain["noise"].update(method="steady"))
    clean(host, episode)
    set_chain(host, episode, lambda chain: chain["noise"].update(method="learnt"))
    assert clean(host, episode) is None
    assert np.array_equal(heard(host, episode, *PAUSE)[0], now)


def test_what_was_heard_of_a_noise_is_heard_once(
    host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    episode = talking(host)
    reason = sound_of(host, episode)["noise_reason"]
    assert reason
    monkeypatch.setattr(learnt, "clean", lambda *_: pytest.fail("it was listened to again"))
    assert sound_of(host, episode)["noise_reason"] == reason


def test_another_room_tone_makes_it_anew(host: Host) -> None:
    episode = talking(host)
    set_chain(host, episode, lambda chain: chain["noise"].update(on=True))
    clean(host, episode)
    host.edit(episode, {"kind": "choose_room_tone", "start": 0, "frames": RATE})
    assert not sound_of(host, episode)["cleaned"]
    assert clean(host, episode)["result"]["cleaned"] == 1
    take = host.view(episode)["takes"][0]["id"]
    kept = list(host.state.store.files.take(take).glob("cleaned-*"))
    assert [one.name for one in kept] == ["cleaned-0-48000"]


def test_a_chain_is_tried_without_being_kept(host: Host) -> None:
    episode = talking(host)
    revision = host.view(episode)["revision"]
    span = 6 * RATE, 2 * RATE
    raw, _ = heard(host, episode, *span)
    chain = voice(host, episode)["chain"]
    chain["low_cut"] = {"on": True, "hz": 400.0}
    chain["compressor"].update(on=True, threshold_db=-30.0, make_up_db=0.0)
    tried, _ = heard(host, episode, *span, chain=chain)
    assert level_db(tried) < level_db(raw) - 2
    alike, _ = heard(host, episode, *span, chain=chain, hear="untouched", start=0, frames=10 * RATE)
    # Untouched, and as loud as treated: the hum is there, at the treated loudness.
    assert level_db(alike) < level_db(raw) - 1
    bass = np.abs(np.fft.rfft(alike * np.hanning(len(alike))))[(140 * 2)]
    cut = np.abs(np.fft.rfft(tried * np.hanning(len(tried))))[(140 * 2)]
    assert bass > 4 * cut
    assert host.view(episode)["revision"] == revision
    assert not voice(host, episode)["chain"]["compressor"]["on"]


def test_only_what_goes_can_be_heard(host: Host) -> None:
    episode = talking(host)
    set_chain(host, episode, lambda chain: chain["noise"].update(on=True, strength=0.8))
    clean(host, episode)
    gone, _ = heard(host, episode, *PAUSE, hear="taken_out")
    raw, _ = heard(host, episode, *PAUSE)
    assert level_db(gone) > level_db(raw) + 8


def test_curves_are_drawn_by_the_same_rules(host: Host) -> None:
    episode = talking(host)
    chain = voice(host, episode)["chain"]
    chain["bands"] = [{"kind": "peak", "hz": 1000.0, "gain_db": 6.0, "q": 1.0, "on": True}]
    chain["hum"].update(on=True, hz=60.0, highest=1)
    chain["compressor"].update(on=True, threshold_db=-20.0, ratio=4.0, knee_db=0.0)
    drawn = host.client.post("/api/sound/curves", json={"chain": chain}).json()
    at = dict(zip(drawn["hertz"], drawn["eq_db"], strict=True))
    assert at[1000.0] == pytest.approx(6.0, abs=0.1)
    assert at[60.0] < -60
    out = dict(zip(drawn["level_db"], drawn["static_db"], strict=True))
    assert out[0.0] == pytest.approx(-15.0)
    assert out[-40.0] == pytest.approx(-40.0)
    view = host.view(episode)
    body = {
        "revision": view["revision"],
        "track": view["tracks"][0]["id"],
        "chain": chain,
        "start": 0,
        "frames": 8 * RATE,
    }
    told = host.client.post(f"/api/episodes/{episode}/sound/reduction", json=body).json()
    assert len(told["taken_db"]) == 400
    assert -12 < min(told["taken_db"]) < -1


def test_chains_are_kept_used_elsewhere_taken_away_and_brought_back(host: Host) -> None:
    episode = talking(host)
    chain = voice(host, episode)["chain"]
    chain["low_cut"]["on"] = True
    kept = host.client.post("/api/chains", json={"name": "Kitchen", "chain": chain}).json()
    assert [s["name"] for s in host.client.get("/api/chains").json()] == ["Kitchen"]
    other = talking(host)
    set_chain(host, other, lambda now: now.update(kept["chain"]))
    assert voice(host, other)["chain"]["low_cut"]["on"]
    host.client.delete(f"/api/chains/{kept['id']}")
    assert host.client.get("/api/chains").json() == []
    host.client.post(f"/api/chains/{kept['id']}/back")
    assert host.client.get("/api/chains").json()[0]["chain"] == kept["chain"]
    assert host.client.delete("/api/chains/99").status_code == 404
    assert host.client.post("/api/chains", json={"name": "", "chain": chain}).status_code == 422


def test_phrases_are_ridden_in_one_step_that_can_be_undone(host: Host) -> None:
    episode = talking(host, (0.0, -6.0, 5.0, -4.0))
    revision = host.view(episode)["revision"]
    body = {"revision": revision}
    host.work(host.client.post(f"/api/episodes/{episode}/measure", json=body).json()["id"])
    before = host.client.get(f"/api/episodes/{episode}/levels", params=body).json()
    assert before["speakers"][0]["spread_lu"] > 6
    body["riding"] = {"share": 1.0, "most_db": 8.0, "rate_db_s": 12.0}
    job = host.client.post(f"/api/episodes/{episode}/ride", json=body).json()
    assert host.work(job["id"])["state"] == "done"
    view = host.view(episode)
    assert view["undo"] == "Evened out phrases"
    assert len(view["tracks"][0]["envelope"]) > 8
    body = {"revision": view["revision"]}
    host.work(host.client.post(f"/api/episodes/{episode}/measure", json=body).json()["id"])
    after = host.client.get(f"/api/episodes/{episode}/levels", params=body).json()
    assert after["speakers"][0]["spread_lu"] < 0.5 * before["speakers"][0]["spread_lu"]
    assert after["verdict"]
    host.client.post(f"/api/episodes/{episode}/undo", json=body)
    assert host.view(episode)["tracks"][0]["envelope"] == []


def test_an_only_voice_that_was_heard_before_its_mix_is_measured_whole(host: Host) -> None:
    """Riding asks for the voice by itself, which has the key of the mix where nothing else is."""
    episode = talking(host, (0.0, -6.0))
    body = {"revision": host.view(episode)["revision"]}
    job = host.client.post(f"/api/episodes/{episode}/ride", json=body | {"riding": {}}).json()
    assert host.work(job["id"])["state"] == "done"
    undone = {"revision": host.view(episode)["revision"]}
    assert host.client.post(f"/api/episodes/{episode}/undo", json=undone).status_code == 200
    body = {"revision": host.view(episode)["revision"]}
    found = host.client.get(f"/api/episodes/{episode}/levels", params=body)
    assert found.status_code == 200, "nothing is known of its peaks yet"
    host.work(host.client.post(f"/api/episodes/{episode}/measure", json=body).json()["id"])
    found = host.client.get(f"/api/episodes/{episode}/levels", params=body)
    assert found.status_code == 200
    assert found.json()["speakers"][0]["spread_lu"] > 3


def test_riding_what_has_moved_on_changes_nothing(host: Host) -> None:
    episode = talking(host)
    body = {"revision": host.view(episode)["revision"], "riding": {}}
    job = host.client.post(f"/api/episodes/{episode}/ride", json=body).json()
    host.edit(episode, {"kind": "add_marker", "at": 0})
    done = host.work(job["id"])
    assert done["state"] == "failed"
    assert host.view(episode)["undo"] == "Added a marker"
    body = {"revision": host.view(episode)["revision"], "bed": {}}
    job = host.client.post(f"/api/episodes/{episode}/ride", json=body).json()
    assert "no music" in host.work(job["id"])["error"]


def test_export_makes_what_noise_reduction_needs(host: Host) -> None:
    episode = talking(host)
    set_chain(host, episode, lambda chain: chain["noise"].update(on=True))
    body = {"revision": host.view(episode)["revision"], "files": [{"format": "wav"}]}
    job = host.client.post(f"/api/episodes/{episode}/exports", json=body).json()
    assert host.work(job["id"])["state"] == "done"
    assert sound_of(host, episode)["cleaned"]


@pytest.mark.parametrize(
    ("path", "value"),
    [("compressor.ratio", 0.5), ("low_cut.hz", -5.0), ("noise.strength", 2.0), ("hum.hz", 1e9)],
)
def test_settings_out_of_range_are_refused(host: Host, path: str, value: float) -> None:
    episode = talking(host)
    track = voice(host, episode)
    step, field = path.split(".")
    track["chain"][step][field] = value
    edit = {"kind": "set_chain", "track": track["id"], "chain": track["chain"]}
    assert host.edit(episode, edit).status_code == 422
    where = {"revision": host.view(episode)["revision"], "start": 0, "frames": 480}
    bad = host.client.get(
        f"/api/episodes/{episode}/audio", params={**where, "listening": '{"track": 5}'}
    )
    assert bad.status_code == 422
    assert "treatment" in bad.json()["sentence"]


def test_music_is_not_judged_as_a_voice(host: Host) -> None:
    episode = talking(host)
    track = voice(host, episode)["id"]
    host.edit(episode, {"kind": "set_track", "track": track, "track_kind": "music"})
    where = {"revision": host.view(episode)["revision"], "track": track}
    answer = host.client.get(f"/api/episodes/{episode}/sound", params=where)
    assert answer.status_code == 422
    assert "Music" in answer.json()["sentence"]
