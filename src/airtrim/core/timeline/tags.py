"""What an episode says of itself."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field


class Person(BaseModel):
    """Somebody in an episode, and what they did."""

    model_config = ConfigDict(frozen=True, extra="forbid", str_strip_whitespace=True)

    name: str = Field(min_length=1, max_length=128)
    role: str = Field(default="guest", max_length=40)


class Tags(BaseModel):
    """What the file says of itself. Empty fields are left out of the file; type, explicit words,
    licence and people are for feeds."""

    model_config = ConfigDict(frozen=True, extra="forbid", str_strip_whitespace=True)

    title: str = Field(default="", max_length=500)
    show: str = Field(default="", max_length=500)
    artist: str = Field(default="", max_length=500)
    album_artist: str = Field(default="", max_length=500)
    season: int | None = Field(default=None, ge=0, le=9999)
    episode: int | None = Field(default=None, ge=0, le=999999)
    year: int | None = Field(default=None, ge=1000, le=9999)
    genre: str = Field(default="", max_length=200)
    description: str = Field(default="", max_length=20_000)
    language: str = Field(default="", pattern=r"^([a-z]{3})?$")
    copyright: str = Field(default="", max_length=500)
    link: str = Field(default="", max_length=2000, pattern=r"^(https?://\S+)?$")
    episode_type: Literal["full", "trailer", "bonus"] = "full"
    explicit: bool = False
    licence: str = Field(default="", max_length=200)
    people: tuple[Person, ...] = Field(default=(), max_length=50)


ASKED = ("title", "show", "artist", "episode")
"""What platforms and feeds ask for of every episode (common practice)."""


def lacking(tags: Tags) -> list[str]:
    """Which of those are not told, by the names of their fields.

    >>> lacking(Tags(title="The ramp", episode=3))
    ['show', 'artist']
    """
    return [name for name in ASKED if getattr(tags, name) in ("", None)]
