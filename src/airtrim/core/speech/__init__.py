"""Speech: which words are said, and when."""

from airtrim.core.media import FRAME_RATE

MODEL_RATE = 16_000
"""Rate in Hz that recogniser and aligner listen at."""

HOP_S = 0.01
"""Step in which edges are told."""

HOP = round(MODEL_RATE * HOP_S)
"""The same in samples of what they listen to."""


def frame_at(seconds: float, first_frame: int) -> int:
    """The frame of a take, at 48 kHz, so many seconds after ``first_frame``.

    >>> frame_at(0.5, 100)
    24100
    """
    return first_frame + round(seconds * FRAME_RATE)
