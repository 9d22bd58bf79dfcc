"""What a document may hold: one set of bounds, which every edit is held to when it is applied."""

from collections.abc import Iterator
from dataclasses import replace

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.envelope import FLOOR_DB, Envelope, Point
from airtrim.core.timeline.model import Timeline
from airtrim.errors import BadInput

MOST_FRAMES = 24 * 3600 * FRAME_RATE
"""No place and no length in an episode is later, or longer, than a day."""
MOST_TRACKS = 24
LEAST_GAIN_DB, MOST_GAIN_DB = FLOOR_DB, 24.0
"""What a track's gain can be set to; a fade ends at the least, where nothing is heard."""
MOST_NUMBER = 2**53 - 1
"""The largest whole number that every JSON reader keeps exact (RFC 8259, section 6)."""


def held(before: Timeline, after: Timeline) -> Timeline:
    """``after``, its quietest gains held at the floor.

    Raises BadInput, with a sentence, where an edit made a gain louder or the episode longer than
    there may be; what was so ``before`` may stay, so that it can be edited back.
    """
    if after.frames > MOST_FRAMES and after.frames > before.frames:
        raise BadInput("An episode is 24 hours long at most. Nothing was changed.")
    known = {track.id: track.envelope for track in before.tracks}
    changed = [track for track in after.tracks if track.envelope is not known.get(track.id, ())]
    for track in changed:
        loudest = _loudest(track.envelope)
        if loudest > MOST_GAIN_DB and loudest > _loudest(known.get(track.id, ())):
            raise BadInput(
                f"The gain of “{track.name}” would be {loudest:+.1f} dB there; it goes up to "
                f"+{MOST_GAIN_DB:.0f} dB. Nothing was changed."
            )
    return clamped(after) if changed else after


def brought_within(timeline: Timeline) -> Timeline:
    """A document of before the bounds were held, its gains clamped; ``notices`` tell which."""
    texts = tuple(
        f"A gain of {point.db:+.1f} dB on “{track.name}” at {_clock(point.at)} is more than there "
        f"may be, and is held at +{MOST_GAIN_DB:.0f} dB."
        for track in timeline.tracks
        for point in track.envelope
        if point.db > MOST_GAIN_DB
    )
    return replace(clamped(timeline), notices=(*timeline.notices, *texts)) if texts else timeline


def clamped(timeline: Timeline) -> Timeline:
    """With every point of every gain held within the bounds."""
    if not any(_beyond(track.envelope) for track in timeline.tracks):
        return timeline
    tracks = tuple(
        replace(track, envelope=tuple(_points_within(track.envelope))) for track in timeline.tracks
    )
    return replace(timeline, tracks=tracks)


def _loudest(points: Envelope) -> float:
    return max((point.db for point in points), default=0.0)


def _beyond(points: Envelope) -> bool:
    return any(
        not LEAST_GAIN_DB <= db <= MOST_GAIN_DB or not 0 <= at <= MOST_FRAMES
        for at, db, _ in points
    )


def _points_within(points: Envelope) -> Iterator[Point]:
    for point in points:
        db = min(MOST_GAIN_DB, max(LEAST_GAIN_DB, point.db))
        yield point._replace(at=min(MOST_FRAMES, max(0, point.at)), db=db)


def _clock(frame: int) -> str:
    return f"{frame // (60 * FRAME_RATE)}:{frame / FRAME_RATE % 60:04.1f}"
