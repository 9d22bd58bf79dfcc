"""True peak by four-times oversampling (ITU-R BS.1770-5, Annex 2, with our own filter)."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

TAPS = 24
"""Taps of each phase. The filter sees ``TAPS // 2`` frames to either side."""

OVERSAMPLING = 4


def _phases() -> NDArray[np.float32]:
    """Polyphase interpolation filter, shape ``(4, TAPS)``; phase 0 passes samples through."""
    length = OVERSAMPLING * TAPS
    time = np.arange(length) - length // 2
    taps = np.sinc(time / OVERSAMPLING) * np.kaiser(length + 1, 7.0)[:-1]
    phases = taps.reshape(TAPS, OVERSAMPLING).T[:, ::-1]
    return np.ascontiguousarray(phases / phases.sum(axis=1, keepdims=True), np.float32)


PHASES = _phases()
BOUND = float(np.abs(PHASES).sum(axis=1).max())
"""No interpolated value can exceed the largest neighbouring sample times this."""


_BLOCK = 64


@njit(cache=True, nogil=True, fastmath=True)
def peak_track(
    sound: NDArray[np.float32],
    phases: NDArray[np.float32],
    bound: float,
    careful_above: float,
    out: NDArray[np.float32],
) -> None:
    """True peak around each frame, the loudest channel, into ``out``.

    ``sound`` has shape ``(frames + TAPS, channels)``: ``TAPS // 2`` frames of context at either
    end. ``out[i]`` is the largest magnitude from frame i up to frame i + 1. Where no interpolated
    value can exceed ``careful_above`` (linear) the sample peak stands in for it.
    """
    taps = phases.shape[1]
    half = taps // 2
    frames = len(out)
    part = np.empty(_BLOCK + taps, np.float32)
    value = np.empty(_BLOCK, np.float32)
    for begin in range(0, frames, _BLOCK):
        count = min(_BLOCK, frames - begin)
        for i in range(count):
            out[begin + i] = 0.0
        for channel in range(sound.shape[1]):
            near = np.float32(0.0)
            for j in range(count + taps):
                part[j] = sound[begin + j, channel]
                near = max(near, abs(part[j]))
            for i in range(count):
                out[begin + i] = max(out[begin + i], abs(part[i + half]))
            if near * bound <= careful_above:
                continue
            for phase in range(1, 4):
                for i in range(count):
                    value[i] = 0.0
                for tap in range(taps):
                    weight = phases[phase, tap]
                    for i in range(count):
                        value[i] += weight * part[i + tap + 1]
                for i in range(count):
                    out[begin + i] = max(out[begin + i], abs(value[i]))
