"""Music that lies under the talk of its part: a pause in that talk is one for all that."""

from typing import NamedTuple

import numpy as np

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.clips import Clip
from airtrim.core.timeline.holding import spot_of
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.talk import Spans, joined

ALONE_FRAMES = 8 * FRAME_RATE
"""A bed that is heard for longer without a word is meant to be (common practice)."""


class Bed(NamedTuple):
    """A sound that lies under its part: its take, its first frame and the first after it."""

    take: str
    start: int
    end: int

    def holds(self, clip: Clip) -> bool:
        """Whether a clip of placed sounds is a stretch of it."""
        return self.take == clip.take and self.start <= clip.at and clip.end <= self.end

    def alone(self, spoken: Spans, start: int, end: int) -> list[tuple[int, int]]:
        """Where it is heard without the talk between two frames: before the first of what is
        ``spoken``, after the last, and where nothing is said for longer than a pause lasts.

        >>> bed = Bed("m", 0, 30 * FRAME_RATE)
        >>> spoken = np.array([[2, 3], [9, 10], [20, 21]]) * FRAME_RATE
        >>> [(a / FRAME_RATE, b / FRAME_RATE) for a, b in bed.alone(spoken, 0, bed.end)]
        [(0.0, 2.0), (10.0, 20.0), (21.0, 30.0)]
        """
        low, high = max(self.start, start), min(self.end, end)
        inside = np.clip(spoken, low, high)
        talk = joined(inside[inside[:, 1] > inside[:, 0]], ALONE_FRAMES + 1)
        edges = [low, *talk.ravel().tolist(), high]
        return [(a, b) for a, b in zip(edges[::2], edges[1::2], strict=True) if b > a]


def beds_of(timeline: Timeline) -> list[Bed]:
    """The sounds of an episode that lie under their part from end to end."""
    under = [one for one in timeline.placed if one.hold.kind == "under"]
    spots = [(one.take, spot_of(timeline, one)) for one in under]
    return [Bed(take, spot.at, spot.at + spot.frames) for take, spot in spots if spot]
