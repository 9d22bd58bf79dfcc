"""Formats, exports, artwork."""

from pydantic import BaseModel, Field

from airtrim.core.release.export import ExportSettings
from airtrim.core.timeline.bounds import MOST_NUMBER


class ExportRequest(BaseModel):
    """Write out the episode as it stands at ``revision``; ``despite_damage``: what cannot be read
    of a damaged recording is silent."""

    revision: int = Field(ge=0, le=MOST_NUMBER)
    settings: ExportSettings = ExportSettings()
    despite_damage: bool = False


class FormatView(BaseModel):
    """A format at one of its rates (``kbits``, None where it has no choice): what it is called,
    whether it is the usual one, and about how large the file will be."""

    format: str
    kbits: int | None
    label: str
    usual: bool
    bytes: int


class ArtworkView(BaseModel):
    """A stored cover."""

    artwork: str
