"""The episodes of the batches of a show, by the jobs that name one."""

from dataclasses import dataclass
from typing import Any

from airtrim.compute.cluster import compute_at
from airtrim.core.media import FRAME_RATE
from airtrim.errors import NotFound
from airtrim.jobs.kinds.batching import BATCH, BatchParams, BatchResult
from airtrim.jobs.kinds.exporting import EXPORT, ExportResult
from airtrim.jobs.lifecycle import run
from airtrim.services.batch.report import Entry, State
from airtrim.settings import Settings
from airtrim.store.store import Store
from airtrim.store.tables import EpisodeRow, JobRow

_STATES: dict[str, State] = {
    "queued": "under way",
    "running": "under way",
    "done": "made",
    "failed": "failed",
    "interrupted": "failed",
    "cancelled": "cancelled",
}


@dataclass(frozen=True, slots=True)
class OfBatch:
    """An episode of a batch; ``made`` is what came of it, ``export`` what writes its file."""

    episode: EpisodeRow
    job: JobRow
    params: BatchParams
    made: BatchResult | None
    export: JobRow | None

    def told(self) -> Entry:
        """As a report tells it."""
        made, last = self.made, self.job if self.job.state != "done" else self.export
        if last is None:
            return self._entry("failed", sentence="Its file was deleted.")
        if made is None or last.kind != EXPORT.name or last.result is None:
            return self._entry(_STATES[last.state], sentence=last.error or "")
        file = ExportResult.model_validate_json(last.result).files[0]
        return self._entry(
            "made",
            output=f"{EXPORT.params_of(last).file_name}.{file.format}",
            seconds=made.frames / FRAME_RATE,
            took_s=made.took_s,
            bytes=file.bytes,
            loudness_lufs=file.measured.integrated_lufs,
            true_peak_dbtp=file.measured.true_peak_dbtp,
            strip_lufs=file.loudness_lufs,
            warnings=(*made.undone, *file.warnings),
        )

    def _entry(self, state: State, output: str = "", **told: Any) -> Entry:
        return Entry(source=self.episode.title, output=output, state=state, **told)


def of_batches(store: Store, show_id: int, batch: str | None = None) -> list[OfBatch]:
    """The episodes of the batches of a show, or of one of them. Raises NotFound."""
    rows = store.jobs_of_show(show_id, BATCH.name, EXPORT.name)
    exports = {job.id: job for job, _ in rows if job.kind == EXPORT.name}
    found = []
    for job, episode in rows:
        if job.kind == BATCH.name:
            params = BATCH.params_of(job)
            made = BatchResult.model_validate_json(job.result) if job.result else None
            export = exports.get(made.export) if made else None
            if batch in (None, params.batch):
                found.append(OfBatch(episode, job, params, made, export))
    if batch is not None and not found:
        raise NotFound("That batch is not known here.")
    return found


def pace_of(entries: list[OfBatch]) -> float | None:
    """How many seconds of work a second of sound took in them; None where there was none."""
    told = [one.made for one in entries if one.made]
    heard = sum(one.frames for one in told) / FRAME_RATE
    return sum(one.took_s for one in told) / heard if heard else None


def do_one(
    store: Store, settings: Settings, show_id: int, episode_id: int, params: BatchParams
) -> OfBatch:
    """An episode of a batch, done here and now, and its file."""
    store = store.with_compute(compute_at(settings.compute, urgent=False))
    job = BATCH.queued(store, episode_id, params, params.upload or None)
    following: list[str] = []
    run(store, settings, job.id, following.append)
    for one in following:
        run(store, settings, one, lambda _: None)
    return next(one for one in of_batches(store, show_id, params.batch) if one.job.id == job.id)
