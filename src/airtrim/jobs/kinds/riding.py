"""Riding the gain: phrases brought nearer to each other, or music held under the talk."""

from pydantic import BaseModel

from airtrim.core.loudness.riding import Bed, Riding
from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.levelling import ride_gain


class RideParams(BaseModel):
    """A revision whose gain is to be ridden, and how: whichever is told."""

    revision: int
    riding: Riding | None = None
    bed: Bed | None = None


class RideResult(Result):
    """The revision after it."""

    revision: int


def _run(work: Work, params: RideParams) -> RideResult:
    revision = ride_gain(
        work.store,
        work.episode_id,
        params.revision,
        work.progress,
        riding=params.riding,
        bed=params.bed,
    )
    return RideResult(revision=revision)


RIDE = Kind("ride", "Riding the gain", RideParams, _run, changes=("episode",))
