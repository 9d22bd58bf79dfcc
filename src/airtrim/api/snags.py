"""Snags: finding them, deciding about them, tidying a whole episode."""

from fastapi import APIRouter, Response

from airtrim.api.episodes import changed
from airtrim.api.fields import Id, Revision
from airtrim.api.largebodies import LargeBodies
from airtrim.api.models.episode import ChangedView
from airtrim.api.models.snags import DecideRequest, SnagsView, TidyRequest
from airtrim.api.searching import snags_view
from airtrim.api.state import Context
from airtrim.services import editing
from airtrim.services.editing import SnagChoice

router = APIRouter(prefix="/api/episodes/{episode_id}", tags=["snags"], route_class=LargeBodies)


@router.get("/snags", response_model=SnagsView)
def snags(context: Context, episode_id: Id, revision: Revision) -> Response:
    """All snags, in order of time."""
    # Written out already, since checking thousands a second time takes longer than all else.
    return Response(snags_view(context.store, episode_id, revision), media_type="application/json")


@router.post("/snags", response_model=ChangedView)
def decide(context: Context, episode_id: Id, request: DecideRequest) -> Response:
    """Settle snags, all in one step."""
    choices = [SnagChoice(one.id, one.do, one.attempt) for one in request.decisions]
    editing.decide(context.store, episode_id, request.revision, choices)
    return changed(context, episode_id, request)


@router.post("/snags/reopen", response_model=ChangedView)
def reopen(context: Context, episode_id: Id, request: DecideRequest) -> Response:
    """Let snags that were kept be decided again."""
    ids = {one.id for one in request.decisions}
    editing.reopen(context.store, episode_id, request.revision, ids)
    return changed(context, episode_id, request)


@router.post("/tidy", response_model=ChangedView)
def tidy_up(context: Context, episode_id: Id, request: TidyRequest) -> Response:
    """Settle all that a pass settles, in one step."""
    editing.tidy_up(context.store, episode_id, request.revision, request.how)
    return changed(context, episode_id, request)
