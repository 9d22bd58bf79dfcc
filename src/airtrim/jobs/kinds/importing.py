"""Bringing in a file that was uploaded."""

from pydantic import BaseModel, Field

from airtrim.core.timeline.bounds import MOST_FRAMES
from airtrim.core.timeline.model import TrackKind
from airtrim.jobs.base import Kind, Result, Work
from airtrim.jobs.kinds.transcribing import first_words
from airtrim.services.importing import Destination, import_upload


class ImportParams(BaseModel):
    """An uploaded file to bring in: where it lies, what it is called, and where it goes."""

    upload: str
    name: str
    track_name: str | None = Field(default=None, min_length=1, max_length=80)
    track_kind: TrackKind = "voice"
    at: int | None = Field(default=None, ge=0, le=MOST_FRAMES)
    insert: bool = False
    as_part: bool = False


class ImportResult(Result):
    """The take that was made."""

    take: str


def _run(work: Work, params: ImportParams) -> ImportResult:
    to = Destination(params.track_name, params.track_kind, params.at, params.insert, params.as_part)
    take = work.job_id
    notice = import_upload(
        work.store, work.episode_id, take, params.upload, params.name, to, work.progress
    )
    return ImportResult(take=take, notice=notice, next=(first_words(work, take),))


IMPORT = Kind("import", "Bringing in", ImportParams, _run, changes=("episode",))
