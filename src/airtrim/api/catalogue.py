"""The finished episodes of a show side by side: which of them are not like the others."""

from collections import Counter
from collections.abc import Iterator

from fastapi import APIRouter

from airtrim.api.fields import Id
from airtrim.api.models.catalogue import CatalogueView, FindingView, FinishedView
from airtrim.api.state import Context, State
from airtrim.core.release.catalogue import Published, findings, usual_lufs
from airtrim.core.release.export import ExportReport
from airtrim.core.release.tags import tags_of
from airtrim.errors import NotFound
from airtrim.jobs.kinds.exporting import EXPORT, ExportResult
from airtrim.store.tables import EpisodeRow

router = APIRouter(prefix="/api", tags=["batches"])

_NO_PICTURE = "There is no picture in the file."


@router.get("/shows/{show_id}/catalogue")
def catalogue(context: Context, show_id: Id) -> CatalogueView:
    """The last file that was made of each episode, beside the show's median."""
    finished = list(_finished(context, show_id))
    titles = Counter(episode.title for episode, _, _ in finished)
    files = [
        _published(
            context,
            episode.title if titles[episode.title] == 1 else f"{episode.title} ({episode.id})",
            episode.id or 0,
            revision,
            report,
        )
        for episode, revision, report in finished
    ]
    found = findings(files)
    return CatalogueView(
        usual_lufs=usual_lufs(files),
        episodes=tuple(
            FinishedView(
                episode_id=episode.id or 0,
                title=episode.title,
                loudness_lufs=file.loudness_lufs,
                target_lufs=report.target_lufs,
                strip_lufs=report.loudness_lufs,
                findings=tuple(
                    FindingView(what=one.what, sentence=one.sentence)
                    for one in found
                    if one.file == file.file
                ),
            )
            for (episode, _, report), file in zip(finished, files, strict=True)
        ),
    )


def _finished(context: State, show_id: int) -> Iterator[tuple[EpisodeRow, int, ExportReport]]:
    """The episodes of which there is a file, in their order, with its revision and report."""
    last = {job.episode_id: job for job in context.store.jobs_of_show(show_id, (EXPORT.name,))
            if job.state == "done" and job.result}  # fmt: skip
    shelf = {show.id: episodes for show, episodes in context.store.shows()}
    for episode in shelf.get(show_id, []):
        job = last.get(episode.id or 0)
        if job is not None:
            report = ExportResult.model_validate_json(job.result or "").files[0]
            yield episode, EXPORT.params_of(job).revision, report


def _published(
    context: State, name: str, episode_id: int, revision: int, report: ExportReport
) -> Published:
    try:
        channels = context.store.timeline(episode_id, revision).loudness.channels
    except NotFound:
        channels = 2
    return Published(
        file=name,
        seconds=report.measured.duration_s,
        channels=channels,
        loudness_lufs=report.measured.integrated_lufs,
        true_peak_dbtp=report.measured.true_peak_dbtp,
        tags=tags_of(report.tags),
        artwork="" if "artwork" in report.tags else _NO_PICTURE,
    )
