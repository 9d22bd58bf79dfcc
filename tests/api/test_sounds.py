"""The shelf of sounds and placed sounds over HTTP. Loudness is held against pyloudnorm."""

import io
import json
import shutil
import zipfile
from dataclasses import replace

import av
import numpy as np
import pyloudnorm
import pytest

from airtrim.core.render.graph import Mix, alone
from airtrim.core.timeline.words import Word
from airtrim.services.finding import keep_words
from airtrim.services.following import hear_talk
from airtrim.store.purging import Bin
from tests.api.host import Host, wav
from tests.commands import airtrim
from tests.reference import ffmpeg_loudness
from tests.serving import RATE, upload


def shipped(host: Host, show: int = 1) -> dict[str, dict]:
    answer = host.client.post(f"/api/shows/{show}/sounds/shipped")
    assert answer.status_code == 201
    return {sound["kind"]: sound for sound in answer.json()}


def placing(host: Host, episode: int, sound: dict, hold: dict, **more: object) -> dict:
    used = host.client.post(f"/api/episodes/{episode}/sounds/{sound['id']}").json()
    edit = {
        "kind": "place_sound",
        "take": used["take"],
        "take_frames": used["frames"],
        "name": sound["name"],
        "start": sound["start"],
        "frames": sound["end"] - sound["start"],
        "hold": hold,
        **more,
    }
    answer = host.edit(episode, edit)
    assert answer.status_code == 200, answer.text
    return rundown(host, episode)["sounds"][-1]


def rundown(host: Host, episode: int) -> dict:
    revision = host.view(episode)["revision"]
    return host.client.get(f"/api/episodes/{episode}/rundown", params={"revision": revision}).json()


def test_the_sounds_that_come_with_it_are_put_on_a_shelf_once(host: Host) -> None:
    host.new_episode()
    first = shipped(host)
    assert {kind: sound["name"] for kind, sound in first.items()} == {
        "opening": "Slipway",
        "bed": "Low tide",
        "sting": "Buoy",
    }
    assert all(sound["credit"] and sound["licence"] for sound in first.values())
    assert shipped(host) == first
    heard = host.client.get(f"/api/sounds/{first['sting']['id']}/audio")
    assert heard.content[:4] in (b"fLaC", b"RIFF", b"RF64")
    # As loud as another meter finds it.
    reader = host.state.store.reader(first["bed"]["id"])
    used = reader.read(first["bed"]["start"], first["bed"]["end"] - first["bed"]["start"])
    found = pyloudnorm.Meter(RATE).integrated_loudness(used.astype(np.float64))
    assert first["bed"]["lufs"] == pytest.approx(found, abs=0.1)


def test_a_file_and_a_stretch_of_a_recording_go_on_the_shelf_and_off_it(host: Host) -> None:
    episode = host.filled()
    done = host.work(upload(host.client, episode, wav(2.0, 5), "Harbour bell.wav", shelf="sting"))
    assert done["state"] == "done", done
    assert host.edit(episode, {"kind": "cut", "start": 0, "frames": RATE // 2}).status_code == 200
    view = host.view(episode)
    where = {"episode": episode, "revision": view["revision"], "track": view["tracks"][0]["id"]}
    new = {**where, "name": "Gulls", "kind": "bed"}
    kept = host.client.post("/api/sounds", json={**new, "start": RATE // 2, "frames": 2 * RATE})
    assert kept.status_code == 201
    sounds = host.client.get("/api/shows/1/sounds").json()
    assert [(s["name"], s["kind"], s["start"], s["end"]) for s in sounds] == [
        ("Gulls", "bed", RATE, 3 * RATE),
        ("Harbour bell", "sting", 0, 2 * RATE),
    ]
    gulls = kept.json()["id"]
    changed = host.client.patch(f"/api/sounds/{gulls}", json={"end": 4 * RATE, "credit": "A. Kvam"})
    assert (changed.json()["end"], changed.json()["credit"]) == (4 * RATE, "A. Kvam")
    assert changed.json()["lufs"] != kept.json()["lufs"]
    gone = host.client.patch(f"/api/sounds/{gulls}", json={"deleted": True})
    assert gone.status_code == 200
    assert len(host.client.get("/api/shows/1/sounds").json()) == 1
    assert host.client.get(f"/api/sounds/{gulls}/audio").status_code == 404
    back = host.client.patch(f"/api/sounds/{gulls}", json={"deleted": False})
    assert back.status_code == 200
    assert len(host.client.get("/api/shows/1/sounds").json()) == 2


def test_what_cannot_be_shelved_is_refused_in_a_sentence(host: Host) -> None:
    episode = host.filled()
    assert host.edit(episode, {"kind": "cut", "start": RATE, "frames": RATE}).status_code == 200
    view = host.view(episode)
    where = {"episode": episode, "revision": view["revision"], "track": view["tracks"][0]["id"]}
    new = {**where, "start": 0, "frames": RATE, "name": "A"}
    for body in (
        {**new, "start": view["frames"] - 1},
        {**new, "start": RATE // 2},  # a cut is in it
        {**new, "track": "elsewhere"},
        {**new, "name": ""},
        {**new, "kind": "jingle"},
    ):
        answer = host.client.post("/api/sounds", json=body)
        assert answer.status_code in (404, 422)
        assert answer.json()["sentence"]
    sound = host.client.post("/api/sounds", json=new).json()["id"]
    odd = host.client.patch(f"/api/sounds/{sound}", json={"start": RATE})
    assert odd.status_code == 422
    assert "begin before it ends" in odd.json()["sentence"]
    assert host.client.post(f"/api/episodes/{episode}/sounds/none").status_code == 404
    noise = host.work(upload(host.client, episode, b"no sound" * 100, "a.wav", shelf="bed"))
    assert noise["state"] == "failed"
    assert noise["error"]


def test_an_episode_has_a_copy_of_its_own_of_what_it_uses(host: Host) -> None:
    episode = host.filled()
    bed = shipped(host)["bed"]
    uses = [host.client.post(f"/api/episodes/{episode}/sounds/{bed['id']}").json() for _ in "ab"]
    assert uses[0] == uses[1]
    # Its words are not waited for, nor are snags.
    (used,) = [t for t in host.view(episode)["takes"] if t["id"] == uses[0]["take"]]
    assert used["transcribed"]
    part = host.view(episode)["sections"][0]["id"]
    placing(host, episode, bed, {"kind": "under", "part": part}, level_lu=-18)
    host.client.patch(f"/api/sounds/{bed['id']}", json={"deleted": True})
    Bin(host.state.store).empty(all_now=True)
    assert not host.state.store.files.take(bed["id"]).exists()
    take = host.state.store.reader(uses[0]["take"])
    assert np.abs(take.read(2 * RATE, RATE)).max() > 0.01
    checked = airtrim("check-data", "--data", str(host.state.settings.data_dir), "--json")
    assert json.loads(checked.stdout)["findings"] == []


@pytest.mark.parametrize("index", [1, 3, 4])
def test_a_bed_lies_as_far_under_the_voices_as_was_asked(demo_host: Host, index: int) -> None:
    """Within 1 LU, the voices by pyloudnorm where they speak, and the bed by itself."""
    sounds = shipped(demo_host)
    view = demo_host.view(1)
    for one in rundown(demo_host, 1)["sounds"]:  # the demo has a bed of its own
        demo_host.edit(1, {"kind": "take_sound_out", "sound": one["sound"]["id"]})
    part = view["sections"][index]
    placed = placing(
        demo_host, 1, sounds["bed"], {"kind": "under", "part": part["id"]}, level_lu=-18
    )
    store = demo_host.state.store
    timeline = store.current(1)
    (sounding,) = [track for track in timeline.tracks if track.held]
    (voice,) = [track for track in timeline.tracks if track.name == "Tobin"]
    span = placed["at"], placed["length"]
    meter = pyloudnorm.Meter(RATE)

    def lufs(track: str) -> float:
        found = Mix(alone(timeline, track), store.reader).read(*span).astype(np.float64)
        return float(meter.integrated_loudness(found))

    assert lufs(sounding.id) - lufs(voice.id) == pytest.approx(-18, abs=1)


def test_the_bed_is_levelled_again_once_its_voice_is_louder(demo_host: Host) -> None:
    """By pyloudnorm on what is heard: as far under the voice as before it was changed."""
    meter = pyloudnorm.Meter(RATE)

    def under() -> float:
        timeline = demo_host.state.store.current(1)
        (bed,) = rundown(demo_host, 1)["sounds"]
        (sounding,) = [track for track in timeline.tracks if track.held]
        (voice,) = [track for track in timeline.tracks if track.name == "Tobin"]
        span = bed["at"], bed["length"]
        reader = demo_host.state.store.reader
        lufs = [
            float(
                meter.integrated_loudness(
                    Mix(alone(timeline, track), reader).read(*span).astype(np.float64)
                )
            )
            for track in (sounding.id, voice.id)
        ]
        return lufs[0] - lufs[1]

    before = under()
    voice = next(t for t in demo_host.view(1)["tracks"] if t["name"] == "Tobin")
    compressor = {**voice["chain"]["compressor"], "on": True, "make_up_db": 6.0}
    chain = {**voice["chain"], "compressor": compressor}
    edit = {"kind": "set_chain", "track": voice["id"], "chain": chain}
    assert demo_host.edit(1, edit).status_code == 200
    assert rundown(demo_host, 1)["sounds"][0]["outdated"]
    edit = {"kind": "set_track", "track": voice["id"], "gain_db": voice["gain_db"] + 6}
    assert demo_host.edit(1, edit).status_code == 200
    assert rundown(demo_host, 1)["sounds"][0]["outdated"]
    assert under() < before - 5
    assert demo_host.edit(1, {"kind": "level_sounds"}).status_code == 200
    assert not rundown(demo_host, 1)["sounds"][0]["outdated"]
    assert under() == pytest.approx(-18, abs=1)
    refused = demo_host.edit(1, {"kind": "level_sounds"})
    assert refused.status_code == 422
    assert "at its level already" in refused.json()["sentence"]


def test_an_export_of_one_episode_is_a_sound_for_others(demo_host: Host) -> None:
    view = demo_host.view(1)
    keep = {"kind": "keep_only", "start": 20 * RATE, "frames": 5 * RATE}
    assert demo_host.edit(1, keep).status_code == 200
    body = {"revision": demo_host.view(1)["revision"]}
    export = demo_host.client.post("/api/episodes/1/exports", json=body).json()
    assert demo_host.client.post(f"/api/exports/{export['id']}/sound").status_code == 404
    assert demo_host.work(export["id"])["state"] == "done"
    job = demo_host.client.post(f"/api/exports/{export['id']}/sound").json()
    done = demo_host.work(job["id"])
    assert done["state"] == "done", done
    shelf = demo_host.client.get("/api/shows/1/sounds").json()
    kept = next(one for one in shelf if one["id"] == job["id"])
    assert kept["name"] == view["title"]
    assert kept["frames"] == pytest.approx(5 * RATE, abs=2400)
    report = demo_host.client.get(f"/api/jobs/{export['id']}").json()["result"]["files"][0]
    # What was written as mono at −19 reads so by our meter in the file's own channels.
    assert kept["lufs"] == pytest.approx(report["measured"]["integrated_lufs"], abs=0.3)
    other = demo_host.new_episode()
    used = demo_host.client.post(f"/api/episodes/{other}/sounds/{kept['id']}")
    assert used.status_code == 200
    # The file is gone, which is told.
    again = demo_host.client.post(f"/api/exports/{export['id']}/sound").json()
    shutil.rmtree(demo_host.state.store.files.export(export["id"]))
    failed = demo_host.work(again["id"])
    assert (failed["state"], failed["error"]) == ("failed", "That file is gone. Make it again.")


def test_a_bed_lies_there_in_the_files_of_the_tracks_by_ffmpeg(demo_host: Host) -> None:
    """The written files decoded and measured by FFmpeg alone (ebur128, gated)."""
    placed = rundown(demo_host, 1)["sounds"][0]
    assert placed["sound"]["level_lu"] == -18
    revision = demo_host.view(1)["revision"]
    body = {"revision": revision, "form": "flac", "with_sound": True}
    job = demo_host.client.post("/api/episodes/1/tracks", json=body).json()
    assert demo_host.work(job["id"])["state"] == "done"
    data = demo_host.client.get(f"/api/travelling/{job['id']}/file").content
    first, frames = placed["at"], placed["length"]
    found: dict[str, float] = {}
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        for name in file.namelist():
            with av.open(io.BytesIO(file.read(name))) as opened:
                blocks = [frame.to_ndarray().T for frame in opened.decode(audio=0)]
            kind = blocks[0].dtype
            sound = np.concatenate(blocks).reshape(-1, 2).astype(np.float32)
            sound /= 2.0 ** (8 * kind.itemsize - 1) if kind.kind == "i" else 1.0
            span = sound[first : first + frames]
            if np.abs(span).max() > 0:
                found[name[3:-5]] = ffmpeg_loudness(np.ascontiguousarray(span))["integrated"]
    assert found["Sounds"] - found["Tobin"] == pytest.approx(-18, abs=1)


def test_an_opening_gives_way_to_the_first_word(demo_host: Host) -> None:
    """Alone at its level, 18 dB lower from the first word on, and gone when it should be."""
    sounds = shipped(demo_host)
    part = demo_host.view(1)["sections"][2]
    duck = {"depth_db": 18, "attack": RATE // 2, "hold": RATE, "release": RATE}
    placed = placing(
        demo_host,
        1,
        sounds["opening"],
        {"kind": "before_talk", "part": part["id"], "offset": 6 * RATE},
        frames=12 * RATE,
        alone_frames=6 * RATE,
        fade_out=2 * RATE,
        level_lu=0,
        duck=duck,
    )
    store = demo_host.state.store
    timeline = store.current(1)
    (sounding,) = [track for track in timeline.tracks if track.held]
    talk = placed["at"] + 6 * RATE
    mix = Mix(alone(timeline, sounding.id), store.reader)
    bare_tracks = tuple(replace(track, envelope=()) for track in timeline.tracks)
    plain = Mix(alone(replace(timeline, tracks=bare_tracks), sounding.id), store.reader)

    def gain_db(at: int) -> float:
        ours, bare = mix.read(at, RATE // 20), plain.read(at, RATE // 20)
        return float(20 * np.log10(np.abs(ours).sum() / np.abs(bare).sum()))

    assert gain_db(talk - RATE) == pytest.approx(0.0, abs=0.1)
    assert gain_db(talk) == pytest.approx(-18.0, abs=0.5)
    assert gain_db(talk + 3 * RATE) == pytest.approx(-18.0, abs=0.5)
    assert not mix.read(talk + 6 * RATE, RATE).any()


def test_words_that_are_written_down_later_are_what_it_holds_on_to(host: Host) -> None:
    episode = host.filled(wav(20.0))
    sting = shipped(host)["sting"]
    part = host.view(episode)["sections"][0]["id"]
    before = placing(host, episode, sting, {"kind": "before_talk", "part": part})
    assert "No words are known" in before["notice"]
    take = host.view(episode)["takes"][0]["id"]
    keep_words(host.state.store, take, (Word("Ahoy", 7 * RATE, 8 * RATE, "word", 0.9),))
    hear_talk(host.state.store, episode)
    (after,) = rundown(host, episode)["sounds"]
    assert (after["at"] + after["length"], after["notice"]) == (7 * RATE, "")
    revision = host.view(episode)["revision"]
    hear_talk(host.state.store, episode)
    assert host.view(episode)["revision"] == revision
    # Words that move nothing are told beside the next edit, which keeps its name.
    later = (
        Word("Ahoy", 7 * RATE, 8 * RATE, "word", 0.9),
        Word("!", 9 * RATE, 10 * RATE, "word", 1),
    )
    keep_words(host.state.store, take, later)
    hear_talk(host.state.store, episode)
    assert host.view(episode)["revision"] == revision
    assert host.edit(episode, {"kind": "cut", "start": 0, "frames": RATE}).status_code == 200
    assert host.view(episode)["undo"] == "Cut 1.0 s"
    (moved,) = rundown(host, episode)["sounds"]
    assert moved["at"] + moved["length"] == 6 * RATE
    assert len(host.state.store.current(episode).talk[take]) == 2


def test_the_command_line_tells_the_sounds(host: Host) -> None:
    episode = host.filled()
    part = host.view(episode)["sections"][0]["id"]
    placing(host, episode, shipped(host)["bed"], {"kind": "under", "part": part})
    told = airtrim("rundown", str(episode), "--data", str(host.state.settings.data_dir), "--json")
    (sound,) = json.loads(told.stdout)["sounds"]
    assert (sound["name"], sound["holds"], sound["part"]) == ("Low tide", "under", part)
    assert (sound["start_s"], sound["duration_s"]) == (0.0, 6.0)
