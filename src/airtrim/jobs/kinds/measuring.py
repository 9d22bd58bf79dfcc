"""Measuring loudness."""

from pydantic import BaseModel

from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.cleaning import clean_missing
from airtrim.services.measuring import measure


class MeasureParams(BaseModel):
    """A revision to measure."""

    revision: int


def _run(work: Work, params: MeasureParams) -> Result:
    timeline = work.store.timeline(work.episode_id, params.revision)
    clean_missing(work.store, timeline, work.progress)
    measure(work.store, timeline, work.progress)
    return Result()


MEASURE = Kind("measure", "Measuring loudness", MeasureParams, _run, changes=("levels",))
