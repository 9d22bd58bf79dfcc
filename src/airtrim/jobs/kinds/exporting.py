"""Writing an episode out."""

from pydantic import BaseModel

from airtrim.core.release.export import ExportReport, ExportSettings
from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.exporting import export_episode


class ExportParams(BaseModel):
    """A revision to write out, and how."""

    revision: int
    settings: ExportSettings
    file_name: str
    despite_damage: bool = False


class ExportResult(ExportReport, Result):
    """What was written."""


def _run(work: Work, params: ExportParams) -> ExportResult:
    report = export_episode(
        work.store,
        work.episode_id,
        params.revision,
        params.settings,
        work.job_id,
        work.progress,
        despite_damage=params.despite_damage,
    )
    return ExportResult(**dict(report))


EXPORT = Kind("export", "Exporting", ExportParams, _run)
