"""Filling in what an edit leaves open: edges that will not be heard, room tone, what was copied.

The core's edits say everything; a browser says what the host meant.
"""

from collections.abc import Sequence
from typing import TypeVar

from airtrim.api.models import DecisionRequest
from airtrim.core.render.edges import unheard
from airtrim.core.snags.decide import Decision, decided
from airtrim.core.timeline.cutting import copied
from airtrim.core.timeline.edits import (
    AddAir,
    CopiedTrack,
    Cover,
    Cut,
    CutMany,
    Edit,
    KeepOnly,
    Move,
    Paste,
    Place,
    Record,
    SetAir,
    SpanToCover,
    SpanToCut,
    Tidy,
    Tone,
)
from airtrim.core.timeline.model import Timeline, Track
from airtrim.core.timeline.tone import is_tone, tone_of
from airtrim.errors import BadInput
from airtrim.store.store import Store

_Covering = TypeVar("_Covering", Cover, SpanToCover)


def completed(store: Store, episode_id: int, revision: int, edit: Edit, snap: bool) -> Edit:
    """``edit`` with nothing left open, for the document at ``revision``."""
    match edit:
        case Cut() | Move() | KeepOnly() if snap:
            timeline = store.timeline(episode_id, revision)
            span = SpanToCut(start=edit.start, frames=edit.frames)
            (moved,) = _unheard(store, timeline, [span])
            return edit.model_copy(update={"start": moved.start, "frames": moved.frames})
        case CutMany() if snap:
            timeline = store.timeline(episode_id, revision)
            return edit.model_copy(update={"spans": _unheard(store, timeline, edit.spans)})
        case Tidy():
            _check_takes(store, episode_id, edit)
            timeline = store.timeline(episode_id, revision)
            cuts = _unheard(store, timeline, edit.cuts) if snap else edit.cuts
            covers = tuple(_covered(store, timeline, one) for one in edit.covers)
            return edit.model_copy(update={"cuts": cuts, "covers": covers})
        case Cover() if edit.tone is None:
            return _covered(store, store.timeline(episode_id, revision), edit)
        case AddAir() if edit.tones is None:
            timeline = store.timeline(episode_id, revision)
            return edit.model_copy(update={"tones": _tones(store, timeline, edit.at)})
        case SetAir() if edit.tones is None:
            timeline = store.timeline(episode_id, revision)
            middle = edit.start + edit.frames // 2
            return edit.model_copy(update={"tones": _tones(store, timeline, middle)})
        case Paste():
            source = store.timeline(episode_id, edit.revision)
            end = min(edit.start + edit.frames, source.frames)
            if end <= edit.start:
                raise BadInput("There is nothing to put in. Nothing was changed.")
            piece = copied(source, edit.start, end)
            tracks = tuple(
                CopiedTrack(track=track, clips=tuple(clips), envelope=points)
                for track, clips, points in zip(
                    piece.tracks, piece.clips, piece.envelopes, strict=True
                )
                if len(clips)
            )
            return edit.model_copy(update={"copied": tracks, "frames": end - edit.start})
        case Place() | Record() | Cover() | AddAir() | SetAir():
            _check_takes(store, episode_id, edit)
            return edit
        case _:
            return edit


def settled(
    store: Store, episode_id: int, revision: int, decisions: Sequence[DecisionRequest]
) -> Edit:
    """Decisions about snags as one complete edit of the document at a revision."""
    known = {snag.id: snag for snag in store.snags(episode_id, revision)}
    if any(one.id not in known for one in decisions):
        raise BadInput("That snag is not there any more. Nothing was changed.")
    edit = decided([Decision(known[one.id], one.do, one.attempt) for one in decisions])
    return completed(store, episode_id, revision, edit, snap=True)


def _check_takes(
    store: Store, episode_id: int, edit: Place | Record | Cover | AddAir | SetAir | Tidy
) -> None:
    """Refuse sound that this episode does not have."""
    frames = {take.id: take.frames for take in store.takes(episode_id)}
    wanted: list[tuple[str, int]] = []
    match edit:
        case Place():
            wanted = [(edit.take, edit.take_frames)]
        case Record():
            wanted = [(take.take, edit.frames) for take in edit.takes]
        case Cover():
            wanted = [(t.take, t.start + t.frames) for t in [edit.tone] if t]
        case Tidy():
            tones = [cover.tone for cover in edit.covers if cover.tone]
            wanted = [(t.take, t.start + t.frames) for t in tones]
        case AddAir() | SetAir():
            wanted = [(t.take, t.start + t.frames) for t in (edit.tones or {}).values()]
    if any(frames.get(take, 0) < reach for take, reach in wanted):
        raise BadInput("This episode has no such recording. Nothing was changed.")


def _unheard(store: Store, timeline: Timeline, spans: Sequence[SpanToCut]) -> tuple[SpanToCut, ...]:
    return unheard(timeline, store.reader, store.words(timeline), spans)


def _covered(store: Store, timeline: Timeline, cover: _Covering) -> _Covering:
    """With the room tone that goes over it."""
    if cover.tone is not None:
        return cover
    track = timeline.track(cover.track)
    tone = _tone(store, timeline, track, cover.start, cover.start + cover.frames)
    if tone is None:
        raise BadInput(
            f"No room tone is known for {track.name}. Select half a second in which "
            "nobody speaks, and take it as room tone first."
        )
    return cover.model_copy(update={"tone": tone})


def _tones(store: Store, timeline: Timeline, at: int) -> dict[str, Tone]:
    """The room tone of every voice that sounds at a frame, by its track."""
    found = {}
    for track in timeline.tracks:
        if track.kind == "voice" and len(track.clips.between(max(0, at - 1), at + 1)):
            tone = _tone(store, timeline, track, max(0, at - 1), at + 1)
            if tone is not None:
                found[track.id] = tone
    return found


def _tone(store: Store, timeline: Timeline, track: Track, start: int, end: int) -> Tone | None:
    """The room tone of what sounds on a track in a span; of another take there if need be."""
    near = list(track.clips.between(start, end))
    others = sorted(track.clips, key=lambda clip: abs(clip.at - start))
    for clip in [*near, *others]:
        if is_tone(clip.take):
            made_of, _ = tone_of(clip.take)
            return Tone(take=made_of.take, start=made_of.start, frames=made_of.frames)
        tone = timeline.room_tones.get(clip.take) or store.room_tone(clip.take)
        if tone is not None:
            return Tone(take=clip.take, start=tone.start, frames=tone.frames)
    return None
