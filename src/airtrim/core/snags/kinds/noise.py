"""Noises between words: knocks, clicks, a cough."""

from collections.abc import Iterator, Mapping

from airtrim.core.snags.base import Kind, Snag
from airtrim.core.snags.listen import Listened
from airtrim.core.snags.sounds import removable
from airtrim.core.snags.talk import Talk

_REASONS = {
    "knock": "low and sudden: a knock on the table or the microphone",
    "click": "over in a moment, and louder than the room",
    "mouth noise": "a small click between two words",
    "cough": "sudden, without a voice, nearly as loud as speech",
}


class Noise(Kind):
    """Covered with room tone."""

    kind = "noise"
    one, many = "noise", "noises"
    gentle, close = 0.75, 0.6

    def find(self, talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
        """Those that are still on the timeline."""
        yield from removable(talk, listened, "noise", _REASONS)
