"""What a stretch of the Page shows: words, splices, air, the skyline, and its sound."""

import io
from dataclasses import replace
from typing import Annotated, Any

import numpy as np
import soundfile
from fastapi import APIRouter, Query, Response
from pydantic import ValidationError

from airtrim.api.fields import At, Id, Revision
from airtrim.api.models.episode import LONGEST_STRETCH_FRAMES, MOST_COLUMNS
from airtrim.api.models.page import (
    AirView,
    ClipView,
    HitView,
    PageView,
    PlaceView,
    SpanView,
    SpliceView,
    ToneView,
)
from airtrim.api.models.rundown import PlacedView
from airtrim.api.models.sound import Listening
from airtrim.api.state import Context
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.peaks import to_byte_scale
from airtrim.core.render.graph import render
from airtrim.core.render.skyline import skyline, waveform
from airtrim.core.render.solo import taken_out, untouched_alike
from airtrim.core.snags.base import Do
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.arranging import with_track
from airtrim.core.timeline.bounds import MOST_FRAMES, MOST_NUMBER
from airtrim.core.timeline.clips import Clip
from airtrim.core.timeline.cutting import restore
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.finding import Stop, Unit, around, find, next_place
from airtrim.core.timeline.model import Piece, Span, Timeline
from airtrim.core.timeline.tone import is_tone
from airtrim.core.timeline.words import PlacedWord, TakeWords, air_between, words_on, words_within
from airtrim.errors import BadInput
from airtrim.services.editing import SnagChoice, decision
from airtrim.services.finding import room_tone
from airtrim.store.store import Store

router = APIRouter(prefix="/api/episodes/{episode_id}", tags=["page"])

LONGEST_PIECE_FRAMES = 30 * FRAME_RATE
FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}
"""For answers whose address names one state for good."""
NEVER = {"Cache-Control": "no-store"}
Content = Annotated[str | None, Query(max_length=64)]
"""Content key of the document, as an episode names it (``EpisodeView.content``)."""


@router.get("/page", response_model=PageView)
def page(
    context: Context,
    episode_id: Id,
    revision: Revision,
    start: At,
    frames: int = Query(gt=0, le=LONGEST_STRETCH_FRAMES),
) -> Response:
    """Words, splices, air and clips between two frames."""
    # Written out here, since checking hundreds of values a second time takes longer than all else.
    view = page_view(context.store, episode_id, revision, start, frames)
    return Response(view.model_dump_json(), media_type="application/json")


def page_view(store: Store, episode_id: int, revision: int, start: int, frames: int) -> PageView:
    """Words, splices, air and clips between two frames."""
    timeline = store.timeline(episode_id, revision)
    words = store.words(timeline)
    end = start + frames
    # A cut that took the end away stands at the end, wherever the pause before it began.
    ends_here = start < timeline.frames <= end
    last_cut = len(timeline.cuts) if ends_here else timeline.cuts.first_from(end)
    spoken = words_on(timeline, store.words_so_far(timeline), start, end)
    return PageView(
        revision=revision,
        start=start,
        frames=frames,
        words=spoken,
        splices=[
            SpliceView(
                cut=cut.id,
                at=min(cut.at, timeline.frames),
                frames=cut.piece.frames,
                text=_text(timeline, cut.piece, words),
                retake=bool(cut.instead),
                **_crossfade(timeline, cut.at),
            )
            for cut in timeline.cuts[timeline.cuts.first_from(start) : last_cut]
        ],
        air=_air(timeline, words, start, end),
        clips=_clips(timeline, start, end),
        sounds=_sounds(timeline, start, end),
        room_tones=_room_tones(store, timeline, start, end),
    )


def _crossfade(timeline: Timeline, at: int) -> dict[str, Any]:
    """Length and shape of the crossfade at a splice; the longest of the tracks'."""
    found: Clip | None = None
    for track in timeline.tracks:
        index = track.clips.first_from(at)
        if index < len(track.clips) and track.clips[index].at == at:
            clip = track.clips[index]
            if found is None or clip.fade_in > found.fade_in:
                found = clip
    return {
        "crossfade_frames": found.fade_in if found else 0,
        "shape": found.shape_in if found else "round",
    }


def _text(timeline: Timeline, piece: Piece, words: TakeWords) -> str:
    spoken: list[PlacedWord] = words_within(timeline, piece, words)
    return " ".join(word.text for word in spoken)


def _air_limit(timeline: Timeline) -> int:
    return round(timeline.snag_rules.air_limit_s * FRAME_RATE)


def _air(timeline: Timeline, words: TakeWords, start: int, end: int) -> list[AirView]:
    spans = air_between(timeline, words, start, end, _air_limit(timeline))
    return [AirView(track=a.track, start=a.start, frames=a.end - a.start) for a in spans]


def _room_tones(store: Store, timeline: Timeline, start: int, end: int) -> list[ToneView]:
    """Where the room tone of each take sounds, chosen or found, as far as it was not cut."""
    out = []
    tones: dict[str, Span | RoomTone | None] = {**timeline.room_tones}
    for track in timeline.tracks:
        if track.kind == "music":
            continue
        for clip in track.clips.between(start, end):
            if is_tone(clip.take):
                continue
            if clip.take not in tones:
                tones[clip.take] = room_tone(store, clip.take)
            tone = tones[clip.take]
            if tone is None:
                continue
            low = max(clip.at, clip.at + tone.start - clip.start)
            high = min(clip.end, clip.at + tone.start + tone.frames - clip.start)
            if max(low, start) < min(high, end):
                out.append(ToneView(track=track.id, start=low, frames=high - low))
    return out


def _clips(timeline: Timeline, start: int, end: int) -> list[ClipView]:
    out: list[ClipView] = []
    for track in timeline.tracks:
        first = track.clips.first_sounding(start)
        before = track.clips[first - 1] if first else None
        for clip in track.clips.between(start, end):
            touches = before is not None and before.end == clip.at
            out.append(
                ClipView(
                    track=track.id,
                    start=clip.at,
                    frames=clip.frames,
                    take=clip.take,
                    take_start=clip.start,
                    gain_db=clip.gain_db,
                    fade_in=clip.fade_in,
                    fade_out=clip.fade_out,
                    shape_in=clip.shape_in,
                    shape_out=clip.shape_out,
                    tone=is_tone(clip.take),
                    touches=touches,
                    goes_on=before is not None and before.continues_into(clip),
                )
            )
            before = clip
    return out


def _sounds(timeline: Timeline, start: int, end: int) -> list[PlacedView]:
    if not any(t.held and len(t.clips.between(start, end)) for t in timeline.tracks):
        return []
    placed = (PlacedView.of(timeline, one) for one in timeline.placed)
    return [
        one for one in placed if one.at is not None and one.at < end and one.at + one.length > start
    ]


@router.get("/splices")
def splices(context: Context, episode_id: Id, revision: Revision) -> list[int]:
    """Where every splice is, in frames."""
    timeline = context.store.timeline(episode_id, revision)
    return sorted({min(cut.at, timeline.frames) for cut in timeline.cuts})


@router.get("/find")
def find_words(
    context: Context,
    episode_id: Id,
    revision: Revision,
    text: str = Query(max_length=200),
) -> list[HitView]:
    """Every place where ``text`` is said."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    return [
        HitView(
            track=hit.track,
            start=hit.start,
            frames=hit.end - hit.start,
            text=hit.text,
            before=hit.before,
            after=hit.after,
        )
        for hit in find(words_on(timeline, store.words_so_far(timeline)), text)
    ]


@router.get("/around")
def stretch_around(
    context: Context,
    episode_id: Id,
    unit: Unit,
    revision: Revision,
    at: At,
) -> SpanView:
    """The word, sentence, turn or section at a frame, or the one nearest to it."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    found = around(timeline, store.words_so_far(timeline), at, unit)
    if found is None:
        return SpanView(start=at, frames=0)
    return SpanView(start=found.start, frames=found.end - found.start)


@router.get("/next")
def next_stop(
    context: Context,
    episode_id: Id,
    what: Stop,
    revision: Revision,
    at: At,
    back: bool = False,
) -> PlaceView:
    """Where the next (or last) word, sentence, splice, and so on, begins."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    # Where words are still coming it is not known yet that nobody speaks.
    words = store.words(timeline) if what == "air" else store.words_so_far(timeline)
    found = next_place(timeline, words, at, what, back=back, air=_air_limit(timeline))
    return PlaceView(at=found)


def _headers(store: Store, timeline: Timeline, content: str | None) -> dict[str, str]:
    """How long a browser may keep sound and pictures of a document: for good where its address
    names everything that they depend on."""
    known = content == store.content_key(timeline) and not store.cleaned.missing(timeline)
    return FOREVER if known else NEVER


@router.get("/skyline", response_class=Response)
def skyline_bytes(
    context: Context,
    episode_id: Id,
    revision: Revision,
    start: At,
    frames: int = Query(gt=0, le=MOST_FRAMES),
    columns: int = Query(gt=0, le=MOST_COLUMNS),
    content: Content = None,
) -> Response:
    """The skyline as bytes: for each track in order, ``columns`` peaks, then ``columns`` RMS
    values; each 0–255 over −66 to 0 dBFS."""
    values = skyline_of(context.store, episode_id, revision, start, frames, columns)
    headers = _headers(context.store, context.store.timeline(episode_id, revision), content)
    return Response(values, media_type="application/octet-stream", headers=headers)


def skyline_of(
    store: Store, episode_id: int, revision: int, start: int, frames: int, columns: int
) -> bytes:
    """The bytes of a skyline."""
    timeline = store.timeline(episode_id, revision)
    return to_byte_scale(skyline(timeline, store.peaks, start, frames, columns)).tobytes()


@router.get("/waveform", response_class=Response)
def waveform_bytes(
    context: Context,
    episode_id: Id,
    revision: Revision,
    start: At,
    frames: int = Query(gt=0, le=60 * FRAME_RATE),
    columns: int = Query(gt=0, le=MOST_COLUMNS),
    content: Content = None,
) -> Response:
    """The wave itself as signed bytes: for each track in order, ``columns`` lowest samples, then
    ``columns`` highest; −127 to 127 over full scale."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    values = waveform(timeline, store.reader, start, frames, columns)
    scaled = np.clip(np.round(values * 127.0), -127, 127).astype(np.int8)
    headers = _headers(store, timeline, content)
    return Response(scaled.tobytes(), media_type="application/octet-stream", headers=headers)


@router.get("/audio", response_class=Response)
def audio(
    context: Context,
    episode_id: Id,
    revision: Revision,
    start: At,
    frames: int = Query(gt=0, le=LONGEST_PIECE_FRAMES),
    restored: int | None = Query(default=None, ge=0, le=MOST_NUMBER),
    snag: str | None = Query(default=None, max_length=200),
    do: Do = "cut",
    attempt: int = Query(default=-1, ge=-1, le=100),
    listening: str | None = Query(default=None, max_length=4000),
    content: Content = None,
) -> Response:
    """A piece of the finished sound, as 16-bit WAV at 48 kHz; as if cut ``restored`` had been put
    back, or ``snag`` settled, or a track treated otherwise (``listening``, JSON), if one is told.
    """
    store = context.store
    timeline = document = store.timeline(episode_id, revision)
    if restored is not None:
        timeline = restore(timeline, restored)
    if snag is not None:
        choice = SnagChoice(snag, do, attempt)
        timeline = apply(timeline, decision(store, episode_id, revision, [choice]))
    sound = None
    if listening is not None:
        timeline, sound = _listened(store, timeline, listening, start, frames)
    if sound is None:
        sound = rendered(store, timeline, start, frames)
    buffer = io.BytesIO()
    soundfile.write(buffer, sound, FRAME_RATE, format="WAV", subtype="PCM_16")
    # Sound of a take that is not cleaned yet, or that cannot be read, will be different later.
    lasting = not store.cleaned.missing(timeline) and not store.is_damaged(timeline)
    headers = _headers(store, document, content) if lasting else NEVER
    return Response(buffer.getvalue(), media_type="audio/wav", headers=headers)


def _listened(
    store: Store, timeline: Timeline, listening: str, start: int, frames: int
) -> tuple[Timeline, np.ndarray | None]:
    """The document as a host tries it, or the sound itself where it is none of a document."""
    try:
        one = Listening.model_validate_json(listening)
    except ValidationError as error:
        raise BadInput("That is not a treatment of a track.") from error
    track = timeline.track(one.track)
    if one.chain is not None:
        timeline = with_track(timeline, replace(track, chain=one.chain))
    if one.hear == "untouched":
        return untouched_alike(timeline, store.reader, one.track, one.start, one.frames), None
    if one.hear == "taken_out":
        count = max(0, min(frames, timeline.frames - start))
        out = taken_out(timeline, store.reader, one.track, start, count)
        return timeline, np.clip(out, -1.0, 1.0)
    return timeline, None


def rendered(store: Store, timeline: Timeline, start: int, frames: int) -> np.ndarray:
    """A rendered piece in one array, shape ``(n, channels)``; shorter at the end."""
    blocks = list(render(timeline, store.reader, store.words(timeline), start, frames))
    empty = np.zeros((0, timeline.loudness.channels), np.float32)
    return np.concatenate([empty, *blocks])
