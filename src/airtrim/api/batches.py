"""Many episodes of a show through one recipe."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Response

from airtrim.api.fields import Id
from airtrim.api.jobs import asked_to_stop
from airtrim.api.models.batches import (
    BatchEntryView,
    BatchesView,
    BatchView,
    FormatName,
    NewBatch,
)
from airtrim.api.models.work import JobView, job_view
from airtrim.api.state import Context, State
from airtrim.core.media import FRAME_RATE
from airtrim.core.release.formats.base import format_named, offered
from airtrim.errors import BadInput, NotFound
from airtrim.jobs.kinds.batching import BATCH, BatchParams, BatchResult
from airtrim.jobs.kinds.exporting import EXPORT, ExportResult
from airtrim.services.batch.report import Entry, as_json, as_page, as_table
from airtrim.services.batch.report import State as EntryState
from airtrim.store.tables import UNFINISHED, EpisodeRow, JobRow

router = APIRouter(prefix="/api/shows/{show_id}/batches", tags=["batches"])

_MOST_TOLD = 20
_FORMS = {
    "html": (as_page, "text/html; charset=utf-8"),
    "csv": (as_table, "text/csv; charset=utf-8"),
    "json": (as_json, "application/json"),
}


@router.get("")
def batches(context: Context, show_id: Id) -> BatchesView:
    """The last batches of a show, and what became of each episode."""
    found = _entries(context, show_id)
    told = [one.made for one in found if one.made]
    heard = sum(one.frames for one in told) / FRAME_RATE
    by_batch: dict[str, list[_Entry]] = {}
    for one in found:
        by_batch.setdefault(one.params.batch, []).append(one)
    newest = list(by_batch.items())[::-1][:_MOST_TOLD]
    return BatchesView(
        batches=tuple(
            BatchView(
                id=batch,
                made_at=entries[0].job.created_at,
                recipe=entries[0].params.recipe,
                entries=tuple(one.view() for one in entries),
            )
            for batch, entries in newest
        ),
        pace=sum(one.took_s for one in told) / heard if heard else None,
        formats=tuple(FormatName(format=form.name, title=form.title) for form in offered()),
    )


@router.post("", status_code=202)
def begin(context: Context, show_id: Id, new: NewBatch) -> list[JobView]:
    """Make episodes of a show in the background, one after the other. Asking for the same twice is
    the same as once."""
    file = new.recipe.file
    format_named(file.format).check_kbits(file.kbits)
    own = {e.id for show, episodes in context.store.shows() if show.id == show_id for e in episodes}
    if not own.issuperset(new.episodes):
        raise NotFound("One of these episodes is not on this show’s shelf.")
    params = BatchParams(batch=new.batch, recipe=new.recipe)
    return [
        job_view(context.start(BATCH, episode, params, f"{new.batch}-{episode}"))
        for episode in dict.fromkeys(new.episodes)
    ]


@router.post("/{batch}/cancel")
def cancel(context: Context, show_id: Id, batch: str) -> list[JobView]:
    """Ask all that is left of a batch to stop. What was made stays."""
    left = [
        job
        for one in _entries(context, show_id, batch)
        for job in (one.job, one.export)
        if job and job.state in UNFINISHED
    ]
    if not left:
        raise BadInput("All of that batch has ended already.")
    return [job_view(asked_to_stop(context.store, job)) for job in left]


@router.get("/{batch}/report", response_class=Response)
def report(
    context: Context,
    show_id: Id,
    batch: str,
    form: Annotated[Literal["html", "csv", "json"], Query()] = "html",
) -> Response:
    """What became of a batch, as a page, a table or JSON."""
    entries = [one.told() for one in _entries(context, show_id, batch)]
    write, media_type = _FORMS[form]
    headers = {"Content-Disposition": f'attachment; filename="batch.{form}"'}
    return Response(write(entries), media_type=media_type, headers=headers)


@dataclass(frozen=True, slots=True)
class _Entry:
    """An episode of a batch."""

    episode: EpisodeRow
    job: JobRow
    params: BatchParams
    made: BatchResult | None
    export: JobRow | None

    def view(self) -> BatchEntryView:
        return BatchEntryView(
            episode_id=self.job.episode_id,
            title=self.episode.title,
            frames=self.episode.frames,
            job=job_view(self.job),
            export=job_view(self.export) if self.export else None,
        )

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

    def _entry(self, state: EntryState, output: str = "", **told: Any) -> Entry:
        return Entry(source=self.episode.title, output=output, state=state, **told)


_STATES: dict[str, EntryState] = {
    "queued": "under way",
    "running": "under way",
    "done": "made",
    "failed": "failed",
    "interrupted": "failed",
    "cancelled": "cancelled",
}


def _entries(context: State, show_id: int, batch: str | None = None) -> list[_Entry]:
    """The episodes of the batches of a show, or of one of them. Raises NotFound."""
    rows = context.store.jobs_of_show(show_id, BATCH.name, EXPORT.name)
    exports = {job.id: job for job, _ in rows if job.kind == EXPORT.name}
    found = []
    for job, episode in rows:
        if job.kind == BATCH.name:
            params = BATCH.params_of(job)
            made = BatchResult.model_validate_json(job.result) if job.result else None
            export = exports.get(made.export) if made else None
            if batch in (None, params.batch):
                found.append(_Entry(episode, job, params, made, export))
    if batch is not None and not found:
        raise NotFound("That batch is not known here.")
    return found
