"""How a job goes: queued, running, then done, failed or cancelled; and what a stop leaves."""

import logging
import time
from collections.abc import Callable
from contextlib import suppress

from sqlalchemy.exc import OperationalError

from airtrim.errors import AirTrimError, Cancelled, NotFound, StoreFull
from airtrim.jobs.base import Work
from airtrim.jobs.kinds import KINDS
from airtrim.logs import event
from airtrim.settings import Settings
from airtrim.store.files import FULL
from airtrim.store.full import is_full
from airtrim.store.store import Store
from airtrim.store.tables import NOT_OVER, UNFINISHED, JobRow

_REPORT_EVERY_S, _LOOK_EVERY_S = 0.2, 2.0
_SEEN = 0.005
"""The screen shows whole percents."""
MOST_ATTEMPTS = 3
_NOTE_ATTEMPTS = 30

_log = logging.getLogger("airtrim")


class Report:
    """Writes a job's progress, now and then, and raises Cancelled when the host asked for it.

    Progress never falls: a part that turns out longer than expected holds it where it is. A write
    follows when the host would see a difference, and at least every two seconds, since any of them
    can be the one that brings a request to stop.
    """

    def __init__(self, store: Store, job_id: str) -> None:
        self._store, self._job_id = store, job_id
        self._last, self._doing = 0.0, ""
        self._highest, self._written = 0.0, -1.0

    def __call__(self, fraction: float, doing: str) -> None:
        """Note that ``fraction`` (0–1) is done, and what is being done."""
        now = time.monotonic()
        self._highest = max(self._highest, min(1.0, fraction))
        passed_s, same = now - self._last, doing == self._doing
        if same and passed_s < _REPORT_EVERY_S:
            return
        if same and self._highest - self._written < _SEEN and passed_s < _LOOK_EVERY_S:
            if self._store.job(self._job_id).cancel:
                raise Cancelled("Cancelled.")
            self._last = now
            return
        self._last, self._doing, self._written = now, doing, self._highest
        progress = round(self._highest, 4)
        job = self._store.update_job(self._job_id, progress=progress, doing=doing)
        if job.cancel:
            raise Cancelled("Cancelled.")


def run(store: Store, settings: Settings, job_id: str, wake: Callable[[str], None]) -> None:
    """Do a queued job and note how it ended. ``wake`` is called with a job that follows it. Where
    the disk is so full that not even a beginning can be noted, it goes on waiting."""
    try:
        job = store.begin_job(job_id)
    except OperationalError as error:
        if is_full(error, store.files.free()):
            return
        raise
    if job is None:
        with suppress(NotFound):
            let_go(store, store.job(job_id).kind)
        return
    begun = time.monotonic()
    try:
        kind = KINDS.get(job.kind)
        if kind is None:
            raise NotFound("This version of Air Trim does not know how to do that.")
        work = Work(store, settings, job_id, job.episode_id, Report(store, job_id))
        result = kind.run(work, kind.params_of(job))
    except Cancelled:
        ended: dict[str, object] = {"state": "cancelled", "doing": "Cancelled"}
    except AirTrimError as error:
        ended = _failed(error)
    except Exception as error:
        if is_full(error, store.files.free()):
            ended = _failed(StoreFull(FULL))
        else:
            inside = f"This went wrong inside Air Trim ({type(error).__name__}). "
            ended = _failed(AirTrimError(f"{inside}Nothing was changed."))
            _log.exception("job failed", extra={"fields": {"job": job_id, "kind": job.kind}})
    else:
        ended = {
            "state": "done",
            "progress": 1.0,
            "doing": "Done",
            "result": result.model_dump_json(),
        }
        for following in result.next:
            wake(following)
    _note(store, job_id, ended)
    took_s = round(time.monotonic() - begun, 2)
    event("job", job=job_id, kind=job.kind, state=ended["state"], seconds=took_s)


def _failed(error: AirTrimError) -> dict[str, object]:
    return {"state": "failed", "doing": "Stopped", "error": str(error), "place": error.place}


def _note(store: Store, job_id: str, ended: dict[str, object]) -> None:
    """Note how a job ended; on a full disk as soon as there is room, within half a minute."""
    for attempt in range(_NOTE_ATTEMPTS):
        try:
            store.update_job(job_id, **ended)
            return
        except OperationalError as error:
            if attempt + 1 == _NOTE_ATTEMPTS or not is_full(error, store.files.free()):
                raise
            time.sleep(1.0)


def stop(store: Store, job_id: str) -> JobRow:
    """Ask a job to stop. One that is not under way does so at once, and lets go of what it has."""
    job = store.stop_job(job_id)
    if job.state == "cancelled":
        let_go(store, job.kind)
    return job


def let_go(store: Store, *names: str) -> None:
    """Have kinds of work let go of what none of theirs is at any more."""
    kinds = [(kind, free) for kind in map(KINDS.get, names) if kind and (free := kind.let_go)]
    unended = store.jobs(states=NOT_OVER) if kinds else []
    for kind, free in kinds:
        free(store, [kind.params_of(job) for job in unended if job.kind == kind.name])


def recover(store: Store) -> list[str]:
    """Put what a stopped worker left back in the queue; returns the jobs to wake, oldest first.

    A job that has already been begun three times is marked interrupted; the host can run it again.
    """
    waiting = []
    let_go(store, *KINDS)
    for job in store.jobs(states=UNFINISHED):
        if job.attempts >= MOST_ATTEMPTS:
            sentence = "Air Trim was stopped while this ran. Nothing was lost; run it again."
            store.update_job(job.id, state="interrupted", error=sentence, doing="Stopped")
        else:
            store.update_job(job.id, state="queued", doing="Waiting")
            waiting.append(job.id)
    return waiting
