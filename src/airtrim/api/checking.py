"""The check of an episode before it goes out."""

from fastapi import APIRouter

from airtrim.api.fields import Id, Revision
from airtrim.api.models.checking import CheckView
from airtrim.api.searching import snags_view
from airtrim.api.state import Context
from airtrim.core.release.checks import word_for
from airtrim.services.checking import check_episode

router = APIRouter(prefix="/api", tags=["release"])


@router.get("/episodes/{episode_id}/check")
def check(context: Context, episode_id: Id, revision: Revision) -> CheckView:
    """Every line, each with a reason and, where there is one, a remedy by one press."""
    if context.store.timeline(episode_id, revision).frames:
        snags_view(context.store, episode_id, revision)  # a long episode's, in another process
    lines = check_episode(context.store, episode_id, revision)
    return CheckView(
        revision=revision,
        word=word_for(lines),
        ready=not any(line.state == "stop" for line in lines),
        lines=lines,
    )
