"""Evening out: each section brought to the target, then the whole, with the limiter foreseen."""

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from airtrim.core.loudness.limiter import GainTrack
from airtrim.core.loudness.meter import (
    CELL_FRAMES,
    Profile,
    integrated_loudness,
    short_term_lufs,
)

MOST_GAIN_DB = 20.0
"""No section is raised or lowered by more."""
RAMP_FRAMES = 9_600
"""A gain changes over at most 200 ms, less where the air between two words is shorter."""

_STRETCH_CELLS = 600_000


@dataclass(frozen=True, slots=True)
class GainCurve:
    """Gain over time: straight lines in dB between points; constant outside them."""

    frames: NDArray[np.float64]
    db: NDArray[np.float64]

    def linear_column(self, start: int, count: int) -> NDArray[np.float32]:
        """Gain factors from frame ``start``, shape ``(count, 1)``, or ``(1, 1)`` where constant."""
        first = np.searchsorted(self.frames, start, side="right")
        last = np.searchsorted(self.frames, start + count, side="left")
        if first == last and (
            first in (0, len(self.frames)) or self.db[first - 1] == self.db[first]
        ):
            point = min(int(first), len(self.db) - 1)
            db = self.db[point : point + 1]
        else:
            db = np.interp(np.arange(start, start + count), self.frames, self.db)
        return np.asarray(10.0 ** (db / 20.0), np.float32)[:, None]


def gain_curve(gains_db: list[float], ramps: list[tuple[int, int]], whole_db: float) -> GainCurve:
    """The curve through sections of ``gains_db`` (dB), changing within ``ramps`` (frames).

    ``ramps`` has one ``(start, end)`` for each boundary, that is one less than there are gains.
    """
    frames: list[float] = []
    db: list[float] = []
    for index, (start, end) in enumerate(ramps):
        for frame, gain in ((start, gains_db[index]), (max(end, start + 1), gains_db[index + 1])):
            frames.append(max(frame, frames[-1] + 1) if frames else frame)
            db.append(gain + whole_db)
    if not frames:
        frames, db = [0.0], [gains_db[0] + whole_db]
    return GainCurve(np.array(frames, np.float64), np.array(db, np.float64))


@dataclass(frozen=True, slots=True)
class Levels:
    """A plan and what it will give. Loudness in LUFS, None where there is nothing to hear.
    The curves are short-term loudness, a value each second, the first centred on 1.5 s."""

    section_gains_db: tuple[float, ...]
    gain_db: float
    sections_before: tuple[float | None, ...]
    sections_after: tuple[float | None, ...]
    before: float | None
    after: float | None
    most_limiting_db: float
    curve_before: NDArray[np.float64]
    curve_after: NDArray[np.float64]


def even_out(
    profile: Profile,
    starts: list[int],
    ramps: list[tuple[int, int]],
    *,
    target_lufs: float,
    ceiling_dbtp: float,
    gains_db: list[float] | None = None,
) -> Levels:
    """Find section gains and the whole's gain that put sections and whole on ``target_lufs``.

    ``profile``: of the mix before any of these gains; ``starts``: first frame of each section
    (the first is 0); ``ramps``: as for ``gain_curve``. With ``gains_db`` the section gains are
    held and only the whole is brought to target. A section with nothing above −70 LUFS keeps 0 dB.
    Method: section gains are at most ±20 dB, what all need beyond that goes into the whole's;
    loudness lost in the limiter is foreseen on the profile and made good in a few rounds (common
    practice).
    """
    bounds = [start // CELL_FRAMES for start in starts] + [len(profile.energy)]
    spans = [slice(a, b) for a, b in itertools.pairwise(bounds)]
    before = [integrated_loudness(profile.energy[span]) for span in spans]
    whole = 0.0
    if gains_db is not None:
        gains = list(gains_db)
    else:
        needed = [0.0 if loud is None else target_lufs - loud for loud in before]
        for _ in range(4):
            energy, _ = _simulate(profile, needed, ramps, 0.0, ceiling_dbtp)
            for index, span in enumerate(spans):
                reached = integrated_loudness(energy[span])
                if reached is not None:
                    needed[index] += target_lufs - reached
        heard = [gain for gain, loud in zip(needed, before, strict=True) if loud is not None]
        whole = _common_gain(heard)
        gains = [
            _bounded(gain - whole) if loud is not None else 0.0
            for gain, loud in zip(needed, before, strict=True)
        ]
    for _ in range(4):
        energy, _ = _simulate(profile, gains, ramps, whole, ceiling_dbtp)
        total = integrated_loudness(energy)
        if total is None or abs(total - target_lufs) < 0.005:
            break
        whole += target_lufs - total
    gains = [round(gain, 2) for gain in gains]
    return foresee(profile, starts, ramps, gains, round(whole, 3), ceiling_dbtp)


def foresee(
    profile: Profile,
    starts: list[int],
    ramps: list[tuple[int, int]],
    gains_db: list[float],
    gain_db: float,
    ceiling_dbtp: float,
) -> Levels:
    """What given gains make of ``profile``; arguments and result as for ``even_out``."""
    bounds = [start // CELL_FRAMES for start in starts] + [len(profile.energy)]
    spans = [slice(a, b) for a, b in itertools.pairwise(bounds)]
    energy, limiting = _simulate(profile, gains_db, ramps, gain_db, ceiling_dbtp)
    return Levels(
        tuple(gains_db),
        gain_db,
        tuple(integrated_loudness(profile.energy[span]) for span in spans),
        tuple(integrated_loudness(energy[span]) for span in spans),
        integrated_loudness(profile.energy),
        integrated_loudness(energy),
        float(-20.0 * np.log10(max(limiting, 1e-6))),
        short_term_lufs(profile.energy)[::10],
        short_term_lufs(energy)[::10],
    )


def _common_gain(needed_db: list[float]) -> float:
    """What all sections need alike, so that none needs more than ``MOST_GAIN_DB`` of its own: a
    recording that is faint throughout must not come out uneven."""
    if needed_db and max(needed_db) > MOST_GAIN_DB:
        return max(needed_db) - MOST_GAIN_DB
    if needed_db and min(needed_db) < -MOST_GAIN_DB:
        return min(needed_db) + MOST_GAIN_DB
    return 0.0


def _bounded(gain_db: float) -> float:
    return max(-MOST_GAIN_DB, min(MOST_GAIN_DB, gain_db))


def _simulate(
    profile: Profile,
    gains_db: list[float],
    ramps: list[tuple[int, int]],
    whole_db: float,
    ceiling_dbtp: float,
) -> tuple[NDArray[np.float32], float]:
    """Energy of each cell after gains and limiter, and the limiter's lowest gain.

    In stretches of ten minutes, so that three hours take no more memory than their result.
    """
    curve = gain_curve(gains_db, ramps, whole_db)
    track = GainTrack(ceiling_dbtp, CELL_FRAMES)
    cells = len(profile.energy)
    out = np.empty(cells, np.float32)
    lowest = 1.0
    waiting = np.zeros(0)
    for at in range(0, cells + track.delay, _STRETCH_CELLS):
        middles = (np.arange(at, min(at + _STRETCH_CELLS, cells)) + 0.5) * CELL_FRAMES
        gain = 10.0 ** (np.interp(middles, curve.frames, curve.db) / 20.0)
        peaks = profile.peak[at : at + len(gain)] * gain
        past_end = min(at + _STRETCH_CELLS, cells + track.delay) - at - len(gain)
        limited = track(np.append(peaks, np.zeros(past_end)).astype(np.float32))
        lowest = min(lowest, float(limited.min(initial=1.0)))
        # The track is late: its values belong to cells that have waited.
        waiting = np.append(waiting, gain)
        first = max(0, at - track.delay)
        limited = limited[first - (at - track.delay) :]
        ready = waiting[: len(limited)]
        part = slice(first, first + len(ready))
        out[part] = profile.energy[part] * (ready * limited[: len(ready)]) ** 2
        waiting = waiting[len(ready) :]
    return out, lowest
