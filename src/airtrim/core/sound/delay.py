"""How long sound takes from the player through loudspeaker, air and microphone into a recording."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.errors import BadInput

SWEEPS = 3
SPACING_FRAMES = FRAME_RATE // 2
LONGEST_DELAY_FRAMES = SPACING_FRAMES
_SWEEP_FRAMES = FRAME_RATE // 5
_SWEEP_HZ = (300.0, 6000.0)
_STANDS_OUT = 8.0
_AGREE_FRAMES = FRAME_RATE // 200


@dataclass(frozen=True, slots=True)
class Delay:
    """``frames`` from being played to being recorded."""

    frames: int


@lru_cache(maxsize=1)
def _sweep() -> NDArray[np.float32]:
    time = np.arange(_SWEEP_FRAMES) / FRAME_RATE
    length = _SWEEP_FRAMES / FRAME_RATE
    low, high = _SWEEP_HZ
    phase = 2 * np.pi * (low * time + (high - low) * time**2 / (2 * length))
    return np.asarray(0.4 * np.sin(phase) * np.hanning(_SWEEP_FRAMES), np.float32)


def probe() -> NDArray[np.float32]:
    """What is played: three sweeps from 300 to 6000 Hz, half a second from start to start, then
    half a second of silence; shape ``(frames, 1)``. A sweep stands out of noise and echo better
    than a click (Farina 2000)."""
    out = np.zeros((SWEEPS + 1) * SPACING_FRAMES, np.float32)
    for number in range(SWEEPS):
        at = number * SPACING_FRAMES
        out[at : at + _SWEEP_FRAMES] = _sweep()
    return out[:, None]


def find_delay(sound: NDArray[np.float32]) -> Delay:
    """The delay in ``sound``, shape ``(frames, 1)``, recorded from the frame on which ``probe()``
    began to play: the median of its sweeps, each found by matched filter.

    Delays up to half a second are found. Raises BadInput where the sweeps are not heard, or not
    half a second apart.

    >>> late = np.concatenate([np.zeros((4_800, 1), np.float32), probe()])
    >>> find_delay(late)
    Delay(frames=4800)
    """
    from scipy.signal import correlate  # slow to import, and seldom needed

    if len(sound) < SWEEPS * SPACING_FRAMES + _SWEEP_FRAMES:
        raise BadInput("That is too short to measure the delay in.")
    match = np.abs(correlate(sound[:, 0].astype(np.float64), _sweep(), "valid"))
    floor = float(np.median(match)) + 1e-9
    found = []
    for number in range(SWEEPS):
        window = match[number * SPACING_FRAMES :][:LONGEST_DELAY_FRAMES]
        if len(window) and window.max() > _STANDS_OUT * floor and window.max() > 1e-3:
            found.append(int(np.argmax(window)))
    middle = int(np.median(found)) if found else 0
    if sum(abs(delay - middle) <= _AGREE_FRAMES for delay in found) < SWEEPS - 1:
        raise BadInput(
            "The sweeps were not heard. Turn the loudspeaker up, or hold the headphones to the "
            "microphone, and measure again."
        )
    return Delay(middle)
