"""What a kind of work is: its name, what it is told and what it tells, and what it does."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, Literal, TypeVar

from pydantic import BaseModel

from airtrim.core.progress import Progress
from airtrim.settings import Settings
from airtrim.store.store import Store
from airtrim.store.tables import JobRow

Shown = Literal[
    "episode", "page", "snags", "levels", "unfinished", "sounds", "rundown", "hand_overs"
]
"""What a browser shows of an episode, by the names of its queries."""

KINDS: "dict[str, Kind[Any]]" = {}
"""Every kind of work there is. One is registered when it is made."""


class Result(BaseModel):
    """What came of it. ``notice`` is told to the host; ``next`` are jobs that follow."""

    notice: str | None = None
    next: tuple[str, ...] = ()


P = TypeVar("P", bound=BaseModel)


@dataclass(frozen=True, slots=True)
class Work:
    """What a job is done with."""

    store: Store
    settings: Settings
    job_id: str
    episode_id: int
    progress: Progress

    def follow(self, kind: "Kind[P]", params: P, job_id: str) -> str:
        """Queue a job that follows, once, however often this one is run; returns its id."""
        return kind.queued(self.store, self.episode_id, params, job_id).id


@dataclass(frozen=True, slots=True)
class Kind(Generic[P]):
    """A kind of work.

    ``title`` is what a host reads while it is done; ``changes`` is what a browser has to read again
    when it has ended, ``shows`` each time it says that it does something else; ``let_go`` is called
    with what is still to be done when a worker starts, and when work was called off before it
    began; ``on_look`` now and then, and returns jobs whose time has come. What gives way is done
    one by one, beside all other work, and what follows it before the next.
    """

    name: str
    title: str
    params: type[P]
    run: Callable[[Work, P], Result]
    changes: tuple[Shown, ...] = ()
    shows: tuple[Shown, ...] = ()
    let_go: Callable[[Store, Sequence[P]], None] | None = None
    on_look: Callable[[Store], Sequence[str]] | None = None
    gives_way: bool = False

    def __post_init__(self) -> None:
        KINDS[self.name] = self

    def queued(self, store: Store, episode_id: int, params: P, job_id: str | None = None) -> JobRow:
        """A row for new work; with a ``job_id`` that is there already, that row."""
        return store.add_job(self.name, episode_id, params.model_dump_json(), job_id)

    def params_of(self, job: JobRow) -> P:
        """What a job was told."""
        return self.params.model_validate_json(job.params)
