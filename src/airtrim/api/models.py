"""Requests and responses. Time is in frames at 48 kHz, loudness in LUFS, gain in dB."""

import json
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from airtrim.core.release.export import ExportSettings
from airtrim.core.timeline.edits import Edit
from airtrim.core.timeline.model import Layout, MarkerKind, TrackKind
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.words import PlacedWord
from airtrim.store.recordings import Landing
from airtrim.store.tables import JobRow

Name = Field(min_length=1, max_length=200)


class NewShow(BaseModel):
    """A show to make."""

    name: str = Name


class NewEpisode(BaseModel):
    """An episode to make."""

    title: str = Name


class ShelfChange(BaseModel):
    """Rename, delete or bring back. What is None stays."""

    name: str | None = Field(default=None, min_length=1, max_length=200)
    deleted: bool | None = None


class EpisodeOnShelf(BaseModel):
    """An episode as the shelf lists it."""

    id: int
    title: str
    season: int | None
    number: int | None
    artwork: str | None
    frames: int
    trimmed: int
    updated_at: datetime


class ShowOnShelf(BaseModel):
    """A show and its episodes, newest first."""

    id: int
    name: str
    episodes: list[EpisodeOnShelf]


class TrackView(BaseModel):
    """A track, without its clips."""

    id: str
    name: str
    kind: TrackKind


class SectionView(BaseModel):
    """A section and where it lies."""

    id: str
    at: int
    frames: int
    name: str
    gain_db: float


class MarkerView(BaseModel):
    """A marked moment."""

    id: str
    at: int
    kind: MarkerKind
    name: str


class LoudnessView(BaseModel):
    """Loudness settings; ``target`` is ``target_lufs`` with the usual one filled in."""

    layout: Layout
    target_lufs: float | None
    target: float
    usual_target: float
    ceiling_dbtp: float
    gain_db: float


class TakeView(BaseModel):
    """A recording of the episode. ``heard`` says whether its words have been written down."""

    id: str
    name: str
    frames: int
    channels: int
    notice: str | None
    heard: bool


class EpisodeView(BaseModel):
    """An episode as it stands at ``revision``."""

    id: int
    title: str
    show_id: int
    show: str
    revision: int
    frames: int
    trimmed: int
    cuts: int
    tracks: list[TrackView]
    sections: list[SectionView]
    markers: list[MarkerView]
    loudness: LoudnessView
    tags: Tags
    artwork: str | None
    takes: list[TakeView]
    undo: str | None
    redo: str | None


class EditRequest(BaseModel):
    """An edit made on ``revision``. ``snap`` moves the edges of a cut to the quietest moment
    within 30 ms."""

    revision: int
    edit: Edit
    snap: bool = True


class RevisionRequest(BaseModel):
    """The revision that the host was looking at."""

    revision: int


class HistoryItem(BaseModel):
    """A named edit; ``done`` is False for what was undone."""

    revision: int
    name: str
    done: bool


class SpliceView(BaseModel):
    """A cut in place: where its splice is and what it took out."""

    cut: int
    at: int
    frames: int
    text: str


class AirView(BaseModel):
    """A stretch in which nobody speaks, longer than the air limit, and the track it is shown on."""

    track: str
    start: int
    frames: int


class ClipView(BaseModel):
    """Where a track has sound."""

    track: str
    start: int
    frames: int


class PageView(BaseModel):
    """What stands on a stretch of the Page."""

    revision: int
    start: int
    frames: int
    words: list[PlacedWord]
    splices: list[SpliceView]
    air: list[AirView]
    clips: list[ClipView]


class LevelsView(BaseModel):
    """Loudness before and after the gains that the document holds now.

    ``measured`` is False while it has not been measured; then all else is empty. Curves are
    short-term loudness, a value each second, the first at 1.5 s.
    """

    revision: int
    measured: bool
    before: float | None = None
    after: float | None = None
    most_limiting_db: float = 0.0
    sections_before: list[float | None] = []
    sections_after: list[float | None] = []
    curve_before: list[float] = []
    curve_after: list[float] = []


class NewRecording(BaseModel):
    """A recording to begin: the track of each microphone, and where it goes."""

    tracks: tuple[Annotated[str, Name], ...] = Field(min_length=1, max_length=8)
    landing: Landing = Landing()


class PieceKept(BaseModel):
    """What is safe on disk now, and how many seconds more there is room for."""

    pieces: int
    frames: int
    seconds_left: int


class WholeRecording(BaseModel):
    """How many pieces the browser made; ``landing`` where it goes, if that has changed."""

    pieces: int
    landing: Landing | None = None


class ExportRequest(BaseModel):
    """Write out the episode as it stands at ``revision``."""

    revision: int
    settings: ExportSettings = ExportSettings()


class Estimate(BaseModel):
    """About how large a file would be, at which rate; and the MP3 rates there are to choose from,
    with the one that is usual for the episode's layout. Rates in kbit/s."""

    bytes: int
    kbits: int
    usual_kbits: int
    offered_kbits: tuple[int, ...]


class ArtworkView(BaseModel):
    """A stored cover."""

    artwork: str


JobState = Literal["queued", "running", "done", "failed", "cancelled", "interrupted"]


class JobView(BaseModel):
    """Background work. ``result`` depends on the kind; ``error`` is a sentence."""

    id: str
    kind: Literal["import", "record", "transcribe", "measure", "export"]
    episode_id: int
    state: JobState
    progress: float
    doing: str
    error: str | None
    result: dict[str, Any] | None
    params: dict[str, Any]
    created_at: datetime
    updated_at: datetime


class Problem(BaseModel):
    """What went wrong, in a sentence; ``revision`` is the current one where an edit was stale,
    ``wanted`` the number of the piece to send where one was out of its place."""

    sentence: str
    revision: int | None = None
    wanted: int | None = None


def job_view(job: JobRow) -> JobView:
    """A job row as a response."""
    return JobView.model_validate(
        {
            **job.model_dump(),
            "result": json.loads(job.result) if job.result else None,
            "params": json.loads(job.params),
        }
    )
