"""Twenty people at once while recordings are written down, and twenty tabs that only listen."""

import random
import tempfile
import threading
import time
from pathlib import Path

import httpx
import numpy as np
import psutil
from tests.core.test_editing import random_edit
from tests.serving import Server

from airtrim.demo import fill
from airtrim.store.store import Store
from bench.measuring import Row, write_talk

DEMO = Path(__file__).parents[2] / "demo"
CLIENTS = 20
TABS = 20


def clients(seconds: int) -> list[Row]:
    """``CLIENTS`` at work for ``seconds``; then tabs that only listen."""
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        fill(data, DEMO)
        server = Server(data, AIRTRIM_LOG_LEVEL="error")
        episodes = _episodes(server, Path(folder))
        took: dict[str, list[float]] = {"edit": [], "page": []}
        wrong: list[str] = []
        until = time.monotonic() + seconds
        busy = threading.Event()
        people = [
            threading.Thread(
                target=_work, args=(server, episodes[n % len(episodes)], n, until, took, wrong)
            )
            for n in range(CLIENTS)
        ]
        watching = threading.Thread(target=_watch_work, args=(server, until, busy))
        for thread in (*people, watching):
            thread.start()
        for thread in (*people, watching):
            thread.join()
        _cancel(server)
        idle = _idle(server)
        server.stop()
    p99 = {what: float(np.percentile(times, 99)) * 1000 for what, times in took.items()}
    middle = {what: float(np.median(times)) * 1000 for what, times in took.items()}
    for one in wrong[:10]:
        print(one)
    asked = sum(len(times) for times in took.values())
    written = "while words are written down" if busy.is_set() else "with nothing being written down"
    return [
        Row(
            f"{CLIENTS} clients for {seconds} s, {written}: errors",
            f"{asked} answers",
            "",
            str(len(wrong)),
            "0",
            not wrong and busy.is_set(),
        ),
        Row(
            "… an edit, 99th percentile",
            f"{middle['edit']:.0f} ms in the middle",
            "",
            f"{p99['edit']:.0f} ms",
            "500 ms",
            p99["edit"] <= 500,
        ),
        Row(
            "… a page, 99th percentile",
            f"{middle['page']:.0f} ms in the middle",
            "",
            f"{p99['page']:.0f} ms",
            "100 ms",
            p99["page"] <= 100,
        ),
        Row(
            f"{TABS} idle tabs: processor",
            "",
            "",
            f"{idle:.1f} % of a core",
            "5 %",
            idle <= 5.0,
        ),
    ]


def _episodes(server: Server, folder: Path) -> list[int]:
    """The demo's, and three with a recording that is being written down meanwhile."""
    path = write_talk(folder / "talk.wav", 900)
    found = [1]
    for title in ("Second", "Third", "Fourth"):
        made = server.client.post("/api/shows/1/episodes", json={"title": title})
        found.append(made.json()["id"])
    # All are sent before any is written down, which keeps both workers busy for minutes.
    for job in [server.upload(episode, path.read_bytes()) for episode in found[1:]]:
        server.wait(job, seconds=600)
    return found


def _work(
    server: Server,
    episode: int,
    number: int,
    until: float,
    took: dict[str, list[float]],
    wrong: list[str],
) -> None:
    """Look at the page, edit now and then, as a person does: some twice a second."""
    rng = random.Random(number)
    store = Store(server.data)
    with httpx.Client(base_url=server.address, timeout=60) as client:
        while time.monotonic() < until:
            view = client.get(f"/api/episodes/{episode}").json()
            revision, frames = view["revision"], max(1, view["frames"])
            for _ in range(3):
                place = {
                    "revision": revision,
                    "start": rng.randrange(frames),
                    "frames": 60 * 48_000,
                }
                began = time.perf_counter()
                answer = client.get(f"/api/episodes/{episode}/page", params=place)
                took["page"].append(time.perf_counter() - began)
                if answer.status_code != 200:
                    wrong.append(f"page: {answer.status_code} {answer.text[:100]}")
                time.sleep(rng.uniform(0.1, 0.4))
            edit = random_edit(store.timeline(episode, revision), rng).model_dump(mode="json")
            shown = [{"start": 0, "frames": 60 * 48_000, "columns": 1200}]
            body = {"revision": revision, "edit": edit, "shown": shown}
            began = time.perf_counter()
            answer = client.post(f"/api/episodes/{episode}/edits", json=body)
            took["edit"].append(time.perf_counter() - began)
            # Somebody else may have edited meanwhile, and an edit at random may not fit.
            if answer.status_code not in (200, 409, 422):
                wrong.append(f"edit: {answer.status_code} {answer.text[:100]}")
            time.sleep(rng.uniform(0.2, 0.8))
    store.close()


def _watch_work(server: Server, until: float, busy: threading.Event) -> None:
    """Whether words were being written down all the time."""
    seen = 0
    looks = 0
    with httpx.Client(base_url=server.address, timeout=60) as client:
        while time.monotonic() < until:
            jobs = client.get("/api/jobs").json()
            seen += any(j["kind"] == "transcribe" and j["state"] == "running" for j in jobs)
            looks += 1
            time.sleep(1)
    if seen >= looks * 0.8:
        busy.set()


def _cancel(server: Server) -> None:
    for job in server.client.get("/api/jobs").json():
        if job["state"] in ("queued", "running"):
            server.client.post(f"/api/jobs/{job['id']}/cancel")
    time.sleep(5)


def _idle(server: Server) -> float:
    """Percent of a core that the server takes with tabs that only listen."""
    stop = threading.Event()

    def listen() -> None:
        with httpx.stream("GET", f"{server.address}/api/events", timeout=60) as events:
            for _ in events.iter_lines():
                if stop.is_set():
                    return

    tabs = [threading.Thread(target=listen, daemon=True) for _ in range(TABS)]
    for tab in tabs:
        tab.start()
    time.sleep(3)
    process = psutil.Process(server.process.pid)
    before = process.cpu_times()
    time.sleep(20)
    after = process.cpu_times()
    stop.set()
    used = after.user + after.system - before.user - before.system
    return float(used / 20 * 100)
