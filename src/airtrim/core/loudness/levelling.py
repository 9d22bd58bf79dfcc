"""Evening out: each section brought to the target, then the whole, with the limiter foreseen."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from airtrim.core.loudness.limiter import GainTrack
from airtrim.core.loudness.meter import (
    CELL_FRAMES,
    Profile,
    integrated_loudness,
    momentary_lufs,
    section_loudness,
    short_term_lufs,
)

MOST_GAIN_DB = 20.0
"""No section is raised or lowered by more."""
_HEARD_LIMITING_DB = 6.0
"""What the limiter may do before it is heard (common practice)."""
EVEN_LU = 1.0
"""How far sections may be from each other, and the whole from its target (common practice)."""
RAMP_FRAMES = 9_600
"""A gain changes over at most 200 ms, less where the air between two words is shorter."""

_STRETCH_CELLS = 600_000
_ONE_MOMENT_FRAMES = 9_600
_MOST_ROUNDS = 10
_LEAST_SLOPE = 0.1

Gains = NDArray[np.float64]


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

    def of_cells(self, first: int, count: int) -> NDArray[np.float64]:
        """Gain factors in the middle of ``count`` milliseconds from the ``first`` on."""
        middles = (np.arange(first, first + count) + 0.5) * CELL_FRAMES
        return np.asarray(10.0 ** (np.interp(middles, self.frames, self.db) / 20.0))


def gain_curve(
    gains_db: Sequence[float] | Gains, ramps: list[tuple[int, int]], whole_db: float
) -> GainCurve:
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
    The curves are short-term loudness, a value each second, the first centred on 1.5 s, and
    ``momentary_after`` the highest momentary loudness that ends in each second."""

    section_gains_db: tuple[float, ...]
    gain_db: float
    sections_before: tuple[float | None, ...]
    sections_after: tuple[float | None, ...]
    before: float | None
    after: float | None
    most_limiting_db: float
    curve_before: NDArray[np.float64]
    curve_after: NDArray[np.float64]
    momentary_after: NDArray[np.float64]

    @property
    def apart_lu(self) -> float:
        """From the quietest section to the loudest; 0 where there are not two to hear."""
        loud = [one for one in self.sections_after if one is not None]
        return max(loud) - min(loud) if loud else 0.0

    def even(self, target_lufs: float) -> bool:
        """Whether nothing is gained by evening out again."""
        on_target = self.after is not None and abs(self.after - target_lufs) <= EVEN_LU
        return on_target and self.apart_lu <= EVEN_LU

    @property
    def limiter_heard(self) -> bool:
        """Whether the limiter takes away so much that it is heard."""
        return self.most_limiting_db > _HEARD_LIMITING_DB


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
    loudness lost in the limiter is foreseen on the profile and made good (common practice).
    """
    whole = 0.0
    if gains_db is not None:
        gains = np.array(gains_db)
    else:
        before = section_loudness(profile.energy, starts)
        sounding = np.array([loud is not None for loud in before])

        def of_sections(needed: Gains) -> tuple[float | None, ...]:
            energy, _ = _simulate(profile, needed, ramps, 0.0, ceiling_dbtp)
            return section_loudness(energy, starts)

        needed = _reaching(target_lufs, of_sections, len(starts))
        whole = _common_gain(needed[sounding])
        gains = np.where(sounding, np.clip(needed - whole, -MOST_GAIN_DB, MOST_GAIN_DB), 0.0)
    gains = np.round(gains, 2)

    def of_whole(more: Gains) -> tuple[float | None]:
        energy, _ = _simulate(profile, gains, ramps, whole + more[0], ceiling_dbtp)
        return (integrated_loudness(energy),)

    whole += _reaching(target_lufs, of_whole, 1)[0]
    return foresee(profile, starts, ramps, gains, round(float(whole), 3), ceiling_dbtp)


def foresee(
    profile: Profile,
    starts: list[int],
    ramps: list[tuple[int, int]],
    gains_db: Sequence[float] | Gains,
    gain_db: float,
    ceiling_dbtp: float,
) -> Levels:
    """What given gains make of ``profile``; arguments and result as for ``even_out``."""
    energy, limiting = _simulate(profile, gains_db, ramps, gain_db, ceiling_dbtp)
    return Levels(
        tuple(map(float, gains_db)),
        gain_db,
        section_loudness(profile.energy, starts),
        section_loudness(energy, starts),
        integrated_loudness(profile.energy),
        integrated_loudness(energy),
        float(-20.0 * np.log10(max(limiting, 1e-6))),
        short_term_lufs(profile.energy)[::10],
        short_term_lufs(energy)[::10],
        _highest_each(momentary_lufs(energy), 10),
    )


def _highest_each(values: NDArray[np.float64], count: int) -> NDArray[np.float64]:
    starts = np.arange(0, len(values), count)
    return np.maximum.reduceat(values, starts) if len(values) else values


def peaks_over(
    profile: Profile,
    ramps: list[tuple[int, int]],
    gains_db: Sequence[float] | Gains,
    gain_db: float,
    ceiling_dbtp: float,
) -> list[tuple[int, float]]:
    """Where true peaks stand over the ceiling before the limiter: the frame of the highest of each
    moment (peaks less than 0.2 s apart are one), and by how many dB."""
    curve = gain_curve(gains_db, ramps, gain_db)
    ceiling = 10.0 ** (ceiling_dbtp / 20.0)
    out: list[tuple[int, float]] = []
    for at in range(0, len(profile.peak), _STRETCH_CELLS):
        peaks = profile.peak[at : at + _STRETCH_CELLS]
        over = peaks * curve.of_cells(at, len(peaks)) / ceiling
        for cell in np.flatnonzero(over > 1.0):
            here = (at + int(cell)) * CELL_FRAMES, round(float(20.0 * np.log10(over[cell])), 2)
            if out and here[0] - out[-1][0] < _ONE_MOMENT_FRAMES:
                out[-1] = max(out[-1], here, key=lambda one: one[1])
            else:
                out.append(here)
    return out


def verdict(levels: Levels, words_over: int, target_lufs: float, ceiling_dbtp: float) -> str:
    """The state of an episode's loudness in a plain sentence."""
    if levels.after is None:
        return "There is nothing to hear in it."
    off = levels.after - target_lufs
    parts = []
    if levels.apart_lu > EVEN_LU:
        parts.append(f"uneven: sections are {levels.apart_lu:.1f} LU apart")
    elif sum(loud is not None for loud in levels.sections_after) > 1:
        parts.append(f"even: sections within {max(levels.apart_lu, 0.1):.1f} LU")
    if abs(off) > EVEN_LU:
        parts.append(f"{abs(off):.1f} LU too {'loud' if off > 0 else 'quiet'}")
    else:
        parts.append(f"{abs(off):.1f} LU off its target" if abs(off) > 0.1 else "on its target")
    if words_over:
        ceiling = f"{ceiling_dbtp:.1f}".replace("-", "−")
        what = "1 word" if words_over == 1 else f"{words_over} words"
        parts.append(f"{what} over {ceiling} dBTP before limiting")
    if levels.limiter_heard:
        parts.append(
            f"the limiter works by up to {levels.most_limiting_db:.0f} dB, which is heard: "
            "aim lower, or use the compressor"
        )
    sentence = "; ".join(parts)
    return sentence[0].upper() + sentence[1:] + "."


def _reaching(
    target_lufs: float, loudness_of: Callable[[Gains], Sequence[float | None]], count: int
) -> Gains:
    """Gains (dB) that bring each of ``count`` loudnesses to the target.

    The limiter takes part of a gain away, so the next step is made on the slope that the last one
    showed (secant method). What cannot be heard keeps 0 dB, and where a step brings next to
    nothing, since the limiter takes it all, the gain stays where it is.
    """
    gains = np.zeros(count)
    slope = np.ones(count)
    reached = np.array([np.nan if v is None else v for v in loudness_of(gains)])
    for _ in range(_MOST_ROUNDS):
        miss = np.nan_to_num(target_lufs - reached)
        open_ = (np.abs(miss) > 0.005) & (slope > _LEAST_SLOPE)
        if not open_.any():
            break
        step = np.where(open_, miss / np.maximum(slope, _LEAST_SLOPE), 0.0)
        found = np.array([np.nan if v is None else v for v in loudness_of(gains + step)])
        moved = np.where(open_, step, 1.0)
        slope = np.where(open_, np.nan_to_num((found - reached) / moved, nan=1.0), slope)
        gains, reached = gains + step, found
    return gains


def _common_gain(needed_db: Gains) -> float:
    """What all sections need alike, so that none needs more than ``MOST_GAIN_DB`` of its own: a
    recording that is faint throughout must not come out uneven."""
    if len(needed_db) and needed_db.max() > MOST_GAIN_DB:
        return float(needed_db.max()) - MOST_GAIN_DB
    if len(needed_db) and needed_db.min() < -MOST_GAIN_DB:
        return float(needed_db.min()) + MOST_GAIN_DB
    return 0.0


def _simulate(
    profile: Profile,
    gains_db: Sequence[float] | Gains,
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
        gain = curve.of_cells(at, max(0, min(_STRETCH_CELLS, cells - at)))
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
