"""Requests and responses. Time is in frames at 48 kHz, loudness in LUFS, gain in dB."""

import json
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from airtrim.core.loudness.riding import Bed, Riding
from airtrim.core.media import FRAME_RATE
from airtrim.core.release.export import ExportSettings
from airtrim.core.snags.decide import How
from airtrim.core.snags.find import Do
from airtrim.core.sound.study import Suggestion, Whistle
from airtrim.core.speech.script import Difference
from airtrim.core.timeline.bounds import MOST_FRAMES, MOST_NUMBER
from airtrim.core.timeline.chain import Chain, Compressor
from airtrim.core.timeline.clips import Shape
from airtrim.core.timeline.edits import Edit
from airtrim.core.timeline.edits.gain import GainPoint
from airtrim.core.timeline.model import (
    Colour,
    Layout,
    MarkerKind,
    OwnFiller,
    SnagKind,
    TrackKind,
)
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.words import PlacedWord
from airtrim.jobs.base import Shown
from airtrim.jobs.kinds import KINDS
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


class DeletedView(BaseModel):
    """An episode that was deleted, and when it goes for good. ``bytes``: what it takes."""

    id: int
    title: str
    show: str
    goes_at: datetime
    bytes: int


class KeepingView(BaseModel):
    """What is kept: when all of it was backed up last (None: never), and what was deleted."""

    backed_up_at: datetime | None
    deleted: list[DeletedView]


class FreedView(BaseModel):
    """What went for good, and the bytes that are free for it."""

    episodes: int
    recordings: int
    bytes: int


class TrackView(BaseModel):
    """A track, without its clips."""

    id: str
    name: str
    kind: TrackKind
    gain_db: float
    muted: bool
    soloed: bool
    colour: Colour | None
    frames: int
    envelope: list[GainPoint]
    chain: Chain


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
    """A recording of the episode. ``heard`` says whether its words have been written down,
    ``music`` whether it stands on a track of music, ``missing`` whether its sound is gone from the
    disk, ``damaged`` whether it is not as it was kept, ``reworded`` whether it had other words."""

    id: str
    name: str
    frames: int
    channels: int
    notice: str | None
    heard: bool
    music: bool
    missing: bool
    damaged: bool
    reworded: bool


class EpisodeView(BaseModel):
    """An episode as it stands at ``revision``; ``before`` is the revision before the last edit;
    ``speakers`` are the names given to who speaks, beside those of tracks; ``notices`` are
    sentences about what had to be changed when its history was read."""

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
    speakers: list[str]
    loudness: LoudnessView
    tags: Tags
    artwork: str | None
    takes: list[TakeView]
    undo: str | None
    redo: str | None
    before: int
    notices: list[str]


LONGEST_STRETCH_FRAMES = 600 * FRAME_RATE
MOST_COLUMNS = 40_000


class Stretch(BaseModel):
    """A part of the Page that a browser shows, its skyline ``columns`` wide."""

    start: int = Field(ge=0, le=MOST_FRAMES)
    frames: int = Field(gt=0, le=LONGEST_STRETCH_FRAMES)
    columns: int = Field(gt=0, le=MOST_COLUMNS)


class RevisionRequest(BaseModel):
    """The revision that the host was looking at."""

    revision: int = Field(ge=0, le=MOST_NUMBER)


class ChangeRequest(RevisionRequest):
    """A change, and what the browser shows: that comes with the answer as it is afterwards."""

    shown: list[Stretch] = Field(default=[], max_length=3)


class EditRequest(ChangeRequest):
    """An edit made on ``revision``. ``snap`` moves the edges of a cut to the quietest moment
    within 30 ms."""

    edit: Edit
    snap: bool = True


class JumpRequest(ChangeRequest):
    """A state to go to: the revision ``to``."""

    to: int = Field(ge=0, le=MOST_NUMBER)


class HistoryItem(BaseModel):
    """A named edit; ``done`` is False for what was undone."""

    revision: int
    name: str
    done: bool
    made_at: datetime


class AttemptView(BaseModel):
    """One attempt of a repeat."""

    start: int
    frames: int
    text: str


class SnagView(BaseModel):
    """A snag, where it stands; ``does`` is what would be done about it, and ``saves`` by how many
    frames that makes the episode shorter. Taking it out takes ``cut_frames`` from ``cut_start``."""

    id: str
    kind: SnagKind
    track: str
    start: int
    frames: int
    text: str
    confidence: float
    reason: str
    does: Do
    choices: tuple[Do, ...]
    saves: int
    cut_start: int
    cut_frames: int
    attempts: list[AttemptView]
    kept: bool


class HeldView(BaseModel):
    """A script held against the episode: the part of the words said that are in it (0–1), where
    they differ, and how many words would be written otherwise."""

    shared: float
    differences: list[Difference]
    spelling: int


class CorrectAllRequest(ChangeRequest):
    """Write every word that is written like ``old`` as ``new``."""

    old: str = Field(min_length=1, max_length=200)
    new: str = Field(min_length=1, max_length=200)


class TidyView(BaseModel):
    """What a whole pass would do: the episode's length after it, how many snags of each kind it
    settles, and how many pauses it shortens."""

    how: How
    frames: int
    counts: dict[SnagKind, int]
    pauses: int


class SnagsView(BaseModel):
    """The snags of an episode, what counts as one there, and what tidying would do. ``heard`` is
    False while words are still being written down."""

    snags: list[SnagView]
    air_limit_s: float
    own_fillers: tuple[OwnFiller, ...]
    tidy: list[TidyView]
    heard: bool


class DecisionRequest(BaseModel):
    """What is to be done about a snag; of a repeat, which attempt stays (the last: −1)."""

    id: str = Field(max_length=200)
    do: Do
    attempt: int = Field(default=-1, ge=-1, le=100)


class DecideRequest(ChangeRequest):
    """Decisions to carry out as one edit."""

    decisions: list[DecisionRequest] = Field(min_length=1, max_length=20_000)


class TidyRequest(ChangeRequest):
    """A whole pass."""

    how: How


class SpliceView(BaseModel):
    """A cut in place: where its splice is and what it took out. ``retake`` where something was
    recorded in its place that it can be exchanged with. ``crossfade_frames`` and ``shape`` are
    those of the splice."""

    cut: int
    at: int
    frames: int
    text: str
    retake: bool
    crossfade_frames: int
    shape: Shape


class AirView(BaseModel):
    """A stretch in which nobody speaks, longer than the air limit, and the track it is shown on."""

    track: str
    start: int
    frames: int


class ClipView(BaseModel):
    """A clip: where it lies, what it is of, and its own gain and fades. ``tone``: it is room tone
    that was made up; ``touches``: the clip before ends where it begins; ``goes_on``: and its sound
    goes on from there."""

    track: str
    start: int
    frames: int
    take: str
    take_start: int
    gain_db: float
    fade_in: int
    fade_out: int
    shape_in: Shape
    shape_out: Shape
    tone: bool
    touches: bool
    goes_on: bool


class ToneView(BaseModel):
    """Where the room tone of a take sounds."""

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
    room_tones: list[ToneView]


class StretchView(BaseModel):
    """A stretch as it stands after a change: what is on it, and its skyline, the bytes of
    ``/skyline`` in base 64."""

    page: PageView
    columns: int
    skyline: str


class ChangedView(EpisodeView):
    """An episode after a change, with the stretches that were asked for."""

    stretches: list[StretchView]


class SpanView(BaseModel):
    """A stretch of the timeline; empty where there is none."""

    start: int
    frames: int


class PlaceView(BaseModel):
    """A place on the timeline, or None."""

    at: int | None


class HitView(BaseModel):
    """Where what was looked for is said."""

    track: str
    start: int
    frames: int
    text: str
    before: str
    after: str


class OverView(BaseModel):
    """A true peak over the ceiling before the limiter."""

    at: int
    over_db: float


class SpeakerView(BaseModel):
    """A voice by itself: its loudness before and after the sections' gains, and how far apart its
    phrases lie (10th to 90th percentile, LU)."""

    track: str
    before: float | None
    after: float | None
    spread_lu: float


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
    momentary_after: list[float] = []
    overs: list[OverView] = []
    verdict: str = ""
    speakers: list[SpeakerView] = []


class Listening(BaseModel):
    """A track as it would be heard with another chain, or untouched and as loud (over a span), or
    only what noise reduction takes out of it."""

    track: str
    chain: Chain | None = None
    hear: Literal["treated", "untouched", "taken_out"] = "treated"
    start: int = Field(default=0, ge=0, le=MOST_FRAMES)
    frames: int = Field(default=480_000, gt=0, le=LONGEST_STRETCH_FRAMES)


class SoundView(BaseModel):
    """What a track measures, untreated, and what would help. Levels in dBFS; spectra in dB in third
    octaves at ``hertz``; ``cleaned`` is False while noise reduction is on and still being made;
    the sample is a stretch in which that voice speaks."""

    revision: int
    track: str
    cleaned: bool
    hertz: list[float]
    voice_db: list[float]
    room_db: list[float]
    voice_dbfs: float | None
    room_dbfs: float | None
    peaks_dbfs: float | None
    crest_db: float | None
    hum_hz: float | None
    whistles: tuple[Whistle, ...]
    notes: list[str]
    suggestions: tuple[Suggestion, ...]
    first_compressor: Compressor
    sample_start: int
    sample_frames: int


class CurvesRequest(BaseModel):
    """A chain to be drawn."""

    chain: Chain


class CurvesView(BaseModel):
    """``eq_db``: what hum notches, low cut and equaliser do at ``hertz``; ``static_db``: what comes
    out of the compressor (dBFS) for ``level_db`` (dBFS)."""

    hertz: list[float]
    eq_db: list[float]
    level_db: list[float]
    static_db: list[float]


class ReductionRequest(RevisionRequest):
    """A chain, and a span of a track to see its compressor work on."""

    track: str
    chain: Chain
    start: int = Field(ge=0, le=MOST_FRAMES)
    frames: int = Field(gt=0, le=60 * 48_000)


class ReductionView(BaseModel):
    """What goes in (peak, dBFS) and what is taken away (dB), every 20 ms."""

    level_dbfs: list[float]
    taken_db: list[float]


class SetupView(BaseModel):
    """A chain that was kept to be used again."""

    id: int
    name: str
    chain: Chain


class NewSetup(BaseModel):
    """A chain to keep under a name."""

    name: str = Field(min_length=1, max_length=80)
    chain: Chain


class RideRequest(RevisionRequest):
    """Phrases to bring nearer, or music to hold under the talk."""

    riding: Riding | None = None
    bed: Bed | None = None


class NewRecording(BaseModel):
    """A recording to begin: the track of each microphone, and where it goes."""

    tracks: tuple[Annotated[str, Name], ...] = Field(min_length=1, max_length=8)
    landing: Landing = Landing()


class NewGuest(BaseModel):
    """A guest to invite; their track has this name."""

    name: str = Field(min_length=1, max_length=80)


class Invitation(BaseModel):
    """A guest and the path of their link; ``revoked`` where it has been closed."""

    token: str
    name: str
    revoked: bool
    path: str


class Joined(BaseModel):
    """What a guest is joining."""

    name: str
    show: str
    episode: str


class JoinRequest(BaseModel):
    """The host's recording that a guest records beside."""

    beside: str


class ClockView(BaseModel):
    """The server's clock in seconds."""

    at_s: float


class RoomToneView(BaseModel):
    """The room tone of a take, ``chosen`` by hand or found. 0 frames: there is none to be found."""

    start: int
    frames: int
    level_dbfs: float
    chosen: bool


class ScriptView(BaseModel):
    """The script, or the notes, of an episode."""

    text: str


class PieceKept(BaseModel):
    """What is safe on disk now, and how many seconds more there is room for."""

    pieces: int
    frames: int
    seconds_left: int


class WholeRecording(BaseModel):
    """How many pieces the browser made; ``landing`` where it goes, if that has changed."""

    pieces: int = Field(ge=0, le=MOST_NUMBER)
    landing: Landing | None = None


class ExportRequest(BaseModel):
    """Write out the episode as it stands at ``revision``; ``despite_damage``: what cannot be read
    of a damaged recording is silent."""

    revision: int = Field(ge=0, le=MOST_NUMBER)
    settings: ExportSettings = ExportSettings()
    despite_damage: bool = False


class FormatView(BaseModel):
    """A format at one of its rates (``kbits``, None where it has no choice): what it is called,
    whether it is the usual one, and about how large the file will be."""

    format: str
    kbits: int | None
    label: str
    usual: bool
    bytes: int


class ArtworkView(BaseModel):
    """A stored cover."""

    artwork: str


JobState = Literal["queued", "running", "done", "failed", "cancelled", "interrupted"]


class JobView(BaseModel):
    """Background work. ``title`` is what it is called on the screen; ``result`` depends on the
    kind; ``error`` is a sentence; ``changes`` is what is to be read again once it has ended."""

    id: str
    kind: str
    title: str
    episode_id: int
    state: JobState
    progress: float
    doing: str
    error: str | None
    result: dict[str, Any] | None
    params: dict[str, Any]
    changes: tuple[Shown, ...]
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
    kind = KINDS.get(job.kind)  # None for one of another version
    return JobView.model_validate(
        {
            **job.model_dump(),
            "title": kind.title if kind else job.kind,
            "changes": kind.changes if kind else (),
            "result": json.loads(job.result) if job.result else None,
            "params": json.loads(job.params),
        }
    )
