"""An episode through a batch, or a file that becomes one."""

import time
from typing import Annotated

from pydantic import BaseModel, BeforeValidator, Field, TypeAdapter

from airtrim.jobs.base import Kind, Result, Work
from airtrim.jobs.kinds.exporting import EXPORT, ExportParams
from airtrim.jobs.kinds.transcribing import TRANSCRIBE
from airtrim.services.batch.episodes import EpisodeRecipe, prepare
from airtrim.services.batch.files import bring_in
from airtrim.services.exporting import called
from airtrim.store.tables import UNFINISHED

BatchId = Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]

_TEXT = TypeAdapter(EpisodeRecipe)


def _read(given: object) -> object:
    """Of an upload it comes as text."""
    return _TEXT.validate_json(given) if isinstance(given, str) else given


class BatchParams(BaseModel):
    """Which batch it belongs to and what is done to it; ``upload`` and ``name``: the file that the
    episode is made of, where it is made of one."""

    batch: BatchId
    recipe: Annotated[EpisodeRecipe, BeforeValidator(_read)]
    upload: str = ""
    name: str = ""


class BatchResult(Result):
    """The revision that was written out by the job ``export``; ``undone`` is what could not be
    done, and why; ``frames`` how long the episode was before, ``took_s`` how long the work took."""

    revision: int
    export: str
    undone: tuple[str, ...]
    frames: int
    took_s: float


def _run(work: Work, params: BatchParams) -> BatchResult:
    store, episode_id = work.store, work.episode_id
    begun = time.monotonic()
    notice = None
    if params.upload:
        notice = bring_in(store, episode_id, work.job_id, params.upload, params.name, work.progress)

    def writing(take: str) -> bool:
        jobs = store.jobs(episode_id, UNFINISHED)
        return any(j.kind == TRANSCRIBE.name and TRANSCRIBE.params_of(j).take == take for j in jobs)

    frames = store.current(episode_id).frames
    revision, undone = prepare(
        store, work.settings, episode_id, params.recipe, writing, work.progress
    )
    name = called(store, episode_id, store.timeline(episode_id, revision))
    file = ExportParams.of(revision, (params.recipe.file,), name, despite_damage=False)
    export = work.follow(EXPORT, file, f"{work.job_id}-{revision}")
    return BatchResult(
        revision=revision,
        export=export,
        undone=(*undone, *filter(None, [notice])),
        frames=frames,
        took_s=round(time.monotonic() - begun, 2),
        next=(export,),
    )


BATCH = Kind(
    "batch",
    "One of a batch",
    BatchParams,
    _run,
    changes=("episode", "page", "snags", "levels", "rundown"),
    gives_way=True,
)
