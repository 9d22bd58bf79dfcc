"""What a released file says of itself."""

from dataclasses import replace
from typing import Literal, Self

from pydantic import Field

from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tags import Tags


class SetTags(EditBase):
    """Set all tags and the artwork (SHA-256 of a stored picture, None for none)."""

    kind: Literal["set_tags"] = "set_tags"
    tags: Tags
    artwork: str | None = Field(default=None, pattern=r"^[0-9a-f]{64}$")

    def apply(self, timeline: Timeline) -> Timeline:
        return replace(timeline, tags=self.tags, artwork=self.artwork)

    def relocated(self, frames: FrameMap) -> Self:
        values = frames.values(Tags.model_fields, self.tags, lambda t: t.tags)
        artwork = frames.values(["artwork"], self, lambda t: t)
        return self.model_copy(update={"tags": self.tags.model_copy(update=values), **artwork})

    def describe(self, timeline: Timeline) -> str:
        return "Set tags"
