"""The loudness of finished files."""

from collections.abc import Callable
from pathlib import Path

from airtrim.core.loudness.meter import Meter
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.ahead import ahead
from airtrim.core.media.decode import at_frame_rate, decode, probe


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
