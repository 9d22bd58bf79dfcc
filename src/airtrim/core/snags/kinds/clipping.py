"""Clipping: sound that is cut off at full level."""

from collections.abc import Iterator, Mapping

from airtrim.core.snags.base import Kind, Snag
from airtrim.core.snags.listen import Listened
from airtrim.core.snags.sounds import sound_snag, sounds_on
from airtrim.core.snags.talk import Talk

_REASON = "the sound is cut off at full level here; only saying it again helps"


class Clipping(Kind):
    """Told only: nothing brings back what was not recorded."""

    kind = "clipping"
    one, many = "clipped spot", "clipped spots"

    def find(self, talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
        """Those that are still on the timeline."""
        for track, clip, sound, start, end in sounds_on(talk, listened, "clipping"):
            yield sound_snag(track, clip, sound, start, end, _REASON, ("keep",))
