"""Recording, and guests who join."""

from typing import Annotated

from pydantic import BaseModel, Field

from airtrim.api.models.shelf import Name
from airtrim.core.timeline.bounds import MOST_FRAMES, MOST_NUMBER
from airtrim.core.timeline.edits.fields import ChangeOfLevel, Length
from airtrim.store.recordings import Landing

MOST_RUNS = 2**32 - 1


class NewRecording(BaseModel):
    """A recording to begin: the track of each microphone, and where it goes."""

    tracks: tuple[Annotated[str, Name], ...] = Field(min_length=1, max_length=8)
    landing: Landing = Landing()


class NewPlayed(BaseModel):
    """A sound of the shelf that was played in: how much of it, and how loud."""

    sound: str
    frames: Length
    gain_db: ChangeOfLevel = 0.0


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


class PiecePlace(BaseModel):
    """Where a piece goes: from frame ``start`` of the recording on, heard ``at_s`` by the server's
    clock in its ``run``-th run."""

    start: int = Field(ge=0, le=MOST_FRAMES)
    at_s: float | None = None
    run: int = Field(default=0, ge=0, le=MOST_RUNS)


class PieceKept(BaseModel):
    """What is safe on disk now, and how many seconds more there is room for."""

    pieces: int
    frames: int
    seconds_left: int


class WholeRecording(BaseModel):
    """How many pieces the browser made; ``landing`` where it goes, if that has changed."""

    pieces: int = Field(ge=0, le=MOST_NUMBER)
    landing: Landing | None = None


class SimulatedMicrophone(BaseModel):
    """A device of the demo, as lists of microphones show it."""

    id: str
    name: str
