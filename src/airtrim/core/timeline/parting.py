"""Where a long recording could be parted: at long pauses, and where somebody else goes on."""

from dataclasses import dataclass
from typing import Literal

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.sectioning import found_sections
from airtrim.core.timeline.words import TakeWords, air_between

PAUSE_FRAMES = 3 * FRAME_RATE
"""A pause in talk from which on something new is likely to begin (common practice)."""
NEAR_FRAMES = 5 * FRAME_RATE
"""No two places are nearer to each other, nor to where a part begins or the episode ends."""


@dataclass(frozen=True, slots=True)
class Place:
    """A place to part at, and why."""

    at: int
    why: Literal["pause", "speaker"]


def proposed(timeline: Timeline, words: TakeWords) -> tuple[Place, ...]:
    """Places that are not parted at yet, in order."""
    found = [Place(start.at, "speaker") for start in found_sections(timeline, words)]
    pauses = air_between(timeline, words, 0, timeline.frames, PAUSE_FRAMES)
    found += [Place((air.start + air.end) // 2, "pause") for air in pauses]
    taken = [section.at for section in timeline.sections] + [timeline.frames]
    taken += [marker.at for marker in timeline.markers if marker.kind == "part"]
    out: list[Place] = []
    # A change of speaker is the stronger reason of two that lie near each other.
    for place in sorted(found, key=lambda one: (one.why != "speaker", one.at)):
        if all(abs(place.at - at) >= NEAR_FRAMES for at in taken):
            taken.append(place.at)
            out.append(place)
    return tuple(sorted(out, key=lambda one: one.at))
