"""Many episodes through one recipe, as they are told."""

from datetime import datetime

from pydantic import BaseModel, Field

from airtrim.api.fields import Id
from airtrim.api.models.work import JobView
from airtrim.jobs.kinds.batching import BatchId
from airtrim.services.batch.episodes import EpisodeRecipe

MOST_EPISODES = 500


class NewBatch(BaseModel):
    """Episodes to be made; more can be added to a ``batch`` later."""

    batch: BatchId
    recipe: EpisodeRecipe
    episodes: tuple[Id, ...] = Field(min_length=1, max_length=MOST_EPISODES)


class BatchEntryView(BaseModel):
    """An episode of a batch: how long it is now, what is done to it, and what writes its file once
    that is done."""

    episode_id: int
    title: str
    frames: int
    job: JobView
    export: JobView | None


class BatchView(BaseModel):
    """A batch, and what became of each of its episodes."""

    id: str
    made_at: datetime
    recipe: EpisodeRecipe
    entries: tuple[BatchEntryView, ...]


class FormatName(BaseModel):
    """A format that files can be written as."""

    format: str
    title: str


class BatchesView(BaseModel):
    """Those of a show, newest first. ``pace``: how many seconds of work a second of sound took in
    them here; None where there was none. ``formats``: what files can be written as, those that
    feeds carry first."""

    batches: tuple[BatchView, ...]
    pace: float | None
    formats: tuple[FormatName, ...]
