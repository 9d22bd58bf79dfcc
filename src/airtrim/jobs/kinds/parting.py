"""An episode for each part."""

from pydantic import BaseModel

from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.copying import parts_apart


class ApartParams(BaseModel):
    """A revision whose parts become episodes of their own."""

    revision: int


class ApartResult(Result):
    """The episodes that were made."""

    episodes: list[int]


def _run(work: Work, params: ApartParams) -> ApartResult:
    made = parts_apart(work.store, work.episode_id, params.revision, work.progress)
    return ApartResult(
        episodes=made, notice=f"{len(made)} episodes were made; they are on the shelf."
    )


APART = Kind("apart", "Making episodes of the parts", ApartParams, _run)
