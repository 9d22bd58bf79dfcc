"""Recording for a long time, and recording while everything breaks: ``make bench-recording``.

In real time, with the simulated microphones; their twenty seconds repeat and are known to the
sample.
Writes ``docs/recording.md``. ``python -m bench.recording long 60`` records an hour alone,
``python -m bench.recording broken 5`` five minutes with kills; neither writes anything.
"""

import itertools
import random
import shutil
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import psutil
from playwright.sync_api import CDPSession, Page, expect, sync_playwright
from tests.reference import RATE
from tests.serving import Server
from tests.web.conftest import CHROMIUM
from tests.web.recording import added, begin, elapsed, open_stage

from airtrim.core.media.take import TakeReader
from airtrim.standins.microphone import simulated
from bench.measuring import Row

KILLS = 10
OFFLINE_S = 20


@contextmanager
def stage(*devices: str) -> Iterator[tuple[Server, Page, int]]:
    """A server and a browser with the Record stage open and its microphones on."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder) / "data")
        found = shutil.which("chromium")
        browser = playwright.chromium.launch(executable_path=found, args=CHROMIUM)
        page = browser.new_page(base_url=server.address, viewport={"width": 1280, "height": 800})
        page.on("dialog", lambda dialog: dialog.accept())
        episode = open_stage(page, server, *devices)
        yield server, page, episode
        browser.close()
        server.stop()


def followed(take: TakeReader, voice: str, start: int, end: int) -> int:
    """The first frame from ``start`` that is not what was played, or ``end`` if all of it is."""
    once = simulated(voice)[:, 0]
    first = take.read(start, RATE)[:, 0]
    strong = int(np.argmax(np.abs(first)))
    for place in np.flatnonzero(np.abs(once - first[strong]) < 1e-9):
        offset = (int(place) - strong) % len(once)
        at = start
        while at < end:
            count = min(10 * RATE, end - at)
            wanted = np.take(once, np.arange(offset + at - start, offset + at - start + count),
                             mode="wrap")  # fmt: skip
            differs = np.flatnonzero(np.abs(take.read(at, count)[:, 0] - wanted) > 1e-9)
            if len(differs):
                at += int(differs[0])
                break
            at += count
        if at >= end or at - start > 10 * RATE:
            return at
    return start


def main_thread_s(session: CDPSession) -> float:
    """Seconds of processor that the page's main thread has taken."""
    metrics = session.send("Performance.getMetrics")["metrics"]
    return float(next(m["value"] for m in metrics if m["name"] == "ThreadTime"))


def memory_mb(server: Server) -> float:
    return psutil.Process(server.process.pid).memory_info().rss / 1e6


def long(minutes: float) -> list[Row]:
    """Two tracks for as long: every sample there, the page's thread free, memory flat."""
    with stage("Simulated microphone", "Simulated second voice") as (server, page, episode):
        session = page.context.new_cdp_session(page)
        session.send("Performance.enable")
        begin(page)
        page.wait_for_timeout(10_000)
        began, worked = time.monotonic(), main_thread_s(session)
        memory = [memory_mb(server)]
        while time.monotonic() - began < minutes * 60 - 10:
            page.wait_for_timeout(5000)
            memory.append(memory_mb(server))
        share = (main_thread_s(session) - worked) / (time.monotonic() - began)
        page.get_by_role("button", name="End and add it").click()
        expect(page.get_by_role("button", name="Record", exact=True)).to_be_visible(timeout=120_000)
        view = added(server, episode)
        frames = view["frames"]
        wrong = []
        for take, voice in zip(view["takes"], ("voice", "second"), strict=True):
            reader = TakeReader(server.data / "takes" / take["id"] / "sound")
            wrong.append(followed(reader, voice, 0, frames))
        exact = all(at >= frames for at in wrong) and not view["markers"]
        half = len(memory) // 2
        early, late = max(memory[1:half]), max(memory[half:])
        return [
            Row(f"{minutes:.0f} min, two tracks", f"{frames / RATE:.1f} s each", "what was played",
                "every sample" if exact else f"the same up to {min(wrong)} of {frames}, "
                f"{len(view['markers'])} gaps marked", "every sample", exact),
            Row("Main thread while recording", f"{100 * share:.1f} %", "", "", "< 5 %",
                share < 0.05),
            Row("Server memory, later half", f"{late:.0f} MB", f"{early:.0f} MB in the first",
                f"{late - early:+.0f} MB", "flat (< 15 MB more)", late - early < 15),
        ]  # fmt: skip


def broken(minutes: float) -> list[Row]:
    """Ten kills of the server at random, 20 s without network, and the tab reloaded."""
    chance = random.Random(11)
    with stage("Simulated microphone") as (server, page, episode):
        begin(page)
        began = time.monotonic()
        total = minutes * 60
        kills = sorted(chance.uniform(5, total * 0.9) for _ in range(KILLS))
        offline, reload = total * 0.4, total * 0.7
        lost_s = 0.0
        happened = 0
        while time.monotonic() - began < total:
            now = time.monotonic() - began
            if kills and now > kills[0]:
                kills.pop(0)
                happened += 1
                server.kill()
                time.sleep(chance.uniform(0, 2))
                server.start()
            if offline and now > offline:
                offline = 0.0
                page.context.set_offline(True)
                page.wait_for_timeout(OFFLINE_S * 1000)
                page.context.set_offline(False)
            if reload and now > reload:
                reload = 0.0
                before = elapsed(page)
                page.reload()
                page.get_by_role("button", name="Go on recording").click(timeout=60_000)
                expect(page.get_by_text("Recording", exact=True).first).to_be_visible()
                (left,) = server.client.get(f"/api/episodes/{episode}/recordings").json()
                gap = [f["at"] for f in left["flags"] if f["kind"] == "gap"]
                lost_s += max(0.0, before - (gap or [0])[-1] / RATE)
            page.wait_for_timeout(200)
        page.get_by_role("button", name="End and add it").click()
        expect(page.get_by_role("button", name="Record", exact=True)).to_be_visible(timeout=120_000)
        view = added(server, episode)
        (take,) = view["takes"]
        reader = TakeReader(server.data / "takes" / take["id"] / "sound")
        edges = [0, *(m["at"] for m in view["markers"]), view["frames"]]
        whole = all(followed(reader, "voice", a, b) >= b for a, b in itertools.pairwise(edges))
        marked = len(view["markers"])
        return [
            Row(f"{minutes:.0f} min, {happened} kills, 20 s offline, a reload",
                f"{lost_s:.2f} s lost, {marked} gap marked", "what was played",
                "the rest every sample" if whole else "differs", "≤ 1 s lost, none silently",
                whole and lost_s <= 1.0 and marked >= 1),
        ]  # fmt: skip


def main() -> None:
    parts = {"long": long, "broken": broken}
    named = sys.argv[1:]
    rows = parts[named[0]](float(named[1])) if named else [*broken(5), *long(60)]
    lines = ["| what | ours | beside | found | wanted | holds |", "|---|---|---|---|---|---|"]
    for row in rows:
        cells = (row.what, row.ours, row.reference, row.found, row.wanted)
        lines.append(f"| {' | '.join(cells)} | {'yes' if row.holds else 'NO'} |")
    table = "\n".join(lines)
    print(table)
    if not named:
        head = "# Recording, measured\n\nWritten by `make bench-recording`, in real time.\n\n"
        Path("docs/recording.md").write_text(head + table + "\n")


if __name__ == "__main__":
    main()
