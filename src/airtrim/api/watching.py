"""One look at the database for all browsers: what has changed goes to each that listens.

SQLite itself tells whether anything was written since the last look (``PRAGMA data_version``), so
that looking costs next to nothing while nothing happens.
"""

import asyncio
import json
import logging
import sqlite3
from collections.abc import AsyncIterator
from dataclasses import dataclass, field

from sqlalchemy.exc import SQLAlchemyError

from airtrim.api.models.work import JobView, job_view
from airtrim.store.store import Store
from airtrim.store.tables import UNFINISHED

_LOOK_EVERY_S = 0.25
_MOST_WAITING = 1000

_log = logging.getLogger("airtrim")

Event = dict[str, str]


@dataclass
class _Seen:
    """What was told last."""

    jobs: dict[str, str] = field(default_factory=dict)
    episodes: dict[int, tuple[int, str]] = field(default_factory=dict)


class Watching:
    """Looks while somebody listens."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._listeners: set[asyncio.Queue[Event]] = set()
        self._task: asyncio.Task[None] | None = None
        self._beginning = asyncio.Lock()
        self._seen = _Seen()
        self._unfinished: dict[str, JobView] = {}

    async def events(self) -> AsyncIterator[Event]:
        """``job`` with a job, ``episode`` with id and revision, as they change; first the jobs that
        are under way."""
        mine: asyncio.Queue[Event] = asyncio.Queue(_MOST_WAITING)
        async with self._beginning:
            if self._task is None or self._task.done():
                await asyncio.to_thread(self._look)  # what was before is no news
                self._task = asyncio.create_task(self._watch())
            self._listeners.add(mine)
        try:
            for job in list(self._unfinished.values()):
                yield _job_event(job)
            while True:
                yield await mine.get()
        finally:
            self._listeners.discard(mine)

    async def _watch(self) -> None:
        while self._listeners:
            try:
                await self._tell()
            except (SQLAlchemyError, sqlite3.Error) as error:
                _log.warning("What has changed could not be read and is read again: %s", error)
                await asyncio.sleep(_LOOK_EVERY_S)

    async def _tell(self) -> None:
        """Look and tell as long as somebody listens."""
        version = 0
        with self._store.versions() as now:
            while self._listeners:
                await asyncio.sleep(_LOOK_EVERY_S)
                found = now()
                if found == version:
                    continue
                version = found
                for event in await asyncio.to_thread(self._look):
                    for listener in self._listeners:
                        if not listener.full():  # a browser that takes nothing loads anew
                            listener.put_nowait(event)

    def _look(self) -> list[Event]:
        rows, stamps = self._store.recent_jobs(), self._store.stamps()
        events = []
        before, self._seen.jobs, self._unfinished = self._seen.jobs, {}, {}
        for row in rows:
            view = job_view(row)
            if row.state in UNFINISHED:
                self._unfinished[row.id] = view
            stamp = self._seen.jobs[row.id] = row.updated_at.isoformat()
            if before.get(row.id) != stamp:
                events.append(_job_event(view))
        for episode_id, seen in stamps.items():
            if self._seen.episodes.get(episode_id) != seen:
                self._seen.episodes[episode_id] = seen
                data = json.dumps({"id": episode_id, "revision": seen[0]})
                events.append({"event": "episode", "data": data})
        return events


def _job_event(job: JobView) -> Event:
    return {"event": "job", "data": job.model_dump_json()}
