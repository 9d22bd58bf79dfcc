"""Bringing a recording made on one machine into time with one made on another.

Each machine tells, for the first frame of its pieces, when that was by a clock that both can ask
(the server’s). Sound cards run a little fast or slow, by up to 100 ppm (common practice), which
is a third of a second in an hour; what each really runs at is told by the same clock.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import soxr
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.decode import BLOCK_FRAMES, Block

MOST_PPM = 500.0
"""A sound card further from its rate than this is a clock that was told wrong."""
_FIT_FROM_S = 60.0
_MOST_POINTS = 400
_COPY_BELOW_FRAMES = 0.001 * FRAME_RATE
_STEP_S = 0.02
_STEP_READINGS = 9
_SHORTEST_PART = 5


@dataclass(frozen=True, slots=True)
class Reading:
    """Frame ``frame`` was heard ``at_s`` seconds by the common clock; ``run`` counts how often
    the recording had been paused, or otherwise broken off, before."""

    frame: int
    at_s: float
    run: int


@dataclass(frozen=True, slots=True)
class Run:
    """``frames`` heard without a break from frame ``start``, the first at ``at_s``, at ``rate``
    frames a second of the common clock."""

    start: int
    frames: int
    at_s: float
    rate: float

    def moment(self, frame: float) -> float:
        """When a frame was heard, in seconds of the common clock."""
        return self.at_s + (frame - self.start) / self.rate

    def frame(self, moment_s: float) -> float:
        """The frame heard at a moment."""
        return self.start + (moment_s - self.at_s) * self.rate


def runs_of(readings: Sequence[Reading], frames: int) -> tuple[Run, ...]:
    """The runs of a recording of ``frames`` frames, each a straight line through its readings.

    Readings err by some milliseconds either way, so the rate is fitted (Theil–Sen, which a few
    wild ones do not move) over a minute or more, and is one for all runs: they were heard by the
    same sound card. A run is broken up where its clock steps. Shorter recordings are taken to
    run at 48 kHz, which a card of 100 ppm misses by 6 ms in a minute.
    """
    by_run: dict[int, list[Reading]] = {}
    for reading in sorted(readings, key=lambda r: r.frame):
        by_run.setdefault(reading.run, []).append(reading)
    if not by_run:
        return ()
    parts = [part for run in by_run.values() for part in _steady(run)]
    rate = _rate(max(parts, key=lambda run: run[-1].frame - run[0].frame))
    ordered = sorted(parts, key=lambda run: run[0].frame)
    ends = [*(run[0].frame for run in ordered[1:]), frames]
    out = []
    for run, end in zip(ordered, ends, strict=True):
        start = run[0].frame
        offset = float(np.median([r.at_s - (r.frame - start) / rate for r in run]))
        if end > start:
            out.append(Run(start, end - start, offset, rate))
    return tuple(out)


def _steady(run: list[Reading]) -> list[list[Reading]]:
    """A run broken up where its clock steps by more than 20 ms and stays there: sound was lost, or
    came in a rush."""
    error = [reading.at_s - reading.frame / FRAME_RATE for reading in run]
    out = [[run[0]]]
    for index in range(1, len(run)):
        before = np.median(error[max(0, index - _STEP_READINGS) : index])
        after = np.median(error[index : index + _STEP_READINGS])
        long_enough = min(len(out[-1]), len(run) - index) >= _SHORTEST_PART
        stepped = abs(error[index] - before) > _STEP_S and abs(after - before) > _STEP_S
        if stepped and long_enough:
            out.append([])
        out[-1].append(run[index])
    return out


def _rate(run: list[Reading]) -> float:
    if run[-1].frame - run[0].frame < _FIT_FROM_S * FRAME_RATE:
        return float(FRAME_RATE)
    from scipy.stats import theilslopes  # slow to import, and seldom needed

    chosen = np.linspace(0, len(run) - 1, min(len(run), _MOST_POINTS)).astype(int)
    nominal = [(run[i].frame - run[0].frame) / FRAME_RATE for i in chosen]
    errors = [run[i].at_s - run[0].at_s - x for i, x in zip(chosen, nominal, strict=True)]
    slope = float(theilslopes(errors, nominal)[0])
    limit = MOST_PPM * 1e-6
    return FRAME_RATE / (1.0 + min(limit, max(-limit, slope)))


@dataclass(frozen=True, slots=True)
class Stretch:
    """``frames`` of the result from frame ``at`` come from ``source_frames`` of the other recording
    from frame ``source``."""

    at: int
    frames: int
    source: int
    source_frames: int


def plan(host: Sequence[Run], guest: Sequence[Run]) -> tuple[Stretch, ...]:
    """Which of the guest's frames were heard while each run of the host's was: in order, and
    without overlap. The guest's sound from the host's pauses is in none."""
    out: list[Stretch] = []
    for run in host:
        for other in guest:
            begin = max(run.at_s, other.at_s)
            end = min(run.moment(run.start + run.frames), other.moment(other.start + other.frames))
            at, last = round(run.frame(begin)), round(run.frame(end))
            source, source_last = round(other.frame(begin)), round(other.frame(end))
            late = max(0, out[-1].at + out[-1].frames - at) if out else 0
            at, source = at + late, source + late
            source_last = min(source_last, other.start + other.frames)
            if last > at and source_last > source:
                out.append(Stretch(at, last - at, source, source_last - source))
    return tuple(out)


def holes(stretches: Sequence[Stretch], frames: int) -> list[tuple[int, int]]:
    """``(start, frames)`` of the result in which nothing of the other recording is."""
    found, reached = [], 0
    for stretch in (*stretches, Stretch(frames, 0, 0, 0)):
        if stretch.at > reached:
            found.append((reached, stretch.at - reached))
        reached = max(reached, stretch.at + stretch.frames)
    return found


def placed(stretches: Sequence[Stretch], source: int) -> int | None:
    """Where frame ``source`` of the other recording is in the result; None where it is not."""
    for stretch in stretches:
        into = source - stretch.source
        if 0 <= into < stretch.source_frames:
            return stretch.at + round(into * stretch.frames / stretch.source_frames)
    return None


def follow(
    stretches: Sequence[Stretch], frames: int, read: Callable[[int, int], NDArray[np.float32]]
) -> Iterator[Block]:
    """The other recording in the host's time: ``frames`` frames as mono blocks ``(n, 1)``.

    ``read(start, frames)`` gives its sound, shape ``(n, 1)``. Where the two clocks agree to a
    millisecond over a stretch its samples are passed on as they are; elsewhere they are resampled
    (soxr, very high quality). Silence where there is nothing.
    """
    reached = 0
    for stretch in stretches:
        yield from _silence(stretch.at - reached)
        yield from _stretched(stretch, read)
        reached = stretch.at + stretch.frames
    yield from _silence(frames - reached)


def _silence(frames: int) -> Iterator[Block]:
    for at in range(0, frames, BLOCK_FRAMES):
        yield np.zeros((min(BLOCK_FRAMES, frames - at), 1), np.float32)


def _stretched(
    stretch: Stretch, read: Callable[[int, int], NDArray[np.float32]]
) -> Iterator[Block]:
    if abs(stretch.source_frames - stretch.frames) <= _COPY_BELOW_FRAMES:
        for at in range(0, stretch.frames, BLOCK_FRAMES):
            yield read(stretch.source + at, min(BLOCK_FRAMES, stretch.frames - at))
        return
    stream = soxr.ResampleStream(
        stretch.source_frames, stretch.frames, 1, dtype="float32", quality="VHQ"
    )
    made = 0
    for at in range(0, stretch.source_frames, BLOCK_FRAMES):
        count = min(BLOCK_FRAMES, stretch.source_frames - at)
        last = at + count == stretch.source_frames
        block = stream.resample_chunk(read(stretch.source + at, count), last=last)
        block = block[: stretch.frames - made].reshape(-1, 1)
        made += len(block)
        yield block
    yield from _silence(stretch.frames - made)
