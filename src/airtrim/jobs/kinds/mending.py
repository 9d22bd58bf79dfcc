"""Making a damaged recording anew."""

from pydantic import BaseModel

from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.mending import mend_take


class MendParams(BaseModel):
    """A take that is damaged, to be made anew."""

    take: str


def _run(work: Work, params: MendParams) -> Result:
    mend_take(work.store, params.take, work.progress)
    return Result()


MEND = Kind("mend", "Making a recording anew", MendParams, _run, changes=("episode",))
