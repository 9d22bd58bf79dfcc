"""A recording with its room taken out, as a take of its own.

Its name says of what, how, by which room tone, and how much, so a document holds nothing but the
settings of its tracks.
"""

from dataclasses import dataclass

from airtrim.core.timeline.chain import Noise, NoiseMethod
from airtrim.core.timeline.model import Span, Timeline
from airtrim.core.timeline.tone import is_tone

_MARK = "clean/"
FOUND = (0, 0)
"""Start and length that stand for the room tone which is found in the take."""


@dataclass(frozen=True, slots=True)
class Cleaning:
    """What a take is cleaned by. ``tone`` is the room tone that was chosen for the steady method,
    None for the one that is found; the learnt method needs none."""

    take: str
    method: NoiseMethod
    tone: Span | None = None


def cleaning(take: str, noise: Noise, tone: Span | None) -> Cleaning:
    """How a take is cleaned on a track; ``tone``: the one chosen for the take, if one was."""
    return Cleaning(take, noise.method, tone if noise.method == "steady" else None)


def needed(timeline: Timeline) -> list[Cleaning]:
    """Every recording that a track with noise reduction holds, each way once."""
    return sorted(
        {
            cleaning(take, track.chain.noise, timeline.room_tones.get(take))
            for track in timeline.tracks
            if track.chain.noise.on
            for take in track.clips.takes
            if not is_tone(take)
        },
        key=str,
    )


def is_cleaned(take: str) -> bool:
    """Whether a take is a recording with its room taken out."""
    return take.startswith(_MARK)


def cleaned_name(of: Cleaning, strength: float) -> str:
    """The name of a cleaned take.

    >>> cleaned_name(Cleaning("abc", "learnt"), 0.5)
    'clean/abc/learnt/0/0/0.5'
    """
    start, frames = (of.tone.start, of.tone.frames) if of.tone else FOUND
    return f"{_MARK}{of.take}/{of.method}/{start}/{frames}/{strength}"


def cleaned_of(name: str) -> tuple[Cleaning, float]:
    """How it is cleaned, and the strength, that a name tells."""
    _, take, method, start, frames, strength = name.split("/")
    tone = Span(take, int(start), int(frames))
    how: NoiseMethod = "learnt" if method == "learnt" else "steady"
    return Cleaning(take, how, tone if tone.frames else None), float(strength)
