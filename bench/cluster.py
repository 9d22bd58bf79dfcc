"""Heavy work over several workers: how much faster, at what cost, and though they are killed.

    python -m bench.cluster [MINUTES [KILLED_MINUTES [FILES]]]

A scheduler and workers run as processes of this machine, each worker on a core of its own, as other
machines would. The sound is a demo recording, said over and over: to recognise, align and clean a
stretch takes as long whatever is said in it. Prints tables for ``docs/scaling.md``.
"""

import io
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import psutil
import soundfile
from tests.machines import Machines, at_work, workers_of
from tests.serving import Server, upload

from airtrim.compute.cluster import THIS_VERSION, Cluster, Link
from airtrim.compute.here import Here
from airtrim.compute.order import Compute, in_order
from airtrim.core.media.packing import pack
from airtrim.core.media.reading import InMemory
from airtrim.core.sound import learnt
from airtrim.core.speech.models import packaged_model, weights_in
from airtrim.core.speech.recognise import transcribe
from airtrim.core.speech.voices import with_voices
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.words import Word
from airtrim.demo import fill
from airtrim.processes import cores
from airtrim.services.batch.episodes import EpisodeRecipe
from airtrim.services.batch.planning import Recipe, planned, sources_in
from airtrim.services.batch.running import run_batch
from airtrim.store.tables import UNFINISHED

RATE = 48_000
NEEDS = frozenset({THIS_VERSION, weights_in(packaged_model()).mark})
_KILL_EVERY_S = 20.0
_SHORT_S = 20
_BATCHED = 6


def spoken(minutes: float) -> InMemory:
    """A recording of so many minutes."""
    once, _ = soundfile.read("demo/sound/guest.flac", dtype="float32", always_2d=True)
    frames = round(minutes * 60 * RATE)
    return InMemory(np.tile(once[:, :1], (frames // len(once) + 1, 1))[:frames])


@dataclass(frozen=True)
class Done:
    """What an hour's work took, and what came of it."""

    heard_s: float
    voices_s: float
    cleaned_s: float
    words: tuple[Word, ...]
    sound: float

    @property
    def all_s(self) -> float:
        """Words and cleaned sound."""
        return self.heard_s + self.cleaned_s


def worked(take: InMemory, compute: Compute) -> Done:
    """Words, voices and cleaned sound of a take."""
    at = [time.perf_counter()]
    words = tuple(transcribe(take.read, take.frames, packaged_model(), compute=compute))
    at.append(time.perf_counter())
    words = with_voices(take, words, compute=compute)
    at.append(time.perf_counter())
    power = sum(
        float(np.square(block, dtype=np.float64).sum())
        for block in learnt.clean(take, compute=compute)
    )
    at.append(time.perf_counter())
    heard_s, voices_s, cleaned_s = np.diff(at)
    return Done(heard_s, voices_s, cleaned_s, words, power)


@contextmanager
def workers(count: int) -> Iterator[tuple[Cluster, list["subprocess.Popen[bytes]"]]]:
    """So many workers of one core each, warm."""
    machines = Machines()
    try:
        all_of_them = [machines.worker(n % cores()) for n in range(count)]
        link = Link(machines.address)
        workers_of(link, NEEDS, count)
        compute = Cluster(link, urgent=True)
        worked(spoken(1.5 * count), compute)
        yield compute, all_of_them
    finally:
        machines.close()


def faster(minutes: float) -> None:
    """One worker, two workers, and two processes without a cluster."""
    take = spoken(minutes)
    found: dict[str, Done] = {}
    for name, count in (("one worker", 1), ("two workers", 2)):
        with workers(count) as (compute, _):
            found[name] = worked(take, compute)
    plain = Here(2)
    worked(spoken(3), plain)
    found["two processes, no cluster"] = worked(take, plain)
    one = found["one worker"]
    print(f"\n{minutes:.0f} minutes | words | voices | cleaning | times as fast |")
    print("|---|---|---|---|---|")
    for name, did in found.items():
        print(
            f"| {name} | {did.heard_s:.0f} s | {did.voices_s:.0f} s | {did.cleaned_s:.0f} s | "
            f"{one.all_s / did.all_s:.2f} |",
            flush=True,
        )
    same = all((d.words, d.sound) == (one.words, one.sound) for d in found.values())
    two, bare = found["two workers"], found["two processes, no cluster"]
    print(f"\nThe same words and samples: {same}. Overhead: {two.all_s / bare.all_s - 1:+.1%}.")
    packed = pack(take.read(0, 120 * RATE), RATE)
    print(f"A stretch of two minutes travels as {len(packed.flac) / 1e6:.1f} MB.")


def killed(minutes: float) -> None:
    """A worker is killed every 20 s, one after the other, and starts again."""
    take, over = spoken(3), threading.Event()
    kills, stretches = 0, 0
    with workers(2) as (compute, both):

        def kill() -> None:
            nonlocal kills
            while not over.wait(_KILL_EVERY_S):
                at_work(both[kills % 2]).kill()
                kills += 1

        threading.Thread(target=kill, daemon=True).start()
        end = time.monotonic() + 60 * minutes
        wanted = tuple(transcribe(take.read, take.frames, packaged_model(), compute=Here(1)))
        wrong = 0
        while time.monotonic() < end:
            words = tuple(transcribe(take.read, take.frames, packaged_model(), compute=compute))
            wrong += words != wanted
            stretches += 1
        over.set()
        alone = compute.alone
    print(
        f"\n{kills} kills in {minutes:.0f} minutes: {stretches} recordings of 3 minutes, {wrong} "
        f"of them with a word twice, missing or moved. Worked alone: {alone or 'never'}."
    )


def short(count: int) -> None:
    """Many short files through a batch of plain processes."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "in").mkdir()
        take = spoken(_SHORT_S / 60)
        for number in range(count):
            soundfile.write(folder / "in" / f"{number:03}.wav", take.read(0, take.frames), RATE)
        (folder / "out").mkdir()
        recipe = Recipe(model_folder=packaged_model())
        items = planned(sources_in([folder / "in"]), folder / "out", recipe, Tags())
        begun = time.perf_counter()
        entries = run_batch(items, recipe, folder / "out", workers=cores())
        took = time.perf_counter() - begun
    work = sum(entry.took_s for entry in entries) / cores()
    print(
        f"\n{count} files of {_SHORT_S} s: {took:.0f} s, {took / work:.2f} times the work itself "
        f"over {cores()} processes."
    )


def beside(minutes: float) -> None:
    """A batch of one show while a host edits another episode: the server's memory, and how long
    the host waits. The one worker has a core of its own, as another machine would."""
    machines = Machines()
    with tempfile.TemporaryDirectory() as name:
        try:
            machines.worker(cores() - 1)
            workers_of(Link(machines.address), NEEDS, 1)
            data = Path(name) / "data"
            fill(data, Path("demo"))
            server = Server(data, AIRTRIM_COMPUTE=machines.address)
            try:
                _edited_beside(server, minutes)
            finally:
                server.stop()
        finally:
            machines.close()


def _edited_beside(server: Server, minutes: float) -> None:
    sound = io.BytesIO()
    take = spoken(minutes / _BATCHED)
    soundfile.write(sound, take.read(0, take.frames), RATE, format="FLAC")
    about = {"batch": "0" * 32, "recipe": EpisodeRecipe(level=True).model_dump_json()}
    for number in range(_BATCHED):
        path = "/api/shows/1/episodes"
        episode = server.client.post(path, json={"title": f"Old {number}"}).json()["id"]
        upload(server.client, episode, sound.getvalue(), "old.flac", **about)
    process = psutil.Process(server.process.pid)
    memory: list[int] = []
    waits: dict[str, list[float]] = {"page": [], "edit": []}
    revision = server.episode(1)["revision"]
    begun = time.monotonic()
    while _unended(server):
        for _ in range(10):
            where = {"revision": revision, "start": 0, "frames": 60 * RATE}
            waits["page"].append(_waited(server, "GET", "page", params=where))
            edit = {"kind": "add_marker", "at": len(waits["page"])}
            body = {"revision": revision, "edit": edit}
            waits["edit"].append(_waited(server, "POST", "edits", json=body))
            revision = server.episode(1)["revision"]
            memory.append(process.memory_info().rss)
            time.sleep(0.05)
    took = time.monotonic() - begun
    print(
        f"\n{_BATCHED} episodes of {minutes / _BATCHED:.1f} minutes in a batch, {took:.0f} s, "
        f"while a host edits ({len(memory)} times): the server takes {max(memory) / 1e6:.0f} MB at "
        "most."
    )
    for name, found in waits.items():
        middle, high = np.percentile(found, [50, 99])
        print(
            f"{name}: {middle:.0f} ms at the median, {high:.0f} at the 99th percentile.", flush=True
        )


def _unended(server: Server) -> bool:
    jobs = server.client.get("/api/jobs").json()
    return any(job["state"] in UNFINISHED for job in jobs)


def _waited(server: Server, method: str, what: str, **told: Any) -> float:
    """Milliseconds until an answer of the edited episode is there."""
    begun = time.perf_counter()
    server.client.request(method, f"/api/episodes/1/{what}", **told).raise_for_status()
    return (time.perf_counter() - begun) * 1e3


def handed_out(compute: Compute, calls: int) -> float:
    """Milliseconds that it costs to hand out a call that does nothing."""
    begun = time.perf_counter()
    for _ in in_order(compute, abs, [(-1,)] * calls):
        pass
    return (time.perf_counter() - begun) / calls * 1e3


def main() -> None:
    """Print what was found."""
    minutes, killed_minutes, files = (
        float(one) for one in (sys.argv[1:] + ["60", "10", "200"][len(sys.argv) - 1 :])
    )
    if minutes:
        faster(minutes)
        with workers(2) as (compute, _):
            print(f"To hand out a call: {handed_out(compute, 500):.1f} ms.", flush=True)
    if killed_minutes:
        killed(killed_minutes)
    if files:
        short(round(files))
    if minutes:
        beside(minutes / 2)


if __name__ == "__main__":
    main()
