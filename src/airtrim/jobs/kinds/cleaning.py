"""Taking the room out of recordings ahead of time."""

from pydantic import BaseModel

from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.cleaning import clean_missing


class CleanParams(BaseModel):
    """A revision whose recordings are to be cleaned."""

    revision: int


class CleanResult(Result):
    """How many recordings were cleaned."""

    cleaned: int


def _run(work: Work, params: CleanParams) -> CleanResult:
    timeline = work.store.timeline(work.episode_id, params.revision)
    return CleanResult(cleaned=clean_missing(work.store, timeline, work.progress))


CLEAN = Kind("clean", "Taking the room out", CleanParams, _run)
