"""The check of an episode, as it is told."""

from pydantic import BaseModel

from airtrim.core.release.checks import Line


class CheckView(BaseModel):
    """All of it in a word, and line by line."""

    revision: int
    word: str
    ready: bool
    lines: list[Line]
