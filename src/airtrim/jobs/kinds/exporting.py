"""Writing an episode out."""

from pydantic import BaseModel, Field

from airtrim.core.release.export import ExportReport, ExportSettings
from airtrim.errors import NotFound
from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.exporting import export_episode


class FileToMake(BaseModel):
    """One of the files: what it is called in the folder, and how it is written."""

    name: str
    settings: ExportSettings


class ExportParams(BaseModel):
    """A revision to write out, and as what. ``file_name`` is what a download is called, without
    its ending."""

    revision: int
    files: tuple[FileToMake, ...] = Field(min_length=1)
    file_name: str
    despite_damage: bool = False

    @classmethod
    def of(
        cls,
        revision: int,
        settings: tuple[ExportSettings, ...],
        file_name: str,
        *,
        despite_damage: bool,
    ) -> "ExportParams":
        """With names for the files."""
        named: list[FileToMake] = []
        for one in settings:
            before = sum(other.settings.format == one.format for other in named)
            name = f"file-{before + 1}" if before else "file"
            named.append(FileToMake(name=f"{name}.{one.format}", settings=one))
        return cls(
            revision=revision,
            files=tuple(named),
            file_name=file_name,
            despite_damage=despite_damage,
        )

    def file(self, number: int) -> FileToMake:
        """One of them. Raises NotFound."""
        if not 0 <= number < len(self.files):
            raise NotFound("There is no such file.")
        return self.files[number]


class ExportResult(Result):
    """What was written, a report for each file."""

    files: tuple[ExportReport, ...]


def _run(work: Work, params: ExportParams) -> ExportResult:
    reports = export_episode(
        work.store,
        work.episode_id,
        params.revision,
        [(one.name, one.settings) for one in params.files],
        work.job_id,
        work.progress,
        despite_damage=params.despite_damage,
    )
    return ExportResult(files=reports)


EXPORT = Kind("export", "Exporting", ExportParams, _run)
