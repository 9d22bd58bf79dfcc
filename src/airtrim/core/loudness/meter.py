"""The loudness meter: ITU-R BS.1770-5, EBU Tech 3341 (M, S, I) and Tech 3342 (range).

Sound streams in once; what stays is a *profile*: K-weighted energy and true peak of every
millisecond. Every figure, and the plan for evening out, is derived from it.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from airtrim.core.loudness.truepeak import BOUND, PHASES, TAPS, peak_track
from airtrim.core.media import FRAME_RATE

CELL_FRAMES = 48
"""One millisecond."""

_HOP_CELLS = 100
_OFFSET_DB = -0.691
_HALF = TAPS // 2


def k_weighting(sample_rate: int) -> NDArray[np.float64]:
    """The two biquads of K-weighting, shape ``(2, 6)``, rows ``b0 b1 b2 1 a1 a2``.

    At 48 kHz these are the coefficients printed in BS.1770-5, tables 1 and 2; at other rates the
    same analogue filters are transformed again.

    >>> k_weighting(48_000)[0].round(5).tolist()
    [1.53512, -2.6917, 1.19839, 1.0, -1.69066, 0.73248]
    """
    if sample_rate == 48_000:
        return np.array(
            [
                [
                    1.53512485958697,
                    -2.69169618940638,
                    1.19839281085285,
                    1.0,
                    -1.69065929318241,
                    0.73248077421585,
                ],
                [1.0, -2.0, 1.0, 1.0, -1.99004745483398, 0.99007225036621],
            ]
        )
    from scipy.signal import bilinear  # slow to import, and seldom needed

    rows = []
    for section in range(2):
        b, a = _analogue(k_weighting(48_000)[section])
        bz, az = bilinear(b, a, fs=sample_rate)
        rows.append(np.concatenate([bz / az[0], az / az[0]]))
    return np.array(rows)


def _analogue(row: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Invert the bilinear transform at 48 kHz: z = (1 + s/2fs) / (1 − s/2fs)."""
    c = 2.0 * 48_000

    def invert(p: NDArray[np.float64]) -> NDArray[np.float64]:
        p0, p1, p2 = p
        return np.array([(p0 - p1 + p2) / c**2, 2 * (p0 - p2) / c, p0 + p1 + p2])

    return invert(row[:3]), invert(row[3:])


@njit(cache=True, nogil=True)
def _energy_cells(
    sound: NDArray[np.float32],
    sos: NDArray[np.float64],
    state: NDArray[np.float64],
    cell: int,
    out: NDArray[np.float64],
) -> None:
    for channel in range(sound.shape[1]):
        s0, s1, s2, s3 = state[channel]
        for i in range(len(out)):
            total = 0.0
            for j in range(i * cell, (i + 1) * cell):
                x = sound[j, channel]
                y = sos[0, 0] * x + s0
                s0 = sos[0, 1] * x - sos[0, 4] * y + s1
                s1 = sos[0, 2] * x - sos[0, 5] * y
                z = sos[1, 0] * y + s2
                s2 = sos[1, 1] * y - sos[1, 4] * z + s3
                s3 = sos[1, 2] * y - sos[1, 5] * z
                total += z * z
            out[i] += total
        state[channel, 0] = s0
        state[channel, 1] = s1
        state[channel, 2] = s2
        state[channel, 3] = s3


@dataclass(frozen=True, slots=True)
class Profile:
    """``energy``: K-weighted sum of squares over all channels, a value a millisecond;
    ``peak``: highest true peak (linear) in it; ``sample_peak``: of the whole (linear)."""

    energy: NDArray[np.float32]
    peak: NDArray[np.float32]
    sample_peak: float


class _Cells:
    """The values of cells as they come, in one array: hours of them are never held twice."""

    def __init__(self) -> None:
        self._all = np.empty(1 << 12, np.float32)
        self._given = False
        self.count = 0

    def add(self, values: NDArray[np.float32]) -> None:
        """Put more after those that there are."""
        count = self.count + len(values)
        if count > len(self._all) or self._given:
            # What is not written to takes no memory, so doubling costs none.
            grown = np.empty(max(2 * len(self._all), count), np.float32)
            grown[: self.count] = self._all[: self.count]
            self._all, self._given = grown, False
        self._all[self.count : count] = values
        self.count = count

    def taken(self, count: int, keep: int) -> NDArray[np.float32]:
        """The first of them, which stay as they are; those from ``keep`` on are dropped here."""
        self._given, self.count = True, keep
        return self._all[:count]


class Meter:
    """Feed ``(frames, channels)`` float32 blocks at 48 kHz, then take ``profile()``.

    ``careful_above`` (linear): below it the profile's peaks may be sample peaks. None keeps only
    the highest true peak exact, which is all a measurement reports, and is fastest.
    """

    def __init__(self, channels: int, *, careful_above: float | None = None) -> None:
        self._channels = channels
        self._careful_above = careful_above
        self._state = np.zeros((channels, 4))
        self._sos = k_weighting(FRAME_RATE)
        self._held = np.zeros((_HALF, channels), np.float32)
        self._energy, self._peak = _Cells(), _Cells()
        self._top = 0.0
        self._sample_peak = 0.0
        self._frames = 0

    def push(self, block: NDArray[np.float32]) -> None:
        """Measure the next block."""
        if not len(block):
            return
        self._frames += len(block)
        self._sample_peak = max(self._sample_peak, float(block.max()), -float(block.min()))
        self._consume(np.concatenate([self._held, block]))

    def _consume(self, sound: NDArray[np.float32]) -> None:
        cells = max(0, len(sound) - TAPS) // CELL_FRAMES
        frames = cells * CELL_FRAMES
        if cells:
            energy = np.zeros(cells)
            _energy_cells(
                sound[_HALF : _HALF + frames], self._sos, self._state, CELL_FRAMES, energy
            )
            track = np.empty(frames, np.float32)
            careful = self._top if self._careful_above is None else self._careful_above
            peak_track(sound[: frames + TAPS], PHASES, BOUND, careful, track)
            peak = track.reshape(cells, CELL_FRAMES).max(axis=1)
            self._top = max(self._top, float(peak.max()))
            self._energy.add(energy.astype(np.float32))
            self._peak.add(peak)
        self._held = sound[frames:].copy()

    def profile(self) -> Profile:
        """What was measured so far, the last part of a millisecond filled up with silence."""
        pad = np.zeros((TAPS + CELL_FRAMES, self._channels), np.float32)
        held, state = self._held, self._state.copy()
        known = self._energy.count
        self._consume(np.concatenate([held, pad]))
        self._held, self._state = held, state
        cells = -(-self._frames // CELL_FRAMES)
        energy, peak = (one.taken(cells, known) for one in (self._energy, self._peak))
        return Profile(energy, peak, self._sample_peak)


@dataclass(frozen=True, slots=True)
class Measurement:
    """The figures of a programme. Loudness is None where nothing is above −70 LUFS (or the sound
    is shorter than the window it needs), peaks are None for digital silence."""

    duration_s: float
    integrated_lufs: float | None
    loudness_range_lu: float | None
    max_momentary_lufs: float | None
    max_short_term_lufs: float | None
    true_peak_dbtp: float | None
    sample_peak_dbfs: float | None


def measure(meter: Meter) -> Measurement:
    """All figures of what went through ``meter``.

    >>> second = np.sin(2 * np.pi * 997 * np.arange(48_000) / 48_000).astype(np.float32)
    >>> meter = Meter(1)
    >>> for _ in range(4):
    ...     meter.push(second[:, None])
    >>> round(measure(meter).integrated_lufs, 2)
    -3.01
    """
    profile = meter.profile()
    momentary = momentary_lufs(profile.energy)
    short = short_term_lufs(profile.energy)
    top = max(float(profile.peak.max(initial=0.0)), profile.sample_peak)
    return Measurement(
        duration_s=meter._frames / FRAME_RATE,
        integrated_lufs=integrated_loudness(profile.energy),
        loudness_range_lu=loudness_range(profile.energy),
        max_momentary_lufs=_finite(momentary.max(initial=-np.inf)),
        max_short_term_lufs=_finite(short.max(initial=-np.inf)),
        true_peak_dbtp=_db(top),
        sample_peak_dbfs=_db(profile.sample_peak),
    )


def _finite(value: float) -> float | None:
    return float(value) if value > -100.0 else None


def _db(value: float) -> float | None:
    return float(20.0 * np.log10(value)) if value > 1e-7 else None


def _windows(energy: NDArray[np.float32], hops: int) -> NDArray[np.float64]:
    """Mean square in windows of ``hops`` × 100 ms, every 100 ms, whole windows only."""
    whole = len(energy) // _HOP_CELLS
    if whole < hops:
        return np.zeros(0)
    sums = energy[: whole * _HOP_CELLS].reshape(whole, _HOP_CELLS).sum(axis=1, dtype=np.float64)
    running = np.concatenate([[0.0], np.cumsum(sums)])
    windows = running[hops:] - running[:-hops]
    return np.asarray(np.maximum(windows, 0.0) / (hops * _HOP_CELLS * CELL_FRAMES))


def lufs(mean_square: NDArray[np.float64]) -> NDArray[np.float64]:
    """Loudness (LUFS) of K-weighted mean squares, summed over channels (BS.1770-5).

    >>> lufs(np.array([0.5, 0.05])).round(2).tolist()
    [-3.7, -13.7]
    """
    return np.asarray(_OFFSET_DB + 10.0 * np.log10(np.maximum(mean_square, 1e-20)))


def momentary_lufs(energy: NDArray[np.float32]) -> NDArray[np.float64]:
    """Momentary loudness (400 ms) every 100 ms; the first value covers 0–0.4 s. Tech 3341.

    >>> cells = np.full(2000, 24.0, np.float32)  # two seconds: a sum of 48 squares each
    >>> momentary_lufs(cells).round(2).tolist()[:2], len(momentary_lufs(cells))
    ([-3.7, -3.7], 17)
    """
    return lufs(_windows(energy, 4))


def short_term_lufs(energy: NDArray[np.float32]) -> NDArray[np.float64]:
    """Short-term loudness (3 s) every 100 ms; the first value covers 0–3 s. Tech 3341.

    >>> short_term_lufs(np.full(4000, 24.0, np.float32)).round(2).tolist()[:2]
    [-3.7, -3.7]
    """
    return lufs(_windows(energy, 30))


def integrated_loudness(energy: NDArray[np.float32]) -> float | None:
    """Gated loudness in LUFS: 400 ms blocks, 75 % overlap, −70 LUFS and −10 LU gates (BS.1770-5).

    None where no block passes the absolute gate.

    >>> loud, faint = np.full(4000, 24.0, np.float32), np.full(4000, 0.024, np.float32)
    >>> round(integrated_loudness(np.concatenate([loud, faint])), 1)  # the faint half is gated out
    -3.9
    >>> integrated_loudness(np.zeros(4000, np.float32)) is None
    True
    """
    blocks = _windows(energy, 4)
    blocks = blocks[lufs(blocks) > -70.0]
    if not len(blocks):
        return None
    relative = lufs(blocks.mean(keepdims=True))[0] - 10.0
    return float(lufs(blocks[lufs(blocks) > relative].mean(keepdims=True))[0])


def section_loudness(
    energy: NDArray[np.float32], start_frames: Sequence[int]
) -> tuple[float | None, ...]:
    """Integrated loudness of each section; ``start_frames``: where each begins, the first at 0.

    >>> energy = np.concatenate([np.full(4000, 24.0), np.full(4000, 2.4)]).astype(np.float32)
    >>> [round(one, 1) for one in section_loudness(energy, [0, 4 * 48_000])]
    [-3.7, -13.7]
    """
    cells = [*(start // CELL_FRAMES for start in start_frames), len(energy)]
    return tuple(integrated_loudness(energy[a:b]) for a, b in itertools.pairwise(cells))


def loudness_over_time(energy: NDArray[np.float32], most: int = 240) -> tuple[float | None, ...]:
    """Short-term loudness (3 s, Tech 3341) of at most ``most`` equal stretches, in LUFS,
    the loudest of each; None where nothing is above −70 LUFS.

    >>> energy = np.concatenate([np.full(6000, 24.0), np.zeros(6000)]).astype(np.float32)
    >>> loudness_over_time(energy, most=3)
    (-3.7, -3.7, None)
    """
    short = short_term_lufs(energy)
    count = min(most, len(short))
    if not count:
        return ()
    starts = np.arange(count) * len(short) // count
    loudest = np.maximum.reduceat(short, starts)
    return tuple(round(float(value), 1) if value > -70.0 else None for value in loudest)


def loudness_range(energy: NDArray[np.float32]) -> float | None:
    """Loudness range in LU: 10th to 95th percentile of gated short-term loudness (Tech 3342).

    >>> energy = np.concatenate([np.full(20_000, 24.0), np.full(20_000, 2.4)]).astype(np.float32)
    >>> round(loudness_range(energy), 1)
    10.0
    """
    blocks = _windows(energy, 30)
    blocks = blocks[lufs(blocks) > -70.0]
    if not len(blocks):
        return None
    loud = lufs(blocks)
    kept = np.sort(loud[loud > lufs(blocks.mean(keepdims=True))[0] - 20.0])
    low, high = np.round((len(kept) - 1) * np.array([0.10, 0.95])).astype(int)
    return float(kept[high] - kept[low])
