"""Many episodes of a show through one recipe."""

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response

from airtrim.api.fields import Id
from airtrim.api.models.batches import (
    BatchEntryView,
    BatchesView,
    BatchView,
    FormatName,
    NewBatch,
)
from airtrim.api.models.work import JobView, job_view
from airtrim.api.state import Context
from airtrim.core.release.formats.base import format_named, offered
from airtrim.errors import BadInput, NotFound
from airtrim.jobs.batches import OfBatch, of_batches, pace_of
from airtrim.jobs.kinds.batching import BATCH, BatchParams
from airtrim.jobs.lifecycle import stop
from airtrim.services.batch.report import as_json, as_page, as_table
from airtrim.store.tables import UNFINISHED

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
    found = of_batches(context.store, show_id)
    by_batch: dict[str, list[OfBatch]] = {}
    for one in found:
        by_batch.setdefault(one.params.batch, []).append(one)
    newest = list(by_batch.items())[::-1][:_MOST_TOLD]
    return BatchesView(
        batches=tuple(
            BatchView(
                id=batch,
                made_at=entries[0].job.created_at,
                recipe=entries[0].params.recipe,
                entries=tuple(_view(one) for one in entries),
            )
            for batch, entries in newest
        ),
        pace=pace_of(found),
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
        for one in of_batches(context.store, show_id, batch)
        for job in (one.job, one.export)
        if job and job.state in UNFINISHED
    ]
    if not left:
        raise BadInput("All of that batch has ended already.")
    return [job_view(stop(context.store, job.id)) for job in left]


@router.get("/{batch}/report", response_class=Response)
def report(
    context: Context,
    show_id: Id,
    batch: str,
    form: Annotated[Literal["html", "csv", "json"], Query()] = "html",
) -> Response:
    """What became of a batch, as a page, a table or JSON."""
    entries = [one.told() for one in of_batches(context.store, show_id, batch)]
    write, media_type = _FORMS[form]
    headers = {"Content-Disposition": f'attachment; filename="batch.{form}"'}
    return Response(write(entries), media_type=media_type, headers=headers)


def _view(one: OfBatch) -> BatchEntryView:
    return BatchEntryView(
        episode_id=one.job.episode_id,
        title=one.episode.title,
        frames=one.episode.frames,
        job=job_view(one.job),
        export=job_view(one.export) if one.export else None,
    )
