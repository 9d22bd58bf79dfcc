"""A backup of many gigabytes while a recording is made: no piece comes late; a second one copies
only what is new; restored, all is as it was. And a WAV that is longer than 32 bits can tell."""

import json
import shutil
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import httpx
import numpy as np
from tests.serving import Server

from airtrim.core.media.take import TakeReader
from airtrim.core.release.formats.wav import Wav
from airtrim.demo import fill
from airtrim.store.checking import check_data
from airtrim.store.store import Store
from bench.measuring import RATE, Row

DEMO = Path(__file__).parents[2] / "demo"
_LATE_S = 0.5
"""A piece holds half a second: one that takes longer comes late."""


def backups(gigabytes: int) -> list[Row]:
    """Back up ``gigabytes`` while pieces come in."""
    with tempfile.TemporaryDirectory() as folder:
        data, target, restored = (Path(folder) / name for name in ("data", "backups", "restored"))
        fill(data, DEMO)
        _make_larger(data, gigabytes)
        server = Server(data, AIRTRIM_LOG_LEVEL="error")
        stop = threading.Event()
        took: list[float] = []
        recording = threading.Thread(target=_record, args=(server, stop, took))
        recording.start()
        time.sleep(5)
        calm = list(took)
        first_s, first = _back_up(data, target)
        during = took[len(calm) :]
        second_s, second = _back_up(data, target)
        stop.set()
        recording.join()
        server.stop()
        began = time.perf_counter()
        command = [_airtrim(), "restore", str(target), "--data", str(restored)]
        subprocess.run(command, check=True, capture_output=True)
        restore_s = time.perf_counter() - began
        store = Store(restored)
        found = check_data(store)
        store.close()
        shutil.rmtree(restored)
    late = sum(one > _LATE_S for one in during)
    size = f"{first['bytes'] / 1e9:.1f} GB in {first['files']} files"
    return [
        Row(
            f"A backup of {size} while a recording is made: pieces late",
            f"{len(during)} pieces, {statistics.median(during) * 1000:.0f} ms in the middle, "
            f"{max(during) * 1000:.0f} at most; before it {max(calm) * 1000:.0f} at most",
            "",
            str(late),
            "0",
            late == 0,
        ),
        Row(
            "… took", f"{first_s:.0f} s", "", f"{first['bytes'] / first_s / 1e6:.0f} MB/s", "", True
        ),
        Row(
            "… the second one copies",
            f"{second_s:.1f} s",
            "",
            f"{second['copied_files']} files, {second['copied_bytes'] / 1e6:.1f} MB",
            "what is new",
            second["copied_bytes"] < 50e6,
        ),
        Row(
            "… restored and checked",
            f"restored in {restore_s:.0f} s",
            "",
            "all is well" if found.sound else found.findings[0].what,
            "all is well",
            found.sound,
        ),
    ]


def _rate(done: dict, seconds: float) -> float:
    return float(done["bytes"] / seconds / 1e6)


def _airtrim() -> str:
    return str(Path(sys.executable).parent / "airtrim")


def _back_up(data: Path, target: Path) -> tuple[float, dict]:
    began = time.perf_counter()
    command = [_airtrim(), "backup", str(target), "--data", str(data), "--json"]
    done = subprocess.run(command, check=True, capture_output=True, text=True)
    return time.perf_counter() - began, json.loads(done.stdout)


def _make_larger(data: Path, gigabytes: int) -> None:
    """Exports of past episodes, which cannot be told from one another but by their bytes."""
    store = Store(data)
    rng = np.random.default_rng(1)
    for _ in range(gigabytes):
        job = store.add_job("export", 1, "{}")
        store.update_job(job.id, state="done", result='{"bytes": 1000000000}')
        folder = store.files.export(job.id)
        folder.mkdir()
        with (folder / "file.wav").open("wb") as file:
            for _ in range(10):
                file.write(rng.bytes(100_000_000))
    store.close()


def _record(server: Server, stop: threading.Event, took: list[float]) -> None:
    """Half a second of sound every half second."""
    with httpx.Client(base_url=server.address, timeout=60) as client:
        made = client.post("/api/episodes/1/recordings", json={"tracks": ["Extra"]}).json()
        piece = np.random.default_rng(2).normal(0, 0.1, RATE // 2).astype("<f4").tobytes()
        number = 0
        begun = time.monotonic()
        while not stop.is_set():
            began = time.perf_counter()
            path = f"/api/recordings/{made['id']}/pieces/{number}?start={number * RATE // 2}"
            assert client.put(path, content=piece).status_code == 200
            took.append(time.perf_counter() - began)
            number += 1
            time.sleep(max(0.0, begun + number * 0.5 - time.monotonic()))


def long_wav(_: int = 0) -> list[Row]:
    """A stereo WAV of 800,000,010 frames, read back by another library."""
    frames = 800_000_010
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "file.wav"
        block = np.zeros((1 << 20, 2), np.float32)

        def blocks():
            left = frames
            while left:
                count = min(left, len(block))
                yield block[:count]
                left -= count

        Wav().write(blocks(), path, frames=frames, channels=2)
        reader = TakeReader(path)
        found = reader.frames
        reader.close()
        size = path.stat().st_size
    return [
        Row(
            f"A WAV of {size / 1e9:.1f} GB: frames read back",
            f"{frames} written",
            "libsndfile",
            str(found),
            str(frames),
            found == frames,
        )
    ]
