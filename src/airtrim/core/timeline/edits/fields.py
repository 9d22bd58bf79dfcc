"""What edits are made of: bounded, finite numbers, names, and spans."""

from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.bounds import (
    LEAST_GAIN_DB,
    MOST_FRAMES,
    MOST_GAIN_DB,
    MOST_NUMBER,
    MOST_TRACKS,
)
from airtrim.core.timeline.model import Span

_LONGEST_FADE_FRAMES = 60 * FRAME_RATE

Frame = Annotated[int, Field(ge=0, le=MOST_FRAMES)]
Length = Annotated[int, Field(gt=0, le=MOST_FRAMES)]
Air = Annotated[int, Field(gt=0, le=600 * FRAME_RATE)]
"""A length of air, ten minutes at most."""
Fade = Annotated[int, Field(ge=0, le=_LONGEST_FADE_FRAMES)]
Gain = Annotated[float, Field(ge=LEAST_GAIN_DB, le=MOST_GAIN_DB, allow_inf_nan=False)]
LevelGain = Annotated[float, Field(ge=-120.0, le=120.0, allow_inf_nan=False)]
"""A gain that levels a section or the whole: what was measured may be very quiet."""
ChangeOfLevel = Annotated[float, Field(ge=-40.0, le=40.0, allow_inf_nan=False)]
"""In dB."""
Number = Annotated[int, Field(ge=0, le=MOST_NUMBER)]
"""Of a cut, a word, or a revision."""
TrackName = Annotated[str, Field(min_length=1, max_length=80)]
PartName = Annotated[str, Field(min_length=1, max_length=120)]
SpeakerName = Annotated[str, Field(max_length=80), AfterValidator(str.strip)]
HistoryName = Annotated[str, Field(max_length=120)]
"""What an edit is called in the history; empty: what it is usually called."""
Link = Annotated[str, Field(max_length=2000, pattern=r"^(https?://\S+)?$")]
Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
SomeTracks = Annotated[tuple[str, ...], Field(max_length=MOST_TRACKS)]
"""Ids of tracks; none means all."""


class Part(BaseModel):
    """What an edit is made of."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class SpanToCut(Part):
    """``frames`` from ``start``."""

    start: Frame
    frames: Length


class Tone(Part):
    """Room tone: ``frames`` of a take from frame ``start``."""

    take: str
    start: Frame
    frames: Length

    @property
    def span(self) -> Span:
        """The same as a span."""
        return Span(self.take, self.start, self.frames)
