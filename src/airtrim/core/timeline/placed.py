"""A placed sound: music or a noise that holds on to the talk and not to a time."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.clips import Shape

MOST_SOUNDS = 200
"""An episode holds so many at most."""

Holding = Literal["before_talk", "after_talk", "under", "between", "time"]
"""``before_talk``: it ends ``offset`` frames after the talk of its part begins. ``after_talk``: it
begins ``offset`` frames after the last words of its part end. ``under``: it lies under its part
from end to end, again and again where it is shorter. ``between``: in the middle between the last
words of its part and the first of the next. ``time``: it begins at frame ``at`` of the episode."""


@dataclass(frozen=True, slots=True)
class Hold:
    """What a placed sound holds on to; ``part`` is the id of a section. ``lost``: that was taken
    away, so that it holds to its time since."""

    kind: Holding = "time"
    part: str | None = None
    offset: int = 0
    at: int = 0
    lost: bool = False


@dataclass(frozen=True, slots=True)
class Duck:
    """How a sound gives way to the talk: ``depth_db`` lower from the first word of a phrase on,
    reached in ``attack``; kept down for ``hold`` after the last, and up again in ``release``, all
    in frames. The defaults are common practice for music under speech."""

    depth_db: Annotated[float, Field(ge=0.0, le=60.0, allow_inf_nan=False)] = 12.0
    attack: Annotated[int, Field(ge=0, le=10 * FRAME_RATE)] = FRAME_RATE // 2
    hold: Annotated[int, Field(ge=0, le=30 * FRAME_RATE)] = FRAME_RATE
    release: Annotated[int, Field(ge=0, le=30 * FRAME_RATE)] = 3 * FRAME_RATE // 2


@dataclass(frozen=True, slots=True)
class Placed:
    """``frames`` of ``take`` from frame ``start`` on, where ``hold`` says. ``level_lu`` is how much
    louder it shall be alone than the voices; ``gain_db`` brings it there, ``beside`` voices as they
    were then (see ``beside.voices_as_set``; 0: not known)."""

    id: str
    name: str
    take: str
    start: int
    frames: int
    hold: Hold
    level_lu: float = 0.0
    gain_db: float = 0.0
    fade_in: int = 0
    fade_out: int = 0
    shape_in: Shape = "soft"
    shape_out: Shape = "soft"
    duck: Duck | None = None
    beside: int = 0
