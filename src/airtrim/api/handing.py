"""Handing files over to hosts and folders, and publishing them."""

from datetime import UTC

from fastapi import APIRouter

from airtrim.api.fields import Id
from airtrim.api.models.handing import (
    DestinationsView,
    DestinationView,
    HandOverRequest,
    HandOverView,
    NewDestination,
    ScheduleRequest,
    WayView,
)
from airtrim.api.models.work import JobView, job_view
from airtrim.api.state import Context, State
from airtrim.jobs.kinds.handing_over import HAND_OVER, PUBLISH, HandOverParams
from airtrim.services.handing import WAYS, way_named
from airtrim.services.handing.base import Address, Allowed
from airtrim.services.handing.over import (
    RETRY_FOR,
    begin,
    keep_destination,
    remove_destination,
    schedule,
)
from airtrim.store.tables import DestinationRow, HandOverRow

router = APIRouter(prefix="/api", tags=["release"])


@router.get("/shows/{show_id}/destinations")
def destinations(context: Context, show_id: Id) -> DestinationsView:
    """Where the files of a show go."""
    return DestinationsView(
        destinations=[_destination(row) for row in context.store.destinations(show_id)],
        ways=[
            WayView(
                name=way.name, title=way.title, drafts=way.drafts, needs_secret=way.needs_secret
            )
            for way in sorted(WAYS.values(), key=lambda one: (not one.drafts, one.title))
        ],
    )


@router.post("/shows/{show_id}/destinations", status_code=201)
def add_destination(context: Context, show_id: Id, request: NewDestination) -> DestinationView:
    """Keep a destination."""
    row = keep_destination(
        context.store,
        _allowed(context),
        show_id,
        name=request.name,
        way=request.way,
        address=request.address,
        secret=request.secret,
    )
    return _destination(row)


@router.delete("/destinations/{destination_id}", status_code=204)
def drop_destination(context: Context, destination_id: Id) -> None:
    """Take a destination away, with its token or password. What is there stays there."""
    remove_destination(context.store, destination_id)


@router.get("/episodes/{episode_id}/hand-overs")
def hand_overs(context: Context, episode_id: Id) -> list[HandOverView]:
    """What was handed over of an episode, newest first."""
    return [_view(context, row) for row in context.store.hand_overs(episode_id)]


@router.post("/episodes/{episode_id}/hand-overs", status_code=202)
def hand_over(context: Context, episode_id: Id, request: HandOverRequest) -> JobView:
    """Hand a finished file over, in the background."""
    row = begin(
        context.store,
        _allowed(context),
        episode_id,
        request.destination,
        export_id=request.export,
        file=request.file,
        again=request.again,
    )
    return job_view(context.start(HAND_OVER, episode_id, HandOverParams(hand_over=row.id)))


@router.post("/hand-overs/{hand_over_id}/again", status_code=202)
def go_on(context: Context, hand_over_id: str) -> JobView:
    """Go on with one that broke off, from where it was."""
    row = context.store.begin_again(hand_over_id)
    return job_view(context.start_once(HAND_OVER, row.episode_id, HandOverParams(hand_over=row.id)))


@router.post("/hand-overs/{hand_over_id}/publish", status_code=202)
def publish(context: Context, hand_over_id: str) -> JobView:
    """Make a draft public, in the background; once, though two tabs ask."""
    row = context.store.hand_over(hand_over_id)
    return job_view(context.start_once(PUBLISH, row.episode_id, HandOverParams(hand_over=row.id)))


@router.post("/hand-overs/{hand_over_id}/schedule")
def publish_later(context: Context, hand_over_id: str, request: ScheduleRequest) -> HandOverView:
    """Publish a draft at a time, or not by itself."""
    return _view(context, schedule(context.store, hand_over_id, request.at))


def _allowed(context: State) -> Allowed:
    return Allowed(context.settings.allowed_hosts, context.settings.data_dir)


def _destination(row: DestinationRow) -> DestinationView:
    return DestinationView(
        id=row.id or 0,
        name=row.name,
        way=row.way,
        address=Address.model_validate_json(row.address),
        drafts=way_named(row.way).drafts,
    )


def _view(context: State, row: HandOverRow) -> HandOverView:
    destination = context.store.any_destination(row.destination_id)
    at = row.publish_at
    return HandOverView(
        id=row.id,
        destination=row.destination_id,
        where=destination.name,
        export=row.export_id,
        file=row.file,
        revision=row.revision,
        state=row.state,
        page=row.page,
        publish_at=at if at is None or at.tzinfo else at.replace(tzinfo=UTC),
        retry_at=row.retry_at and row.retry_at.replace(tzinfo=UTC),
        retry_until=at and at.replace(tzinfo=UTC) + RETRY_FOR,
        error=row.error,
        created_at=row.created_at,
    )
