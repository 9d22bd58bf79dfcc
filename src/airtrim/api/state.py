"""What every request handler needs."""

from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Depends, Request

from airtrim.api.calls import Calls
from airtrim.api.watching import Watching
from airtrim.jobs.queue import Queue, Watch
from airtrim.settings import Settings
from airtrim.store.store import Store


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


def current(request: Request) -> State:
    """The state of the application that serves ``request``."""
    state: State = request.app.state.airtrim
    return state


Context = Annotated[State, Depends(current)]
