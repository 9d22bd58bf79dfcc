"""Spans to cut, their edges moved to where they will not be heard in the mix."""

from collections.abc import Iterable, Sequence

from airtrim.core.render.graph import Mix, Takes, as_recorded
from airtrim.core.timeline.edits import SpanToCut
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.snap import snapped
from airtrim.core.timeline.words import PlacedWord, TakeWords, words_on


def unheard(
    timeline: Timeline, takes: Takes, words: TakeWords, spans: Iterable[SpanToCut]
) -> tuple[SpanToCut, ...]:
    """``spans`` with their edges as ``snapped`` sets them, in the sound of all tracks. One beyond
    the end stays as it is: whoever cuts there is told."""
    read = Mix(as_recorded(timeline), takes).read

    def near(low: int, high: int) -> Sequence[PlacedWord]:
        return words_on(timeline, words, max(0, low), high)

    out = []
    for span in spans:
        most = min(span.frames, timeline.frames - span.start)
        if most <= 0:
            out.append(span)
            continue
        start, frames = snapped(span.start, most, timeline.frames, read, near)
        out.append(SpanToCut(start=start, frames=frames))
    return tuple(out)
