"""How far an episode is, and what would be next."""

from fastapi import APIRouter
from pydantic import BaseModel

from airtrim.api.fields import Id, Revision
from airtrim.api.searching import snags_view
from airtrim.api.state import Context
from airtrim.core.release.standing import Step, StepName, next_step
from airtrim.services.standing import standing_of

router = APIRouter(prefix="/api", tags=["episodes"])


class StandingView(BaseModel):
    """Every step of an episode in the order of the work, and which of them would be next."""

    revision: int
    steps: list[Step]
    next: StepName | None


@router.get("/episodes/{episode_id}/standing")
def standing(context: Context, episode_id: Id, revision: Revision) -> StandingView:
    """Where it stands at a revision."""
    if context.store.timeline(episode_id, revision).frames:
        snags_view(context.store, episode_id, revision)  # a long episode's, in another process
    found = list(standing_of(context.store, episode_id, revision))
    after = next_step(found)
    return StandingView(revision=revision, steps=found, next=after.name if after else None)
