"""A real server in a process of its own, on a free port, that can be killed and started again."""

import multiprocessing
import os
import signal
import socket
import subprocess
import sys
import time
from base64 import b64encode
from collections.abc import Iterable
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path

import httpx
import psutil

from tests.waiting import MOST_SECONDS, eventually

RATE = 48_000


def free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


def is_free(port: int) -> bool:
    with socket.socket() as tried:
        return tried.connect_ex(("127.0.0.1", port)) != 0


EACH_ANEW = httpx.Limits(max_keepalive_connections=0)
"""A connection that was idle may be closed by the server just as it is used again."""


class Server:
    """``airtrim serve`` on a folder of data."""

    def __init__(self, data: Path, port: int | None = None, **environment: str) -> None:
        """At ``port`` where that is told and nobody else listens there."""
        self.data = data
        self.port = port if port is not None and is_free(port) else free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.killed = False
        self._environment = {
            **os.environ,
            "AIRTRIM_KEEP_FREE_BYTES": "0",
            "AIRTRIM_SIMULATED_MICROPHONES": "1",
            **environment,
        }
        self.start()

    def _launch(self) -> "subprocess.Popen[bytes] | Fork":
        command = [
            *(str(Path(sys.executable).parent / "airtrim"), "serve"),
            *("--data", str(self.data), "--port", str(self.port)),
        ]
        return subprocess.Popen(
            command, env=self._environment, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL
        )

    def start(self) -> None:
        self.process = self._launch()
        self.client = httpx.Client(base_url=self.address, timeout=30, limits=EACH_ANEW)
        for _ in range(1800):
            try:
                self.client.get("/api/shows")
                return
            except httpx.TransportError:
                assert self.process.poll() is None, "the server did not start"
                time.sleep(0.1)
        raise AssertionError("the server did not answer")

    def kill(self) -> None:
        """As a power cut would; what it had begun follows it."""
        self.killed = True
        begun = psutil.Process(self.process.pid).children(recursive=True)
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()
        self.client.close()
        eventually(lambda: not any(lives(process) for process in begun))

    def stop(self) -> None:
        self.process.terminate()
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.process.kill()
        self.client.close()

    # --- what a host does ---

    def new_episode(self, title: str = "Episode") -> int:
        show = self.client.post("/api/shows", json={"name": "Show"}).json()["id"]
        made = self.client.post(f"/api/shows/{show}/episodes", json={"title": title})
        return int(made.json()["id"])

    def episode(self, episode: int) -> dict:
        return self.client.get(f"/api/episodes/{episode}").json()

    def upload(self, episode: int, data: bytes, name: str = "take.wav") -> str:
        return upload(self.client, episode, data, name)

    def wait_until_begun(self, job: str) -> None:
        """Wait until a job is in the middle of its work."""
        eventually(lambda: self.client.get(f"/api/jobs/{job}").json()["progress"] > 0.1)

    def wait(self, job: str, *states: str, seconds: float = MOST_SECONDS) -> dict:
        """Wait until a job is in one of ``states`` (any ended one if none is given)."""
        wanted = states or ("done", "failed", "cancelled", "interrupted")
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            found = self.client.get(f"/api/jobs/{job}").json()
            if found.get("state") in wanted:
                return found
            time.sleep(0.03)
        raise AssertionError(f"{found} did not become {wanted}")

    def wait_all(self, seconds: float = MOST_SECONDS) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            jobs = self.client.get("/api/jobs").json()
            if all(job["state"] not in ("queued", "running") for job in jobs):
                return
            time.sleep(0.1)
        raise AssertionError("jobs hang")


class ForkedServer(Server):
    """The same, server and first worker forked from a process that has all of it imported: that
    saves most of the four seconds of work that a start is."""

    def _launch(self) -> "Fork":
        return Fork(forks.Process(target=_serve, args=(self.data, self.port, self._environment)))


forks = multiprocessing.get_context("forkserver")
forks.set_forkserver_preload(
    [
        "airtrim.cli",
        "airtrim.api.app",
        "airtrim.jobs.queue",
        "uvicorn",
        "tests.serving",
        "tests.warmed",
    ]
)


class Fork:
    """A forked process, with the part of ``Popen`` that is used of it."""

    def __init__(self, process: BaseProcess) -> None:
        self._process = process
        process.start()
        assert process.pid
        self.pid = process.pid
        self.terminate, self.kill = process.terminate, process.kill

    def poll(self) -> int | None:
        return self._process.exitcode

    def wait(self, seconds: float | None = None) -> None:
        self._process.join(seconds)
        if self._process.is_alive():
            raise subprocess.TimeoutExpired("a fork", seconds or 0)

    def send_signal(self, number: int) -> None:
        os.kill(self.pid, number)


def lives(process: psutil.Process) -> bool:
    """Whether a process still runs; one that only waits to be asked how it ended does not."""
    try:
        return process.status() != psutil.STATUS_ZOMBIE
    except psutil.NoSuchProcess:
        return False


def log_of(data: Path) -> Path:
    """Where a server on a folder of data tells what goes wrong."""
    return data.with_name(f"{data.name}.log")


def _serve(data: Path, port: int, environment: dict[str, str]) -> None:
    from airtrim.cli.serving import serve
    from airtrim.jobs.queue import Watch
    from tests.lateness import answer_late

    os.environ.update(environment, AIRTRIM_DATA_DIR=str(data))
    with log_of(data).open("ab") as log:
        os.dup2(log.fileno(), 1)
        os.dup2(log.fileno(), 2)
    # The worker is forked while there are no threads yet, and waits until it is wanted.
    begun, begin = multiprocessing.Pipe(duplex=False)
    first = [Fork(multiprocessing.get_context("fork").Process(target=_work, args=(begun,)))]
    launch = Watch._launch

    def launched(watch: Watch) -> "subprocess.Popen[bytes] | Fork":
        if not first:
            return launch(watch)
        begin.send(os.getpid())
        return first.pop()

    Watch._launch = launched  # type: ignore[assignment,method-assign]
    if "LATE" in environment:
        answer_late(int(environment["LATE"]))
    serve(port=port, data=data, host=None)


def _work(begun: Connection) -> None:
    from airtrim.jobs.queue import work_forever
    from airtrim.settings import Settings

    work_forever(Settings(), begun.recv())


class AppAlone:
    """The application without its worker in a process, quickly started and ended."""

    def __init__(self, data: Path) -> None:
        self.data, self.port = data, free_port()
        self.client = httpx.Client(base_url=f"http://127.0.0.1:{self.port}", timeout=20)
        self.start()

    def start(self) -> None:
        self.process = forks.Process(target=_serve_app, args=(self.data, self.port))
        self.process.start()
        while is_free(self.port):
            assert self.process.is_alive()
            time.sleep(0.005)

    def end(self, number: int) -> None:
        os.kill(self.process.pid or 0, number)
        self.process.join()


def _serve_app(data: Path, port: int) -> None:
    import uvicorn

    from airtrim.api.app import create_app
    from airtrim.settings import Settings

    with open(os.devnull, "w") as nowhere:
        os.dup2(nowhere.fileno(), 2)
    app = create_app(Settings(data_dir=data, keep_free_bytes=0), worker=False)
    uvicorn.run(app, host="127.0.0.1", port=port, log_level="critical", lifespan="off")


def create_upload(
    client: httpx.Client, episode: int, size: int, name: str, **more: str
) -> httpx.Response:
    """The first request of a tus upload; ``more`` of what it says of itself."""
    fields = {"filename": name, "filetype": "audio/wav", "episode": str(episode), **more}
    metadata = ",".join(f"{k} {b64encode(v.encode()).decode()}" for k, v in fields.items())
    headers = {
        "Tus-Resumable": "1.0.0",
        "Upload-Length": str(size),
        "Upload-Metadata": metadata,
    }
    return client.post("/api/uploads/", headers=headers)


def send_part(
    client: httpx.Client,
    address: str,
    data: bytes | Iterable[bytes],
    offset: int,
    checksum: bytes | None = None,
) -> httpx.Response:
    """A later request of a tus upload."""
    headers = {
        "Tus-Resumable": "1.0.0",
        "Upload-Offset": str(offset),
        "Content-Type": "application/offset+octet-stream",
    }
    if checksum is not None:
        headers["Upload-Checksum"] = f"sha256 {b64encode(checksum).decode()}"
    return client.patch(address, headers=headers, content=data)


def upload(
    client: httpx.Client, episode: int, data: bytes, name: str = "take.wav", **more: str
) -> str:
    """A whole tus upload; returns the id of its job."""
    made = create_upload(client, episode, len(data), name, **more)
    assert made.status_code == 201, made.text
    address = made.headers["location"]
    sent = send_part(client, address, data, 0)
    assert sent.status_code == 204, sent.text
    return address.rsplit("/", 1)[-1]
