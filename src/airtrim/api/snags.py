"""Snags: finding them, deciding about them, tidying a whole episode."""

from fastapi import APIRouter, Response

from airtrim.api.completing import completed, settled
from airtrim.api.episodes import changed
from airtrim.api.fields import Id, Revision
from airtrim.api.largebodies import LargeBodies
from airtrim.api.models import (
    ChangedView,
    DecideRequest,
    SnagsView,
    TidyRequest,
)
from airtrim.api.searching import snags_view
from airtrim.api.state import Context
from airtrim.core.snags.decide import tidy
from airtrim.core.snags.find import keeping, talk_of
from airtrim.core.timeline.edits import Tidy
from airtrim.errors import BadInput

router = APIRouter(prefix="/api/episodes/{episode_id}", tags=["snags"], route_class=LargeBodies)


@router.get("/snags", response_model=SnagsView)
def snags(context: Context, episode_id: Id, revision: Revision) -> Response:
    """All snags, in order of time."""
    # Written out already, since checking thousands a second time takes longer than all else.
    return Response(snags_view(context.store, episode_id, revision), media_type="application/json")


@router.post("/snags", response_model=ChangedView)
def decide(context: Context, episode_id: Id, request: DecideRequest) -> Response:
    """Settle snags, all in one step."""
    store = context.store
    edit = settled(store, episode_id, request.revision, request.decisions)
    store.edit(episode_id, request.revision, edit)
    return changed(context, episode_id, request)


@router.post("/snags/reopen", response_model=ChangedView)
def reopen(context: Context, episode_id: Id, request: DecideRequest) -> Response:
    """Let snags that were kept be decided again."""
    store = context.store
    ids = {one.id for one in request.decisions}
    timeline = store.timeline(episode_id, request.revision)
    kept = [s for s in store.snags(episode_id, request.revision) if s.id in ids and s.kept]
    if not kept:
        raise BadInput("That snag is not kept. Nothing was changed.")
    gone = tuple(one for snag in kept for one in keeping(snag, timeline.kept))
    edit = Tidy(unkeep=gone, name="Left a snag to be decided")
    store.edit(episode_id, request.revision, edit)
    return changed(context, episode_id, request)


@router.post("/tidy", response_model=ChangedView)
def tidy_up(context: Context, episode_id: Id, request: TidyRequest) -> Response:
    """Settle all that a pass settles, in one step."""
    store = context.store
    timeline = store.timeline(episode_id, request.revision)
    talk = talk_of(timeline, store.words(timeline))
    edit = tidy(talk, store.snags(episode_id, request.revision), request.how).edit
    if not edit.cuts and not edit.covers:
        raise BadInput("There is nothing to tidy: no snag is left that a pass would settle.")
    store.edit(
        episode_id,
        request.revision,
        completed(store, episode_id, request.revision, edit, snap=True),
    )
    return changed(context, episode_id, request)
