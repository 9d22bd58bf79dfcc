"""Putting a file that was uploaded on a show's shelf of sounds."""

from pydantic import BaseModel

from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.shelving import SoundKind, shelve_upload


class ShelveParams(BaseModel):
    """An uploaded file: where it lies, what it is called, and what it is for."""

    upload: str
    name: str
    sound_kind: SoundKind = "other"


def _run(work: Work, params: ShelveParams) -> Result:
    _, show = work.store.episode(work.episode_id)
    shelve_upload(
        work.store,
        show.id or 0,
        work.job_id,
        params.upload,
        params.name,
        params.sound_kind,
        work.progress,
    )
    return Result()


SHELVE = Kind("shelve", "Putting a sound on the shelf", ShelveParams, _run, changes=("sounds",))
