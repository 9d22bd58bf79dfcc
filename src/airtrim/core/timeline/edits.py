"""Edits as values, and the one pure function that applies them."""

from dataclasses import replace
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.model import (
    CROSSFADE_FRAMES,
    Clip,
    Layout,
    Loudness,
    Piece,
    Removed,
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
    Place | Cut | Restore | CorrectWord | SetSections | SetLoudness | EvenOut | SetTags,
    Field(discriminator="kind"),
]


def apply(timeline: Timeline, edit: Edit) -> Timeline:
    """The timeline after ``edit``. Raises BadInput, with a sentence, where it does not fit."""
    match edit:
        case Place():
            return _place(timeline, edit)
        case Cut():
            return _cut(timeline, edit)
        case Restore():
            return _restore(timeline, edit)
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
    clip = Clip(edit.take, 0, edit.take_frames, at)
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


def _moved(clip: Clip, by: int) -> Clip:
    return Clip(
        clip.take, clip.start, clip.frames, clip.at + by, clip.gain_db, clip.fade_in, clip.fade_out
    )


def _split(clip: Clip, at: int) -> tuple[Clip, Clip]:
    first = at - clip.at
    left = replace(clip, frames=first, fade_out=0)
    right = replace(clip, start=clip.start + first, frames=clip.frames - first, at=at, fade_in=0)
    return left, right


def _part(
    clips: tuple[Clip, ...], start: int, end: int
) -> tuple[list[Clip], list[Clip], list[Clip]]:
    """Clips before, within and from a span, split at its edges."""
    before: list[Clip] = []
    within: list[Clip] = []
    after: list[Clip] = []
    for clip in clips:
        if clip.end <= start:
            before.append(clip)
            continue
        if clip.at >= end:
            after.append(clip)
            continue
        middle = clip
        if middle.at < start:
            left, middle = _split(middle, start)
            before.append(left)
        if middle.end > end:
            middle, right = _split(middle, end)
            after.append(right)
        within.append(middle)
    return before, within, after


def _cut(timeline: Timeline, edit: Cut) -> Timeline:
    start, end = edit.start, min(edit.start + edit.frames, timeline.frames)
    if start >= end:
        raise BadInput("There is no sound there to cut. Nothing was changed.")
    frames = end - start
    tracks: list[Track] = []
    taken: list[tuple[Clip, ...]] = []
    for track in timeline.tracks:
        before, within, after = _part(track.clips, start, end)
        taken.append(tuple(_moved(clip, -start) for clip in within))
        if before and within and before[-1].continues_into(within[0]):
            before[-1] = replace(before[-1], fade_out=edit.crossfade_frames)
        if after and within and within[-1].continues_into(after[0]):
            after[0] = replace(after[0], fade_in=edit.crossfade_frames)
        clips = (*before, *(_moved(clip, -frames) for clip in after))
        tracks.append(replace(track, clips=clips))

    inside = [cut for cut in timeline.cuts if start < cut.at < end]
    mark = Removed(
        timeline.next_id,
        start,
        Piece(
            frames,
            tuple(track.id for track in timeline.tracks),
            tuple(taken),
            tuple(replace(s, at=s.at - start) for s in timeline.sections if start <= s.at < end),
            tuple(Removed(cut.id, cut.at - start, cut.piece) for cut in inside),
        ),
    )
    cuts = (
        *(cut for cut in timeline.cuts if cut.at <= start),
        mark,
        *(Removed(cut.id, cut.at - frames, cut.piece) for cut in timeline.cuts if cut.at >= end),
    )
    return replace(
        timeline,
        tracks=tuple(tracks),
        sections=_sections_after_cut(timeline.sections, start, end),
        cuts=cuts,
        next_id=timeline.next_id + 1,
    )


def _sections_after_cut(sections: tuple[Section, ...], start: int, end: int) -> tuple[Section, ...]:
    """Sections wholly inside a cut go with it; one that reaches beyond it now starts there."""
    kept = [s for s in sections if s.at < start]
    inside = [s for s in sections if start <= s.at < end]
    later = [replace(s, at=s.at - (end - start)) for s in sections if s.at >= end]
    if inside and not (later and later[0].at == start):
        kept.append(replace(inside[-1], at=start))
    return (*kept, *later)


def _restore(timeline: Timeline, edit: Restore) -> Timeline:
    place = next((i for i, cut in enumerate(timeline.cuts) if cut.id == edit.cut), None)
    if place is None:
        raise BadInput("That cut is no longer in the episode. Nothing was changed.")
    mark = timeline.cuts[place]
    at, piece = mark.at, mark.piece
    taken = dict(zip(piece.tracks, piece.clips, strict=True))
    tracks = []
    for track in timeline.tracks:
        before, _, after = _part(track.clips, at, at)
        clips = [
            *before,
            *(_moved(clip, at) for clip in taken.get(track.id, ())),
            *(_moved(clip, piece.frames) for clip in after),
        ]
        tracks.append(replace(track, clips=_joined(clips)))
    cuts = (
        *timeline.cuts[:place],
        *(Removed(cut.id, cut.at + at, cut.piece) for cut in piece.cuts),
        *(Removed(c.id, c.at + piece.frames, c.piece) for c in timeline.cuts[place + 1 :]),
    )
    return replace(
        timeline,
        tracks=tuple(tracks),
        sections=_sections_after_restore(timeline.sections, at, piece),
        cuts=cuts,
    )


def _joined(clips: list[Clip]) -> tuple[Clip, ...]:
    out: list[Clip] = []
    for clip in clips:
        if out and out[-1].continues_into(clip):
            out[-1] = replace(out[-1], frames=out[-1].frames + clip.frames, fade_out=clip.fade_out)
        else:
            out.append(clip)
    return tuple(out)


def _sections_after_restore(
    sections: tuple[Section, ...], at: int, piece: Piece
) -> tuple[Section, ...]:
    gains = {s.id: s for s in sections}
    returned = []
    for section in piece.sections:
        now = gains.get(section.id)
        if now is not None and now.at != at:
            continue  # its boundary was moved elsewhere in the meantime: that stands
        kept = now or section
        returned.append(replace(section, at=section.at + at, name=kept.name, gain_db=kept.gain_db))
    ids = {s.id for s in returned}
    moved = [
        replace(s, at=s.at + piece.frames) if s.at >= at else s for s in sections if s.id not in ids
    ]
    merged = sorted([*moved, *returned], key=lambda s: s.at)
    return tuple(merged)


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
