"""The shelf: shows, episodes, what was deleted."""

from datetime import datetime

from pydantic import BaseModel, Field

from airtrim.store.tables import EpisodeRow

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


class EpisodeChange(ShelfChange):
    """The same of an episode, which can be put away, too."""

    archived: bool | None = None


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
    archived: bool = False
    standing: str = ""

    @classmethod
    def of(cls, row: EpisodeRow, standing: str = "") -> "EpisodeOnShelf":
        """As the store has it; ``standing`` says how far it is."""
        view = cls.model_validate(row, from_attributes=True)
        view.archived, view.standing = row.archived_at is not None, standing
        return view


class ShowOnShelf(BaseModel):
    """A show and its episodes, newest first."""

    id: int
    name: str
    episodes: list[EpisodeOnShelf]


class TakenView(BaseModel):
    """What an episode takes on the disk, in bytes, and how much of that are finished files that can
    be made again. ``damaged``: names of recordings that do not look whole."""

    id: int
    bytes: int
    clearable: int
    damaged: list[str]


class SpaceView(BaseModel):
    """What every episode takes, and what is free on the disk, in bytes."""

    episodes: list[TakenView]
    free: int


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
