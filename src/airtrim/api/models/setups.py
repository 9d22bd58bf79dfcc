"""Setups, as they are told."""

from datetime import datetime

from pydantic import BaseModel, Field

from airtrim.api.fields import Revision
from airtrim.api.models.shelf import EpisodeOnShelf
from airtrim.core.timeline.setup import Setup
from airtrim.core.timeline.waiting import Name
from airtrim.store.tables import SetupRow


class SetupView(BaseModel):
    """A setup of a show, and the names of its sounds that are on the shelf no more."""

    id: int
    name: str
    used_at: datetime
    setup: Setup
    missing: tuple[str, ...]

    @classmethod
    def of(cls, row: SetupRow, setup: Setup, missing: tuple[str, ...]) -> "SetupView":
        """As the store has it, ``setup`` as it was read."""
        return cls(id=row.id or 0, name=row.name, used_at=row.used_at, setup=setup, missing=missing)


class NewSetup(BaseModel):
    """A name for what an episode has at a revision."""

    revision: Revision
    name: Name


class KeptSetup(BaseModel):
    """The setup that was made, and how many sounds stay out because they hold to a time."""

    setup: SetupView
    left_out: int


class SetupChange(BaseModel):
    """What is to be changed of a setup; what is None stays."""

    name: Name | None = None
    setup: Setup | None = None
    deleted: bool | None = None


class NewFromSetup(BaseModel):
    """A title for an episode; with none it is called by its number."""

    title: str = Field(default="", max_length=200)


class BegunEpisode(BaseModel):
    """The episode that was begun, and the sounds that it is without."""

    episode: EpisodeOnShelf
    missing: tuple[str, ...]
