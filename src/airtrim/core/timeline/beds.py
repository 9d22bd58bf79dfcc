"""Music that lies under the talk of its part: a pause in that talk is one for all that."""

from collections.abc import Iterable, Iterator

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.clips import Clip
from airtrim.core.timeline.holding import spot_of
from airtrim.core.timeline.model import Timeline, Track

ALONE_FRAMES = 8 * FRAME_RATE
"""A bed that is heard for so long without a word is meant to be (common practice)."""


class Beds:
    """The sounds of an episode that lie under their part from end to end."""

    def __init__(self, timeline: Timeline) -> None:
        found = [
            (one.take, spot)
            for one in timeline.placed
            if one.hold.kind == "under" and (spot := spot_of(timeline, one))
        ]
        self._spans = [(take, spot.at, spot.at + spot.frames) for take, spot in found]

    def __contains__(self, placed: tuple[Track, Clip]) -> bool:
        """Whether a clip of a track is a stretch of a bed."""
        track, clip = placed
        return track.held and any(
            take == clip.take and start <= clip.at and clip.end <= end
            for take, start, end in self._spans
        )

    def alone(
        self, spoken: Iterable[tuple[int, int]], start: int, end: int
    ) -> Iterator[tuple[int, int]]:
        """Where one is heard without the talk between two frames: before the first of what is
        ``spoken`` in its part (spans in order of their start), after the last, and where nothing is
        said for longer than a pause lasts."""
        spoken = list(spoken)
        for _, begins, ends in self._spans:
            low, high = max(begins, start), min(ends, end)
            cursor = low
            for word, after in [*((a, b) for a, b in spoken if low < b and a < high), (high, high)]:
                at_edge = cursor == low or word == high
                if word > cursor and (at_edge or word - cursor > ALONE_FRAMES):
                    yield cursor, word
                cursor = max(cursor, after)
