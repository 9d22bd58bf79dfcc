"""The skyline of a timeline: peak and RMS of each track, read from the pyramids of its takes."""

import bisect
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media.peaks import Peaks
from airtrim.core.timeline.model import Timeline


def skyline(
    timeline: Timeline, peaks: Callable[[str], Peaks], start: int, frames: int, columns: int
) -> NDArray[np.float32]:
    """Peak and RMS of every track over ``columns`` equal columns from ``start``.

    Returns shape ``(tracks, 2, columns)``, linear, full scale 1.0, 0 where there is no sound.
    A column that a clip covers in part shows the part.
    """
    out = np.zeros((len(timeline.tracks), 2, columns), np.float32)
    edges = start + np.round(np.arange(columns + 1) * (frames / columns)).astype(np.int64)
    edges[1:] = np.maximum(edges[1:], edges[:-1] + 1)
    for row, track in enumerate(timeline.tracks):
        first = bisect.bisect_right(track.clips, start, key=lambda clip: clip.end)
        for clip in track.clips[first:]:
            if clip.at >= start + frames:
                break
            low = int(np.searchsorted(edges, clip.at, side="right")) - 1
            high = int(np.searchsorted(edges, clip.end, side="left"))
            low, high = max(0, low), min(columns, high)
            if low >= high:
                continue
            part = np.clip(edges[low : high + 1], clip.at, clip.end) - clip.at + clip.start
            found = peaks(clip.take).columns(int(part[0]), int(part[-1] - part[0]), part)
            gain = np.float32(10.0 ** (clip.gain_db / 20.0))
            np.maximum(out[row, :, low:high], found.T * gain, out=out[row, :, low:high])
    return out
