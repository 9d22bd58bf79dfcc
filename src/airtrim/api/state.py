"""What every request handler needs."""

from dataclasses import dataclass, field
from typing import Annotated, TypeVar

from fastapi import Depends, Request
from pydantic import BaseModel

from airtrim.api.calls import Calls
from airtrim.api.watching import Watching
from airtrim.jobs.base import Kind
from airtrim.jobs.queue import Queue, Watch
from airtrim.settings import Settings
from airtrim.store.store import Store
from airtrim.store.tables import UNFINISHED, JobRow

P = TypeVar("P", bound=BaseModel)


@dataclass(frozen=True, slots=True)
class State:
    """One store, one queue, one set of settings, what is watched, and the calls that are held."""

    store: Store
    queue: Queue
    settings: Settings
    watching: Watching
    calls: Calls = field(default_factory=Calls)
    sending: set[str] = field(default_factory=set)
    """Uploads that are being written to; only the event loop touches it."""
    watch: Watch | None = None
    """Of the worker, where there is one."""

    def start(self, kind: Kind[P], episode_id: int, params: P, job_id: str | None = None) -> JobRow:
        """Have work done in the background; with a ``job_id`` that is known, only once."""
        job = kind.queued(self.store, episode_id, params, job_id)
        if job.state == "queued":
            self.queue.wake(job.id)
        return job

    def start_once(self, kind: Kind[P], episode_id: int, params: P) -> JobRow:
        """The same work that is waiting or being done already, or else as ``start``."""
        for job in self.store.jobs(episode_id, UNFINISHED):
            if job.kind == kind.name and kind.params_of(job) == params:
                return job
        return self.start(kind, episode_id, params)


def current(request: Request) -> State:
    """The state of the application that serves ``request``."""
    state: State = request.app.state.airtrim
    return state


Context = Annotated[State, Depends(current)]
