"""Second-order filters: their designs, their response, and a kernel that runs them.

Shelves, peaks and notches are those of R. Bristow-Johnson's "Cookbook formulae for audio equalizer
biquad filter coefficients"; the low cut is a Butterworth high-pass of fourth order.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.chain import Band, Chain, Hum, LowCut

Rows = NDArray[np.float64]
"""Sections, shape ``(n, 6)``, rows ``b0 b1 b2 1 a1 a2``."""

HUM_Q = 35.0
_BUTTERWORTH_4 = (0.54119610, 1.30656296)


def band_row(band: Band) -> Rows:
    """A band as one section, shape ``(1, 6)``.

    >>> row = band_row(Band("peak", 1000.0, -6.0))
    >>> response_db(row, np.array([1000.0])).round(2).tolist()
    [-6.0]
    """
    w = 2.0 * np.pi * band.hz / FRAME_RATE
    cos, alpha = np.cos(w), np.sin(w) / (2.0 * band.q)
    a = 10.0 ** (band.gain_db / 40.0)
    if band.kind == "peak":
        row = [1 + alpha * a, -2 * cos, 1 - alpha * a, 1 + alpha / a, -2 * cos, 1 - alpha / a]
    elif band.kind == "notch":
        row = [1.0, -2 * cos, 1.0, 1 + alpha, -2 * cos, 1 - alpha]
    else:
        side = 1.0 if band.kind == "low_shelf" else -1.0
        root = 2.0 * np.sqrt(a) * alpha
        row = [
            a * ((a + 1) - side * (a - 1) * cos + root),
            side * 2 * a * ((a - 1) - side * (a + 1) * cos),
            a * ((a + 1) - side * (a - 1) * cos - root),
            (a + 1) + side * (a - 1) * cos + root,
            side * -2 * ((a - 1) + side * (a + 1) * cos),
            (a + 1) + side * (a - 1) * cos - root,
        ]
    return np.asarray(np.array([row]) / row[3])


def low_cut_rows(cut: LowCut) -> Rows:
    """A low cut as two sections.

    >>> rows = low_cut_rows(LowCut(hz=80.0))
    >>> (response_db(rows, np.array([20.0, 80.0, 1000.0])).round(1) + 0.0).tolist()
    [-48.2, -3.0, 0.0]
    """
    w = 2.0 * np.pi * cut.hz / FRAME_RATE
    cos = np.cos(w)
    rows = []
    for q in _BUTTERWORTH_4:
        alpha = np.sin(w) / (2.0 * q)
        row = np.array([(1 + cos) / 2, -(1 + cos), (1 + cos) / 2, 1 + alpha, -2 * cos, 1 - alpha])
        rows.append(row / row[3])
    return np.array(rows)


def hum_rows(hum: Hum) -> Rows:
    """Notches on the hum and its harmonics, each as narrow in hertz as the first.

    >>> rows = hum_rows(Hum(on=True, hz=50.0))
    >>> bool(response_db(rows, np.array([50.0]))[0] < -40.0)
    True
    """
    harmonics = range(1, hum.highest + 1)
    return np.concatenate(
        [band_row(Band("notch", hum.hz * n, q=min(HUM_Q * n, 400.0))) for n in harmonics]
    )


def linear_rows(chain: Chain) -> Rows:
    """All filters of a chain that are on, one after another.

    >>> from airtrim.core.timeline.chain import LowCut
    >>> rows = linear_rows(Chain(low_cut=LowCut(True, 80.0)))
    >>> response_db(rows, np.array([80.0, 1000.0])).round(1).tolist()
    [-3.0, -0.0]
    """
    rows = [np.zeros((0, 6))]
    if chain.hum.on:
        rows.append(hum_rows(chain.hum))
    if chain.low_cut.on:
        rows.append(low_cut_rows(chain.low_cut))
    rows += [band_row(band) for band in chain.bands if band.on]
    return np.concatenate(rows)


def response_db(rows: Rows, hertz: NDArray[np.float64]) -> NDArray[np.float64]:
    """Gain in dB of sections one after another, at frequencies in hertz.

    >>> response_db(band_row(Band("peak", 200.0, 3.0)), np.array([200.0])).round(2).tolist()
    [3.0]
    """
    z = np.exp(-2j * np.pi * np.asarray(hertz) / FRAME_RATE)
    total = np.ones(len(z), np.complex128)
    for b0, b1, b2, _, a1, a2 in rows:
        total *= (b0 + b1 * z + b2 * z**2) / (1.0 + a1 * z + a2 * z**2)
    return np.asarray(20.0 * np.log10(np.maximum(np.abs(total), 1e-10)))


def settling_frames(rows: Rows) -> int:
    """Frames after which every section has forgotten its past to below −100 dB."""
    radius = max((float(np.abs(np.roots(row[3:])).max()) for row in rows), default=0.0)
    if radius <= 0.0:
        return 0
    return min(10 * FRAME_RATE, int(np.ceil(-5.0 * np.log(10.0) / np.log(min(radius, 0.99999)))))


@njit(cache=True, nogil=True)
def _pairs(
    sound: NDArray[np.float32], rows: NDArray[np.float64], state: NDArray[np.float64]
) -> None:
    """Sections two at a time, so that the second of a pair works while the first goes on."""
    for channel in range(sound.shape[1]):
        for pair in range(0, len(rows), 2):
            b0, b1, b2, a1, a2 = (
                rows[pair, 0],
                rows[pair, 1],
                rows[pair, 2],
                rows[pair, 4],
                rows[pair, 5],
            )
            d0, d1, d2, c1, c2 = (
                rows[pair + 1, 0],
                rows[pair + 1, 1],
                rows[pair + 1, 2],
                rows[pair + 1, 4],
                rows[pair + 1, 5],
            )
            s0, s1 = state[channel, pair]
            t0, t1 = state[channel, pair + 1]
            for i in range(len(sound)):
                x = sound[i, channel]
                y = b0 * x + s0
                s0 = b1 * x - a1 * y + s1
                s1 = b2 * x - a2 * y
                z = d0 * y + t0
                t0 = d1 * y - c1 * z + t1
                t1 = d2 * y - c2 * z
                sound[i, channel] = z
            state[channel, pair, 0] = s0
            state[channel, pair, 1] = s1
            state[channel, pair + 1, 0] = t0
            state[channel, pair + 1, 1] = t1


class Filters:
    """Sections that sound streams through, block by block."""

    def __init__(self, rows: Rows, channels: int) -> None:
        if len(rows) % 2:
            rows = np.concatenate([rows, [[1.0, 0.0, 0.0, 1.0, 0.0, 0.0]]])
        self._rows = np.ascontiguousarray(rows)
        self._state = np.zeros((channels, len(rows), 2))

    def process(self, block: NDArray[np.float32]) -> None:
        """Filter ``(frames, channels)`` in place."""
        if len(self._rows):
            _pairs(block, self._rows, self._state)
