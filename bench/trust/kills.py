"""The server is killed inside requests, again and again; what it acknowledged is there afterwards,
and what it keeps is what was sent."""

import hashlib
import json
import random
import tempfile
import threading
import time
from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import numpy as np
import psutil
import soundfile
from tests.serving import ForkedServer, create_upload, send_part

from airtrim.core.media.take import TakeReader
from airtrim.store.checking import check_data
from airtrim.store.store import Store
from bench.measuring import RATE, Row, talk

PIECE = RATE // 2
_MOST_RECORDINGS = 15
_NOTHING_ENDS_S = 120


@dataclass
class Told:
    """What the server acknowledged, and what was found wrong with it."""

    edits: int = 0
    parts: int = 0
    imports: int = 0
    pieces: int = 0
    recordings: int = 0
    exports: int = 0
    wrong: list[str] = field(default_factory=list)


class _Client(threading.Thread, ABC):
    """Somebody who works without a pause, and goes on after every kill where they were."""

    def __init__(self, server: ForkedServer, told: Told, seed: int) -> None:
        super().__init__(daemon=True)
        self.server, self.told = server, told
        self.rng = random.Random(seed)
        self.up, self.over = threading.Event(), threading.Event()
        self.client = httpx.Client(base_url=server.address, timeout=20)

    def run(self) -> None:
        while not self.over.is_set():
            self.up.wait()
            try:
                self.step()
            except (httpx.TransportError, httpx.RemoteProtocolError):
                time.sleep(0.02)
            except Exception as error:
                self.told.wrong.append(f"{type(self).__name__}: {error!r}")
                time.sleep(0.2)

    @abstractmethod
    def step(self) -> None:
        """One thing that a host does, and whether what was acknowledged before is there."""

    def ask(self, method: str, path: str, **more: object) -> httpx.Response:
        """A request; a server error is a fault."""
        answer = self.client.request(method, path, **more)  # type: ignore[arg-type]
        if answer.status_code >= 500:
            self.told.wrong.append(f"{method} {path.split('?')[0]}: {answer.status_code}")
        return answer


class Editor(_Client):
    """Makes markers, each with a number, and looks whether all that was acknowledged is there."""

    def __init__(self, server: ForkedServer, told: Told, seed: int, episode: int) -> None:
        super().__init__(server, told, seed)
        self.episode, self.number, self.acknowledged = episode, 0, 0

    def step(self) -> None:
        view = self.ask("GET", f"/api/episodes/{self.episode}").json()
        found = {marker["name"] for marker in view["markers"]}
        if self.acknowledged and str(self.acknowledged) not in found:
            self.told.wrong.append(f"edit {self.acknowledged} was acknowledged and is not there")
        self.number += 1
        at = self.rng.randint(0, view["frames"])
        edit = {"kind": "add_marker", "at": at, "name": str(self.number)}
        body = {"revision": view["revision"], "edit": edit}
        answer = self.ask("POST", f"/api/episodes/{self.episode}/edits", json=body)
        if answer.status_code == 200:
            self.acknowledged = self.number
            self.told.edits += 1
            if self.number % 40 == 0:  # so that the document stays small
                old = [m for m in answer.json()["markers"] if m["name"] != str(self.number)]
                for marker in old:
                    view = self.ask("GET", f"/api/episodes/{self.episode}").json()
                    gone = {"kind": "remove_marker", "marker": marker["id"]}
                    body = {"revision": view["revision"], "edit": gone}
                    self.ask("POST", f"/api/episodes/{self.episode}/edits", json=body)


class Uploader(_Client):
    """Sends files in parts, and holds the takes made of them against what was sent."""

    def __init__(self, server: ForkedServer, told: Told, seed: int, episode: int) -> None:
        super().__init__(server, told, seed)
        self.episode = episode
        self.address: str | None = None
        self.offset = 0

    def step(self) -> None:
        if self.address is None:
            self._begin()
            return
        head = self.ask("HEAD", self.address, headers={"Tus-Resumable": "1.0.0"})
        if head.status_code == 404:  # it was brought in, and the answer was lost
            self._wait()
            return
        offset = int(head.headers["upload-offset"])
        if offset < self.offset:
            self.told.wrong.append(f"an upload went back from {self.offset} to {offset}")
        if offset == len(self.data):
            self._wait()
            return
        part = self.data[offset : offset + self.rng.choice([20_000, 300_000, 2_000_000])]
        checksum = hashlib.sha256(part).digest() if self.rng.random() < 0.7 else None
        sent = send_part(self.client, self.address, part, offset, checksum)
        if sent.status_code == 204:
            self.offset = int(sent.headers["upload-offset"])
            self.told.parts += 1

    def _begin(self) -> None:
        count = self.rng.randint(RATE, 60 * RATE)
        noise = np.random.default_rng(self.rng.randint(0, 2**32)).integers(-9000, 9000, count)
        self.sound = noise.astype(np.int16)
        with tempfile.NamedTemporaryFile(suffix=".wav") as file:
            soundfile.write(file.name, self.sound, RATE, subtype="PCM_16")
            self.data = Path(file.name).read_bytes()
        made = create_upload(self.client, self.episode, len(self.data), "a.wav")
        if made.status_code == 201:
            self.address, self.offset = made.headers["location"], 0

    def _wait(self) -> None:
        assert self.address
        job_id = self.address.rsplit("/", 1)[-1]
        job = self.ask("GET", f"/api/jobs/{job_id}")
        if job.status_code != 200:
            time.sleep(0.05)
            return
        state = job.json()["state"]
        if state in ("queued", "running"):
            time.sleep(0.05)
            return
        if state == "interrupted":  # killed three times at it: the host runs it again
            self.ask("POST", f"/api/jobs/{job_id}/again")
            return
        if state != "done":
            self.told.wrong.append(f"an import ended as {state}: {job.json()['error']}")
        else:
            kept = TakeReader(self.server.data / "takes" / job_id / "sound")
            found = np.round(kept.read(0, kept.frames)[:, 0] * 32768).astype(np.int16)
            kept.close()
            if not np.array_equal(found, self.sound):
                self.told.wrong.append(f"take {job_id} is not what was sent")
            self.told.imports += 1
        self.address = None


class Recorder(_Client):
    """Sends pieces of a recording, adds it, and holds the take against what was sent."""

    def __init__(self, server: ForkedServer, told: Told, seed: int, episode: int) -> None:
        super().__init__(server, told, seed)
        self.episode = episode
        self.recording: str | None = None
        self.job: str | None = None
        self.kept = self.made = 0

    def step(self) -> None:
        if self.recording is None:
            if self.made == _MOST_RECORDINGS:  # an episode holds 24 tracks
                shelf = self.ask("POST", "/api/shows/1/episodes", json={"title": "Next"})
                if shelf.status_code == 201:
                    self.episode, self.made = shelf.json()["id"], 0
            name = f"Recorder {self.rng.randint(0, 10**9)}"
            landing = {"at": 0, "alongside": True}
            body = {"tracks": [name], "landing": landing}
            made = self.ask("POST", f"/api/episodes/{self.episode}/recordings", json=body)
            if made.status_code == 201:
                self.recording, self.kept, self.job = made.json()["id"], 0, None
                self.made += 1
                length = self.rng.randint(2, 40) * PIECE
                self.sound = np.random.default_rng(self.kept).normal(0, 0.1, length)
                self.sound = self.sound.astype("<f4")
            return
        if self.job:
            self._wait()
            return
        there = self.ask("GET", f"/api/recordings/{self.recording}").json()
        if there["state"] == "open" and there["pieces"] < self.kept:
            self.told.wrong.append(f"{self.kept} pieces were safe, {there['pieces']} are there")
        if there["state"] != "open":  # it is being added, and the answer was lost
            jobs = self.ask("GET", f"/api/jobs?episode_id={self.episode}").json()
            own = [j for j in jobs if j["params"].get("recording") == self.recording]
            self.job = own[-1]["id"] if own else None
            return
        number = there["pieces"]
        if number * PIECE >= len(self.sound):
            whole = {"pieces": number}
            added = self.ask("POST", f"/api/recordings/{self.recording}/add", json=whole)
            if added.status_code == 202:
                self.job = added.json()["id"]
            return
        piece = self.sound[number * PIECE : (number + 1) * PIECE]
        sent = self.ask(
            "PUT",
            f"/api/recordings/{self.recording}/pieces/{number}?start={number * PIECE}",
            content=piece.tobytes(),
        )
        if sent.status_code == 200:
            self.kept = sent.json()["pieces"]
            self.told.pieces += 1

    def _wait(self) -> None:
        job = self.ask("GET", f"/api/jobs/{self.job}").json()
        if job["state"] in ("queued", "running"):
            time.sleep(0.05)
            return
        if job["state"] == "interrupted":
            self.ask("POST", f"/api/jobs/{self.job}/again")
            return
        if job["state"] != "done":
            self.told.wrong.append(f"adding ended as {job['state']}: {job['error']}")
        else:
            kept = TakeReader(self.server.data / "takes" / f"{self.recording}-0" / "sound")
            found = kept.read(0, kept.frames)[:, 0]
            kept.close()
            if not np.array_equal(found, self.sound):
                self.told.wrong.append(f"recording {self.recording} is not what was sent")
            self.told.recordings += 1
        self.recording = None


class Exporter(_Client):
    """Exports an episode; the file is as long as it was told."""

    def __init__(self, server: ForkedServer, told: Told, seed: int, episode: int) -> None:
        super().__init__(server, told, seed)
        self.episode = episode
        self.job: str | None = None

    def step(self) -> None:
        if self.job is None:
            view = self.ask("GET", f"/api/episodes/{self.episode}").json()
            body = {"revision": view["revision"]}
            made = self.ask("POST", f"/api/episodes/{self.episode}/exports", json=body)
            self.job = made.json().get("id")
            return
        job = self.ask("GET", f"/api/jobs/{self.job}").json()
        if job["state"] in ("queued", "running"):
            time.sleep(0.1)
            return
        if job["state"] == "interrupted":
            self.ask("POST", f"/api/jobs/{self.job}/again")
            return
        if job["state"] != "done":
            self.told.wrong.append(f"an export ended as {job['state']}: {job['error']}")
        else:
            file = self.ask("GET", f"/api/exports/{self.job}/file")
            if len(file.content) != job["result"]["bytes"]:
                self.told.wrong.append(f"export {self.job} is not as long as it was told")
            self.told.exports += 1
        self.job = None


def kills(count: int, say: Callable[[str], None] = print) -> list[Row]:
    """Kill it ``count`` times within requests."""
    rng = random.Random(7)
    told = Told()
    with tempfile.TemporaryDirectory() as folder:
        server = ForkedServer(Path(folder) / "data")
        episodes = [server.new_episode(f"Episode {n}") for n in range(4)]
        with tempfile.NamedTemporaryFile(suffix=".wav") as file:
            soundfile.write(file.name, talk(20), RATE, subtype="PCM_16")
            data = Path(file.name).read_bytes()
        for episode in (episodes[0], episodes[3]):
            server.wait(server.upload(episode, data))
        clients: list[_Client] = [
            Editor(server, told, 1, episodes[0]),
            Uploader(server, told, 2, episodes[1]),
            Recorder(server, told, 3, episodes[2]),
            Exporter(server, told, 4, episodes[3]),
        ]
        for client in clients:
            client.start()
        for number in range(count):
            for client in clients:
                client.up.set()
            # Now and then long enough for an export to end.
            time.sleep(rng.uniform(0.05, 0.9) if rng.random() < 0.92 else 5.0)
            _kill(server)
            for client in clients:
                client.up.clear()
            server.start()
            if (number + 1) % 50 == 0:
                say(f"{number + 1} kills: {told}")
        for client in clients:
            client.up.set()
        time.sleep(5)
        for client in clients:
            client.over.set()
        for client in clients:
            client.join(30)
        # Anew: a connection that nobody used for seconds may be closed just now.
        with httpx.Client(base_url=server.address, timeout=60) as host:
            for job in host.get("/api/jobs").json():
                if job["state"] == "interrupted":
                    host.post(f"/api/jobs/{job['id']}/again")
        _settle(server)
        left = [
            job
            for job in server.client.get("/api/jobs").json()
            if job["state"] not in ("done", "cancelled", "failed")
        ]
        opened = [server.client.get(f"/api/episodes/{e}").status_code for e in episodes]
        server.stop()
        store = Store(server.data)
        found = check_data(store)
        store.close()
    for finding in found.findings:
        told.wrong.append(finding.what)
    say(json.dumps(told.wrong[:20], ensure_ascii=False))
    wrong = told.wrong
    kept = (
        f"{told.edits} edits, {told.parts} parts of uploads, {told.imports} imports, "
        f"{told.pieces} pieces, {told.recordings} recordings, {told.exports} exports"
    )
    return [
        Row(
            f"{count} kills inside requests: lost, or a wrong sample",
            kept,
            "",
            str(len(wrong)),
            "0",
            not wrong,
        ),
        Row("… jobs left over", _states(left), "", str(len(left)), "0", not left),
        Row(
            "… episodes that open",
            "",
            "",
            f"{opened.count(200)} of {len(opened)}",
            "all",
            opened.count(200) == len(opened),
        ),
        Row(
            "… `check-data` afterwards",
            f"{found.takes} recordings, {found.edits} changes",
            "",
            "all is well" if found.sound else f"{len(found.findings)} findings",
            "all is well",
            found.sound,
        ),
    ]


def _states(jobs: list[dict]) -> str:
    counts = Counter(f"{job['kind']} {job['state']}" for job in jobs)
    return ", ".join(f"{number} × {which}" for which, number in counts.items())


def _kill(server: ForkedServer) -> None:
    """As a power cut would, the worker with it."""
    children = psutil.Process(server.process.pid).children(recursive=True)
    server.process.send_signal(9)
    server.process.wait()
    server.client.close()
    for child in children:
        try:
            child.kill()
        except psutil.NoSuchProcess:
            continue
    psutil.wait_procs(children, timeout=10)


def _settle(server: ForkedServer) -> None:
    """Wait for what is under way, as long as it goes on: words of many recordings are waiting."""
    left, since = -1, time.monotonic()
    while left and time.monotonic() - since < _NOTHING_ENDS_S:
        with httpx.Client(base_url=server.address, timeout=60) as host:
            jobs = host.get("/api/jobs").json()
        now = sum(job["state"] in ("queued", "running") for job in jobs)
        if now != left:
            left, since = now, time.monotonic()
        time.sleep(0.5)
