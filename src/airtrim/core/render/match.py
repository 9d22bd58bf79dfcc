"""A retake brought to the loudness of what surrounds it."""

from dataclasses import replace

from airtrim.core.loudness.meter import Meter, integrated_loudness
from airtrim.core.media import FRAME_RATE
from airtrim.core.render.graph import BLOCK_FRAMES, Mix, Takes, as_recorded
from airtrim.core.timeline.clips import Clip, Clips
from airtrim.core.timeline.model import Timeline, Track

SURROUNDINGS_FRAMES = 10 * FRAME_RATE
MOST_GAIN_DB = 12.0


def matching_gain(timeline: Timeline, takes: Takes, at: int, frames: int, take: str) -> float:
    """Gain in dB, at most ±12, for ``take`` to be as loud as the sound around ``frames`` from
    ``at``: what it replaces and ten seconds to either side, before levelling (gated loudness,
    BS.1770-5). 0 where either has nothing above −70 LUFS."""
    new = replace(
        timeline,
        tracks=(Track("new", "new", "voice", Clips([Clip(take, 0, takes(take).frames, 0)])),),
    )
    first, last = max(0, at - SURROUNDINGS_FRAMES), at + frames + SURROUNDINGS_FRAMES
    around = _loudness(as_recorded(timeline), takes, first, min(timeline.frames, last))
    own = _loudness(new, takes, 0, new.frames)
    if around is None or own is None:
        return 0.0
    return round(max(-MOST_GAIN_DB, min(MOST_GAIN_DB, around - own)), 2)


def _loudness(timeline: Timeline, takes: Takes, start: int, stop: int) -> float | None:
    mix = Mix(timeline, takes)
    meter = Meter(timeline.loudness.channels)
    for at in range(start, stop, BLOCK_FRAMES):
        meter.push(mix.read(at, min(BLOCK_FRAMES, stop - at)))
    return integrated_loudness(meter.profile().energy)
