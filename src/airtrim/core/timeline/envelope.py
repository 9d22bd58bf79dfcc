"""The gain of a track over time: points in dB with lines between them.

Before the first point and after the last the gain stays as it is there; without points it is 0 dB.
Two points at one frame are a step, as a cut through a slope leaves behind.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from airtrim.core.timeline.clips import Shape

FLOOR_DB = -72.0
"""What a fade ends in: nothing that can be heard."""
_STEP_FRAMES = 240
"""A step is made over 10 ms, so that it cannot click."""
_SOFT_STEPS = 16


class Point(NamedTuple):
    """``db`` at frame ``at``; ``shape`` is how the gain goes on from here to the next point:
    ``straight`` in dB, or ``soft``, slowly at both ends. (``round`` is drawn as ``straight``.)"""

    at: int
    db: float
    shape: Shape = "straight"


Envelope = tuple[Point, ...]


def value_at(points: Envelope, frame: int, *, before: bool = False) -> float:
    """Gain in dB at a frame; at a step, after it, or ``before`` it.

    >>> value_at((Point(0, 0.0), Point(100, -10.0)), 50)
    -5.0
    """
    if not points:
        return 0.0
    if frame < points[0].at or (before and frame == points[0].at):
        return points[0].db
    left = points[0]
    for point in points:
        if point.at > frame or (before and point.at == frame):
            into = (frame - left.at) / max(1, point.at - left.at)
            if left.shape == "soft":
                into = 0.5 - 0.5 * float(np.cos(np.pi * into))
            return left.db + into * (point.db - left.db)
        left = point
    return left.db


def moved(points: Envelope, by: int) -> Envelope:
    """All points ``by`` frames later."""
    return tuple(Point(at + by, db, shape) for at, db, shape in points) if by else points


def cut_out(points: Envelope, start: int, end: int) -> tuple[Envelope, Envelope, Envelope]:
    """Take a span out: (what stays and closes up, what was inside counted from its start, anchors).

    The anchors stand at the splice and hold the gain on either side as it was."""
    if not points:
        return (), (), ()
    inside = tuple(p for p in points if start <= p.at < end)
    left, right = value_at(points, start, before=True), value_at(points, end)
    anchors: Envelope = ()
    if inside or left != right:
        shape: Shape = next((p.shape for p in reversed(points) if p.at <= end), "straight")
        anchors = (Point(start, left), Point(start, right, shape))
    kept = (
        *(p for p in points if p.at < start),
        *anchors,
        *moved(tuple(p for p in points if p.at >= end), start - end),
    )
    return kept, moved(inside, -start), anchors


def put_back(
    points: Envelope, at: int, frames: int, inside: Envelope, anchors: Envelope
) -> Envelope:
    """The reverse of ``cut_out``, where the anchors are still there."""
    if not points and not inside:
        return ()
    place = next(
        (
            i
            for i in range(len(points) - len(anchors) + 1)
            if [(p.at, p.db) for p in points[i : i + len(anchors)]] == [(at, p.db) for p in anchors]
        ),
        None,
    )
    if anchors and place is not None:
        before, after = points[:place], points[place + len(anchors) :]
    else:
        before = tuple(p for p in points if p.at < at)
        after = points[len(before) :]
    return (*before, *moved(inside, at), *moved(after, frames))


def put_in(points: Envelope, at: int, frames: int, inside: Envelope) -> Envelope:
    """Make room at a frame for sound with the gain ``inside`` (counted from its start); what is on
    either side keeps its gain."""
    if not points and not inside:
        return ()
    left, right = value_at(points, at, before=True), value_at(points, at)
    within = inside or (Point(0, 0.0), Point(frames, 0.0))
    out = [
        *(p for p in points if p.at < at),
        Point(at, left),
        *moved(within, at),
        Point(at + frames, right),
        *moved(tuple(p for p in points if p.at >= at), frames),
    ]
    return without_idle(tuple(out))


def copied(points: Envelope, start: int, end: int) -> Envelope:
    """The gain between two frames, counted from the first, with both ends held."""
    if not points:
        return ()
    inside = tuple(p for p in points if start < p.at < end)
    shape: Shape = next((p.shape for p in reversed(points) if p.at <= start), "straight")
    first = Point(start, value_at(points, start), shape)
    last = Point(end, value_at(points, end, before=True))
    return moved((first, *inside, last), -start)


def changed(points: Envelope, start: int, end: int, by_db: float, ramp: int) -> Envelope:
    """``by_db`` more between two frames, reached and left within ``ramp`` frames outside them."""
    low, high = max(0, start - ramp), end + ramp
    edges = [
        Point(low, value_at(points, low)),
        Point(start, value_at(points, start) + by_db),
        Point(end, value_at(points, end, before=True) + by_db),
        Point(high, value_at(points, high, before=True)),
    ]
    if low == start:
        edges = edges[1:]
    inside = [p._replace(db=p.db + by_db) for p in points if start < p.at < end]
    out = [
        *(p for p in points if p.at < low),
        *edges[: len(edges) - 2],
        *inside,
        *edges[-2:],
        *(p for p in points if p.at > high),
    ]
    return without_idle(tuple(out))


def without_idle(points: Envelope) -> Envelope:
    """The same without points that say nothing: doubles, and a whole envelope at 0 dB."""
    out: list[Point] = []
    for point in points:
        if out and out[-1] == point:
            continue
        if len(out) > 1 and out[-2].db == out[-1].db == point.db:
            out.pop()
        out.append(point)
    return tuple(out) if any(p.db for p in out) else ()


def drawn(points: Envelope) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Frames and dB to interpolate between: soft lines in small steps, steps made smooth."""
    frames: list[float] = []
    db: list[float] = []
    for index, point in enumerate(points):
        at = float(point.at)
        if frames and at <= frames[-1]:
            frames[-1] = max(frames[-1] - _STEP_FRAMES, frames[-2] + 1 if len(frames) > 1 else 0)
            at = max(point.at + _STEP_FRAMES, frames[-1] + 1)
        frames.append(at)
        db.append(point.db)
        if point.shape == "soft" and index + 1 < len(points):
            after = points[index + 1]
            for step in range(1, _SOFT_STEPS):
                into = step / _SOFT_STEPS
                frame = point.at + into * (after.at - point.at)
                if frame > frames[-1]:
                    frames.append(frame)
                    ease = 0.5 - 0.5 * np.cos(np.pi * into)
                    db.append(float(point.db + ease * (after.db - point.db)))
    return np.array(frames), np.array(db)
