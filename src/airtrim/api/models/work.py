"""Work in the background, and what went wrong."""

import json
from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel

from airtrim.errors import Place
from airtrim.jobs.base import Shown
from airtrim.jobs.kinds import KINDS
from airtrim.store.tables import JobRow

JobState = Literal["queued", "running", "done", "failed", "cancelled", "interrupted"]


class JobView(BaseModel):
    """Background work. ``title`` is what it is called on the screen; ``result`` depends on the
    kind; ``error`` is a sentence, ``place`` where that is put right; ``changes`` is what is to be
    read again once it has ended, ``shows`` each time ``doing`` has become something else."""

    id: str
    kind: str
    title: str
    episode_id: int
    state: JobState
    progress: float
    doing: str
    error: str | None
    place: Place | None
    result: dict[str, Any] | None
    params: dict[str, Any]
    changes: tuple[Shown, ...]
    shows: tuple[Shown, ...]
    created_at: datetime
    updated_at: datetime


class Problem(BaseModel):
    """What went wrong, in a sentence; ``revision`` is the current one where an edit was stale,
    ``wanted`` the number of the piece to send where one was out of its place, ``place`` where it is
    put right."""

    sentence: str
    revision: int | None = None
    wanted: int | None = None
    place: Place | None = None


def job_view(job: JobRow) -> JobView:
    """A job row as a response."""
    kind = KINDS.get(job.kind)  # None for one of another version
    return JobView.model_validate(
        {
            **job.model_dump(),
            "title": kind.title if kind else job.kind,
            "changes": kind.changes if kind else (),
            "shows": kind.shows if kind else (),
            "result": json.loads(job.result) if job.result else None,
            "params": json.loads(job.params),
        }
    )
