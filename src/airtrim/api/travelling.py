"""What travels from an episode: the whole as one file, its tracks, its cut list, its chapters."""

from typing import Literal

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel

from airtrim.api.fields import Id, Revision
from airtrim.api.models.work import JobView, job_view
from airtrim.api.state import Context
from airtrim.core.release.export import ExportSettings
from airtrim.core.release.formats.base import format_named
from airtrim.core.travel.tracks import TrackForm
from airtrim.errors import NotFound, empty_episode, file_gone
from airtrim.jobs.base import KINDS
from airtrim.jobs.kinds.travelling import (
    FILE,
    PACK,
    PARTS,
    TRACKS,
    PackParams,
    PartsParams,
    TracksParams,
)
from airtrim.services.travelling import ListForm, listed, plain_name

router = APIRouter(prefix="/api", tags=["travelling"])

_MEDIA: dict[ListForm, str] = {
    "otio": "application/json",
    "vtt": "text/vtt",
    "csv": "text/csv",
}


class TracksRequest(BaseModel):
    """A revision whose tracks are wanted as files: cut only, or ``with_sound`` as they go into the
    mix."""

    revision: Revision
    form: TrackForm = "flac"
    with_sound: bool = False


class PartsRequest(BaseModel):
    """A revision whose parts are wanted as files of their own."""

    revision: Revision
    settings: ExportSettings = ExportSettings()


@router.post("/episodes/{episode_id}/pack", status_code=202)
def pack(context: Context, episode_id: Id) -> JobView:
    """Make one file of the episode in the background, with its whole history."""
    params = PackParams(file_name=f"{_title(context, episode_id)}.airtrim.zip")
    return job_view(context.start(PACK, episode_id, params))


@router.post("/episodes/{episode_id}/tracks", status_code=202)
def tracks(context: Context, episode_id: Id, request: TracksRequest) -> JobView:
    """Write each track as a file in the background, all as long as the episode."""
    if not context.store.timeline(episode_id, request.revision).frames:
        raise empty_episode("there are no tracks to write")
    name = f"{_title(context, episode_id)} - tracks.zip"
    params = TracksParams(**request.model_dump(), file_name=name)
    return job_view(context.start(TRACKS, episode_id, params))


@router.post("/episodes/{episode_id}/parts", status_code=202)
def parts(context: Context, episode_id: Id, request: PartsRequest) -> JobView:
    """Write each part as a file in the background, numbered, on the episode's target."""
    if not context.store.timeline(episode_id, request.revision).frames:
        raise empty_episode("there is nothing to export")
    format_named(request.settings.format).check_kbits(request.settings.kbits)
    name = f"{_title(context, episode_id)} - parts.zip"
    params = PartsParams(**dict(request), file_name=name)
    return job_view(context.start(PARTS, episode_id, params))


@router.get("/travelling/{job_id}/file", response_class=FileResponse)
def download(context: Context, job_id: str) -> FileResponse:
    """The file that was made."""
    job = context.store.job(job_id)
    if job.kind not in (PACK.name, TRACKS.name, PARTS.name) or job.state != "done":
        raise NotFound("That file is not finished.")
    path = context.store.files.export(job_id) / FILE
    if not path.exists():
        raise file_gone()
    return FileResponse(path, filename=KINDS[job.kind].params_of(job).file_name)


@router.get("/episodes/{episode_id}/lists", response_class=Response)
def lists(
    context: Context, episode_id: Id, revision: Revision, form: Literal["otio", "vtt", "csv"]
) -> Response:
    """The cut list as OpenTimelineIO, the chapters as WebVTT, or parts and markers as CSV."""
    text = listed(context.store, episode_id, revision, form)
    name = f"{_title(context, episode_id)}.{form}"
    plain = name.encode("ascii", "ignore").decode().replace('"', "")
    headers = {"Content-Disposition": f'attachment; filename="{plain}"'}
    return Response(text, media_type=f"{_MEDIA[form]}; charset=utf-8", headers=headers)


def _title(context: Context, episode_id: int) -> str:
    episode, show = context.store.episode(episode_id)
    return plain_name(f"{show.name} - {episode.title}")
