"""Every reason why Air Trim cannot start is one sentence with what to do, never a traceback; and
what an operator does from the command line."""

import json
import os
import shutil
import socket
import sqlite3
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import psutil
import pytest

from airtrim.store.lock import FolderLock
from airtrim.store.store import Store
from tests.commands import airtrim, airtrim_forked
from tests.serving import ForkedServer, free_port
from tests.waiting import eventually

TOKEN = "a-token-of-some-length"


def refused(data: Path, *more: str, **environment: str) -> str:
    """What a start says that cannot be."""
    port = () if "--port" in more else ("--port", str(free_port()))
    done = airtrim_forked("serve", "--data", str(data), *port, *more, **environment)
    assert done.returncode == 1, done
    assert "Traceback" not in done.stderr
    assert "Air Trim is at http" not in done.stderr
    return " ".join(done.stderr.split())


@pytest.fixture
def data(tmp_path: Path) -> Path:
    store = Store(tmp_path / "data")
    store.add_show("Show")
    store.close()
    return tmp_path / "data"


def test_a_port_in_use(data: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        assert f"Port {port} is in use" in refused(data, "--port", port)


@pytest.mark.parametrize("port", ["70000", "-1"])
def test_a_port_that_is_none(data: Path, port: str) -> None:
    assert "Nothing can be served" in refused(data, "--port", port)


def test_an_address_of_another_machine(data: Path) -> None:
    told = refused(data, "--host", "192.0.2.1", AIRTRIM_TOKEN=TOKEN)
    assert "Nothing can be served at 192.0.2.1" in told


def test_a_broken_database(data: Path) -> None:
    (data / "airtrim.db").write_bytes(b"not a database" * 1000)
    told = refused(data)
    assert "is damaged" in told
    assert "airtrim restore" in told


def test_newer_data(data: Path) -> None:
    with sqlite3.connect(data / "airtrim.db") as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    connection.close()
    assert "were written by a newer Air Trim" in refused(data)


@pytest.fixture
def mounted(tmp_path: Path) -> Iterator[Path]:
    folder = tmp_path / "mounted"
    folder.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", str(folder)]
    if os.geteuid() != 0 or subprocess.run(mount, capture_output=True).returncode:
        pytest.skip("a file system cannot be mounted here")
    yield folder
    subprocess.run(["umount", "-l", str(folder)], check=True)


def test_a_folder_that_cannot_be_written_to(data: Path, mounted: Path) -> None:
    shutil.copytree(data, mounted / "data", ignore=shutil.ignore_patterns("reserve"))
    subprocess.run(["mount", "-o", "remount,ro", str(mounted)], check=True)
    assert "cannot be written to" in refused(mounted / "data")
    assert "cannot be written to" in refused(mounted / "another")


def test_a_full_disk(mounted: Path) -> None:
    (mounted / "rest").write_bytes(bytes(3 * 1024 * 1024 - 40_000))
    assert "is full" in refused(mounted / "data")


def test_a_folder_that_is_a_file(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    assert "cannot be" in refused(tmp_path / "file")


def test_another_server_on_the_folder(data: Path) -> None:
    server = ForkedServer(data)
    try:
        told = refused(data)
        assert "Another Air Trim is at work in this folder" in told
        assert f"process {server.process.pid}" in told
        repairing = airtrim_forked("check-data", "--repair", "--data", str(data))
        assert repairing.returncode == 1
        assert "Another Air Trim" in repairing.stderr
    finally:
        server.stop()
    FolderLock(data).release()


def test_tokens_and_settings(data: Path) -> None:
    assert "needs a token" in refused(data, "--host", "0.0.0.0", AIRTRIM_TOKEN="")
    assert "16 characters or more" in refused(data, AIRTRIM_TOKEN="short")
    assert "AIRTRIM_PORT" in refused(data, AIRTRIM_PORT="many")
    assert "AIRTRIM_LOG_FORMAT" in refused(data, AIRTRIM_LOG_FORMAT="poem")
    assert "AIRTRIM_WORKER_NICE" in refused(data, AIRTRIM_WORKER_NICE="-1")


def test_work_in_the_background_gives_way_as_far_as_is_told(data: Path) -> None:
    server = ForkedServer(data, AIRTRIM_WORKER_NICE="7")
    try:
        process = psutil.Process(server.process.pid)
        own = process.nice()
        eventually(lambda: own + 7 in [one.nice() for one in process.children()])
    finally:
        server.stop()


def test_the_address_is_told_once_it_is_open_and_logs_are_json_when_asked(data: Path) -> None:
    port = free_port()
    command = [str(Path(sys.executable).parent / "airtrim"), "serve", "--data", str(data)]
    process = subprocess.Popen(
        [*command, "--port", str(port)],
        stderr=subprocess.PIPE,
        text=True,
        env={**os.environ, "AIRTRIM_LOG_FORMAT": "json", "AIRTRIM_LOG_LEVEL": "debug"},
    )
    assert process.stderr
    lines = []
    for line in process.stderr:
        if "Air Trim is at" in line:
            break
        lines.append(line)
    with socket.create_connection(("127.0.0.1", port)) as connection:
        asked = f"GET /api/join/a-secret-link HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n"
        connection.sendall(f"{asked}Connection: close\r\n\r\n".encode())
        answer = b"".join(iter(lambda: connection.recv(65536), b""))
    process.terminate()
    lines += process.stderr.readlines()
    process.wait(20)
    events = [json.loads(line) for line in lines]
    assert {"started", "request", "stopped"} <= {event["event"] for event in events}
    (request,) = [event for event in events if event["event"] == "request"]
    assert request["route"] == "/api/join/{token}"
    assert request["status"] == 410
    assert f"x-request-id: {request['id']}".encode() in answer.lower()
    assert "a-secret-link" not in "".join(lines)


def test_three_stops_leave_no_job_interrupted(tmp_path: Path) -> None:
    from tests.api.test_kill import long_wav

    server = ForkedServer(tmp_path / "data")
    try:
        job = server.upload(server.new_episode(), long_wav(400))
        for _ in range(4):
            server.wait(job, "running")
            server.stop()
            server.start()
        assert server.client.get(f"/api/jobs/{job}").json()["state"] in (
            "queued",
            "running",
            "done",
        )
        assert server.wait(job)["state"] == "done"
    finally:
        server.stop()


def test_backup_restore_and_check_from_the_command_line(data: Path, tmp_path: Path) -> None:
    made = airtrim("backup", str(tmp_path / "b"), "--data", str(data), "--json")
    assert json.loads(made.stdout)["made_at"]
    restored = tmp_path / "restored"
    back = airtrim("restore", str(tmp_path / "b"), "--data", str(restored), "--json")
    assert json.loads(back.stdout)["files"] == 0
    good = airtrim("check-data", "--data", str(restored), "--json")
    assert good.returncode == 0
    assert json.loads(good.stdout)["sound"] is True
    (restored / "airtrim.db").write_bytes(b"x" * 100)
    bad = airtrim("check-data", "--data", str(restored))
    assert (bad.returncode, "damaged" in bad.stderr) == (1, True)
    nothing = airtrim("restore", str(tmp_path / "none"), "--data", str(restored))
    assert (nothing.returncode, "There is no backup" in nothing.stderr) == (1, True)
