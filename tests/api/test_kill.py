"""The server is killed at work and started again: what was acknowledged is there, nothing hangs."""

import io
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import httpx
import numpy as np
import psutil
import pytest
import soundfile

from airtrim.jobs import queue
from airtrim.jobs.queue import Watch
from airtrim.settings import Settings
from airtrim.store.files import Files
from tests.reference import RATE, programme
from tests.serving import ForkedServer, Server, create_upload, send_part
from tests.waiting import eventually


def long_wav(seconds: float) -> bytes:
    buffer = io.BytesIO()
    sound = np.tile(programme(20, 1, 3), (int(seconds / 20), 1))
    soundfile.write(buffer, sound, 44_100, format="WAV", subtype="PCM_16")
    return buffer.getvalue()


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    server = ForkedServer(tmp_path / "data")
    yield server
    server.stop()


def left_over(server: Server) -> list[str]:
    return [p.name for p in (server.data / "tmp").iterdir()]


def test_killed_during_an_import(server: Server) -> None:
    episode = server.new_episode()
    job = server.upload(episode, long_wav(600))
    server.wait_until_begun(job)
    server.kill()
    server.start()
    assert server.wait(job)["state"] == "done"
    view = server.episode(episode)
    assert len(view["takes"]) == 1
    assert view["frames"] == pytest.approx(600 * RATE * 48_000 / 44_100, abs=200)
    assert left_over(server) == []


def test_killed_between_the_last_byte_and_the_import(server: Server) -> None:
    """The upload was acknowledged: its import begins when the server is back."""
    episode = server.new_episode()
    data = long_wav(20)
    address = create_upload(server.client, episode, len(data), "a.wav").headers["location"]
    send_part(server.client, address, data[:-1000], 0)
    server.kill()
    server.start()
    head = server.client.head(address, headers={"Tus-Resumable": "1.0.0"})
    offset = int(head.headers["upload-offset"])
    assert 0 <= offset <= len(data) - 1000
    send_part(server.client, address, data[offset:], offset)
    server.kill()
    server.start()
    assert server.wait(address.rsplit("/", 1)[-1])["state"] == "done"
    assert len(server.episode(episode)["takes"]) == 1


def test_killed_during_edits_and_an_export(server: Server) -> None:
    episode = server.new_episode()
    server.wait(server.upload(episode, long_wav(100)))
    acknowledged = server.episode(episode)
    for number in range(12):
        body = {
            "revision": acknowledged["revision"],
            "edit": {"kind": "cut", "start": number * RATE, "frames": 4800},
        }
        acknowledged = server.client.post(f"/api/episodes/{episode}/edits", json=body).json()
    body = {"revision": acknowledged["revision"]}
    job = server.client.post(f"/api/episodes/{episode}/exports", json=body).json()["id"]
    server.wait_until_begun(job)
    server.kill()
    server.start()
    assert {**server.episode(episode), "stretches": [], "marks": []} == acknowledged
    result = server.wait(job)
    assert result["state"] == "done", result
    file = server.client.get(f"/api/exports/{job}/file")
    assert len(file.content) == result["result"]["files"][0]["bytes"]
    server.wait_all()
    assert left_over(server) == []


def test_a_worker_that_begins_leaves_what_the_server_is_writing(tmp_path: Path) -> None:
    """A slow machine starts it late, when the first request is already being answered."""
    server, worker = Files(tmp_path), Files(tmp_path)
    worker.owner = "worker"
    with server.beside() as writing:
        (writing / "kept").write_bytes(b"a recording")
        with worker.beside() as crashed:
            (crashed / "half").write_bytes(b"half")
            worker.sweep()
            assert not crashed.exists()
        server.keep(tmp_path / "whole", b"whole")
        assert (writing / "kept").read_bytes() == b"a recording"
        server.sweep()
        assert not writing.exists()


def test_running_work_stops_when_it_is_cancelled(server: Server) -> None:
    episode = server.new_episode()
    job = server.upload(episode, long_wav(400))
    server.wait(job, "running")
    server.client.post(f"/api/jobs/{job}/cancel")
    assert server.wait(job)["state"] == "cancelled"
    assert server.episode(episode)["takes"] == []
    again = server.client.post(f"/api/jobs/{job}/again")
    assert again.status_code == 200
    assert server.wait(job)["state"] == "done"


def test_progress_and_edits_come_over_the_event_stream(server: Server) -> None:
    episode = server.new_episode()
    seen: list[str] = []
    with httpx.stream("GET", f"{server.address}/api/events", timeout=20) as events:
        lines = events.iter_lines()
        job = server.upload(episode, long_wav(20))
        for line in lines:
            seen.append(line)
            if '"state":"done"' in line and job in line:
                break
    assert any(line == "event: job" for line in seen)
    assert any(f'"id":"{job}"' in line for line in seen)


def test_no_worker_outlives_its_server_even_one_still_starting(tmp_path: Path) -> None:
    server = Server(tmp_path / "data")
    assert psutil.Process(server.process.pid).children()
    server.kill()  # waits until all that it had begun has ended


@pytest.mark.parametrize("progress", [0.02, 0.2, 0.4])
def test_work_that_a_stop_cuts_off_goes_on_at_the_next_start(
    server: Server, demo: Path, progress: float
) -> None:
    """SIGTERM in the middle of a transcription, whose computation runs in a pool of its own."""
    sound, rate = soundfile.read(demo / "sound" / "host-question.flac", dtype="int16")
    buffer = io.BytesIO()
    soundfile.write(buffer, np.tile(sound, 4), rate, format="WAV", subtype="PCM_16")
    server.wait(server.upload(server.new_episode(), buffer.getvalue()))
    jobs = server.client.get("/api/jobs").json()
    (job,) = [job["id"] for job in jobs if job["kind"] == "transcribe"]
    eventually(lambda: server.client.get(f"/api/jobs/{job}").json()["progress"] > progress)
    server.stop()
    with closing(sqlite3.connect(server.data / "airtrim.db")) as database:
        states = dict(database.execute("SELECT state, error FROM job").fetchall())
    assert set(states) <= {"queued", "done"}, states
    server.start()
    assert server.wait(job)["state"] == "done"


def test_a_worker_that_was_stopped_or_hangs_is_not_reported_as_ready(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(queue, "_SILENT_S", 4.0)
    watch = Watch(Settings(data_dir=tmp_path / "data"))
    watch.start()
    try:
        eventually(lambda: watch.running)
        begun = psutil.Process().children()
        (worker,) = [one for one in begun if "airtrim.jobs.worker" in one.cmdline()]
        worker.suspend()
        eventually(lambda: not watch.running)
        worker.resume()
        eventually(lambda: watch.running)
        worker.kill()
        eventually(lambda: not watch.running)
        eventually(lambda: watch.running)  # it is started again
    finally:
        watch.stop()
