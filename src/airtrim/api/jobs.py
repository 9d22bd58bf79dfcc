"""Background work as the browser sees it, and the stream of events."""

import asyncio
import json
from collections.abc import AsyncIterator

from fastapi import APIRouter, Query, Request
from sse_starlette.sse import EventSourceResponse

from airtrim.api.models import JobView, job_view
from airtrim.api.state import Context, State
from airtrim.core.timeline.bounds import MOST_NUMBER
from airtrim.errors import BadInput
from airtrim.store.tables import JobRow

router = APIRouter(prefix="/api", tags=["jobs"])

_LOOK_EVERY_S = 0.25
_UNFINISHED = ("queued", "running")


@router.get("/jobs")
def jobs(
    context: Context, episode_id: int | None = Query(default=None, ge=0, le=MOST_NUMBER)
) -> list[JobView]:
    """Jobs, oldest first."""
    return [job_view(job) for job in context.store.jobs(episode_id)]


@router.get("/jobs/{job_id}")
def job(context: Context, job_id: str) -> JobView:
    """One job."""
    return job_view(context.store.job(job_id))


@router.post("/jobs/{job_id}/cancel")
def cancel(context: Context, job_id: str) -> JobView:
    """Ask a job to stop; it does within a second."""
    row = context.store.job(job_id)
    if row.state not in _UNFINISHED:
        raise BadInput("That work has already ended.")
    if row.state == "queued":
        return job_view(
            context.store.update_job(job_id, cancel=True, state="cancelled", doing="Cancelled")
        )
    return job_view(context.store.update_job(job_id, cancel=True))


@router.post("/jobs/{job_id}/again")
def again(context: Context, job_id: str) -> JobView:
    """Run a job that failed, was cancelled or was interrupted once more."""
    row = context.store.job(job_id)
    if row.state in (*_UNFINISHED, "done"):
        raise BadInput("That work is not waiting to be run again.")
    row = context.store.update_job(
        job_id, state="queued", cancel=False, error=None, attempts=0, progress=0.0, doing="Waiting"
    )
    context.queue.wake(job_id)
    return job_view(row)


@router.get("/events", response_class=EventSourceResponse)
async def events(context: Context, request: Request) -> EventSourceResponse:
    """Server-sent events: ``job`` with a job, ``episode`` with id and revision, as they change."""
    return EventSourceResponse(_events(context, request), ping=15)


async def _events(state: State, request: Request) -> AsyncIterator[dict[str, str]]:
    jobs_seen: dict[str, str] = {}
    episodes_seen: dict[int, tuple[int, str]] = {}
    first = True
    while not await request.is_disconnected():
        rows, episodes = await asyncio.to_thread(_look, state)
        for row in rows:
            stamp = row.updated_at.isoformat()
            if jobs_seen.get(row.id) != stamp:
                jobs_seen[row.id] = stamp
                if not (first and row.state not in _UNFINISHED):
                    yield {"event": "job", "data": job_view(row).model_dump_json()}
        for episode_id, seen in episodes.items():
            if episodes_seen.get(episode_id) != seen:
                if not first:
                    data = json.dumps({"id": episode_id, "revision": seen[0]})
                    yield {"event": "episode", "data": data}
                episodes_seen[episode_id] = seen
        first = False
        await asyncio.sleep(_LOOK_EVERY_S)


def _look(state: State) -> tuple[list[JobRow], dict[int, tuple[int, str]]]:
    episodes = {
        episode.id or 0: (episode.head_id or 0, episode.updated_at.isoformat())
        for _, rows in state.store.shows()
        for episode in rows
    }
    return state.store.recent_jobs(), episodes
