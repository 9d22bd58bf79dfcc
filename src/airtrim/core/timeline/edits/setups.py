"""Beginning from a setup, and filling the parts that it has waiting."""

from dataclasses import replace
from typing import Literal, Self

from pydantic import Field

from airtrim.core.timeline.arranging import with_new_track
from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import Part
from airtrim.core.timeline.edits.sounds import HoldOn, PlaceSound, heard_talk
from airtrim.core.timeline.edits.wording import count
from airtrim.core.timeline.model import Loudness, Timeline
from airtrim.core.timeline.parts import index_of
from airtrim.core.timeline.setup import MOST_ROWS, Common
from airtrim.core.timeline.sources import Sources
from airtrim.core.timeline.waiting import Name, WaitingRow, WaitingSound
from airtrim.errors import BadInput


class StartFrom(EditBase):
    """Begin an empty episode from a setup, whose sounds are recordings of the episode by now."""

    kind: Literal["start_from"] = "start_from"
    name: Name
    common: Common
    rows: tuple[WaitingRow, ...] = Field(default=(), max_length=MOST_ROWS)

    def apply(self, timeline: Timeline) -> Timeline:
        if timeline.frames or timeline.tracks:
            raise BadInput("Only an empty episode begins from a setup. Nothing was changed.")
        common = self.common
        for track in common.tracks:
            timeline = with_new_track(timeline, track.name, track.kind)
            made = replace(
                timeline.tracks[-1], colour=track.colour, gain_db=track.gain_db, chain=track.chain
            )
            timeline = replace(timeline, tracks=(*timeline.tracks[:-1], made))
        first = timeline.next_id
        return replace(
            timeline,
            waiting=tuple(
                row.model_copy(
                    update={
                        "id": f"r{number}",
                        "opens": row is self.rows[0],
                        "closes": row is self.rows[-1],
                    }
                )
                for number, row in enumerate(self.rows, first)
            ),
            next_id=first + len(self.rows),
            lengths=timeline.lengths
            | {sound.take: sound.take_frames for row in self.rows for sound in row.sounds},
            loudness=Loudness(common.layout, common.target_lufs, common.ceiling_dbtp),
            tags=common.tags,
            artwork=common.artwork,
            snag_rules=common.snag_rules,
            wanted_frames=common.wanted_frames,
            file_format=common.file_format,
        )

    def describe(self, timeline: Timeline) -> str:
        return f"Began from “{self.name}”"

    def needs(self) -> list[tuple[str, int]]:
        return [
            (sound.take, max(sound.take_frames, sound.start + sound.frames))
            for row in self.rows
            for sound in row.sounds
        ]


class Fill(Part):
    """A waiting row, and the part that it becomes."""

    row: str
    section: str


class FillRows(EditBase):
    """Let parts be what waiting rows say: their sounds are placed, and a part that one row fills
    has its name. A sound for which there is no next part goes on waiting. ``sounds`` is worked out
    where it is None."""

    kind: Literal["fill_rows"] = "fill_rows"
    fills: tuple[Fill, ...] = Field(min_length=1, max_length=MOST_ROWS)
    sounds: tuple[PlaceSound, ...] | None = Field(default=None, max_length=200)

    def apply(self, timeline: Timeline) -> Timeline:
        parts = [fill.section for fill in self.fills]
        for fill in self.fills:
            row = row_of(timeline, fill.row)
            index = index_of(timeline, fill.section)
            sections = list(timeline.sections)
            if parts.count(fill.section) == 1:
                sections[index] = replace(sections[index], name=row.name)
            left = tuple(s for s in row.sounds if not _fits(s, timeline, index))
            still = (row.model_copy(update={"sounds": left}),) if left else ()
            place = timeline.waiting.index(row)
            waiting = (*timeline.waiting[:place], *still, *timeline.waiting[place + 1 :])
            timeline = replace(timeline, sections=tuple(sections), waiting=waiting)
        for sound in self.sounds or ():
            timeline = sound.apply(timeline)
        return timeline

    def describe(self, timeline: Timeline) -> str:
        names = [row_of(timeline, fill.row).name for fill in self.fills]
        if len(names) == 1:
            return f"Filled “{names[0]}”"
        return f"Filled {count(len(names), 'part')} of the setup"

    def needs(self) -> list[tuple[str, int]]:
        return [need for sound in self.sounds or () for need in sound.needs()]

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        timeline = sources.timeline
        after = self.model_copy(update={"sounds": ()}).apply(timeline)
        told = heard_talk(sources) or None
        made: list[PlaceSound] = []
        for fill in self.fills:
            index = index_of(timeline, fill.section)
            for sound in row_of(timeline, fill.row).sounds:
                if _fits(sound, timeline, index):
                    edit = _placing(sound, fill.section).model_copy(update={"talk": told})
                    made.append(edit.measured(after, sources))
                    after, told = made[-1].apply(after), None
        return self.model_copy(update={"sounds": tuple(made)})


class DropRows(EditBase):
    """Do without rows that are waiting."""

    kind: Literal["drop_rows"] = "drop_rows"
    rows: tuple[str, ...] = Field(min_length=1, max_length=MOST_ROWS)

    def apply(self, timeline: Timeline) -> Timeline:
        gone = [row_of(timeline, row) for row in self.rows]
        return replace(timeline, waiting=tuple(row for row in timeline.waiting if row not in gone))

    def describe(self, timeline: Timeline) -> str:
        names = [row_of(timeline, row).name for row in self.rows]
        return f"Did without {' and '.join(f'“{name}”' for name in names[:3])}"


def row_of(timeline: Timeline, row: str) -> WaitingRow:
    """A waiting row by its id. Raises BadInput where it does not wait any more."""
    for one in timeline.waiting:
        if one.id == row:
            return one
    raise BadInput("That part does not wait any more. Nothing was changed.")


def _fits(sound: WaitingSound, timeline: Timeline, index: int) -> bool:
    return sound.holding != "between" or index + 1 < len(timeline.sections)


def _placing(sound: WaitingSound, section: str) -> PlaceSound:
    return PlaceSound(
        take=sound.take,
        take_frames=sound.take_frames,
        name=sound.name,
        start=sound.start,
        frames=sound.frames,
        hold=HoldOn(kind=sound.holding, part=section, offset=sound.offset),
        level_lu=sound.level_lu,
        fade_in=sound.fade_in,
        fade_out=sound.fade_out,
        shape_in=sound.shape_in,
        shape_out=sound.shape_out,
        duck=sound.duck,
        alone_frames=sound.alone_frames,
    )
