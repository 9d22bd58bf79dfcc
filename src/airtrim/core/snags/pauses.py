"""How a pause is shortened so that it stays one."""

from airtrim.core.media import FRAME_RATE

NATURAL_PAUSE_FRAMES = round(0.6 * FRAME_RATE)
"""What is left of long air, and the most that is left where a filler was (common practice: 0.4 to
0.8 s)."""

LEAD_IN_FRAMES = FRAME_RATE // 2
"""What is left of silence at either end of an episode."""

ALONE_FRAMES = round(0.15 * FRAME_RATE)
"""With so much quiet on either side of it, something stands alone."""

_CLEAR_FRAMES = round(0.06 * FRAME_RATE)


def closed_up(before: int, start: int, end: int, after: int, most: int) -> tuple[int, int]:
    """What to cut to take ``start`` to ``end`` out of the pause from ``before`` to ``after``, so
    that ``most`` frames of it are left, or all that there were.

    >>> closed_up(before=0, start=48_000, end=72_000, after=96_000, most=28_800)
    (14400, 81600)
    """
    left, right = max(0, start - before), max(0, after - end)
    # The edge of what stands alone may be heard a little beyond its span.
    near = _CLEAR_FRAMES if left > ALONE_FRAMES and right > ALONE_FRAMES else 0
    left, right = left - near, right - near
    over = max(0, left + right - most)
    # The longer side gives first; a natural pause keeps some of both.
    from_right = min(over, max(0, right - most // 2)) if right >= left else 0
    from_left = min(over - from_right, max(0, left - most // 2))
    from_right += over - from_right - from_left
    return start - near - from_left, end + near + min(from_right, right)


def left_of_air(start: int, end: int, pause: int, total: int) -> int:
    """How much of long air is to stay: ``pause``, or half a second at either end of the episode."""
    return LEAD_IN_FRAMES if start == 0 or end >= total else pause


def trimmed_air(start: int, end: int, left: int, total: int) -> tuple[int, int]:
    """What to cut of air so that ``left`` frames of it stay: its middle, or its far side at either
    end of the episode."""
    if start == 0:
        return 0, max(0, end - left)
    if end >= total:
        return min(total, start + left), total
    half = left // 2
    return start + half, max(start + half, end - (left - half))
