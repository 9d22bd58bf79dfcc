"""An episode as one file, ``NAME.airtrim.zip``: a plain ZIP (APPNOTE 6.3) in an open format.

``manifest.json`` tells what is in it and every file's SHA-256; ``history.jsonl`` has the edits, one
a line, from the oldest on; a recording's sound lies in ``takes/<id>/sound`` as FLAC or RF64, its
words and room tone beside it as JSON; covers lie in ``artwork/<sha256>``. The format is described
in ``docs/formats.md``, and by the JSON Schema that is made from the classes below.
"""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from airtrim.core.timeline.bounds import MOST_FRAMES

VERSION = 2
"""Of the format. A reader refuses what is newer than itself."""
MANIFEST, HISTORY = "manifest.json", "history.jsonl"
MOST_MANIFEST_BYTES = 16_000_000
MOST_LINE_BYTES = 64_000_000
MOST_TAKES, MOST_EDITS = 10_000, 1_000_000

Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
PlainName = Annotated[str, Field(pattern=r"^[0-9A-Za-z_-]{1,80}$")]


class _Told(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class PackedFile(_Told):
    """A file of the pack, its size in bytes and its checksum."""

    path: str = Field(max_length=200)
    bytes: int = Field(ge=0, lt=2**53)
    sha256: Sha256


class PackedTake(_Told):
    """A recording: length in frames at 48 kHz, channels, and the SHA-256 of its samples. From
    version 2 on: ``language`` (ISO 639-1) of its words, and which ``recogniser`` wrote them."""

    id: PlainName
    name: str = Field(max_length=500)
    frames: int = Field(gt=0, le=MOST_FRAMES)
    channels: Literal[1, 2]
    sha256: str = Field(pattern=r"^([0-9a-f]{64})?$")
    notice: str | None = Field(default=None, max_length=1000)
    language: str = Field(default="", max_length=8)
    recogniser: str = Field(default="", max_length=40)


class Manifest(_Told):
    """What the pack holds. ``head`` is the edit that the document stands at (None: it is empty),
    ``tip`` the last one that redo can reach."""

    format: Literal["airtrim-episode"] = "airtrim-episode"
    version: int = Field(default=VERSION, ge=1)
    made_at: datetime
    show: str = Field(max_length=500)
    title: str = Field(max_length=500)
    head: int | None
    tip: int | None
    takes: list[PackedTake] = Field(max_length=MOST_TAKES)
    files: list[PackedFile] = Field(max_length=4 * MOST_TAKES)


class PackedEdit(_Told):
    """A line of the history: an edit, what it was made on (None: an empty document), its name in
    the history, and what it does."""

    id: int = Field(gt=0, lt=2**63)
    parent: int | None = Field(ge=1, lt=2**63)
    name: str = Field(max_length=1000)
    made_at: datetime
    edit: dict[str, Any]


def take_path(take: str, file: str) -> str:
    """Where a file of a recording lies in a pack."""
    return f"takes/{take}/{file}"


def artwork_path(sha256: str) -> str:
    """Where a cover lies in a pack."""
    return f"artwork/{sha256}"
