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
_MOST_WAV_BYTES = 0xFFFF_0000


def estimated_bytes(kind: FileFormat, frames: int, channels: int, kbits: int) -> int:
    """Size of the finished sound (tags and artwork not counted)."""
    seconds = frames / FRAME_RATE
    return round(seconds * kbits * 125) if kind == "mp3" else 44 + frames * channels * 3


def needs_rf64(frames: int, channels: int) -> bool:
    """Whether a 24-bit file is longer than the 32 bits of a WAV header can tell (EBU Tech 3306)."""
    return frames * channels * 3 > _MOST_WAV_BYTES


def write_wav(blocks: Iterator[Sound], path: Path, *, frames: int, channels: int) -> None:
    """Write ``frames`` of 48 kHz ``blocks`` as 24-bit WAV, as RF64 over 4 GB."""
    form = "RF64" if needs_rf64(frames, channels) else "WAV"
    with soundfile.SoundFile(
        str(path), "w", FRAME_RATE, channels, format=form, subtype="PCM_24"
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
