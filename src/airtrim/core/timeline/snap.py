"""Moving the edges of a cut to where it will not be heard: never through half a breath, and to the
quietest moment nearby."""

from collections.abc import Callable, Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import PlacedWord, TakeWords, gap_near, words_on

SNAP_FRAMES = 1440
"""30 ms either way."""
BREATH_REACH_FRAMES = FRAME_RATE
"""How far from an edge the pause that it lies in is looked at."""

_WINDOW = 240
_STEP = FRAME_RATE // 100
_BREATH_S = (0.08, 1.0)
_OVER_ROOM_DB = 6.0

Read = Callable[[int, int], NDArray[np.float32]]
"""Sound of the timeline: ``read(start, frames)``."""


def quietest_offset(sound: NDArray[np.float32]) -> int:
    """Index of the quietest moment in ``sound``, shape ``(2 * SNAP_FRAMES + 1, channels)``.

    Energy in a sliding 5 ms window; among moments within 1 dB of the quietest the one nearest to
    the middle is taken, so that an edge in even silence stays where the host put it.

    >>> sound = np.ones((2 * SNAP_FRAMES + 1, 1), np.float32)
    >>> sound[2000:2600] = 0.0
    >>> 2000 <= quietest_offset(sound) < 2600
    True
    """
    power = np.sum(np.square(sound, dtype=np.float64), axis=1)
    padded = np.pad(power, (_WINDOW // 2, _WINDOW - _WINDOW // 2 - 1), mode="edge")
    energy = np.convolve(padded, np.ones(_WINDOW), mode="valid") + 1e-12
    near_enough = np.flatnonzero(energy <= energy.min() * 10**0.1)
    middle = len(energy) // 2
    return int(near_enough[np.argmin(np.abs(near_enough - middle))])


def runs(holds: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where something holds: from which index, up to which (not included).

    >>> runs(np.array([False, True, True, False, True]))
    [(1, 3), (4, 5)]
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[0], holds.astype(np.int8), [0]])))
    return [(start, end) for start, end in edges.reshape(-1, 2).tolist()]


def breaths(sound: NDArray[np.float32]) -> list[tuple[int, int]]:
    """Breaths in the sound of a pause, shape ``(frames, channels)``: stretches of 80 ms to 1 s that
    stand 6 dB or more over the room, as ``(start, end)`` in frames (common practice).

    The room is the quietest fifth of the pause. Levels are of 10 ms, smoothed over 50 ms.

    >>> rng = np.random.default_rng(1)
    >>> pause = rng.normal(0, 0.001, (48_000, 1)).astype(np.float32)
    >>> pause[20_000:32_000] *= 10
    >>> [(round(start / 4800), round(end / 4800)) for start, end in breaths(pause)]
    [(4, 7)]
    """
    count = len(sound) // _STEP
    if count < 10:
        return []
    power = np.square(sound[: count * _STEP], dtype=np.float64).mean(axis=1)
    level = power.reshape(count, _STEP).mean(axis=1) + 1e-12
    level = 10.0 * np.log10(np.convolve(np.pad(level, 2, mode="edge"), np.ones(5) / 5, "valid"))
    over = level > np.percentile(level, 20) + _OVER_ROOM_DB
    found = []
    for first, last in runs(over):
        if _BREATH_S[0] <= (last - first) / 100 <= _BREATH_S[1]:
            found.append((first * _STEP, last * _STEP))
    return found


def beside_breath(frame: int, words: Sequence[PlacedWord], read: Read, total: int) -> int:
    """``frame``, or where the breath that it would go through begins or ends, whichever is nearer.

    Only pauses between words are looked at: what sounds within a word is no breath.
    """
    gap_start, gap_end = gap_near(list(words), frame, BREATH_REACH_FRAMES)
    low, high = max(0, gap_start), min(total, gap_end)
    if not low < frame < high:
        return frame
    for start, end in breaths(read(low, high - low)):
        if low + start < frame < low + end:
            return low + start if frame - low - start <= low + end - frame else low + end
    return frame


def snapped(
    start: int,
    frames: int,
    total: int,
    read: Read,
    words: Callable[[int, int], Sequence[PlacedWord]],
) -> tuple[int, int]:
    """Start and frames of a cut in an episode of ``total`` frames, with both edges out of breaths
    and at the quietest moment within 30 ms. ``words(start, end)`` gives the words there.

    An edge within 30 ms of either end of the episode stays where it is.
    """

    def settle(frame: int) -> int:
        if frame < SNAP_FRAMES or frame > total - SNAP_FRAMES:
            return frame
        near = words(frame - BREATH_REACH_FRAMES, frame + BREATH_REACH_FRAMES)
        if near:
            frame = beside_breath(frame, near, read, total)
            if frame < SNAP_FRAMES or frame > total - SNAP_FRAMES:
                return frame
        around = read(frame - SNAP_FRAMES, 2 * SNAP_FRAMES + 1)
        return frame - SNAP_FRAMES + quietest_offset(around)

    low, high = settle(start), settle(start + frames)
    return (low, high - low) if high > low else (start, frames)


def unheard(
    timeline: Timeline, read: Read, words: TakeWords, spans: Iterable[tuple[int, int]]
) -> list[tuple[int, int]]:
    """Spans, as ``(start, frames)``, with their edges as ``snapped`` sets them in the sound that
    ``read`` gives. One beyond the end stays as it is: whoever cuts there is told."""

    def near(low: int, high: int) -> Sequence[PlacedWord]:
        return words_on(timeline, words, max(0, low), high)

    out = []
    for start, frames in spans:
        most = min(frames, timeline.frames - start)
        if most <= 0:
            out.append((start, frames))
        else:
            out.append(snapped(start, most, timeline.frames, read, near))
    return out
