"""Giving way to the talk: the gain of a sound that sinks before words and rises after them."""

import numpy as np

from airtrim.core.timeline.envelope import Envelope, Point
from airtrim.core.timeline.placed import Duck
from airtrim.core.timeline.talk import Spans, joined


def ducked(talk: Spans, start: int, end: int, duck: Duck) -> Envelope:
    """The gain between two frames under ``talk``, which may reach beyond them.

    It is down when the first word begins. In a pause in which it could not rise and sink again as
    it is set to, it stays down: it never pumps (common practice).

    >>> duck = Duck(12.0, attack=10, hold=20, release=30)
    >>> [(p.at, p.db) for p in ducked(np.array([[100, 200], [240, 300]]), 0, 500, duck)]
    [(0, 0.0), (90, 0.0), (100, -12.0), (320, -12.0), (350, 0.0), (500, 0.0)]
    """
    gap = duck.attack + duck.hold + duck.release
    frames, gains = [float(start) - gap - 1], [0.0]
    for first, last in joined(talk, gap).tolist():
        frames += [first - duck.attack, first, last + duck.hold, last + duck.hold + duck.release]
        gains += [0.0, -duck.depth_db, -duck.depth_db, 0.0]
    inside = [i for i, frame in enumerate(frames) if start < frame < end]
    ends = np.interp([start, end], frames, gains)
    return (
        Point(start, float(ends[0])),
        *(Point(int(frames[i]), gains[i]) for i in inside),
        Point(end, float(ends[1])),
    )
