"""Uploads by the tus protocol 1.0.0 (https://tus.io): whatever breaks off, offset and bytes are one
truth, and nothing is brought in that is not what was sent."""

import hashlib
import os
import random
import signal
import socket
import threading
import time
from base64 import b64encode
from collections.abc import Iterator
from pathlib import Path

import httpx
import numpy as np
import pytest

from airtrim.errors import NotFound
from airtrim.store.files import Files
from airtrim.store.purging import Bin
from airtrim.store.uploads import EXPIRE_S, Uploads
from tests.api.host import Host, wav
from tests.serving import AppAlone, ForkedServer, create_upload, send_part, upload

TUS = {"Tus-Resumable": "1.0.0"}


def offset_of(client: httpx.Client, address: str) -> int:
    return int(client.head(address, headers=TUS).headers["upload-offset"])


def test_bytes_beyond_what_is_told_are_cut_off_before_more_comes(host: Host) -> None:
    """As a process leaves them that was killed after it wrote and before it said so."""
    episode, data = host.new_episode(), wav()
    address = create_upload(host.client, episode, len(data), "a.wav").headers["location"]
    send_part(host.client, address, data[:50_000], 0)
    upload_id = address.rsplit("/", 1)[-1]
    with host.state.store.files.upload(upload_id).open("ab") as file:
        file.write(data[50_000:90_000])
    with (host.state.store.files.uploads / f"{upload_id}.parts").open("ab") as log:
        log.write(b"half a record")
    assert offset_of(host.client, address) == 50_000
    assert send_part(host.client, address, data[50_000:], 50_000).status_code == 204
    assert host.state.store.files.upload(upload_id).read_bytes() == data
    assert host.work(upload_id)["state"] == "done"


def test_a_part_whose_bytes_differ_from_its_checksum_is_refused(host: Host) -> None:
    data = wav()
    address = create_upload(host.client, host.new_episode(), len(data), "a.wav").headers["location"]
    good = hashlib.sha256(data[:1000]).digest()
    bad = send_part(host.client, address, data[:999] + b"x", 0, checksum=good)
    assert bad.status_code == 460
    assert bad.json()["sentence"]
    assert offset_of(host.client, address) == 0
    assert send_part(host.client, address, data[:1000], 0, checksum=good).status_code == 204
    assert offset_of(host.client, address) == 1000


def test_an_import_of_bytes_that_are_not_what_was_sent_is_refused(host: Host) -> None:
    episode = host.new_episode()
    job = upload(host.client, episode, wav())
    path = host.state.store.files.upload(job)
    damaged = bytearray(path.read_bytes())
    damaged[len(damaged) // 2] ^= 1
    path.write_bytes(damaged)
    done = host.work(job)
    assert done["state"] == "failed"
    assert "not what was sent" in done["error"]
    assert host.view(episode)["takes"] == []


def test_more_than_was_told_is_refused_and_what_came_before_stands(host: Host) -> None:
    address = create_upload(host.client, host.new_episode(), 1000, "a.wav").headers["location"]
    assert send_part(host.client, address, bytes(400), 0).status_code == 204
    assert send_part(host.client, address, bytes(601), 400).status_code == 413
    told_nothing = (bytes(100) for _ in range(7))
    assert send_part(host.client, address, told_nothing, 400).status_code == 413
    assert offset_of(host.client, address) == 400


def test_what_is_sent_with_the_creation_is_not_read(host: Host) -> None:
    headers = {**TUS, "Upload-Length": "10", "Upload-Metadata": "episode MQ=="}
    host.new_episode()
    made = host.client.post("/api/uploads/", headers=headers, content=bytes(5000))
    assert made.status_code == 201
    assert offset_of(host.client, made.headers["location"]) == 0


@pytest.mark.parametrize(
    "headers",
    [
        {"Upload-Length": "1_0"},
        {"Upload-Length": "9" * 30},
        {"Upload-Length": "-1"},
        {"Upload-Length": "٣"},
        {"Upload-Length": "10", "Upload-Metadata": "episode"},
        {"Upload-Length": "10", "Upload-Metadata": "episode !!!"},
        {"Upload-Length": "10", "Upload-Metadata": "episode gIA="},
        {"Upload-Length": "10", "Upload-Metadata": "episode 4oCL"},
        {"Upload-Length": "10", "Upload-Metadata": "episode MQ==,at LTE="},
        {"Upload-Length": "10", "Upload-Metadata": "episode MQ==,kind eA=="},
        {"Upload-Length": "10", "Upload-Metadata": "," * 9000},
    ],
)
def test_odd_headers_are_refused_with_a_sentence(host: Host, headers: dict[str, str]) -> None:
    host.new_episode()
    sent = {key: value.encode() for key, value in {**TUS, **headers}.items()}
    answer = host.client.post("/api/uploads/", headers=sent)
    assert answer.status_code == 422, answer.text
    assert answer.json()["sentence"]


@pytest.mark.parametrize("name", [".", "..", "%2e%2e", "a.info", "x" * 300, "nothing"])
def test_no_other_name_is_an_upload(host: Host, name: str) -> None:
    for method in ("HEAD", "DELETE", "PATCH"):
        answer = host.client.request(method, f"/api/uploads/{name}", headers=TUS)
        assert answer.status_code in (404, 405, 422), (method, answer.status_code)
    assert host.state.store.files.uploads.is_dir()


def test_an_upload_is_given_up(host: Host) -> None:
    address = create_upload(host.client, host.new_episode(), 1000, "a.wav").headers["location"]
    send_part(host.client, address, bytes(400), 0)
    assert host.client.delete(address, headers=TUS).status_code == 204
    assert host.client.head(address, headers=TUS).status_code == 404
    assert list(host.state.store.files.uploads.iterdir()) == []


def test_an_upload_that_did_not_go_on_for_a_week_goes(host: Host) -> None:
    store = host.state.store
    uploads = Uploads(store.files)
    old, young = (uploads.create(4, {}) for _ in range(2))
    (store.files.uploads / "§.info").write_text("{}")
    for path in store.files.uploads.iterdir():
        if not path.name.startswith(young):
            os.utime(path, (time.time() - EXPIRE_S - 60,) * 2)
    Bin(store).empty()
    with pytest.raises(NotFound):
        uploads.get(old)
    assert uploads.get(young).size == 4
    assert (store.files.uploads / "§.info").exists()


def test_a_bad_file_among_the_uploads_keeps_nothing_from_starting(tmp_path: Path) -> None:
    files = Files(tmp_path / "data")
    (files.uploads / "odd.info").write_text("not JSON")
    (files.uploads / "§.info").write_text("{}")
    (files.uploads / "b.info").write_text('{"size": 4, "offset": 4, "metadata": {}}')
    (files.uploads / "b").write_text("abcd")
    server = ForkedServer(tmp_path / "data")
    try:
        assert server.client.get("/api/shows").status_code == 200
    finally:
        server.stop()


def test_two_senders_of_one_upload_do_not_hold_the_server_up(tmp_path: Path) -> None:
    server = ForkedServer(tmp_path / "data")
    try:
        size = 3_000_000
        address = create_upload(server.client, server.new_episode(), size, "a").headers["location"]
        go_on = threading.Event()
        stored = tmp_path / "data" / "uploads" / address.rsplit("/", 1)[-1]

        def slowly() -> Iterator[bytes]:
            yield bytes(1_500_000)
            go_on.wait(20)
            yield bytes(500_000)

        first = threading.Thread(
            target=lambda: send_part(
                httpx.Client(base_url=server.address, timeout=60), address, slowly(), 0
            )
        )
        first.start()
        while stored.stat().st_size == 0:
            assert first.is_alive()
            time.sleep(0.01)
        asked = time.monotonic()
        # Short: what is refused is not read, and a long body would meet a closed connection.
        second = send_part(server.client, address, bytes(100), 0)
        assert second.status_code == 423, second.text
        assert server.client.get("/api/shows").status_code == 200
        assert time.monotonic() - asked < 10  # the sender before waits for twenty
        go_on.set()
        first.join()
        assert offset_of(server.client, address) == 2_000_000
    finally:
        server.stop()


# --- kills ---


def _send_and_end(server: AppAlone, path: str, data: bytes, offset: int, rng: random.Random):
    """Part of a request's bytes, and the end of the process at some moment within it."""
    checksum = rng.random() < 0.5
    length = min(len(data) - offset, rng.choice([70_000, 700_000, 3_000_000]))
    body = data[offset : offset + length]
    head = (
        f"PATCH {path} HTTP/1.1\r\nHost: 127.0.0.1:{server.port}\r\nTus-Resumable: 1.0.0\r\n"
        f"Content-Type: application/offset+octet-stream\r\nUpload-Offset: {offset}\r\n"
        f"Content-Length: {length}\r\n"
    )
    if checksum:
        digest = b64encode(hashlib.sha256(body).digest()).decode()
        head += f"Upload-Checksum: sha256 {digest}\r\n"
    number = rng.choice([signal.SIGKILL, signal.SIGKILL, signal.SIGTERM])
    timer = threading.Timer(rng.uniform(0, 0.03), server.end, (number,))
    with socket.create_connection(("127.0.0.1", server.port)) as connection:
        timer.start()
        try:
            connection.sendall(head.encode() + b"\r\n" + body[: rng.randint(0, length)])
            connection.settimeout(0.05)
            connection.recv(1000)
        except OSError:
            pass
    timer.join()


def test_200_ends_inside_requests_leave_no_wrong_byte(tmp_path: Path) -> None:
    """Killed, or told to end, at 200 random moments while parts come in; then it goes on."""
    rng = random.Random(14)
    data = np.random.default_rng(14).bytes(20_000_000)
    server = AppAlone(tmp_path / "data")
    try:
        client = server.client
        show = client.post("/api/shows", json={"name": "Show"}).json()["id"]
        made = client.post(f"/api/shows/{show}/episodes", json={"title": "One"})
        address = create_upload(client, made.json()["id"], len(data), "a.wav").headers["location"]
        path, stored = address, tmp_path / "data" / "uploads" / address.rsplit("/", 1)[-1]
        reached = 0
        for _ in range(200):
            _send_and_end(server, path, data, reached, rng)
            server.start()
            offset = offset_of(client, address)
            assert offset >= reached
            with stored.open("rb") as kept:
                assert kept.read(offset) == memoryview(data)[:offset]
            # Near the end it goes back, so that there is always more to send.
            reached = offset
            if reached > len(data) * 3 // 4:
                client.delete(address, headers=TUS)
                made_again = create_upload(client, made.json()["id"], len(data), "a.wav")
                path = address = made_again.headers["location"]
                stored = tmp_path / "data" / "uploads" / address.rsplit("/", 1)[-1]
                reached = 0
        assert send_part(client, address, data[reached:], reached).status_code == 204
        assert stored.read_bytes() == data
    finally:
        server.process.kill()
