"""The finished episodes of a show, as they are told."""

from pydantic import BaseModel

from airtrim.core.release.catalogue import What


class FindingView(BaseModel):
    """What is not right with a file."""

    what: What
    sentence: str


class FinishedView(BaseModel):
    """The last file that was made of an episode."""

    episode_id: int
    title: str
    loudness_lufs: float | None
    target_lufs: float
    strip_lufs: tuple[float | None, ...]
    findings: tuple[FindingView, ...]


class CatalogueView(BaseModel):
    """Those of a show. ``usual_lufs``: the median by number of channels."""

    usual_lufs: dict[int, float]
    episodes: tuple[FinishedView, ...]
