"""Snags: finding them, deciding about them, tidying a whole episode."""

from typing import get_args

from fastapi import APIRouter, Query, Response

from airtrim.api.completing import completed, settled
from airtrim.api.episodes import changed
from airtrim.api.models import (
    AttemptView,
    ChangedView,
    DecideRequest,
    SnagsView,
    SnagView,
    TidyRequest,
    TidyView,
)
from airtrim.api.state import Context
from airtrim.core.snags.decide import How, Proposal, tidy
from airtrim.core.snags.find import Snag, keeping, talk_of
from airtrim.core.timeline.edits import Tidy
from airtrim.errors import BadInput

router = APIRouter(prefix="/api/episodes/{episode_id}", tags=["snags"])


@router.get("/snags")
def snags(context: Context, episode_id: int, revision: int = Query(ge=0)) -> SnagsView:
    """All snags, in order of time."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    words = store.words(timeline)
    found = store.snags(episode_id, revision)
    talk = talk_of(timeline, words)
    return SnagsView(
        snags=[_view(snag) for snag in found],
        air_limit_s=timeline.snag_rules.air_limit_s,
        own_fillers=timeline.snag_rules.own_fillers,
        tidy=[_tidy_view(how, tidy(talk, found, how)) for how in get_args(How)],
        heard=all(take in words for track in timeline.tracks for take in track.clips.takes),
    )


def _view(snag: Snag) -> SnagView:
    return SnagView(
        id=snag.id,
        kind=snag.kind,
        track=snag.track,
        start=snag.start,
        frames=snag.end - snag.start,
        text=snag.text,
        confidence=snag.confidence,
        reason=snag.reason,
        does=snag.does,
        choices=snag.choices,
        saves=snag.saves,
        cut_start=snag.cut_start,
        cut_frames=snag.cut_end - snag.cut_start,
        attempts=[
            AttemptView(start=a.start, frames=a.end - a.start, text=a.text) for a in snag.attempts
        ],
        kept=snag.kept,
    )


def _tidy_view(how: How, found: Proposal) -> TidyView:
    return TidyView(how=how, frames=found.frames, counts=found.counts, pauses=found.pauses)


@router.post("/snags", response_model=ChangedView)
def decide(context: Context, episode_id: int, request: DecideRequest) -> Response:
    """Settle snags, all in one step."""
    store = context.store
    edit = settled(store, episode_id, request.revision, request.decisions)
    store.edit(episode_id, request.revision, edit)
    return changed(context, episode_id, request)


@router.post("/snags/reopen", response_model=ChangedView)
def reopen(context: Context, episode_id: int, request: DecideRequest) -> Response:
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
def tidy_up(context: Context, episode_id: int, request: TidyRequest) -> Response:
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
