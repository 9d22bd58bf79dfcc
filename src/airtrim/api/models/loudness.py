"""Loudness as it is measured, and levelling."""

from pydantic import BaseModel

from airtrim.api.models.episode import RevisionRequest
from airtrim.core.loudness.riding import Bed, Riding


class OverView(BaseModel):
    """A true peak over the ceiling before the limiter."""

    at: int
    over_db: float


class SpeakerView(BaseModel):
    """A voice by itself: its loudness before and after the sections' gains, and how far apart its
    phrases lie (10th to 90th percentile, LU). ``name``: who of several on the track it is; empty
    where that is who the track is named after."""

    track: str
    name: str
    before: float | None
    after: float | None
    spread_lu: float


class LevelsView(BaseModel):
    """Loudness before and after the gains that the document holds now.

    ``measured`` is False while it has not been measured; then all else is empty. Curves are
    short-term loudness, a value each second, the first at 1.5 s. ``even``: nothing is gained by
    evening out again.
    """

    revision: int
    measured: bool
    before: float | None = None
    after: float | None = None
    most_limiting_db: float = 0.0
    limiter_heard: bool = False
    even: bool = False
    sections_before: list[float | None] = []
    sections_after: list[float | None] = []
    curve_before: list[float] = []
    curve_after: list[float] = []
    momentary_after: list[float] = []
    overs: list[OverView] = []
    verdict: str = ""
    speakers: list[SpeakerView] = []


class RideRequest(RevisionRequest):
    """Phrases to bring nearer, or music to hold under the talk."""

    riding: Riding | None = None
    bed: Bed | None = None
