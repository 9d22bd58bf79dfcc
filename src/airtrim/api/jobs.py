"""Background work as the browser sees it, and the stream of events."""

from fastapi import APIRouter, Query
from sse_starlette.sse import EventSourceResponse

from airtrim.api.models.work import JobView, job_view
from airtrim.api.state import Context
from airtrim.core.timeline.bounds import MOST_NUMBER
from airtrim.errors import BadInput
from airtrim.jobs.lifecycle import stop
from airtrim.store.tables import NOT_OVER, UNFINISHED

router = APIRouter(prefix="/api", tags=["jobs"])


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
    """Ask a job to stop, which it does within a second; one that was cut off is left at that."""
    row = context.store.job(job_id)
    if row.state not in NOT_OVER:
        raise BadInput("That work has already ended.")
    return job_view(stop(context.store, job_id))


@router.post("/jobs/{job_id}/again")
def again(context: Context, job_id: str) -> JobView:
    """Run a job that failed, was cancelled or was interrupted once more."""
    row = context.store.job(job_id)
    if row.state in (*UNFINISHED, "done"):
        raise BadInput("That work is not waiting to be run again.")
    row = context.store.update_job(
        job_id,
        state="queued",
        cancel=False,
        error=None,
        place=None,
        attempts=0,
        progress=0.0,
        doing="Waiting",
    )
    context.queue.wake(job_id)
    return job_view(row)


@router.get("/events", response_class=EventSourceResponse)
async def events(context: Context) -> EventSourceResponse:
    """Server-sent events: ``job`` with a job, ``episode`` with id and revision, as they change."""
    return EventSourceResponse(context.watching.events(), ping=15)
