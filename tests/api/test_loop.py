"""Nothing keeps the event loop busy: what takes long is done elsewhere, whatever is asked.

asyncio's own debug mode counts time that went by, which on a busy machine is not the loop's doing;
here the processor time of the loop's thread is counted, callback by callback.
"""

import asyncio
import gc
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
import uvicorn

from airtrim.api.app import create_app, server_options
from airtrim.settings import Settings
from tests.api.host import wav
from tests.serving import create_upload, free_port, send_part

MOST_S = 0.020


@pytest.fixture
def watched(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> Iterator[tuple[httpx.Client, list[str]]]:
    """A server in a thread of this process, and what took its loop too long."""
    slow: list[str] = []
    gc.unfreeze()
    run = asyncio.events.Handle._run

    def timed(handle: asyncio.Handle) -> None:
        begun = time.thread_time()
        run(handle)
        took = time.thread_time() - begun
        if took > MOST_S and threading.current_thread() is thread:
            slow.append(f"{took * 1000:.0f} ms in {handle!r}")

    monkeypatch.setattr(asyncio.events.Handle, "_run", timed)
    port = free_port()
    app = create_app(Settings(data_dir=tmp_path / "data", keep_free_bytes=0), worker=False)
    options = server_options(Settings()) | {"loop": "asyncio"}
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, **options))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    client = httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60)
    while not server.started:
        time.sleep(0.01)
    client.get("/api/openapi.json")
    while not gc.get_freeze_count():  # it is warm when this is done
        time.sleep(0.05)
    slow.clear()  # what starting took
    yield client, slow
    server.should_exit = True
    thread.join(20)
    gc.unfreeze()


def everything(client: httpx.Client) -> None:
    """What a host's and a guest's browser ask for, the heavy things among it."""
    show = client.post("/api/shows", json={"name": "Show"}).json()["id"]
    made = client.post(f"/api/shows/{show}/episodes", json={"title": "One"})
    episode = made.json()["id"]
    data = wav(20)
    address = create_upload(client, episode, len(data), "a.wav").headers["location"]
    assert send_part(client, address, data, 0).status_code == 204
    cues = "".join(
        f"{n}\n00:{n // 60 % 60:02d}:{n % 60:02d},000 --> 00:{n // 60 % 60:02d}:{n % 60:02d},900\n"
        "Words of a cue.\n\n"
        for n in range(3000)
    ).encode()
    assert client.put("/api/takes/x/transcript?name=a.srt", content=cues * 6).status_code < 500
    assert (
        client.put("/api/takes/x/transcript?name=a.srt", content=b"9" * 5_000_000).status_code < 500
    )
    noise = bytes(10 * 48_000 * 4)
    assert client.post("/api/microphone-check", content=noise).status_code == 200
    assert client.post("/api/delay", content=noise).status_code < 500
    assert client.post("/api/artwork", content=bytes(4_000_000)).status_code == 422
    script = {"kind": "set_script", "text": "word " * 50_000}
    edit = {"revision": 0, "edit": script}
    revision = client.post(f"/api/episodes/{episode}/edits", json=edit).json()["revision"]
    held = client.get(f"/api/episodes/{episode}/script/held?revision={revision}")
    assert held.status_code == 422
    recording = client.post(f"/api/episodes/{episode}/recordings", json={"tracks": ["Host"]}).json()
    for number in range(4):
        piece = f"/api/recordings/{recording['id']}/pieces/{number}?start={number * 24_000}"
        assert client.put(piece, content=bytes(96_000)).status_code == 200
    for address in (
        "/api/shows",
        "/api/keeping",
        "/api/jobs",
        f"/api/episodes/{episode}",
        f"/api/episodes/{episode}/opening?frames=4800000&columns=800",
        f"/api/episodes/{episode}/history",
        "/readyz",
        "/api/openapi.json",
        "/",
    ):
        assert client.get(address).status_code == 200, address
    with client.stream("GET", "/api/events") as events:
        client.post("/api/shows", json={"name": "Another"})
        next(events.iter_lines())


def test_no_request_holds_the_loop_for_twenty_milliseconds(
    watched: tuple[httpx.Client, list[str]],
) -> None:
    client, slow = watched
    everything(client)
    slow.clear()  # the first time some modules are still being imported
    everything(client)
    assert slow == []


def test_a_large_json_holds_the_loop_no_longer(watched: tuple[httpx.Client, list[str]]) -> None:
    """Five megabytes of decisions, as a host's browser may send them."""
    client, slow = watched
    spans = [{"start": n, "frames": 1} for n in range(5000)]
    keep = [{"kind": "air", "take": "t" * 40, "start": n, "end": n + 1} for n in range(20_000)]
    edit = {"kind": "tidy", "cuts": spans, "keep": keep}
    answer = client.post("/api/episodes/1/edits", json={"revision": 0, "edit": edit})
    assert answer.status_code == 404
    assert slow == []
