"""Putting an export on a show's shelf of sounds."""

from pydantic import BaseModel

from airtrim.jobs.base import Kind, Result, Work
from airtrim.jobs.kinds.exporting import EXPORT
from airtrim.services.shelving import SoundKind, shelve_file


class ShelveExportParams(BaseModel):
    """The job of an export, which of its files, what the sound is called, and what it is for."""

    job: str
    file: int = 0
    name: str
    sound_kind: SoundKind = "other"


def _run(work: Work, params: ShelveExportParams) -> Result:
    _, show = work.store.episode(work.episode_id)
    export = EXPORT.params_of(work.store.job(params.job))
    path = work.store.files.export(params.job) / export.file(params.file).name
    shelve_file(
        work.store,
        show.id or 0,
        work.job_id,
        path,
        params.name,
        params.sound_kind,
        work.progress,
    )
    return Result(notice=f"“{params.name}” stands on the shelf of sounds.")


SHELVE_EXPORT = Kind(
    "shelve_export",
    "Putting an export on the shelf",
    ShelveExportParams,
    _run,
    changes=("sounds",),
)
