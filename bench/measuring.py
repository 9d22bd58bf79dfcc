"""Timing beside a reference, memory in a process of its own, and sound to do it on."""

import os
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import soxr

RATE = 48_000
DEMO = Path(__file__).parent.parent / "demo" / "sound"


@dataclass(frozen=True)
class Row:
    """A line of the table: what was measured, beside what, and what it should be."""

    what: str
    ours: str
    reference: str
    found: str
    wanted: str
    holds: bool


def talk(seconds: float, rate: int = RATE) -> np.ndarray:
    """The demo's voices one after another until it is long enough, mono float32."""
    parts = []
    for name in ("host-opening", "guest", "host-bridge", "host-closing"):
        sound, own = soundfile.read(DEMO / f"{name}.flac", dtype="float32")
        parts.append(soxr.resample(sound, own, rate) if own != rate else sound)
    once = np.concatenate(parts)
    return np.tile(once, int(np.ceil(seconds * rate / len(once))))[: round(seconds * rate)]


def write_talk(path: Path, seconds: float, rate: int = RATE) -> Path:
    """The same as a 16-bit WAV file, written in pieces."""
    once = talk(600, rate)
    with soundfile.SoundFile(path, "w", rate, 1, "PCM_16") as file:
        left = round(seconds * rate)
        while left > 0:
            file.write(once[:left])
            left -= len(once)
    return path


def side_by_side(
    ours: Callable[[], object], theirs: Callable[[], object], rounds: int = 3
) -> tuple[float, float]:
    """Best times in seconds of both, run in turns so that a busy moment hits both."""
    best = [float("inf"), float("inf")]
    for _ in range(rounds):
        for index, run in enumerate((ours, theirs)):
            began = time.perf_counter()
            run()
            best[index] = min(best[index], time.perf_counter() - began)
    return best[0], best[1]


def best_of(run: Callable[[], object], rounds: int = 3) -> float:
    """The best time in seconds of some."""
    best = float("inf")
    for _ in range(rounds):
        began = time.perf_counter()
        run()
        best = min(best, time.perf_counter() - began)
    return best


def ffmpeg(*arguments: str) -> str:
    """Run FFmpeg's own command line; returns what it printed."""
    command = ["ffmpeg", "-hide_banner", "-nostats", "-y", *arguments]
    return subprocess.run(command, check=True, capture_output=True, text=True).stderr


def peak_memory(code: str) -> float:
    """Highest resident memory in MB of a fresh Python that runs ``code``."""
    # Not getrusage: what it tells of a child begins with the size of its parent.
    tail = """
status = dict(line.split(":", 1) for line in open("/proc/self/status"))
print(int(status["VmHWM"].split()[0]) / 1000)
"""
    done = subprocess.run(
        [sys.executable, "-c", code + tail],
        check=True,
        capture_output=True,
        text=True,
        env=os.environ,
    )
    return float(done.stdout.split()[-1])
