"""Edits as values, and the one pure function that applies them."""

from dataclasses import replace
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.cutting import cut, open_up, restore
from airtrim.core.timeline.model import (
    CROSSFADE_FRAMES,
    Clip,
    Layout,
    Loudness,
    Marker,
    MarkerKind,
    Section,
    Timeline,
    Track,
    TrackKind,
)
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput


class _Edit(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Place(_Edit):
    """Put a whole take on a track, after what is there unless ``at`` says where. A track that is
    not there yet is made. A take longer than the free space at ``at`` is refused."""

    kind: Literal["place"] = "place"
    take: str
    take_frames: int = Field(gt=0)
    track_name: str = Field(default="Voice", min_length=1, max_length=80)
    track_kind: TrackKind = "voice"
    at: int | None = Field(default=None, ge=0)
    gain_db: float = Field(default=0.0, ge=-40.0, le=40.0)


class MarkerAt(_Edit):
    """A moment to mark."""

    at: int = Field(ge=0)
    kind: MarkerKind = "flag"
    name: str = Field(default="", max_length=120)


class RecordedTake(_Edit):
    """A take of a recording, the track it goes to, and its gain there."""

    take: str
    track_name: str = Field(min_length=1, max_length=80)
    gain_db: float = Field(default=0.0, ge=-40.0, le=40.0)


class Record(_Edit):
    """Put what was recorded into the episode: one take a microphone, all ``frames`` long.

    It goes after what is there unless ``at`` says where. There, ``replacing`` frames are cut from
    every track first, then everything later makes room; with ``alongside`` nothing moves, and the
    takes have to fit beside what sounds there. ``markers`` are counted from the takes' start.
    """

    kind: Literal["record"] = "record"
    takes: tuple[RecordedTake, ...] = Field(min_length=1, max_length=16)
    frames: int = Field(gt=0)
    at: int | None = Field(default=None, ge=0)
    replacing: int = Field(default=0, ge=0)
    alongside: bool = False
    markers: tuple[MarkerAt, ...] = ()


class RemoveMarker(_Edit):
    """Take a marker away."""

    kind: Literal["remove_marker"] = "remove_marker"
    marker: str


class Cut(_Edit):
    """Take ``frames`` from ``start`` out of every track and close up."""

    kind: Literal["cut"] = "cut"
    start: int = Field(ge=0)
    frames: int = Field(gt=0)
    crossfade_frames: int = Field(default=CROSSFADE_FRAMES, ge=0, le=48_000)


class Restore(_Edit):
    """Put what cut number ``cut`` took out back in its place."""

    kind: Literal["restore"] = "restore"
    cut: int


class CorrectWord(_Edit):
    """Change how a word of a take is written; the sound stays as it is."""

    kind: Literal["correct_word"] = "correct_word"
    take: str
    word: int = Field(ge=0)
    text: str = Field(min_length=1, max_length=200)


class SectionStart(_Edit):
    """A boundary at frame ``at``."""

    at: int = Field(ge=0)
    name: str = Field(default="", max_length=120)


class SetSections(_Edit):
    """Set all section boundaries at once. The first always starts at 0; a section that starts
    where one started before keeps its gain, a new one takes the gain of the sound it came from."""

    kind: Literal["set_sections"] = "set_sections"
    sections: tuple[SectionStart, ...] = Field(min_length=1, max_length=500)


class SetLoudness(_Edit):
    """Set layout, target (LUFS) and ceiling (dBTP)."""

    kind: Literal["set_loudness"] = "set_loudness"
    layout: Layout
    target_lufs: float | None = Field(default=None, ge=-36.0, le=-8.0)
    ceiling_dbtp: float = Field(default=-1.0, ge=-9.0, le=-0.1)


class EvenOut(_Edit):
    """Set the gain of every section, in order, and of the whole, in dB (measured beforehand)."""

    kind: Literal["even_out"] = "even_out"
    section_gains_db: tuple[float, ...]
    gain_db: float


class SetTags(_Edit):
    """Set all tags and the artwork (SHA-256 of a stored picture, None for none)."""

    kind: Literal["set_tags"] = "set_tags"
    tags: Tags
    artwork: str | None = Field(default=None, pattern=r"^[0-9a-f]{64}$")


Edit = Annotated[
    Place
    | Record
    | RemoveMarker
    | Cut
    | Restore
    | CorrectWord
    | SetSections
    | SetLoudness
    | EvenOut
    | SetTags,
    Field(discriminator="kind"),
]


def apply(timeline: Timeline, edit: Edit) -> Timeline:
    """The timeline after ``edit``. Raises BadInput, with a sentence, where it does not fit."""
    match edit:
        case Place():
            return _place(timeline, edit)
        case Record():
            return _record(timeline, edit)
        case RemoveMarker():
            kept = tuple(m for m in timeline.markers if m.id != edit.marker)
            if len(kept) == len(timeline.markers):
                raise BadInput("That marker is no longer in the episode. Nothing was changed.")
            return replace(timeline, markers=kept)
        case Cut():
            return cut(timeline, edit.start, edit.frames, edit.crossfade_frames)
        case Restore():
            return restore(timeline, edit.cut)
        case CorrectWord():
            key = f"{edit.take}:{edit.word}"
            return replace(timeline, corrections={**timeline.corrections, key: edit.text})
        case SetSections():
            return _set_sections(timeline, edit)
        case SetLoudness():
            settings = Loudness(
                layout=edit.layout,
                target_lufs=edit.target_lufs,
                ceiling_dbtp=edit.ceiling_dbtp,
                gain_db=timeline.loudness.gain_db,
            )
            return replace(timeline, loudness=settings)
        case EvenOut():
            return _even_out(timeline, edit)
        case SetTags():
            return replace(timeline, tags=edit.tags, artwork=edit.artwork)


def describe(timeline: Timeline, edit: Edit) -> str:
    """The name of ``edit`` in the history, told of the timeline it is applied to."""
    match edit:
        case Place():
            return f"Added a recording to {edit.track_name}"
        case Record():
            where = "Recorded over a span" if edit.replacing else "Recorded"
            tracks = " and ".join(take.track_name for take in edit.takes)
            return f"{where}: {edit.frames / FRAME_RATE:.1f} s on {tracks}"
        case RemoveMarker():
            return "Removed a marker"
        case Cut():
            return f"Cut {edit.frames / FRAME_RATE:.1f} s"
        case Restore():
            return "Put a cut back"
        case CorrectWord():
            return f"Corrected a word to “{edit.text}”"
        case SetSections():
            more = len(edit.sections) - len(timeline.sections)
            if more > 0:
                return "Added a section" if more == 1 else f"Added {more} sections"
            return "Removed a section" if more else "Set sections"
        case SetLoudness():
            return "Set loudness"
        case EvenOut():
            count = len(edit.section_gains_db)
            return f"Evened out {count} section{'s' * (count != 1)}"
        case SetTags():
            return "Set tags"


def _place(timeline: Timeline, edit: Place) -> Timeline:
    at = timeline.frames if edit.at is None else edit.at
    clip = Clip(edit.take, 0, edit.take_frames, at, edit.gain_db)
    for index, track in enumerate(timeline.tracks):
        if track.name == edit.track_name:
            if any(c.at < clip.end and clip.at < c.end for c in track.clips):
                raise BadInput(
                    f"Something is already there on “{track.name}”. Nothing was changed."
                )
            clips = tuple(sorted((*track.clips, clip), key=lambda c: c.at))
            tracks = list(timeline.tracks)
            tracks[index] = replace(track, clips=clips)
            return replace(timeline, tracks=tuple(tracks))
    track = Track(f"t{timeline.next_id}", edit.track_name, edit.track_kind, (clip,))
    return replace(timeline, tracks=(*timeline.tracks, track), next_id=timeline.next_id + 1)


def _record(timeline: Timeline, edit: Record) -> Timeline:
    at = timeline.frames if edit.at is None else min(edit.at, timeline.frames)
    if edit.replacing:
        timeline = cut(timeline, at, edit.replacing, CROSSFADE_FRAMES)
    if not edit.alongside and at < timeline.frames:
        timeline = open_up(timeline, at, edit.frames)
    for take in edit.takes:
        place = Place(
            take=take.take,
            take_frames=edit.frames,
            track_name=take.track_name,
            at=at,
            gain_db=take.gain_db,
        )
        timeline = _place(timeline, place)
    markers = list(timeline.markers)
    for number, new in enumerate(edit.markers, timeline.next_id):
        markers.append(Marker(f"m{number}", at + new.at, new.kind, new.name))
    return replace(
        timeline,
        markers=tuple(sorted(markers, key=lambda m: m.at)),
        next_id=timeline.next_id + len(edit.markers),
    )


def _set_sections(timeline: Timeline, edit: SetSections) -> Timeline:
    starts = sorted(edit.sections, key=lambda s: s.at)
    if starts[0].at != 0:
        raise BadInput("The first section has to start at 0:00.0.")
    if len({s.at for s in starts}) != len(starts):
        raise BadInput("Two sections cannot start at the same moment.")
    if starts[-1].at and starts[-1].at >= timeline.frames:
        raise BadInput("A section cannot start after the end of the episode.")
    at_same = {s.at: s for s in timeline.sections}
    out: list[Section] = []
    next_id = timeline.next_id
    for number, new in enumerate(starts):
        name = new.name or f"Section {number + 1}"
        old = at_same.get(new.at)
        if old:
            out.append(replace(old, name=name))
            continue
        source = [s for s in timeline.sections if s.at <= new.at][-1]
        out.append(Section(f"s{next_id}", new.at, name, source.gain_db))
        next_id += 1
    return replace(timeline, sections=tuple(out), next_id=next_id)


def _even_out(timeline: Timeline, edit: EvenOut) -> Timeline:
    if len(edit.section_gains_db) != len(timeline.sections):
        raise BadInput("The sections have changed since they were measured. Measure again.")
    sections = tuple(
        replace(section, gain_db=gain)
        for section, gain in zip(timeline.sections, edit.section_gains_db, strict=True)
    )
    settings = replace(timeline.loudness, gain_db=edit.gain_db)
    return replace(timeline, sections=sections, loudness=settings)
