"""A disk that is full, a real one: a small file system in memory. Every writer tells it with one
sentence and 507 (RFC 4918, section 11.5), what was there stays, and what frees room still works."""

import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from airtrim.api.app import create_app
from airtrim.settings import Settings
from tests.api.host import HERE, Host, wav
from tests.reference import RATE
from tests.serving import create_upload, send_part, upload

SIZE_MB = 32


@pytest.fixture
def small(tmp_path: Path) -> Iterator[Path]:
    folder = tmp_path / "small"
    folder.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", f"size={SIZE_MB}m", "tmpfs", str(folder)]
    if os.geteuid() != 0 or subprocess.run(mount, capture_output=True).returncode:
        pytest.skip("a file system cannot be mounted here")
    yield folder
    subprocess.run(["umount", "-l", str(folder)], check=True)


@pytest.fixture
def host(small: Path) -> Iterator[Host]:
    settings = Settings(data_dir=small / "data", keep_free_bytes=0)
    app = create_app(settings, worker=False)
    with TestClient(app, base_url=HERE, raise_server_exceptions=False) as client:
        yield Host(client)


def fill(folder: Path) -> Path:
    """Not a byte is left."""
    rest = folder / "rest"
    with rest.open("wb", buffering=0) as file:
        for size in (1 << 20, 4096, 1):
            try:
                while True:
                    file.write(bytes(size))
            except OSError:
                continue
    return rest


def test_every_writer_tells_it_and_what_was_there_stays(host: Host, small: Path) -> None:
    episode = host.filled()
    host.edit(episode, {"kind": "cut", "start": 0, "frames": 4800})
    view = host.view(episode)
    take, revision = view["takes"][0]["id"], view["revision"]
    begun = host.client.post(f"/api/episodes/{episode}/recordings", json={"tracks": ["Host"]})
    recording = begun.json()["id"]
    data = wav(20)
    address = create_upload(host.client, episode, len(data), "a.wav").headers["location"]
    waiting = upload(host.client, episode, wav(30, seed=2), "b.wav")
    measuring = host.client.post(f"/api/episodes/{episode}/measure", json={"revision": revision})
    rest = fill(small)

    writers = {
        "edit": host.edit(episode, {"kind": "cut", "start": 0, "frames": 4800}),
        "script": host.edit(episode, {"kind": "set_script", "text": "word " * 20_000}),
        "export": host.client.post(f"/api/episodes/{episode}/exports", json={"revision": revision}),
        "measure": host.client.post(
            f"/api/episodes/{episode}/measure", json={"revision": revision}
        ),
        "transcript": host.client.put(f"/api/takes/{take}/transcript?name=a.txt", content=b"x y"),
        "show": host.client.post("/api/shows", json={"name": "Another"}),
        "guest": host.client.post(f"/api/episodes/{episode}/guests", json={"name": "Marit"}),
        "recording": host.client.post(
            f"/api/episodes/{episode}/recordings", json={"tracks": ["Other"]}
        ),
        "piece": host.client.put(
            f"/api/recordings/{recording}/pieces/0?start=0", content=bytes(96_000)
        ),
        "upload": create_upload(host.client, episode, 1000, "c.wav"),
        "part": send_part(host.client, address, data, 0),
    }
    told = {name: (answer.status_code, answer.text) for name, answer in writers.items()}
    # SQLite may have a page left for a row or two; but nothing is ever told as anything else.
    for name, (status, text) in told.items():
        assert status in (507, 200, 201, 202), (name, text)
        if status == 507:
            assert "Make room" in text
    for name in ("export", "recording", "piece", "upload", "part"):
        assert told[name][0] == 507, (name, told[name])
    for job in (waiting, measuring.json()["id"]):
        failed = host.work(job)
        if failed["state"] != "queued":  # not even its beginning could be noted
            assert (failed["state"], "Make room" in failed["error"]) == ("failed", True), failed

    rest.unlink()
    assert host.view(episode)["takes"] == view["takes"]
    if host.client.get(f"/api/jobs/{waiting}").json()["state"] == "failed":
        assert host.client.post(f"/api/jobs/{waiting}/again").status_code == 200
    assert host.work(waiting)["state"] == "done"
    assert send_part(host.client, address, data, 0).status_code == 204
    done = host.work(address.rsplit("/", 1)[-1])
    assert done["state"] == "done", done


def test_room_that_is_to_stay_free_stays_free_of_every_writer(host: Host, small: Path) -> None:
    """``AIRTRIM_KEEP_FREE_BYTES`` binds all that write more; what makes room is let through."""
    episode = host.filled()
    host.edit(episode, {"kind": "cut", "start": 0, "frames": 4800})
    view = host.view(episode)
    take, revision = view["takes"][0]["id"], view["revision"]
    address = create_upload(host.client, episode, 1000, "a.wav").headers["location"]
    host.state.store.files._keep_free_bytes = 10**12
    on = f"/api/episodes/{episode}"
    writers = [
        host.edit(episode, {"kind": "cut", "start": 0, "frames": 4800}),
        host.client.post(f"{on}/exports", json={"revision": revision}),
        host.client.post(f"{on}/measure", json={"revision": revision}),
        host.client.post(f"{on}/guests", json={"name": "Marit"}),
        host.client.post(f"{on}/recordings", json={"tracks": ["Other"]}),
        host.client.put(f"/api/takes/{take}/transcript?name=a.txt", content=b"x y"),
        host.client.post("/api/shows", json={"name": "Another"}),
        create_upload(host.client, episode, 1000, "c.wav"),
        send_part(host.client, address, bytes(1000), 0),
    ]
    assert [answer.status_code for answer in writers] == [507] * len(writers)
    undone = host.client.post(f"{on}/undo", json={"revision": revision})
    assert undone.status_code == 200
    assert host.client.patch(on, json={"deleted": True}).status_code == 200


def test_undo_rename_and_delete_work_without_a_free_byte(host: Host, small: Path) -> None:
    """What ``docs/host.md`` promises. 160 of them, so that SQLite has to grow its files."""
    episode = host.filled()
    for number in range(40):
        host.edit(episode, {"kind": "cut", "start": number * 2400, "frames": 2400})
    rest = fill(small)
    on = f"/api/episodes/{episode}"
    for number in range(40):
        undone = host.client.post(f"{on}/undo", json={"revision": host.view(episode)["revision"]})
        assert undone.status_code == 200, (number, undone.text)
        renamed = host.client.patch(on, json={"name": f"Fog, part {number}"})
        assert renamed.status_code == 200, (number, renamed.text)
        redone = host.client.post(f"{on}/redo", json={"revision": host.view(episode)["revision"]})
        assert redone.status_code == 200, (number, redone.text)
        host.client.post(f"{on}/undo", json={"revision": host.view(episode)["revision"]})
    assert host.view(episode)["frames"] == 6 * RATE
    show = host.view(episode)["show_id"]
    assert host.client.patch(f"/api/shows/{show}", json={"name": "Slow"}).status_code == 200
    assert host.client.patch(on, json={"deleted": True}).status_code == 200
    # Nothing else took the room that was let go for it.
    assert host.client.post("/api/shows", json={"name": "Another"}).status_code == 507
    assert host.client.post("/api/keeping/empty").status_code in (200, 204)
    rest.unlink()
    host.state.store.files.reserve.restore(host.state.store.files.free())
    assert host.state.store.files.reserve.missing_bytes == 0
