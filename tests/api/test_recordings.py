"""Pieces in, acknowledged when they are on disk, and what happens when they do not come right."""

import io

import numpy as np
import pytest
import soundfile
from pydantic import TypeAdapter
from sqlmodel import Session

from airtrim.core.timeline.edits.placing import MarkerAt
from airtrim.standins.microphone import simulated
from airtrim.store.recordings import MOST_FLAGS, Recordings
from airtrim.store.tables import RecordingRow
from tests.api.host import Host, wav
from tests.reference import RATE, programme

PIECE = RATE // 2


def begin(host: Host, episode: int, *tracks: str, **landing: object):
    body = {"tracks": tracks or ("Tobin",), "landing": landing}
    return host.client.post(f"/api/episodes/{episode}/recordings", json=body)


def keep(host: Host, recording: str, number: int, sound: np.ndarray, start: int | None = None):
    start = number * PIECE if start is None else start
    data = np.ascontiguousarray(sound, "<f4").tobytes()
    return host.client.put(
        f"/api/recordings/{recording}/pieces/{number}", params={"start": start}, content=data
    )


def keep_all(host: Host, recording: str, sound: np.ndarray) -> int:
    pieces = range(0, len(sound), PIECE)
    for number, at in enumerate(pieces):
        assert keep(host, recording, number, sound[at : at + PIECE]).status_code == 200
    return len(pieces)


def add(host: Host, recording: str, pieces: int, **more: object):
    return host.client.post(f"/api/recordings/{recording}/add", json={"pieces": pieces, **more})


def sound_of(host: Host, take: str) -> np.ndarray:
    reader = host.state.store.reader(take)
    return reader.read(0, reader.frames)


def test_what_the_microphones_gave_is_in_the_takes_sample_for_sample(host: Host) -> None:
    episode = host.new_episode()
    recording = begin(host, episode, "Tobin", "Marit").json()["id"]
    sound = programme(7.3, 2, 1) * np.float32(3.0)  # over full scale too
    pieces = keep_all(host, recording, sound)
    host.client.post(f"/api/recordings/{recording}/flags", json={"at": 2 * RATE, "name": "again"})
    done = host.work(add(host, recording, pieces).json()["id"])
    assert done["state"] == "done", done
    view = host.view(episode)
    assert [track["name"] for track in view["tracks"]] == ["Tobin", "Marit"]
    assert view["frames"] == len(sound)
    for channel in (0, 1):
        assert np.array_equal(sound_of(host, f"{recording}-{channel}")[:, 0], sound[:, channel])
    assert [(m["at"], m["kind"], m["name"]) for m in view["markers"]] == [
        (2 * RATE, "flag", "again")
    ]
    assert view["undo"] == "Recorded: 7.3 s on Tobin and Marit"
    assert [host.client.get(f"/api/jobs/{job}").json()["kind"] for job in done["result"]["next"]]
    assert list((host.state.settings.data_dir / "recordings").iterdir()) == []


def test_sounds_played_in_while_recording_come_with_it(host: Host) -> None:
    episode = host.new_episode()
    show = host.view(episode)["show_id"]
    shelf = host.client.post(f"/api/shows/{show}/sounds/shipped").json()
    assert sorted(sound["at_key"] for sound in shelf) == [1, 2, 3]
    sting = next(sound for sound in shelf if sound["kind"] == "sting")
    bed = next(sound for sound in shelf if sound["kind"] == "bed")
    recording = begin(host, episode).json()["id"]

    def play(at: int, sound: dict, frames: int, **more: object):
        body = {"sound": sound["id"], "frames": frames, **more}
        return host.client.put(f"/api/recordings/{recording}/played/{at}", json=body)

    assert play(RATE, bed, 10 * RATE, gain_db=-6).status_code == 200
    # It was ended early; and the shelf has lost it before the recording is added.
    kept = play(RATE, bed, 2 * RATE, gain_db=-6).json()["played"]
    assert [(one["at"], one["frames"]) for one in kept] == [(RATE, 2 * RATE)]
    assert play(4 * RATE, sting, 60 * RATE).status_code == 200
    host.client.patch(f"/api/sounds/{bed['id']}", json={"deleted": True})
    assert play(5 * RATE, bed, RATE).status_code == 404
    assert play(2**53 + 1, sting, RATE).status_code == 422
    pieces = keep_all(host, recording, programme(8, 1, 4))
    assert host.work(add(host, recording, pieces).json()["id"])["state"] == "done"
    view = host.view(episode)
    (track,) = [track for track in view["tracks"] if track["name"] == "Played in"]
    assert view["frames"] == 8 * RATE
    clips = host.state.store.current(episode).track(track["id"]).clips
    length = min(4 * RATE, sting["end"] - sting["start"])
    assert [(c.at, c.start, c.frames) for c in clips] == [
        (RATE, bed["start"], 2 * RATE),
        (4 * RATE, sting["start"], length),
    ]
    refused = play(0, sting, RATE)
    assert refused.status_code == 422
    assert "already been added" in refused.json()["sentence"]
    # One undo takes both away.
    undone = host.client.post(
        f"/api/episodes/{episode}/undo", json={"revision": view["revision"]}
    ).json()
    assert undone["frames"] == 0


def test_a_key_plays_one_sound_of_a_show(host: Host) -> None:
    show = host.view(host.new_episode())["show_id"]
    first, second, third = sorted(
        host.client.post(f"/api/shows/{show}/sounds/shipped").json(), key=lambda one: one["at_key"]
    )
    changed = host.client.patch(f"/api/sounds/{first['id']}", json={"at_key": 3}).json()
    assert changed["at_key"] == 3
    keys = {one["id"]: one["at_key"] for one in host.client.get(f"/api/shows/{show}/sounds").json()}
    assert keys == {first["id"]: 3, second["id"]: 2, third["id"]: 1}
    host.client.patch(f"/api/sounds/{first['id']}", json={"at_key": 0})
    assert host.client.patch(f"/api/sounds/{first['id']}", json={"at_key": 10}).status_code == 422
    keys = {one["id"]: one["at_key"] for one in host.client.get(f"/api/shows/{show}/sounds").json()}
    assert keys == {first["id"]: None, second["id"]: 2, third["id"]: 1}


def test_a_piece_is_on_disk_when_it_is_acknowledged(host: Host) -> None:
    recording = begin(host, host.new_episode()).json()["id"]
    sound = programme(1, 1, 2)
    answer = keep(host, recording, 0, sound[:PIECE]).json()
    assert (answer["pieces"], answer["frames"]) == (1, PIECE)
    assert answer["seconds_left"] > 0
    folder = host.state.store.files.recording(recording)
    assert (folder / "sound").read_bytes() == sound[:PIECE].tobytes()


def test_a_repeated_piece_is_kept_once_and_a_forged_one_not_at_all(host: Host) -> None:
    recording = begin(host, host.new_episode()).json()["id"]
    sound = programme(1, 1, 3)
    for _ in range(2):
        assert keep(host, recording, 0, sound[:PIECE]).json()["frames"] == PIECE
    forged = keep(host, recording, 0, sound[PIECE:])
    assert forged.status_code == 409
    assert forged.json()["wanted"] == 1
    assert "under that number" in forged.json()["sentence"]


def test_a_piece_out_of_order_is_sent_back_with_the_number_that_is_wanted(host: Host) -> None:
    recording = begin(host, host.new_episode()).json()["id"]
    sound = programme(1, 1, 4)
    early = keep(host, recording, 1, sound[PIECE:])
    assert (early.status_code, early.json()["wanted"]) == (409, 0)
    keep(host, recording, 0, sound[:PIECE])
    late = keep(host, recording, 1, sound[PIECE:], start=PIECE - 100)
    assert late.status_code == 409
    assert "does not follow" in late.json()["sentence"]


@pytest.mark.parametrize("size", [0, 3, 6, 4 * RATE + 4])
def test_what_is_no_piece_is_refused_with_a_sentence(host: Host, size: int) -> None:
    recording = begin(host, host.new_episode()).json()["id"]
    answer = host.client.put(
        f"/api/recordings/{recording}/pieces/0", params={"start": 0}, content=bytes(size)
    )
    assert answer.status_code in (413, 422)
    assert answer.json()["sentence"].endswith(".")


def test_missing_sound_becomes_silence_and_is_marked(host: Host) -> None:
    episode = host.new_episode()
    recording = begin(host, episode).json()["id"]
    sound = programme(2, 1, 5)
    keep(host, recording, 0, sound[:PIECE])
    keep(host, recording, 1, sound[:PIECE], start=PIECE + 9600)
    host.work(add(host, recording, 2).json()["id"])
    view = host.view(episode)
    assert view["frames"] == 2 * PIECE + 9600
    assert [(m["at"], m["kind"]) for m in view["markers"]] == [(PIECE, "gap")]
    assert "0.2 s" in view["markers"][0]["name"]
    kept = sound_of(host, f"{recording}-0")[:, 0]
    assert not kept[PIECE : PIECE + 9600].any()
    assert np.array_equal(kept[PIECE + 9600 :], sound[:PIECE, 0])


def test_what_a_crash_left_half_written_is_cut_off(host: Host) -> None:
    recording = begin(host, host.new_episode()).json()["id"]
    sound = programme(1, 1, 6)
    keep(host, recording, 0, sound[:PIECE])
    folder = host.state.store.files.recording(recording)
    for name in ("sound", "log"):
        with (folder / name).open("ab") as file:
            file.write(b"half a pie")
    assert keep(host, recording, 1, sound[PIECE:]).json()["frames"] == RATE
    assert (folder / "sound").read_bytes() == sound.tobytes()


def test_it_is_not_added_while_pieces_are_missing(host: Host) -> None:
    recording = begin(host, host.new_episode()).json()["id"]
    nothing = add(host, recording, 0)
    assert nothing.status_code == 422
    keep(host, recording, 0, programme(0.5, 1, 7))
    answer = add(host, recording, 3)
    assert (answer.status_code, answer.json()["wanted"]) == (409, 1)


def test_two_recordings_on_one_track_at_once_are_refused(host: Host) -> None:
    episode = host.new_episode()
    first = begin(host, episode, "Tobin").json()["id"]
    second = begin(host, episode, "Tobin", "Marit")
    assert second.status_code == 409
    assert "“Tobin” is still open" in second.json()["sentence"]
    assert begin(host, episode, "Marit").status_code == 201
    host.client.post(f"/api/recordings/{first}/discard")
    assert begin(host, episode, "Tobin").status_code == 201
    assert begin(host, episode, "A", "A").status_code == 422


def test_one_set_aside_is_brought_back_whole(host: Host) -> None:
    episode = host.new_episode()
    recording = begin(host, episode).json()["id"]
    keep(host, recording, 0, programme(0.5, 1, 8))
    host.client.post(f"/api/recordings/{recording}/discard")
    assert host.client.get(f"/api/episodes/{episode}/recordings").json() == []
    late = keep(host, recording, 1, programme(0.5, 1, 8))
    assert late.status_code == 422
    host.client.post(f"/api/recordings/{recording}/bring-back")
    (view,) = host.client.get(f"/api/episodes/{episode}/recordings").json()
    assert (view["id"], view["frames"]) == (recording, PIECE)


@pytest.mark.parametrize("cut_off", [False, True])
def test_one_that_is_called_off_before_it_is_added_is_open_at_once(
    host: Host, cut_off: bool
) -> None:
    """While other work is before it, or after it was cut off again and again."""
    episode = host.new_episode()
    recording = begin(host, episode, "Ada").json()["id"]
    pieces = keep_all(host, recording, programme(2, 1, 10))
    job = add(host, recording, pieces).json()["id"]
    assert host.client.get(f"/api/episodes/{episode}/recordings").json() == []
    if cut_off:
        host.state.store.update_job(job, state="interrupted")
    ended = host.client.post(f"/api/jobs/{job}/cancel").json()
    assert ended["state"] == "cancelled"
    (view,) = host.client.get(f"/api/episodes/{episode}/recordings").json()
    assert view["id"] == recording
    assert host.work(add(host, recording, pieces).json()["id"])["state"] == "done"


def test_one_that_does_not_fit_stays_open_and_can_go_elsewhere(host: Host) -> None:
    episode = host.filled(wav())
    recording = begin(host, episode, "Voice", at=RATE, alongside=True).json()["id"]
    pieces = keep_all(host, recording, programme(2, 1, 9))
    failed = host.work(add(host, recording, pieces).json()["id"])
    assert failed["state"] == "failed"
    assert "already there" in failed["error"]
    assert host.view(episode)["frames"] == 6 * RATE
    done = host.work(add(host, recording, pieces, landing={"at": RATE}).json()["id"])
    assert done["state"] == "done"
    assert host.view(episode)["frames"] == 8 * RATE


def test_a_retake_replaces_a_span_and_the_old_one_can_be_put_back(host: Host) -> None:
    episode = host.filled(wav())
    recording = begin(host, episode, "Voice", at=2 * RATE, replacing=RATE).json()["id"]
    pieces = keep_all(host, recording, programme(2, 1, 10))
    host.work(add(host, recording, pieces).json()["id"])
    view = host.view(episode)
    assert (view["frames"], view["trimmed"]) == (7 * RATE, RATE)
    assert view["undo"].startswith("Recorded over a span")
    page = {"revision": view["revision"], "start": 0, "frames": 7 * RATE}
    found = host.client.get(f"/api/episodes/{episode}/page", params=page).json()
    back = host.edit(episode, {"kind": "restore", "cut": found["splices"][0]["cut"]}).json()
    assert (back["frames"], back["trimmed"]) == (8 * RATE, 0)


def test_a_retake_is_as_loud_as_what_surrounds_it(host: Host) -> None:
    """The same voice 9 dB lower: its clip is raised by about that (common practice: within 1)."""
    voice = simulated()[: 15 * RATE]
    buffer = io.BytesIO()
    soundfile.write(buffer, voice, RATE, format="WAV", subtype="FLOAT")
    episode = host.filled(buffer.getvalue())
    recording = begin(host, episode, "Voice", at=6 * RATE, replacing=3 * RATE).json()["id"]
    pieces = keep_all(host, recording, voice * np.float32(10 ** (-9 / 20)))
    host.work(add(host, recording, pieces).json()["id"])
    head = host.view(episode)["revision"]
    clips = host.state.store.timeline(episode, head).tracks[0].clips
    assert [round(clip.gain_db) for clip in clips] == [0, 9, 0]
    assert clips[1].gain_db == pytest.approx(9.0, abs=0.5)


def test_a_full_disk_is_told_and_what_came_before_is_safe(host: Host, monkeypatch) -> None:
    recording = begin(host, host.new_episode()).json()["id"]
    keep(host, recording, 0, programme(0.5, 1, 11))
    monkeypatch.setattr(host.state.store.files, "_keep_free_bytes", 10**18)
    answer = keep(host, recording, 1, programme(0.5, 1, 12))
    assert answer.status_code == 507
    assert "nearly full" in answer.json()["sentence"]
    assert host.client.get(f"/api/recordings/{recording}").json()["frames"] == PIECE


def test_the_microphone_is_checked_on_what_it_gave(host: Host) -> None:
    host.state.settings.simulated_microphones = True
    answer = host.client.get("/api/standins/microphone", params={"fault": "quiet"})
    assert answer.headers["content-type"] == "audio/wav"
    sound, rate = soundfile.read(io.BytesIO(answer.content), dtype="float32")
    assert rate == RATE
    said = host.client.post("/api/microphone-check", content=sound[: 5 * RATE].tobytes()).json()
    assert said["advice"][0].startswith("Move closer")
    assert not said["good"]
    assert host.client.post("/api/microphone-check", content=b"abc").status_code == 422
    long = host.client.post("/api/microphone-check", content=bytes(11 * RATE * 4))
    assert long.status_code == 413


def retake_of_a_second(host: Host) -> tuple[int, str, int]:
    """A retake of second 3 of an episode, recorded and not added: episode, recording and pieces."""
    episode = host.filled(wav())
    selected = host.view(episode)["revision"]
    place = {"at": 3 * RATE, "replacing": RATE, "revision": selected}
    recording = begin(host, episode, "Voice", **place).json()["id"]
    return episode, recording, keep_all(host, recording, programme(2, 1, 10))


def test_a_retake_replaces_the_words_that_were_selected_whatever_was_cut_since(host: Host) -> None:
    episode, recording, pieces = retake_of_a_second(host)
    # The tab was closed; the host cut the first second in the meantime.
    cut = {"kind": "cut", "start": 0, "frames": RATE}
    assert host.edit(episode, cut).status_code == 200
    done = host.work(add(host, recording, pieces).json()["id"])
    assert done["state"] == "done", done
    view = host.view(episode)
    timeline = host.state.store.timeline(episode, view["revision"])
    (track,) = timeline.tracks
    retake = next(clip for clip in track.clips if clip.take.startswith(recording))
    assert retake.at == 2 * RATE
    before, after = track.clips[0], track.clips[-1]
    assert (before.start, after.start) == (RATE, 4 * RATE), "another second was replaced"


def test_a_retake_of_words_that_were_cut_is_refused_and_can_go_elsewhere(host: Host) -> None:
    episode, recording, pieces = retake_of_a_second(host)
    host.edit(episode, {"kind": "cut", "start": 3 * RATE, "frames": RATE // 2})
    failed = host.work(add(host, recording, pieces).json()["id"])
    assert failed["state"] == "failed"
    assert failed["error"].startswith("What this recording replaces has changed since")
    done = host.work(add(host, recording, pieces, landing={}).json()["id"])
    assert done["state"] == "done"
    assert host.view(episode)["frames"] == 5.5 * RATE + 2 * RATE


def test_a_recording_without_a_free_track_is_refused_before_it_begins(host: Host) -> None:
    """An episode has 24 tracks; open recordings count with the tracks that they will make."""
    episode = host.new_episode()
    names = [f"Voice {number}" for number in range(1, 25)]
    for at in (0, 8, 16):
        assert begin(host, episode, *names[at : at + 8]).status_code == 201
    refused = begin(host, episode, "Voice 25")
    assert refused.status_code == 422
    assert "24 tracks at most" in refused.json()["sentence"]


@pytest.mark.parametrize("torn", [1, 3, 5, 1023])
def test_sound_that_a_crash_left_torn_is_read_up_to_the_last_piece(host: Host, torn: int) -> None:
    recording = begin(host, host.new_episode(), "Tobin", "Marit").json()["id"]
    sound = programme(0.5, 2, 6)
    keep(host, recording, 0, sound)
    pieces = Recordings(host.state.store).pieces(Recordings(host.state.store).get(recording))
    with (host.state.store.files.recording(recording) / "sound").open("ab") as file:
        file.write(bytes(torn))
    assert np.array_equal(pieces.read(100, 500)[:, 0], sound[100:600, 0])
    assert np.array_equal(pieces.read(PIECE - 10, 10)[:, 0], sound[-10:, 0])


def test_simulated_microphones_belong_to_the_demo(host: Host) -> None:
    assert host.client.get("/api/standins/microphones").json() == []
    assert host.client.get("/api/standins/microphone").status_code == 404
    host.state.settings.simulated_microphones = True
    devices = host.client.get("/api/standins/microphones").json()
    assert {device["name"].split()[0].rstrip(":") for device in devices} == {"Simulated"}
    assert host.client.get("/api/standins/microphone").headers["content-type"] == "audio/wav"


def test_marks_of_a_recording_have_a_limit_with_a_message(host: Host) -> None:
    recording = begin(host, host.new_episode()).json()["id"]
    address = f"/api/recordings/{recording}/flags"
    flags = tuple(MarkerAt(at=at, kind="flag", name="x") for at in range(MOST_FLAGS))
    with Session(host.state.store.engine) as session, session.begin():
        row = session.get(RecordingRow, recording)
        row.flags = TypeAdapter(tuple[MarkerAt, ...]).dump_json(flags).decode()
    assert host.client.post(address, json={"at": 5, "name": "x"}).status_code == 200  # is there
    refused = host.client.post(address, json={"at": RATE, "name": "x"})
    assert refused.status_code == 422
    assert "1000 marks at most" in refused.json()["sentence"]
