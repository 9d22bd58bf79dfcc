"""Ten minutes: a scripted host brings an hour of two voices to a draft.

The hour is made by script (``bench/readings.py``), two voices turn by turn on one track, one of
them softer, with fillers, attempts, long air, breaths and knocks whose places are known. What the
host does is ``tests/web/firstrelease.py``; what a listener would still find is told by the truth.

``python -m bench host``, part of ``make bench``; ``python -m bench.host 5`` is one of five minutes.
Needs the ``demo`` extra, and flite.
"""

import itertools
import shutil
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray
from playwright.sync_api import sync_playwright
from tests.serving import Server
from tests.web.conftest import CHROMIUM
from tests.web.firstrelease import Attention, released
from tests.web.test_tasks import Hand

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.meter import measure, section_loudness
from airtrim.core.timeline.model import Timeline
from airtrim.demo import fill
from airtrim.store.store import Store
from bench.measuring import Row
from bench.readings import RATE, STUMBLES, TEXTS, Reading, reading, stumbling

_VOICES = (("joe", 1.0), ("slt", 0.4))
_HEARD_S = 0.08
"""So much of a mistake has to sound for somebody to notice it (common practice)."""
_VOICE_RMS = 0.01
"""Over the noise, and under both voices."""
_SPLICES = 12


@dataclass(frozen=True, slots=True)
class Planted:
    """What stands in the recording, in frames."""

    kind: str
    start: int
    end: int


def hour(minutes: float) -> tuple[NDArray[np.float32], list[Planted], list[tuple[int, int]]]:
    """The recording, its mistakes, and the turns of the softer voice."""
    parts: list[NDArray[np.float32]] = []
    planted: list[Planted] = []
    soft: list[tuple[int, int]] = []
    at = 0
    for turn in itertools.count():
        voice, gain = _VOICES[turn % 2]
        number = turn // 2
        one = _turn(voice, number)
        for start, end, _ in one.fillers:
            planted.append(_placed("filler", start, end, at))
        planted += [_placed(kind, start, end, at) for kind, start, end in one.mistakes]
        if gain < 1.0:
            soft.append((at, at + len(one.sound)))
        parts.append(np.float32(gain) * one.sound)
        at += len(one.sound)
        if at >= minutes * 60 * RATE:
            return np.concatenate(parts), planted, soft
    raise AssertionError


def _turn(voice: str, number: int) -> Reading:
    texts = len(TEXTS) + len(STUMBLES)
    which = number % texts
    if which < len(TEXTS):
        return reading(voice, which, "30 dB")
    return stumbling(voice, which - len(TEXTS), "30 dB")


def _placed(kind: str, start_s: float, end_s: float, at: int) -> Planted:
    return Planted(kind, at + round(start_s * RATE), at + round(end_s * RATE))


def left_in(
    timeline: Timeline, take: str, sound: NDArray[np.float32], planted: list[Planted]
) -> dict[str, tuple[int, int]]:
    """By kind how many mistakes a listener still finds, and how many there were. Air is found where
    more of it sounds than the episode's limit; a breath or a knock is no mistake that a pass has to
    take out, so neither is counted."""
    kept = np.zeros(len(sound), np.bool_)
    for track in timeline.tracks:
        for clip in track.clips:
            if clip.take == take:
                kept[clip.start : clip.start + clip.frames] = True
    limit_s = timeline.snag_rules.air_limit_s
    out: dict[str, tuple[int, int]] = {}
    for kind in ("filler", "repeat", "air"):
        ones = [one for one in planted if one.kind == kind]
        if kind == "air":
            heard = sum(kept[one.start : one.end].sum() > limit_s * RATE for one in ones)
        else:
            heard = sum(_voiced_s(sound, kept, one) > _HEARD_S for one in ones)
        out[kind] = int(heard), len(ones)
    return out


def _voiced_s(sound: NDArray[np.float32], kept: NDArray[np.bool_], one: Planted) -> float:
    """How long the voice is heard in what is left of a mistake, in steps of 10 ms."""
    hop = RATE // 100
    count = (one.end - one.start) // hop
    parts = sound[one.start : one.start + count * hop].reshape(count, hop).astype(np.float64)
    stays = kept[one.start : one.start + count * hop].reshape(count, hop).all(axis=1)
    return float(((np.square(parts).mean(axis=1) > _VOICE_RMS**2) & stays).sum() / 100)


def apart_lu(file: Path, timeline: Timeline, take: str, soft: list[tuple[int, int]]) -> float:
    """How far the two voices are apart in the finished file, in LU."""
    edges = sorted({edge for span in soft for edge in span})
    places = [
        clip.at + edge - clip.start
        for edge in edges
        for track in timeline.tracks
        for clip in track.clips
        if clip.take == take and clip.start <= edge < clip.start + clip.frames
    ]
    starts = sorted({0, *places})
    loud = [
        value
        for value in section_loudness(meter_file(file).profile().energy, starts)
        if value is not None
    ]
    evens, odds = loud[1::2], loud[2::2]
    return abs(float(np.median(evens)) - float(np.median(odds))) if odds else 0.0


def host(minutes: float = 60.0) -> list[Row]:
    """The rows of the bench."""
    sound, planted, soft = hour(minutes)
    with (
        tempfile.TemporaryDirectory() as folder,
        tempfile.TemporaryDirectory() as pages,
        sync_playwright() as playwright,
    ):
        place = Path(folder)
        recording = place / "talk.flac"
        soundfile.write(recording, sound, RATE)
        fill(place / "data", Path(__file__).parent.parent / "demo")
        server = Server(place / "data")
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=CHROMIUM
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=server.address)
        page.set_default_timeout(600_000)
        try:
            found = released(Hand(page), server, recording, Path(pages), splices=_SPLICES)
        finally:
            browser.close()
            server.stop()
        return _rows(found, place / "data", sound, planted, soft, minutes)


def _rows(
    found: Attention,
    data: Path,
    sound: NDArray[np.float32],
    planted: list[Planted],
    soft: list[tuple[int, int]],
    minutes: float,
) -> list[Row]:
    store = Store(data)
    timeline = store.current(found.episode)
    take = max(store.takes(found.episode), key=lambda one: one.frames).id
    left = left_in(timeline, take, sound, planted)
    (job,) = [job for job in store.jobs(found.episode, ("done",)) if job.kind == "export"]
    file = next(store.files.export(job.id).iterdir())
    lufs = measure(meter_file(file)).integrated_lufs or -70.0
    apart = apart_lu(file, timeline, take, soft)
    store.close()
    steps = ", ".join(f"{step} {count}" for step, count in found.steps.items())
    told = ", ".join(f"{kind} {there} of {of}" for kind, (there, of) in left.items())
    target = timeline.loudness.target
    return [
        Row(f"A host, from {minutes:.0f} min of two voices to a draft: attention",
            f"{found.seconds / 60:.1f} min", f"{found.listened_s:.0f} s of it listening", steps,
            "at most 10 min", found.seconds <= 600),
        Row("… actions", str(found.hand.actions), "", "", "at most 60",
            found.hand.actions <= 60),
        Row("… what a listener still finds", told, "what was planted", "", "told",
            True),
        Row("… loudness of the file; its two voices apart", f"{lufs:.1f} LUFS; {apart:.1f} LU",
            f"{target:.0f} LUFS; 8 LU before", "", "within 0.5; within 2 LU",
            abs(lufs - target) <= 0.5 and apart <= 2.0),
    ]  # fmt: skip


if __name__ == "__main__":
    for row in host(float(sys.argv[1]) if len(sys.argv) > 1 else 60.0):
        print(row)
