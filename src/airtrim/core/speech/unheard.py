"""What of a recording is still to be heard, and where to go on: what somebody looks at first."""

from collections.abc import Callable

from airtrim.core.media import FRAME_RATE

_LEAST_AHEAD_S = 30
"""Nearer than this to where it goes on anyway, nothing is gained by going there."""


class Unheard:
    """The spans of a take that are not heard yet, in frames.

    >>> left = Unheard(100 * FRAME_RATE)
    >>> left.turn_to(60 * FRAME_RATE, lambda at: at - FRAME_RATE)
    True
    >>> [left.take(30 * FRAME_RATE)[0] // FRAME_RATE for _ in range(4)]
    [59, 89, 0, 30]
    """

    def __init__(self, frames: int) -> None:
        self._spans = [(0, frames)] if frames else []

    def __bool__(self) -> bool:
        return bool(self._spans)

    @property
    def next(self) -> tuple[int, int]:
        """The span that is heard next, up to where it ends or was heard before."""
        return self._spans[0]

    @property
    def first(self) -> int | None:
        """The first frame that is not heard yet; None where none is left."""
        return min((start for start, _ in self._spans), default=None)

    def turn_to(self, wanted: int, quiet_before: Callable[[int], int]) -> bool:
        """Go on where ``wanted`` is, from a quiet place before it; whether that is elsewhere."""
        for number, (start, end) in enumerate(self._spans):
            if start <= wanted < end:
                at = start
                if wanted - start >= _LEAST_AHEAD_S * FRAME_RATE:
                    at = max(start, quiet_before(wanted))
                if (number, at) == (0, start):
                    return False
                before = [(start, at)] if at > start else []
                others = self._spans[:number] + before + self._spans[number + 1 :]
                self._spans = [(at, end), *sorted(others)]
                return True
        return False

    def take(self, frames: int) -> tuple[int, int]:
        """Begin on the next ``frames``; the span that they are."""
        start, end = self._spans.pop(0)
        if start + frames < end:
            self._spans.insert(0, (start + frames, end))
        return start, min(end, start + frames)
