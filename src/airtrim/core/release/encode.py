"""Write finished sound to a file, and measure what was written."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Literal

import numpy as np
import soundfile
from numpy.typing import NDArray

from airtrim.core.loudness.meter import Meter
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.ahead import ahead
from airtrim.core.media.decode import at_frame_rate, decode, probe

Sound = NDArray[np.float32]
FileFormat = Literal["mp3", "wav"]


def estimated_bytes(kind: FileFormat, frames: int, channels: int, kbits: int) -> int:
    """Size of the finished sound (tags and artwork not counted)."""
    seconds = frames / FRAME_RATE
    return round(seconds * kbits * 125) if kind == "mp3" else 44 + frames * channels * 3


def write_wav(blocks: Iterator[Sound], path: Path, *, channels: int) -> None:
    """Write 48 kHz ``blocks`` as 24-bit WAV (RF64 where it grows over 4 GB)."""
    with soundfile.SoundFile(
        str(path), "w", FRAME_RATE, channels, format="WAV", subtype="PCM_24"
    ) as file:
        for block in ahead(blocks):
            file.write(block)


def meter_file(
    path: Path, name: str | None = None, progress: Callable[[float], None] = lambda _: None
) -> Meter:
    """Decode any sound file into a meter. Raises BadInput where it cannot be read."""
    info = probe(path, name)
    meter = Meter(info.channels)
    seconds = 0.0
    for block in at_frame_rate(ahead(decode(path, name)), info.sample_rate, info.channels):
        meter.push(block)
        seconds += len(block) / FRAME_RATE
        if info.duration_s:
            progress(min(1.0, seconds / info.duration_s))
    return meter
