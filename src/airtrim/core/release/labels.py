"""What a released file says of itself."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from airtrim.core.release.chapters import Chapter
from airtrim.core.timeline.tags import Tags

Id3Version = Literal["2.3", "2.4"]


@dataclass(frozen=True, slots=True)
class Labels:
    """Tags, the bytes of the cover, chapters in order, and its length at 48 kHz."""

    tags: Tags = Tags()
    artwork: bytes | None = None
    chapters: Sequence[Chapter] = ()
    frames: int = 0
    id3_version: Id3Version = "2.3"
