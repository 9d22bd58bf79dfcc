"""The shelf of sounds, as it is told."""

from typing import Annotated

from pydantic import BaseModel, Field

from airtrim.api.fields import Id, Revision
from airtrim.core.timeline.edits.fields import Frame, Length
from airtrim.services.shelving import SoundKind
from airtrim.store.tables import SoundRow

SoundName = Annotated[str, Field(min_length=1, max_length=120)]


class ShelfSound(BaseModel):
    """A sound on a shelf: used from ``start`` to ``end``, in frames of its ``frames``; ``lufs`` is
    how loud that is, ``at_key`` the key that plays it in while recording."""

    id: str
    name: str
    kind: SoundKind
    frames: int
    channels: int
    start: int
    end: int
    lufs: float | None
    credit: str
    licence: str
    at_key: int | None

    @classmethod
    def of(cls, row: SoundRow) -> "ShelfSound":
        """As the store has it."""
        return cls.model_validate(row, from_attributes=True)


class NewSound(BaseModel):
    """What sounds on a track of an episode for a while, to be kept on its show's shelf."""

    episode: Id
    revision: Revision
    track: str
    start: Frame
    frames: Length
    name: SoundName
    kind: SoundKind = "other"


class SoundChange(BaseModel):
    """What is to be changed of a sound; what is None stays; ``at_key`` of 0: none plays it in."""

    name: SoundName | None = None
    kind: SoundKind | None = None
    start: Frame | None = None
    end: Frame | None = None
    credit: str | None = Field(default=None, max_length=200)
    licence: str | None = Field(default=None, max_length=80)
    at_key: int | None = Field(default=None, ge=0, le=9)
    deleted: bool | None = None


class UsedSound(BaseModel):
    """A sound as a recording of an episode."""

    take: str
    frames: int
