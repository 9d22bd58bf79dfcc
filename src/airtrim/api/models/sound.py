"""What is done to a voice, and what is measured of it."""

from typing import Literal

from pydantic import BaseModel, Field

from airtrim.api.models.episode import LONGEST_STRETCH_FRAMES, RevisionRequest
from airtrim.core.sound.disturbances import Whistle
from airtrim.core.sound.suggesting import Suggestion
from airtrim.core.timeline.bounds import MOST_FRAMES
from airtrim.core.timeline.chain import Chain, Compressor, NoiseMethod


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
    octaves at ``hertz``; ``noise_method`` is the noise reduction that the noise in it calls for,
    and ``noise_reason`` why, where any is heard; ``cleaned`` is False while noise reduction is on
    and still being made; the sample is a stretch in which that voice speaks."""

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
    noise_method: NoiseMethod
    noise_reason: str | None
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


class ChainView(BaseModel):
    """A chain that was kept to be used again."""

    id: int
    name: str
    chain: Chain


class NewChain(BaseModel):
    """A chain to keep under a name."""

    name: str = Field(min_length=1, max_length=80)
    chain: Chain
