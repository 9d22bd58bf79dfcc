"""Moving the edges of a cut to where it will not be heard."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from airtrim.core.timeline.edits import Cut

SNAP_FRAMES = 1440
"""30 ms either way."""

_WINDOW = 240


def quietest_offset(sound: NDArray[np.float32]) -> int:
    """Index of the quietest moment in ``sound``, shape ``(2 * SNAP_FRAMES + 1, channels)``.

    Energy in a sliding 5 ms window; among moments within 1 dB of the quietest the one nearest to
    the middle is taken, so that an edge in even silence stays where the host put it.
    """
    power = np.sum(np.square(sound, dtype=np.float64), axis=1)
    padded = np.pad(power, (_WINDOW // 2, _WINDOW - _WINDOW // 2 - 1), mode="edge")
    energy = np.convolve(padded, np.ones(_WINDOW), mode="valid") + 1e-12
    near_enough = np.flatnonzero(energy <= energy.min() * 10**0.1)
    middle = len(energy) // 2
    return int(near_enough[np.argmin(np.abs(near_enough - middle))])


def snapped_cut(
    cut: Cut, timeline_frames: int, read: Callable[[int, int], NDArray[np.float32]]
) -> Cut:
    """``cut`` with both edges at the quietest moment within 30 ms.

    ``read(start, frames)`` gives the sound of the timeline. An edge within 30 ms of either end of
    the episode stays where it is.
    """

    def settle(frame: int) -> int:
        if frame < SNAP_FRAMES or frame > timeline_frames - SNAP_FRAMES:
            return frame
        around = read(frame - SNAP_FRAMES, 2 * SNAP_FRAMES + 1)
        return frame - SNAP_FRAMES + quietest_offset(around)

    start, end = settle(cut.start), settle(cut.start + cut.frames)
    if end <= start:
        return cut
    return cut.model_copy(update={"start": start, "frames": end - start})
