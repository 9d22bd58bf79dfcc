"""Layout, target and ceiling, and the gains that reach them."""

from dataclasses import replace
from typing import Literal, Self

from pydantic import Field

from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import LevelGain
from airtrim.core.timeline.edits.wording import count
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Layout, Loudness, Timeline
from airtrim.errors import BadInput


class SetLoudness(EditBase):
    """Set layout, target (LUFS) and ceiling (dBTP)."""

    kind: Literal["set_loudness"] = "set_loudness"
    layout: Layout
    target_lufs: float | None = Field(default=None, ge=-36.0, le=-8.0, allow_inf_nan=False)
    ceiling_dbtp: float = Field(default=-1.0, ge=-9.0, le=-0.1, allow_inf_nan=False)

    def apply(self, timeline: Timeline) -> Timeline:
        settings = Loudness(
            layout=self.layout,
            target_lufs=self.target_lufs,
            ceiling_dbtp=self.ceiling_dbtp,
            gain_db=timeline.loudness.gain_db,
        )
        return replace(timeline, loudness=settings)

    def relocated(self, frames: FrameMap) -> Self:
        names = ("layout", "target_lufs", "ceiling_dbtp")
        return self.model_copy(update=frames.values(names, self, lambda t: t.loudness))

    def describe(self, timeline: Timeline) -> str:
        return "Set loudness"


class EvenOut(EditBase):
    """Set the gain of every section, in order, and of the whole, in dB (measured beforehand)."""

    kind: Literal["even_out"] = "even_out"
    section_gains_db: tuple[LevelGain, ...] = Field(max_length=500)
    gain_db: LevelGain

    def apply(self, timeline: Timeline) -> Timeline:
        if len(self.section_gains_db) != len(timeline.sections):
            raise BadInput("The sections have changed since they were measured. Measure again.")
        sections = tuple(
            replace(section, gain_db=gain)
            for section, gain in zip(timeline.sections, self.section_gains_db, strict=True)
        )
        settings = replace(timeline.loudness, gain_db=self.gain_db)
        return replace(timeline, sections=sections, loudness=settings)

    def describe(self, timeline: Timeline) -> str:
        return f"Evened out {count(len(self.section_gains_db), 'section')}"
