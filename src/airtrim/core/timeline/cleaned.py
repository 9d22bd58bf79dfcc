"""A recording with its room taken out, as a take of its own.

Its name says of what, whether its echo is lowered, how noise is, by which room tone, and how much,
so a document holds nothing but the settings of its tracks.
"""

from dataclasses import dataclass

from airtrim.core.timeline.chain import Chain, NoiseMethod
from airtrim.core.timeline.model import Span, Timeline
from airtrim.core.timeline.tone import is_tone

_MARK = "clean/"
_METHODS: dict[str, NoiseMethod] = {"steady": "steady", "learnt": "learnt"}
FOUND = (0, 0)
"""Start and length that stand for the room tone which is found in the take."""


@dataclass(frozen=True, slots=True)
class Cleaning:
    """What a take is cleaned by: ``dry``, with its echo lowered first; noise by a ``method``, None
    where it stays. ``tone`` is the room tone that was chosen for the steady method, None for the
    one that is found; the learnt method needs none."""

    take: str
    method: NoiseMethod | None
    tone: Span | None = None
    dry: bool = False

    @property
    def before(self) -> "Cleaning | None":
        """What has to be made before it."""
        return Cleaning(self.take, None, dry=True) if self.dry and self.method else None


def cleaning(take: str, chain: Chain, tone: Span | None) -> Cleaning | None:
    """How a take is cleaned on a track, if it is; ``tone``: the one chosen for the take, if one
    was."""
    method = chain.noise.method if chain.noise.on and chain.noise.strength else None
    if method is None and not chain.echo.on:
        return None
    return Cleaning(take, method, tone if method == "steady" else None, chain.echo.on)


def needed(timeline: Timeline) -> list[Cleaning]:
    """Every recording that is cleaned on a track, each way once, what others are made of first."""
    found = {
        how
        for track in timeline.tracks
        for take in track.clips.takes
        if not is_tone(take)
        if (how := cleaning(take, track.chain, timeline.room_tones.get(take)))
    }
    before = {how.before for how in found if how.before}
    return sorted(found | before, key=lambda how: (how.method is not None, str(how)))


def is_cleaned(take: str) -> bool:
    """Whether a take is a recording with its room taken out."""
    return take.startswith(_MARK)


def cleaned_name(of: Cleaning, strength: float) -> str:
    """The name of a cleaned take.

    >>> cleaned_name(Cleaning("abc", "learnt"), 0.5)
    'clean/abc/echo/learnt/0/0/0.5'
    """
    start, frames = (of.tone.start, of.tone.frames) if of.tone else FOUND
    echo = "dry" if of.dry else "echo"
    return f"{_MARK}{of.take}/{echo}/{of.method}/{start}/{frames}/{strength}"


def cleaned_of(name: str) -> tuple[Cleaning, float]:
    """How it is cleaned, and the strength, that a name tells."""
    _, take, echo, method, start, frames, strength = name.split("/")
    tone = Span(take, int(start), int(frames))
    how = _METHODS.get(method)
    return Cleaning(take, how, tone if tone.frames else None, echo == "dry"), float(strength)
