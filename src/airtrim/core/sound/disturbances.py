"""What a room hums and whistles, found in its pauses."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from airtrim.core.media import FRAME_RATE
from airtrim.core.sound.spectra import WINDOW_S, Mono, Power, decibels


@dataclass(frozen=True, slots=True)
class DisturbanceLimits:
    """What stands out of a room. Set on made-up rooms (``bench/sound``), lines of 50 and 60 Hz."""

    hum_db: float = 10.0
    """A line of hum stands out of what is 8 to 20 Hz beside it by more."""
    whistle_db: float = 12.0
    whistle_from_hz: float = 150.0
    whistle_to_hz: float = 14_000.0
    whistle_least_dbfs: float = -95.0
    most_whistles: int = 3
    apart_octaves: float = 0.08
    """What is nearer to a stronger one is the same."""


LIMITS = DisturbanceLimits()


@dataclass(frozen=True, slots=True)
class Whistle:
    """A narrow resonance: where it is, and how far it stands out of what is beside it."""

    hz: float
    over_db: float


@dataclass(frozen=True, slots=True)
class MainsHum:
    """Hum of the mains: its exact frequency, the level of its loudest line in dBFS (RMS of a sine),
    and the number of its highest line that stands out."""

    hz: float
    dbfs: float
    highest: int


def mains_hum(pauses: Sequence[Mono]) -> MainsHum | None:
    """The hum in pauses, each of which is one; those under half a second are left out.

    >>> time_s = np.arange(2 * FRAME_RATE) / FRAME_RATE
    >>> hiss = np.random.default_rng(1).normal(scale=1e-4, size=(20, len(time_s)))
    >>> found = mains_hum(list((hiss + 0.01 * np.sin(2 * np.pi * 60 * time_s)).astype(np.float32)))
    >>> round(found.hz, 1), round(found.dbfs)
    (60.0, -43)
    """
    from scipy.signal import periodogram

    size = 1 << 17  # 0.37 Hz
    pieces = [pause[: 2 * FRAME_RATE] for pause in pauses if len(pause) >= FRAME_RATE // 2][:20]
    spectra = [
        periodogram(piece, FRAME_RATE, "hann", nfft=size, detrend=False, scaling="spectrum")[1]
        for piece in pieces
    ]
    if not spectra or np.max(spectra) <= 0.0:
        return None
    level = decibels(np.mean(spectra, axis=0, dtype=np.float64))
    per_hz = size / FRAME_RATE

    def line(hertz: float) -> tuple[int, float]:
        """Where the line near a frequency peaks, and how far it stands out (dB)."""
        centre = round(hertz * per_hz)
        reach = max(4, round(0.01 * centre))
        peak = centre - reach + int(np.argmax(level[centre - reach : centre + reach + 1]))
        near, far = round(8 * per_hz), round(20 * per_hz)
        beside = np.concatenate([level[peak - far : peak - near], level[peak + near : peak + far]])
        return peak, float(level[peak] - np.median(beside))

    lines = {hz: [line(hz * n) for n in range(1, 13)] for hz in (50.0, 60.0)}
    hertz = max(lines, key=lambda hz: sum(max(0.0, over - 6.0) for _, over in lines[hz][:6]))
    clear = [n for n, (_, over) in enumerate(lines[hertz], 1) if over > LIMITS.hum_db]
    if not clear or (len(clear) < 2 and lines[hertz][0][1] < 1.5 * LIMITS.hum_db):
        return None
    exact = []
    for n in clear:
        peak = lines[hertz][n - 1][0]
        a, b, c = level[peak - 1 : peak + 2]
        exact.append((peak + 0.5 * (a - c) / (a - 2 * b + c)) / per_hz / n)
    found = min(max(float(np.average(exact, weights=clear)), 45.0), 65.0)
    loudest = max(float(level[peak]) for peak, _ in (lines[hertz][n - 1] for n in clear))
    return MainsHum(round(found, 2), round(loudest, 1), clear[-1])


def whistles_in(room: Power, hum_hz: float | None) -> tuple[Whistle, ...]:
    """The strongest narrow resonances of a room, lines of mains hum left out.

    >>> from airtrim.core.sound.spectra import power_of
    >>> time_s = np.arange(4 * FRAME_RATE) / FRAME_RATE
    >>> hiss = np.random.default_rng(1).normal(scale=1e-4, size=len(time_s))
    >>> room = (hiss + 0.01 * np.sin(2 * np.pi * 3000 * time_s)).astype(np.float32)
    >>> [one.hz for one in whistles_in(power_of(room), None)]
    [3000.0]
    """
    from scipy.signal import find_peaks

    level = decibels(room)
    if level.max() < -100.0:
        return ()
    found = []
    first, last = round(LIMITS.whistle_from_hz * WINDOW_S), round(LIMITS.whistle_to_hz * WINDOW_S)
    peaks, _ = find_peaks(level[:last], height=LIMITS.whistle_least_dbfs, distance=3)
    for k in (int(peak) for peak in peaks if peak >= first):
        reach = max(12, k // 12)
        beside = float(np.median(level[max(1, k - reach) : k + reach + 1]))
        over = float(level[k]) - beside
        hz = k / WINDOW_S
        harmonic = hum_hz and abs(hz / hum_hz - round(hz / hum_hz)) * hum_hz < 5.0 and hz < 1300
        if over > LIMITS.whistle_db and not harmonic:
            found.append(Whistle(round(hz, 1), round(over, 1)))
    found.sort(key=lambda one: -one.over_db)
    out: list[Whistle] = []
    for one in found:
        if all(abs(np.log2(one.hz / other.hz)) > LIMITS.apart_octaves for other in out):
            out.append(one)
    return tuple(out[: LIMITS.most_whistles])
