"""Formats, exports, artwork."""

from pydantic import BaseModel, Field

from airtrim.core.release.export import ExportSettings
from airtrim.core.timeline.bounds import MOST_NUMBER


class ExportRequest(BaseModel):
    """Write out the episode as it stands at ``revision``, as each of ``files``;
    ``despite_damage``: what cannot be read
    of a damaged recording is silent."""

    revision: int = Field(ge=0, le=MOST_NUMBER)
    files: tuple[ExportSettings, ...] = Field((ExportSettings(),), min_length=1, max_length=8)
    despite_damage: bool = False


class FormatView(BaseModel):
    """A format at one of its rates (``kbits``, None where it has no choice): what it is called,
    what a host calls it (``words``, empty where it is one rate among many), whether it is the usual
    one, whether it is one to keep at home, and about how large the file will be."""

    format: str
    kbits: int | None
    label: str
    words: str
    usual: bool
    to_keep: bool
    bytes: int


class DescriptionRequest(BaseModel):
    """A description as it is being typed, in Markdown."""

    revision: int = Field(ge=0, le=MOST_NUMBER)
    text: str = Field(max_length=20_000)


class DescriptionView(BaseModel):
    """``html`` is what apps show; ``times`` are the chapters as lines of times, ``credits`` what
    the sounds in the episode ask to be named by."""

    html: str
    times: str
    credits: list[str]


class ArtworkView(BaseModel):
    """A stored cover."""

    artwork: str
