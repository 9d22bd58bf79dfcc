"""The running order, as it is told."""

from pydantic import BaseModel

from airtrim.core.timeline.rundown import Row


class RundownView(BaseModel):
    """The parts of an episode in order, those that lie aside, and how long it is and shall be."""

    revision: int
    rows: tuple[Row, ...]
    aside: tuple[Row, ...]
    frames: int
    wanted_frames: int | None
