"""Destinations and hand-overs, as they are told."""

from datetime import datetime
from typing import Literal

from pydantic import AwareDatetime, BaseModel, Field

from airtrim.core.timeline.bounds import MOST_NUMBER
from airtrim.services.handing.base import Address

HandOverState = Literal[
    "sending", "draft", "scheduled", "publishing", "published", "failed", "overdue"
]


class WayView(BaseModel):
    """A way of handing over. ``drafts``: nothing is public before it is published."""

    name: str
    title: str
    drafts: bool
    needs_secret: bool


class DestinationView(BaseModel):
    """Where a show's files go; what is secret about it is never told."""

    id: int
    name: str
    way: str
    address: Address
    drafts: bool


class DestinationsView(BaseModel):
    """Those of a show, and the ways there are."""

    destinations: list[DestinationView]
    ways: list[WayView]


class NewDestination(BaseModel):
    """A destination to keep."""

    name: str = Field(min_length=1, max_length=120)
    way: str = Field(max_length=40)
    address: Address
    secret: str = Field(default="", max_length=10_000)


class HandOverRequest(BaseModel):
    """A finished file, and where it is to go; ``again``: also where this state of the episode is
    there already."""

    destination: int = Field(ge=0, le=MOST_NUMBER)
    export: str = Field(max_length=100)
    file: int = Field(default=0, ge=0, le=7)
    again: bool = False


class ScheduleRequest(BaseModel):
    """When a draft is to be published; None: not by itself."""

    at: AwareDatetime | None


class HandOverView(BaseModel):
    """A file on its way to a destination, or there. ``retry_at``: time of the next attempt to
    publish a scheduled draft, and ``retry_until`` of the last one."""

    id: str
    destination: int
    where: str
    export: str
    file: int
    revision: int
    state: HandOverState
    page: str
    publish_at: datetime | None
    retry_at: datetime | None
    retry_until: datetime | None
    error: str | None
    created_at: datetime
