"""Requests made at random from the API's own description, with ids that are there, and sequences of
valid edits: no 5xx, nothing that takes long, no memory that stays."""

import gc
import random
import shutil
import tempfile
import time
from collections import Counter
from pathlib import Path
from typing import Any
from urllib.parse import quote

import httpx
import psutil
import schemathesis
from hypothesis import HealthCheck, Phase, Verbosity, given, seed, settings
from schemathesis.core import NotSet
from tests.core.test_editing import random_edit
from tests.serving import Server

from airtrim.demo import fill
from airtrim.store.store import Store
from bench.measuring import Row

DEMO = Path(__file__).parents[2] / "demo"
_MOST_S = 2.0
_MOST_MB = 20.0
_ONE_AT_A_TIME = 40


class _Fuzzing:
    def __init__(self, server: Server) -> None:
        self.server = server
        self.client = server.client
        self.rng = random.Random(3)
        self.statuses: Counter[int] = Counter()
        self.wrong: list[str] = []
        self.slowest = (0.0, "")
        self.asked = 0

    def ids(self) -> dict[str, list[str]]:
        """Of what is there now."""
        # What was deleted is brought back, so that there is something to ask about.
        self.client.patch("/api/shows/1", json={"deleted": False})
        self.client.patch("/api/episodes/1", json={"deleted": False})
        view = self.client.get("/api/episodes/1").json()
        jobs = self.client.get("/api/jobs").json()
        recordings = self.client.get("/api/episodes/1/recordings").json()
        guests = self.client.get("/api/episodes/1/guests").json()
        copies = self.client.get("/api/episodes/1/copy-links").json()
        sounds = self.client.get("/api/shows/1/sounds").json()
        handed = self.client.get("/api/episodes/1/hand-overs").json()
        return {
            "episode_id": ["1", "2"],
            "show_id": ["1"],
            "take_id": [take["id"] for take in view["takes"]] or ["none"],
            "job_id": [job["id"] for job in jobs[-20:]] or ["none"],
            "recording_id": [one["id"] for one in recordings[-20:]] or ["none"],
            "token": [one["token"] for one in (*guests, *copies)] or ["none"],
            "sound_id": [one["id"] for one in sounds[-20:]] or ["none"],
            "setup_id": ["1"],
            "destination_id": ["1"],
            "hand_over_id": [one["id"] for one in handed[-20:]] or ["none"],
            "sha256": [view["artwork"] or "none"],
            "chain_id": ["1"],
            "revision": [str(view["revision"])],
        }

    def send(self, method: str, path: str, **more: Any) -> httpx.Response | None:
        """One request; what is wrong with its answer is noted."""
        self.asked += 1
        began = time.perf_counter()
        try:
            answer = self.client.request(method, path, timeout=60, **more)
        except httpx.InvalidURL:
            return None
        except httpx.TransportError as error:
            self.wrong.append(f"{method} {path[:80]}: {error!r}")
            return None
        took = time.perf_counter() - began
        if took > self.slowest[0]:
            self.slowest = took, f"{method} {path[:80]}"
        self.statuses[answer.status_code] += 1
        if answer.status_code >= 500:
            self.wrong.append(f"{method} {path[:120]}: {answer.status_code} {answer.text[:200]}")
        return answer

    def operation(self, operation: Any, count: int) -> None:
        """Some requests of one operation; half of them about things that are there."""
        ids = self.ids()

        @seed(self.rng.randint(0, 2**32))
        @settings(
            max_examples=count,
            deadline=None,
            database=None,
            phases=[Phase.generate],
            verbosity=Verbosity.quiet,
            suppress_health_check=list(HealthCheck),
        )
        @given(case=operation.as_strategy())
        def run(case: Any) -> None:
            real = self.rng.random() < 0.7
            path = operation.path
            for name, value in (case.path_parameters or {}).items():
                chosen = self.rng.choice(ids[name]) if real and name in ids else str(value)
                path = path.replace(f"{{{name}}}", quote(chosen, safe=""))
            query = dict(case.query or {})
            body = case.body
            if real and "revision" in query:
                query["revision"] = ids["revision"][0]
            if real and isinstance(body, dict) and "revision" in body:
                body = {**body, "revision": int(ids["revision"][0])}
            more: dict[str, Any] = {"params": query}
            if not isinstance(body, NotSet):
                if isinstance(body, (bytes, str)):
                    more["content"] = body
                else:
                    more["json"] = body
            elif operation.method.upper() in ("POST", "PUT") and self.rng.random() < 0.5:
                more["content"] = self.rng.randbytes(self.rng.choice([0, 3, 4800, 96_000]))
            try:
                self.send(operation.method.upper(), path, **more)
            except (UnicodeError, ValueError, TypeError):
                return  # httpx cannot send it

        run()

    def edits(self, count: int) -> None:
        """Edits as the property test over documents makes them, on an episode with sound."""
        self.ids()
        store = Store(self.server.data)
        try:
            for _ in range(count):
                view = self.client.get("/api/episodes/1").json()
                timeline = store.timeline(1, view["revision"])
                if not timeline.tracks:  # they were removed by a request before
                    undo = {"revision": view["revision"]}
                    self.send("POST", "/api/episodes/1/undo", json=undo)
                    continue
                edit = random_edit(timeline, self.rng).model_dump(mode="json")
                body = {"revision": view["revision"], "edit": edit, "snap": False}
                self.send("POST", "/api/episodes/1/edits", json=body)
                if self.rng.random() < 0.3:
                    way = self.rng.choice(["undo", "redo"])
                    now = self.client.get("/api/episodes/1").json()["revision"]
                    self.send("POST", f"/api/episodes/1/{way}", json={"revision": now})
            opened = self.send("GET", "/api/episodes/1")
            if opened is None or opened.status_code != 200:
                self.wrong.append("the episode does not open any more")
        finally:
            store.close()


def fuzz(count: int) -> list[Row]:
    """``count`` requests."""
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        fill(data, DEMO)
        server = Server(data, AIRTRIM_LOG_LEVEL="error")
        server.client.post("/api/shows/1/episodes", json={"title": "Another"})
        server.client.post("/api/episodes/1/guests", json={"name": "Marit"})
        fuzzing = _Fuzzing(server)
        schema = schemathesis.openapi.from_dict(server.client.get("/api/openapi.json").json())
        operations = [
            one
            for one in (found.ok() for found in schema.get_all_operations())
            # The stream never ends, and emptying the bin takes away what is asked about.
            if one.path not in ("/api/events", "/api/keeping/empty")
        ]
        process = psutil.Process(server.process.pid)
        # Every operation some times, so that what is kept for later use is there.
        for operation in operations:
            fuzzing.operation(operation, 12)
        fuzzing.edits(600)
        _cancel(server)
        memory = _memory(process)
        share = max(1, count * 3 // 4 // len(operations))
        while fuzzing.asked < count:
            for operation in operations:
                for _ in range(0, share, _ONE_AT_A_TIME):
                    fuzzing.operation(operation, min(_ONE_AT_A_TIME, share))
                _cancel(server)
            fuzzing.edits(min(count // 4, 2000))
            share = max(1, share // 4)
        _cancel(server)
        time.sleep(3)
        fuzzing.edits(20)
        grown = _memory(process) - memory
        server.stop()
        shutil.rmtree(data, ignore_errors=True)
    gc.collect()
    statuses = ", ".join(f"{n} × {status}" for status, n in sorted(fuzzing.statuses.items()))
    for one in fuzzing.wrong[:20]:
        print(one)
    return [
        Row(
            f"{fuzzing.asked} requests at random: 5xx",
            statuses,
            "",
            str(len(fuzzing.wrong)),
            "0",
            not fuzzing.wrong,
        ),
        Row(
            "… slowest answer",
            fuzzing.slowest[1],
            "",
            f"{fuzzing.slowest[0]:.2f} s",
            f"{_MOST_S:.0f} s",
            fuzzing.slowest[0] <= _MOST_S,
        ),
        Row(
            "… memory that stayed",
            f"{memory:.0f} MB before",
            "",
            f"{grown:.0f} MB",
            f"{_MOST_MB:.0f} MB",
            grown <= _MOST_MB,
        ),
    ]


def _memory(process: psutil.Process) -> float:
    return float(process.memory_info().rss) / 1e6


def _cancel(server: Server) -> None:
    """End what the requests began, so that it is not what is measured."""
    for job in server.client.get("/api/jobs").json():
        if job["state"] in ("queued", "running"):
            server.client.post(f"/api/jobs/{job['id']}/cancel")
