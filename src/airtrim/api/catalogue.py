"""The finished episodes of a show side by side: which of them are not like the others."""

from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from fastapi import APIRouter

from airtrim.api.fields import Id
from airtrim.api.models.catalogue import CatalogueView, FindingView, FinishedView
from airtrim.api.state import Context, State
from airtrim.core.media.decode import probe
from airtrim.core.release.catalogue import Published, findings, usual_lufs
from airtrim.core.release.export import ExportReport
from airtrim.core.release.tags import NO_PICTURE, tags_of
from airtrim.jobs.kinds.exporting import EXPORT, ExportResult
from airtrim.store.tables import EpisodeRow

router = APIRouter(prefix="/api", tags=["batches"])


@router.get("/shows/{show_id}/catalogue")
def catalogue(context: Context, show_id: Id) -> CatalogueView:
    """The last file that was made of each episode, beside the show's median."""
    finished = list(_finished(context, show_id))
    titles = Counter(episode.title for episode, _, _ in finished)
    files = [
        Published(
            file=episode.title if titles[episode.title] == 1 else f"{episode.title} ({episode.id})",
            seconds=report.measured.duration_s,
            channels=probe(path).channels,
            loudness_lufs=report.measured.integrated_lufs,
            true_peak_dbtp=report.measured.true_peak_dbtp,
            tags=tags_of(report.tags),
            artwork="" if "artwork" in report.tags else NO_PICTURE,
        )
        for episode, path, report in finished
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


def _finished(context: State, show_id: int) -> Iterator[tuple[EpisodeRow, Path, ExportReport]]:
    """The episodes of which there is a file, newest first, with that file and its report."""
    made = context.store.jobs_of_show(show_id, EXPORT.name)
    last = {episode.id or 0: (job, episode) for job, episode in made if job.state == "done"}
    for _, (job, episode) in sorted(last.items(), reverse=True):
        path = context.store.files.export(job.id) / EXPORT.params_of(job).file(0).name
        if path.exists() and job.result:
            yield episode, path, ExportResult.model_validate_json(job.result).files[0]
