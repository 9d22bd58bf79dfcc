"""What travels and takes a while: the whole episode as one file, and its tracks."""

import zipfile
from pathlib import Path

from pydantic import BaseModel

from airtrim.core.release.export import ExportSettings
from airtrim.core.travel.tracks import TrackForm
from airtrim.errors import BadInput
from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.exporting import export_parts
from airtrim.services.travelling import write_tracks
from airtrim.store.files import settle
from airtrim.store.packing import pack
from airtrim.store.unpacking import unpack
from airtrim.store.uploads import Uploads

FILE = "file.zip"
"""What a job of these leaves in the folder of its number."""


class PackParams(BaseModel):
    """An episode to be packed, and what its file is called."""

    file_name: str


class TracksParams(BaseModel):
    """A revision whose tracks are to be written."""

    revision: int
    form: TrackForm = "flac"
    with_sound: bool = False
    file_name: str


class PartsParams(BaseModel):
    """A revision whose parts are to be written as files of their own."""

    revision: int
    settings: ExportSettings
    file_name: str


class FileResult(Result):
    """A file that was made."""

    bytes: int


class UnpackParams(BaseModel):
    """A pack that was uploaded, to be opened in the place of an empty episode."""

    upload: str
    name: str


def _pack(work: Work, params: PackParams) -> FileResult:
    with work.store.files.beside() as folder:
        out = folder / "out"
        out.mkdir()
        pack(work.store, work.episode_id, out / FILE, work.progress)
        return FileResult(bytes=_kept(work, out))


def _tracks(work: Work, params: TracksParams) -> FileResult:
    with work.store.files.beside() as folder:
        written = write_tracks(
            work.store,
            work.episode_id,
            params.revision,
            folder / "tracks",
            params.form,
            lambda done, doing: work.progress(0.9 * done, doing),
            with_sound=params.with_sound,
        )
        work.progress(0.95, "Putting them together")
        size = _together(work, folder, "tracks", [one.file for one in written])
    loud = [one.track for one in written if one.peak_dbfs > 0 and params.form == "flac"]
    notice = f"{' and '.join(loud)} went over full scale and was held there." if loud else None
    return FileResult(bytes=size, notice=notice)


def _parts(work: Work, params: PartsParams) -> FileResult:
    with work.store.files.beside() as folder:
        (folder / "parts").mkdir()
        names = export_parts(
            work.store,
            work.episode_id,
            params.revision,
            params.settings,
            folder / "parts",
            work.progress,
        )
        return FileResult(bytes=_together(work, folder, "parts", names))


def _together(work: Work, folder: Path, of: str, names: list[str]) -> int:
    """Files as one, where the job's file lies; its bytes."""
    out = folder / "out"
    out.mkdir()
    with zipfile.ZipFile(out / FILE, "w", zipfile.ZIP_STORED, allowZip64=True) as file:
        for name in names:
            file.write(folder / of / name, name)
    return _kept(work, out)


def _kept(work: Work, out: Path) -> int:
    """Put the folder of a job's file in its place; the file's bytes."""
    size = (out / FILE).stat().st_size
    settle(out, work.store.files.export(work.job_id))
    return size


def _unpack(work: Work, params: UnpackParams) -> Result:
    episode, show = work.store.episode(work.episode_id)
    if episode.head_id is not None or work.store.takes(work.episode_id):
        raise BadInput("That episode is not empty. Nothing was opened.")
    upload = work.store.files.upload(params.upload)
    Uploads(work.store.files).check(params.upload)
    unpack(work.store, upload, show.id, work.progress, into=work.episode_id)
    Uploads(work.store.files).remove(params.upload)
    return Result()


PACK = Kind("pack", "Packing the episode", PackParams, _pack)
TRACKS = Kind("tracks", "Writing the tracks", TracksParams, _tracks)
PARTS = Kind("parts", "Writing the parts", PartsParams, _parts)
UNPACK = Kind("unpack", "Opening the episode", UnpackParams, _unpack, changes=("episode", "page"))
