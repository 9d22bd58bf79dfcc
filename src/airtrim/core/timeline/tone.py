"""Room tone as a take of its own: endless, made from a span of a recording.

Its name says what it is made of, so a document that holds it needs nothing else.
"""

from airtrim.core.timeline.clips import Clip
from airtrim.core.timeline.model import Span, Timeline

_MARK = "tone/"
_LEAD_FRAMES = 48_000
"""Clips of it begin a second in, so that there is sound to cross with before them."""


def is_tone(take: str) -> bool:
    """Whether a take is room tone made up."""
    return take.startswith(_MARK)


def voice_takes(timeline: Timeline) -> set[str]:
    """The recordings that stand on tracks of voices."""
    return {
        take
        for track in timeline.tracks
        if track.kind == "voice"
        for take in track.clips.takes
        if not is_tone(take)
    }


def tone_name(tone: Span, seed: int) -> str:
    """The take of room tone like ``tone``; each ``seed`` is another stretch of it."""
    return f"{_MARK}{tone.take}/{tone.start}/{tone.frames}/{seed}"


def tone_of(take: str) -> tuple[Span, int]:
    """What room tone is made of, and its seed."""
    _, source, start, frames, seed = take.split("/")
    return Span(source, int(start), int(frames)), int(seed)


def tone_clip(tone: Span, seed: int, at: int, frames: int) -> Clip:
    """A clip of room tone."""
    return Clip(tone_name(tone, seed), _LEAD_FRAMES, frames, at)
