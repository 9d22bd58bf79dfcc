"""Each track as a file of its own, all as long as the episode, so that they stand in time in any
other tool."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Literal

import numpy as np
import soundfile

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.ahead import ahead
from airtrim.core.render.graph import BLOCK_FRAMES, Mix, Sound, Takes, alone, levelling_curve
from airtrim.core.timeline.model import Timeline, Track
from airtrim.core.timeline.words import TakeWords

TrackForm = Literal["flac", "wav"]
"""FLAC at 24 bits, or WAV (RF64 where it is long) with floats."""

_MOST_WAV_BYTES = 0xFFFF_0000


def write_track(
    timeline: Timeline,
    track: Track,
    takes: Takes,
    words: TakeWords,
    path: Path,
    form: TrackForm,
    *,
    with_sound: bool,
    progress: Callable[[float], None] = lambda _: None,
) -> float:
    """Write a track from frame 0 to the episode's end; returns its peak in dBFS.

    Cut only, with its clips' own fades; ``with_sound`` as it goes into the mix: its chain, its gain
    over time, and what levels the sections. All of these together are the episode before its
    limiter. FLAC holds what is over full scale at full scale.
    """
    one = alone(timeline, track.id, treated=with_sound)
    mix = Mix(one, takes)
    curve = levelling_curve(timeline, words) if with_sound else None
    channels, total = timeline.loudness.channels, timeline.frames
    peak = 0.0

    def blocks() -> Iterator[Sound]:
        nonlocal peak
        for at in range(0, total, BLOCK_FRAMES):
            frames = min(BLOCK_FRAMES, total - at)
            block = mix.read(at, frames)
            if curve is not None:
                block = np.asarray(block * curve.linear_column(at, frames), np.float32)
            peak = max(peak, float(np.abs(block).max(initial=0.0)))
            yield block

    written = 0
    with _opened(path, form, total, channels) as out:
        for block in ahead(blocks()):
            out.write(np.clip(block, -1.0, 1.0) if form == "flac" else block)
            written += len(block)
            progress(written / total)
    return float(20.0 * np.log10(max(peak, 1e-6)))


def _opened(path: Path, form: TrackForm, frames: int, channels: int) -> soundfile.SoundFile:
    if form == "flac":
        kind, subtype = "FLAC", "PCM_24"
    else:
        kind = "RF64" if frames * channels * 4 > _MOST_WAV_BYTES else "WAV"
        subtype = "FLOAT"
    return soundfile.SoundFile(str(path), "w", FRAME_RATE, channels, format=kind, subtype=subtype)
