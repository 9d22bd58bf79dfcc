"""The running order, as it is told."""

from pydantic import BaseModel

from airtrim.core.timeline.beside import outdated
from airtrim.core.timeline.holding import spot_of
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.placed import Placed
from airtrim.core.timeline.rundown import Row
from airtrim.core.timeline.waiting import WaitingRow


class PlacedView(BaseModel):
    """A placed sound and where it is: ``at`` and ``length`` in frames, None while its part is
    not in the episode; ``notice`` is what a host has to know of it. ``outdated``: the voices were
    set otherwise since its level was."""

    sound: Placed
    at: int | None
    length: int
    notice: str
    outdated: bool

    @classmethod
    def of(cls, timeline: Timeline, sound: Placed) -> "PlacedView":
        """As the document has it."""
        spot = spot_of(timeline, sound)
        if spot is None:
            notice = "Its part is not in the episode just now."
            return cls(sound=sound, at=None, length=0, notice=notice, outdated=False)
        return cls(
            sound=sound,
            at=spot.at,
            length=spot.frames,
            notice=spot.notice,
            outdated=outdated(timeline, sound),
        )


class WaitingView(BaseModel):
    """A row of the setup that waits for its part, and the part it would be filled with."""

    row: WaitingRow
    part: str | None


class RundownView(BaseModel):
    """The parts of an episode in order, those that lie aside, the sounds that are placed in it,
    rows that wait for their parts, and how long it is and shall be."""

    revision: int
    rows: tuple[Row, ...]
    aside: tuple[Row, ...]
    sounds: tuple[PlacedView, ...]
    waiting: tuple[WaitingView, ...]
    frames: int
    wanted_frames: int | None
