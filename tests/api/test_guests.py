"""Guests by link: what they may do, what they may not, and their tracks in time with the host's."""

import io

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from airtrim.api.app import create_app
from airtrim.jobs.lifecycle import recover
from airtrim.services.finding import keep_words
from airtrim.settings import Settings
from airtrim.store.recordings import Recordings
from tests.api.host import HERE, THERE, Host
from tests.api.test_recordings import PIECE, add, begin, keep_all, sound_of
from tests.reference import RATE, programme


def invite(host: Host, episode: int, name: str = "Marit") -> str:
    answer = host.client.post(f"/api/episodes/{episode}/guests", json={"name": name})
    assert answer.status_code == 201, answer.text
    return answer.json()["token"]


def send(
    host: Host, base: str, sound: np.ndarray, *, at_s: float, ppm: float = 0.0, first: int = 0
) -> int:
    """Pieces with the times at which they were heard by a card ``ppm`` fast."""
    rate = RATE * (1 + ppm * 1e-6)
    for number, at in enumerate(range(0, len(sound), PIECE), first):
        answer = host.client.put(
            f"{base}/pieces/{number}",
            params={"start": at, "at_s": at_s + at / rate, "run": 0},
            content=np.ascontiguousarray(sound[at : at + PIECE], "<f4").tobytes(),
        )
        assert answer.status_code == 200, answer.text
    return -(-len(sound) // PIECE)


def join(host: Host, token: str, beside: str) -> str:
    answer = host.client.post(f"/api/join/{token}/recordings", json={"beside": beside})
    assert answer.status_code == 201, answer.text
    return f"/api/join/{token}/recordings/{answer.json()['id']}"


def finish(host: Host, recording: str, pieces: int) -> dict:
    job = add(host, recording, pieces)
    assert job.status_code == 202, job.text
    done = host.work(job.json()["id"])
    assert done["state"] == "done", done
    return done


def test_host_and_guest_are_one_edit_in_time_to_a_millisecond(host: Host) -> None:
    episode = host.new_episode()
    token = invite(host, episode)
    recording = begin(host, episode, "Tobin").json()["id"]
    theirs = join(host, token, recording)
    shared = programme(14, 1, 1)
    here = send(host, f"/api/recordings/{recording}", shared[2 * RATE : 10 * RATE], at_s=102.0)
    there = send(host, theirs, shared, at_s=100.0)
    host.client.post(f"{theirs}/end", json={"pieces": there})
    (companion,) = host.client.get(f"/api/recordings/{recording}/companions").json()
    assert companion["whole"] == companion["pieces"] == there
    finish(host, recording, here)
    view = host.view(episode)
    assert [track["name"] for track in view["tracks"]] == ["Tobin", "Marit"]
    assert view["frames"] == 8 * RATE
    assert view["markers"] == []
    own, guests = (sound_of(host, take["id"])[:, 0] for take in view["takes"])
    late = int(np.argmax(np.correlate(guests[: 2 * RATE], own[100:RATE], "valid"))) - 100
    assert abs(late) <= RATE // 1000
    original = host.state.store.files.take(view["takes"][1]["id"]) / "original"
    assert original.stat().st_size > 14 * RATE * 4
    undone = host.client.post(
        f"/api/episodes/{episode}/undo", json={"revision": view["revision"]}
    ).json()
    assert undone["frames"] == 0
    assert list((host.state.settings.data_dir / "recordings").iterdir()) == []


def test_a_guest_who_comes_late_is_marked_and_one_without_a_clock_too(host: Host) -> None:
    episode = host.new_episode()
    marit, oda = invite(host, episode), invite(host, episode, "Oda")
    recording = begin(host, episode, "Tobin").json()["id"]
    here = send(host, f"/api/recordings/{recording}", programme(6, 1, 1), at_s=100.0)
    late = join(host, marit, recording)
    pieces = send(host, late, programme(4, 1, 2), at_s=102.0)
    host.client.post(f"{late}/end", json={"pieces": pieces})
    blind = join(host, oda, recording).removeprefix("/")
    body = np.ascontiguousarray(programme(0.5, 1, 3), "<f4").tobytes()
    host.client.put(f"/{blind}/pieces/0", params={"start": 0}, content=body)
    host.client.post(f"/{blind}/end", json={"pieces": 1})
    finish(host, recording, here)
    names = [(m["at"], m["name"]) for m in host.view(episode)["markers"]]
    assert (0, "Marit was not recorded for 2.0 s") in names
    assert (0, "Oda: no clock came with it, so it may be out of time") in names


def test_a_guest_whose_sound_comes_after_the_host_has_ended_is_added_in_time(host: Host) -> None:
    episode = host.filled()
    token = invite(host, episode)
    recording = begin(host, episode, "Tobin").json()["id"]
    shared = programme(6, 1, 4)
    theirs = join(host, token, recording)
    here = send(host, f"/api/recordings/{recording}", shared, at_s=100.0)
    send(host, theirs, shared[: 2 * RATE], at_s=100.0)
    finish(host, recording, here)
    (left,) = host.client.get(f"/api/episodes/{episode}/recordings").json()
    assert left["tracks"] == ["Marit"]
    rest = shared[2 * RATE :]
    for number, at in enumerate(range(0, len(rest), PIECE), 4):
        host.client.put(
            f"{theirs}/pieces/{number}",
            params={"start": 2 * RATE + at, "at_s": 102.0 + at / RATE},
            content=np.ascontiguousarray(rest[at : at + PIECE], "<f4").tobytes(),
        )
    host.edit(episode, {"kind": "cut", "start": RATE, "frames": RATE})
    finish(host, left["id"], 12)
    head = host.view(episode)
    timeline = host.state.store.timeline(episode, head["revision"])
    place = {track.name: track.clips[-1] for track in timeline.tracks}
    assert place["Marit"].at == place["Tobin"].at == 5 * RATE
    assert head["undo"] == "Recorded: 6.0 s on Marit"


def test_a_closed_link_shows_the_guest_out_and_can_be_opened_again(host: Host) -> None:
    episode = host.new_episode()
    token = invite(host, episode)
    recording = begin(host, episode, "Tobin").json()["id"]
    theirs = join(host, token, recording)
    assert host.client.get(f"/api/join/{token}").json()["name"] == "Marit"
    with host.client.websocket_connect(f"{THERE}/api/join/{token}/call") as call:
        assert call.receive_json()["recording"] == recording
        host.client.post(f"/api/guests/{token}/close")
        with pytest.raises(WebSocketDisconnect) as out:
            call.receive_json()
        assert out.value.code == 4410
    for refused in (
        host.client.get(f"/api/join/{token}"),
        host.client.put(f"{theirs}/pieces/0", params={"start": 0}, content=bytes(400)),
        host.client.post(f"/api/join/{token}/recordings", json={"beside": recording}),
    ):
        assert refused.status_code == 410
        assert "closed this link" in refused.json()["sentence"]
    with (
        host.client.websocket_connect(f"{THERE}/api/join/{token}/call") as call,
        pytest.raises(WebSocketDisconnect),
    ):
        call.receive_json()
    host.client.post(f"/api/guests/{token}/open")
    assert host.client.get(f"/api/join/{token}").status_code == 200


def test_a_stale_link_and_anothers_recording_are_refused(host: Host) -> None:
    unknown = host.client.get("/api/join/not-a-link")
    assert unknown.status_code == 410
    assert "not known" in unknown.json()["sentence"]
    episode = host.new_episode()
    marit, oda = invite(host, episode), invite(host, episode, "Oda")
    recording = begin(host, episode, "Tobin").json()["id"]
    theirs = join(host, marit, recording)
    strange = theirs.replace(marit, oda)
    assert host.client.get(strange).status_code == 404
    own = f"/api/join/{oda}/recordings/{recording}/pieces/0"
    assert host.client.put(own, params={"start": 0}, content=bytes(400)).status_code == 404
    other = host.new_episode()
    elsewhere = begin(host, other, "Tobin").json()["id"]
    answer = host.client.post(f"/api/join/{oda}/recordings", json={"beside": elsewhere})
    assert answer.status_code == 422
    host.client.patch(f"/api/episodes/{episode}", json={"deleted": True})
    assert host.client.get(f"/api/join/{oda}").status_code == 410


def test_a_guest_and_a_microphone_do_not_share_a_track(host: Host) -> None:
    episode = host.new_episode()
    invite(host, episode)
    again = host.client.post(f"/api/episodes/{episode}/guests", json={"name": "Marit"})
    assert again.status_code == 422
    taken = begin(host, episode, "Marit")
    assert taken.status_code == 422
    assert "the track of a guest" in taken.json()["sentence"]


def test_joining_twice_goes_on_with_the_same_recording(host: Host) -> None:
    episode = host.new_episode()
    token = invite(host, episode)
    recording = begin(host, episode, "Tobin").json()["id"]
    assert join(host, token, recording) == join(host, token, recording)
    host.client.post(f"/api/recordings/{recording}/discard")
    assert host.client.get(f"/api/episodes/{episode}/recordings").json() == []
    host.client.post(f"/api/recordings/{recording}/bring-back")
    (companion,) = host.client.get(f"/api/recordings/{recording}/companions").json()
    assert companion["state"] == "open"


def test_the_call_introduces_and_tells_when_a_recording_begins_and_ends(host: Host) -> None:
    episode = host.new_episode()
    token = invite(host, episode)
    with host.client.websocket_connect(f"{THERE}/api/episodes/{episode}/call") as here:
        mine = here.receive_json()
        assert mine["others"] == []
        with host.client.websocket_connect(f"{THERE}/api/join/{token}/call") as there:
            theirs = there.receive_json()
            assert [other["host"] for other in theirs["others"]] == [True]
            assert here.receive_json()["name"] == "Marit"
            there.send_json({"kind": "signal", "to": mine["you"], "data": {"sdp": "x"}})
            said = here.receive_json()
            assert (said["from"], said["data"]) == (theirs["you"], {"sdp": "x"})
            there.send_text("no message at all")
            there.send_json({"kind": "doing", "microphone": True, "recording": False})
            assert here.receive_json()["microphone"] is True
            recording = begin(host, episode, "Tobin").json()["id"]
            assert there.receive_json() == {"kind": "begin", "recording": recording}
            host.client.post(f"/api/recordings/{recording}/end", json={"pieces": 0})
            assert there.receive_json() == {"kind": "end", "recording": recording}
        assert here.receive_json() == {"kind": "left", "id": theirs["you"]}


def test_with_a_token_guests_reach_their_own_pages_and_nothing_else(tmp_path) -> None:
    settings = Settings(data_dir=tmp_path / "data", keep_free_bytes=0, token="no-secret-at-all")
    with TestClient(create_app(settings, worker=False), base_url=HERE) as client:
        host = Host(client)
        client.headers["Authorization"] = "Bearer no-secret-at-all"
        episode = host.new_episode()
        token = invite(host, episode)
        del client.headers["Authorization"]
        assert client.get(f"/api/join/{token}").status_code == 200
        assert client.get("/api/clock").status_code == 200
        for address in (
            "/api/shows",
            f"/api/episodes/{episode}",
            f"/api/episodes/{episode}/guests",
        ):
            assert client.get(address).status_code == 403
        with (
            client.websocket_connect(f"{THERE}/api/episodes/{episode}/call") as call,
            pytest.raises(WebSocketDisconnect) as out,
        ):
            call.receive_json()
        assert out.value.code == 4403
        foreign = {"origin": "http://elsewhere.example"}
        with (
            client.websocket_connect(f"{THERE}/api/join/{token}/call", headers=foreign) as call,
            pytest.raises(WebSocketDisconnect),
        ):
            call.receive_json()


def test_room_tone_script_and_delay_over_the_api(host: Host) -> None:
    episode = host.filled()
    take = host.view(episode)["takes"][0]["id"]
    revision = host.view(episode)["revision"]
    where = f"/api/episodes/{episode}/takes/{take}/room-tone"
    assert host.client.get(where, params={"revision": revision}).json()["frames"] == 0
    keep_words(host.state.store, take, ())
    found = host.client.get(where, params={"revision": revision}).json()
    assert found["frames"] >= RATE // 2
    assert not found["chosen"]
    page = {"revision": revision, "start": 0, "frames": 6 * RATE}
    shown = host.client.get(f"/api/episodes/{episode}/page", params=page).json()["room_tones"]
    assert [(t["start"], t["frames"]) for t in shown] == [(found["start"], found["frames"])]
    view = host.edit(episode, {"kind": "choose_room_tone", "start": RATE, "frames": RATE}).json()
    chosen = host.client.get(where, params={"revision": view["revision"]}).json()
    assert (chosen["start"], chosen["frames"], chosen["chosen"]) == (RATE, RATE, True)
    heard = host.client.get(f"/api/takes/{take}/audio", params={"start": RATE, "frames": RATE})
    assert heard.headers["content-type"] == "audio/wav"

    view = host.edit(episode, {"kind": "set_script", "text": "Good morning."}).json()
    script = host.client.get(
        f"/api/episodes/{episode}/script", params={"revision": view["revision"]}
    )
    assert script.json() == {"text": "Good morning."}

    played, _ = soundfile.read(
        io.BytesIO(host.client.get("/api/delay/probe").content), dtype="float32"
    )
    late = np.concatenate([np.zeros(1234, np.float32), played, np.zeros(RATE, np.float32)])
    found = host.client.post("/api/delay", content=late.astype("<f4").tobytes()).json()
    assert found["frames"] == 1234
    assert host.client.post("/api/delay", content=bytes(4 * 3 * RATE)).status_code == 422


def test_keep_all_still_works_for_recordings_without_a_clock(host: Host) -> None:
    episode = host.new_episode()
    recording = begin(host, episode, "Tobin").json()["id"]
    pieces = keep_all(host, recording, programme(1, 1, 5))
    finish(host, recording, pieces)
    assert host.view(episode)["frames"] == RATE


def states(host: Host, *recordings: str) -> list[str]:
    return [host.client.get(f"/api/recordings/{one}").json()["state"] for one in recordings]


def with_two_guests(host: Host) -> tuple[str, str, str, int]:
    """A recording with a guest of whom all has come, and one of whom a part is missing."""
    episode = host.new_episode()
    recording = begin(host, episode, "Tobin").json()["id"]
    here = send(host, f"/api/recordings/{recording}", programme(3, 1, 1), at_s=100.0)
    ids = []
    for name in ("Marit", "Oda"):
        theirs = join(host, invite(host, episode, name), recording)
        pieces = send(host, theirs, programme(3, 1, 2), at_s=100.0)
        host.client.post(f"{theirs}/end", json={"pieces": pieces + (name == "Oda")})
        ids.append(theirs.rsplit("/", 1)[-1])
    return recording, ids[0], ids[1], here


def test_an_adding_that_is_cancelled_ends_so_and_can_be_done_again(host: Host) -> None:
    recording, marit, oda, here = with_two_guests(host)
    job = add(host, recording, here).json()["id"]
    assert states(host, recording, marit, oda) == ["adding", "adding", "open"]
    store = host.state.store
    begin_job = store.begin_job

    def cancelled_once_begun(job_id: str):
        found = begin_job(job_id)
        store.update_job(job_id, cancel=True)
        return found

    store.begin_job = cancelled_once_begun
    assert host.work(job)["state"] == "cancelled"
    store.begin_job = begin_job
    assert states(host, recording, marit, oda) == ["open", "open", "open"]
    again = add(host, recording, here).json()["id"]
    assert host.work(again)["state"] == "done"
    assert states(host, recording, marit, oda) == ["added", "added", "open"]


def test_what_a_fault_left_being_added_is_open_again_after_a_restart(host: Host) -> None:
    recording, marit, oda, _ = with_two_guests(host)
    recordings = Recordings(host.state.store)
    recordings.turn([recording, marit, oda], "adding", "open")
    recover(host.state.store)
    assert states(host, recording, marit, oda) == ["open", "open", "open"]


def test_a_guest_can_claim_no_more_than_has_gone_by(host: Host) -> None:
    """Pieces of a frame that claim a minute of silence before them: 80 bytes for 230 MB."""
    episode = host.new_episode()
    recording = begin(host, episode, "Tobin").json()["id"]
    theirs = join(host, invite(host, episode), recording)
    codes, at = [], 0
    for number in range(20):
        answer = host.client.put(
            f"{theirs}/pieces/{number}", params={"start": at}, content=bytes(4)
        )
        codes.append(answer.status_code)
        at += 60 * RATE - 1
    assert codes[0] == 200
    assert 422 in codes[1:3]
    assert 200 not in codes[3:]
    folder = host.state.settings.data_dir / "recordings" / theirs.rsplit("/", 1)[-1]
    used = (folder / "sound").stat().st_blocks * 512
    assert used < 100_000  # a gap is a hole in the file
