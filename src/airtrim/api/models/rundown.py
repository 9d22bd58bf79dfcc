"""The running order, as it is told."""

from pydantic import BaseModel


class RowView(BaseModel):
    """A part: where it begins (None of one that was put aside) and how long it is, in frames; its
    first and last words; who speaks, most first; and the music that sounds in it."""

    id: str
    name: str
    at: int | None
    frames: int
    in_words: str
    out_words: str
    who: list[str]
    music: list[str]


class RundownView(BaseModel):
    """The parts of an episode in order, those that lie aside, and how long it is and shall be."""

    revision: int
    rows: list[RowView]
    aside: list[RowView]
    frames: int
    wanted_frames: int | None
