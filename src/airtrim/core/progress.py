"""How work that takes its time tells how far it is."""

from collections.abc import Callable

Progress = Callable[[float, str], None]
"""Called with a fraction 0–1 and what is being done; may raise Cancelled."""


def part(progress: Progress, low: float, high: float) -> Progress:
    """Progress of a part of the work, as that of the whole.

    >>> part(lambda fraction, doing: print(fraction, doing), 0.5, 1.0)(0.5, "Measuring")
    0.75 Measuring
    """
    return lambda fraction, doing: progress(low + (high - low) * fraction, doing)
