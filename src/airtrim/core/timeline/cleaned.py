"""A recording with its room taken out, as a take of its own.

Its name says of what, by which room tone, and how much, so a document holds nothing but the
settings of its tracks.
"""

from airtrim.core.timeline.model import Span

_MARK = "clean/"
FOUND = (0, 0)
"""Start and length that stand for the room tone which is found in the take."""


def is_cleaned(take: str) -> bool:
    """Whether a take is a recording with its room taken out."""
    return take.startswith(_MARK)


def cleaned_name(take: str, tone: Span | None, strength: float) -> str:
    """The cleaned take of a recording; ``tone`` None: by the room tone found in it."""
    start, frames = (tone.start, tone.frames) if tone else FOUND
    return f"{_MARK}{take}/{start}/{frames}/{strength}"


def cleaned_of(name: str) -> tuple[str, Span | None, float]:
    """The recording, the chosen room tone, and the strength that a name tells."""
    _, take, start, frames, strength = name.split("/")
    tone = Span(take, int(start), int(frames))
    return take, (tone if tone.frames else None), float(strength)
