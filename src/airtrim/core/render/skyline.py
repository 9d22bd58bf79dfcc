"""The skyline of a timeline: peak and RMS of each track, read from the pyramids of its takes."""

from collections.abc import Callable
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media.peaks import BIN_FRAMES, Columns, numbered
from airtrim.core.timeline.clips import Clips
from airtrim.core.timeline.model import Timeline


class Sounding(Protocol):
    """What a picture of the wave needs of a take."""

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """Sound of shape ``(frames, channels)``."""
        ...


def skyline(
    timeline: Timeline, peaks: Callable[[str], Columns], start: int, frames: int, columns: int
) -> NDArray[np.float32]:
    """Peak and RMS of every track over ``columns`` equal columns from ``start``.

    Returns shape ``(tracks, 2, columns)``, linear, full scale 1.0, 0 where there is no sound.
    A column that a clip covers in part shows the part.
    """
    out = np.zeros((len(timeline.tracks), 2, columns), np.float32)
    if frames >= columns * 8 * BIN_FRAMES[2]:
        for row, track in enumerate(timeline.tracks):
            _coarse(track.clips.between(start, start + frames), peaks, start, frames, out[row])
        return out
    edges = start + np.round(np.arange(columns + 1) * (frames / columns)).astype(np.int64)
    edges[1:] = np.maximum(edges[1:], edges[:-1] + 1)
    for row, track in enumerate(timeline.tracks):
        _fine(track.clips.between(start, start + frames), peaks, edges, out[row])
    return out


def _fine(
    clips: Clips,
    peaks: Callable[[str], Columns],
    edges: NDArray[np.int64],
    out: NDArray[np.float32],
) -> None:
    """One track where a column holds few bins: every part of a clip that falls into a column, all
    clips of a take at once."""
    energy, weight = np.zeros(out.shape[1]), np.zeros(out.shape[1])
    for take in clips.takes:
        (begins, lengths, at), gain_db = clips.of(take)
        low = np.maximum(np.searchsorted(edges, at, side="right") - 1, 0)
        high = np.minimum(np.searchsorted(edges, at + lengths, side="left"), out.shape[1])
        count = np.maximum(high - low, 0)
        column = numbered(low, count)
        clip = np.repeat(np.arange(len(count)), count)
        into = (begins - at)[clip]
        starts = np.maximum(edges[column], at[clip]) + into
        ends = np.minimum(edges[column + 1], (at + lengths)[clip]) + into
        gain = (10.0 ** (gain_db / 20.0))[clip].astype(np.float32)
        found = peaks(take).columns(starts, ends) * gain[:, None]
        np.maximum.at(out[0], column, found[:, 0])
        power = np.square(found[:, 1], dtype=np.float64) * (ends - starts)
        energy += np.bincount(column, power, out.shape[1])
        weight += np.bincount(column, ends - starts, out.shape[1])
    out[1] = np.sqrt(energy / np.maximum(weight, 1.0))


def _coarse(
    clips: Clips,
    peaks: Callable[[str], Columns],
    start: int,
    frames: int,
    out: NDArray[np.float32],
) -> None:
    """One track where a column holds many bins: all clips of a take at once, a bin of 4096 frames
    counted wholly to the column that its middle falls in."""
    size = BIN_FRAMES[2]
    columns = out.shape[1]
    energy, weight = np.zeros(columns), np.zeros(columns)
    for take in clips.takes:
        (begins, lengths, at), gain_db = clips.of(take)
        first = begins // size
        count = -(-(begins + lengths) // size) - first
        bins = numbered(first, count)
        shift = np.repeat(at - begins, count)
        gain = np.repeat(10.0 ** (gain_db / 20.0), count)
        middle = bins * size + size // 2 + shift
        place = np.clip((middle - start) * columns // frames, 0, columns - 1)
        found = peaks(take).columns(bins * size, (bins + 1) * size) * gain[:, None]
        np.maximum.at(out[0], place, found[:, 0].astype(np.float32))
        energy += np.bincount(place, np.square(found[:, 1], dtype=np.float64), columns)
        weight += np.bincount(place, minlength=columns)
    out[1] = np.sqrt(energy / np.maximum(weight, 1.0))


def waveform(
    timeline: Timeline,
    takes: Callable[[str], Sounding],
    start: int,
    frames: int,
    columns: int,
) -> NDArray[np.float32]:
    """Lowest and highest sample of every track over ``columns`` equal columns from ``start``, of
    the channels together, with the gain of clips and without fades.

    Returns shape ``(tracks, 2, columns)``, full scale 1.0."""
    out = np.zeros((len(timeline.tracks), 2, columns), np.float32)
    edges = np.round(np.arange(columns) * (frames / columns)).astype(np.int64)
    edges = np.minimum(edges, frames - 1)  # where there are more columns than frames
    for row, track in enumerate(timeline.tracks):
        clips = track.clips.between(start, start + frames)
        if not len(clips):
            continue
        low = np.zeros(frames, np.float32)
        high = np.zeros(frames, np.float32)
        for clip in clips:
            first, last = max(start, clip.at), min(start + frames, clip.end)
            sound = takes(clip.take).read(clip.start + first - clip.at, last - first)
            sound = sound * np.float32(10.0 ** (clip.gain_db / 20.0))
            low[first - start : last - start] = sound.min(axis=1)
            high[first - start : last - start] = sound.max(axis=1)
        out[row, 0] = np.minimum.reduceat(low, edges)
        out[row, 1] = np.maximum.reduceat(high, edges)
    return out
