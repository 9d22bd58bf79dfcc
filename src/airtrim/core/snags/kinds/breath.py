"""Breaths that stand out from the room."""

from collections.abc import Iterator, Mapping

from airtrim.core.snags.base import Kind, Snag
from airtrim.core.snags.listen import Listened
from airtrim.core.snags.sounds import removable
from airtrim.core.snags.talk import Talk

_REASONS = {"breath": "a breath that stands out from the room"}


class Breath(Kind):
    """Covered with room tone; only a close pass does so by itself."""

    kind = "breath"
    one, many = "breath", "breaths"
    close = 0.75

    def find(self, talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
        """Those that are still on the timeline."""
        yield from removable(talk, listened, "breath", _REASONS)
