"""Long air: pauses in which nobody speaks for longer than the episode allows."""

import bisect
from collections.abc import Iterator, Mapping

from airtrim.core.media import FRAME_RATE
from airtrim.core.snags.base import Do, Kind, Snag
from airtrim.core.snags.listen import Listened
from airtrim.core.snags.pauses import NATURAL_PAUSE_FRAMES, left_of_air, trimmed_air
from airtrim.core.snags.talk import Talk, end_of
from airtrim.core.timeline.words import air_between


class Air(Kind):
    """Trimmed to a natural pause, or cut whole. A whole pass shortens pauses by itself."""

    kind = "air"
    one, many = "long air", "long airs"

    @property
    def title(self) -> str:
        """It is not counted."""
        return "Long air"

    def find(self, talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
        """Pauses of all voices that are longer than the episode allows."""
        timeline, words = talk.timeline, talk.takes
        limit = round(timeline.snag_rules.air_limit_s * FRAME_RATE)
        for air in air_between(timeline, words, 0, timeline.frames, limit):
            own = talk.on(air.track)
            index = bisect.bisect_right(own, air.start, key=end_of)
            at_start, at_end = index == 0 and air.start == 0, air.end >= timeline.frames
            if index:
                word = words[own[index - 1].take][own[index - 1].word]
                take, anchor = own[index - 1].take, word.end
            elif own:
                word = words[own[0].take][own[0].word]
                take, anchor = own[0].take, max(0, word.start - (air.end - air.start))
            else:
                continue
            left = left_of_air(air.start, air.end, NATURAL_PAUSE_FRAMES, timeline.frames)
            low, high = trimmed_air(air.start, air.end, left, timeline.frames)
            seconds = (air.end - air.start) / FRAME_RATE
            where = (
                "before anyone speaks"
                if at_start
                else "after the last word"
                if at_end
                else "in which nobody speaks"
            )
            yield Snag(
                "air",
                air.track,
                take,
                anchor,
                anchor + air.end - air.start,
                air.start,
                air.end,
                f"{seconds:.1f} s",
                round(min(0.99, 0.6 + 0.1 * seconds), 2),
                f"{seconds:.1f} s {where}; {left / FRAME_RATE:.1f} s would be left",
                "trim",
                ("trim", "cut", "keep"),
                low,
                high,
            )

    def cuts(self, snag: Snag, do: Do, attempt: int) -> list[tuple[int, int]]:
        """All of it, or its middle."""
        return [(snag.start, snag.end)] if do == "cut" else super().cuts(snag, do, attempt)
