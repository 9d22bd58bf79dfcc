"""What waits in an episode that was begun from a setup: parts without talk yet."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.clips import Shape
from airtrim.core.timeline.placed import Duck

MOST_ROW_SOUNDS = 20
LONGEST_FRAMES = 24 * 3600 * FRAME_RATE

Name = Annotated[str, Field(min_length=1, max_length=120)]
Frames = Annotated[int, Field(ge=0, le=LONGEST_FRAMES)]
RowHolding = Literal["before_talk", "after_talk", "under", "between"]
"""What a sound of a row holds on to, as ``Holding`` has it: a time is of one episode only."""


class Told(BaseModel):
    """A value that is told, and does not change."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class RowSound(Told):
    """How a sound stands in a row; see ``Placed``. ``alone_frames`` of it are heard without any
    word."""

    name: Name
    start: Frames = 0
    frames: Annotated[int, Field(gt=0, le=LONGEST_FRAMES)]
    holding: RowHolding
    offset: Annotated[int, Field(ge=-LONGEST_FRAMES, le=LONGEST_FRAMES)] = 0
    level_lu: Annotated[float, Field(ge=-60.0, le=20.0, allow_inf_nan=False)] = 0.0
    alone_frames: Frames = 0
    fade_in: Frames = 0
    fade_out: Frames = 0
    shape_in: Shape = "soft"
    shape_out: Shape = "soft"
    duck: Duck | None = None


class WaitingSound(RowSound):
    """A sound that waits in an episode: by its recording there."""

    take: str
    take_frames: Annotated[int, Field(gt=0, le=LONGEST_FRAMES)]


class WaitingRow(Told):
    """A part that waits for its talk in a new episode; it ``opens`` or ``closes`` the episode where
    it is the first or the last of its setup."""

    id: str
    name: Name
    opens: bool = False
    closes: bool = False
    sounds: tuple[WaitingSound, ...] = Field(default=(), max_length=MOST_ROW_SOUNDS)


class FileFormat(Told):
    """What an episode is written as: a format by its name, and its rate in kbit/s."""

    format: Annotated[str, Field(max_length=40)]
    kbits: Annotated[int, Field(gt=0, le=1000)] | None = None
