"""Setups: what the episodes of a show have in common, and what of it waits in a new one."""

from typing import Annotated

from pydantic import Field

from airtrim.core.timeline.chain import NEUTRAL, Chain
from airtrim.core.timeline.model import (
    Colour,
    Layout,
    Section,
    SnagRules,
    Timeline,
    TrackKind,
)
from airtrim.core.timeline.placed import Placed
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.waiting import (
    LONGEST_FRAMES,
    MOST_ROW_SOUNDS,
    FileFormat,
    Name,
    RowSound,
    Told,
    WaitingRow,
)

MOST_ROWS, MOST_SETUP_TRACKS = 100, 24
Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class SetupSound(RowSound):
    """A sound of a setup, by the SHA-256 of its samples: it stands on the shelf of the show."""

    sound: Sha256


class SetupRow(Told):
    """A part that every episode has, and its sounds."""

    name: Name
    sounds: tuple[SetupSound, ...] = Field(default=(), max_length=MOST_ROW_SOUNDS)


class SetupTrack(Told):
    """A track, and what is done to its sound."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    kind: TrackKind = "voice"
    colour: Colour | None = None
    gain_db: Annotated[float, Field(ge=-120.0, le=24.0, allow_inf_nan=False)] = 0.0
    chain: Chain = NEUTRAL


class Common(Told):
    """What a setup and an episode made from it share as it is: tracks and chains, what the
    loudness goes to, what the file says of itself, what counts as a snag, how long it shall be."""

    tracks: tuple[SetupTrack, ...] = Field(default=(), max_length=MOST_SETUP_TRACKS)
    layout: Layout = "mono"
    target_lufs: Annotated[float, Field(ge=-36.0, le=-8.0, allow_inf_nan=False)] | None = None
    ceiling_dbtp: Annotated[float, Field(ge=-9.0, le=-0.1, allow_inf_nan=False)] = -1.0
    tags: Tags = Tags()
    artwork: Sha256 | None = None
    snag_rules: SnagRules = SnagRules()
    wanted_frames: Annotated[int, Field(gt=0, le=LONGEST_FRAMES)] | None = None
    file_format: FileFormat | None = None


class Setup(Common):
    """A setup of a show."""

    rows: tuple[SetupRow, ...] = Field(default=(), max_length=MOST_ROWS)


def setup_of(
    timeline: Timeline, sha256: dict[str, str], file_format: FileFormat | None
) -> tuple[Setup, int]:
    """What of an episode others can begin with, and how many of its sounds stay out: those that
    hold to a time. ``sha256`` of the recordings that its sounds are of.

    Title, number, year and description are each episode's own."""
    own = {"title": "", "episode": None, "year": None, "description": ""}
    rows = tuple(
        SetupRow(
            name=section.name,
            sounds=tuple(
                _sound(one, sha256[one.take])
                for one in timeline.placed
                if one.hold.kind != "time" and one.hold.part == section.id
            )[:MOST_ROW_SOUNDS],
        )
        for section in timeline.sections[:MOST_ROWS]
    )
    setup = Setup(
        tracks=tuple(
            SetupTrack(
                name=track.name,
                kind=track.kind,
                colour=track.colour,
                gain_db=track.gain_db,
                chain=track.chain,
            )
            for track in timeline.tracks
            if not track.held
        ),
        layout=timeline.loudness.layout,
        target_lufs=timeline.loudness.target_lufs,
        ceiling_dbtp=timeline.loudness.ceiling_dbtp,
        tags=timeline.tags.model_copy(update=own),
        artwork=timeline.artwork,
        snag_rules=timeline.snag_rules,
        wanted_frames=timeline.wanted_frames,
        file_format=file_format,
        rows=rows,
    )
    return setup, len(timeline.placed) - sum(len(row.sounds) for row in rows)


def _sound(one: Placed, sha256: str) -> SetupSound:
    kind = one.hold.kind
    assert kind != "time"
    alone = {"before_talk": one.frames - one.hold.offset, "between": one.frames}.get(kind, 0)
    return SetupSound(
        sound=sha256,
        name=one.name,
        start=one.start,
        frames=one.frames,
        holding=kind,
        offset=one.hold.offset,
        level_lu=one.level_lu,
        alone_frames=min(max(0, alone), one.frames),
        fade_in=one.fade_in,
        fade_out=one.fade_out,
        shape_in=one.shape_in,
        shape_out=one.shape_out,
        duck=one.duck,
    )


def matched(rows: tuple[WaitingRow, ...], sections: tuple[Section, ...]) -> dict[str, str]:
    """Which part each waiting row would be filled with, by their ids: the part of its name; else
    what opens the first part, what closes the last, and those between the parts between, in their
    order. A row for which there is no part is left out."""
    by_name = {section.name.casefold(): section.id for section in sections}
    found = {row.id: by_name[row.name.casefold()] for row in rows if row.name.casefold() in by_name}
    for row in rows if sections else ():
        if row.id not in found and (row.opens or row.closes):
            found[row.id] = sections[0 if row.opens else -1].id
    left = [row.id for row in rows if row.id not in found]
    free = [section.id for section in sections[1:-1] if section.id not in found.values()]
    found |= dict(zip(left, free, strict=False))
    return {row.id: found[row.id] for row in rows if row.id in found}
