"""What a stretch of the Page shows: words, splices, air, the skyline, and its sound."""

import bisect
import io

import numpy as np
import soundfile
from fastapi import APIRouter, Query, Response

from airtrim.api.models import AirView, ClipView, PageView, SpliceView
from airtrim.api.state import Context
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.peaks import to_byte_scale
from airtrim.core.render.graph import render
from airtrim.core.render.skyline import skyline
from airtrim.core.timeline.model import Piece, Timeline
from airtrim.core.timeline.words import PlacedWord, TakeWords, air_between, words_on, words_within
from airtrim.store.store import Store

router = APIRouter(prefix="/api/episodes/{episode_id}", tags=["page"])

AIR_LIMIT_FRAMES = 72_000
"""1.5 s: longer is long air (common practice)."""

LONGEST_SPAN_FRAMES = 600 * FRAME_RATE
LONGEST_PIECE_FRAMES = 30 * FRAME_RATE
FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}
"""For answers whose address names one state for good."""


@router.get("/page")
def page(
    context: Context,
    episode_id: int,
    response: Response,
    revision: int = Query(ge=0),
    start: int = Query(ge=0),
    frames: int = Query(gt=0, le=LONGEST_SPAN_FRAMES),
) -> PageView:
    """Words, splices, air and clips between two frames."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    words = store.words(timeline)
    end = start + frames
    around = words_on(timeline, words, start, end)
    return PageView(
        revision=revision,
        start=start,
        frames=frames,
        words=around,
        splices=[
            SpliceView(
                cut=cut.id,
                at=cut.at,
                frames=cut.piece.frames,
                text=_text(timeline, cut.piece, words),
            )
            for cut in timeline.cuts
            if start <= cut.at < end
        ],
        air=_air(timeline, words, start, end),
        clips=_clips(timeline, start, end),
    )


def _text(timeline: Timeline, piece: Piece, words: TakeWords) -> str:
    said: list[PlacedWord] = words_within(timeline, piece, words)
    return " ".join(word.text for word in said)


def _air(timeline: Timeline, words: TakeWords, start: int, end: int) -> list[AirView]:
    spans = air_between(timeline, words, start, end, AIR_LIMIT_FRAMES)
    return [AirView(track=a.track, start=a.start, frames=a.end - a.start) for a in spans]


def _clips(timeline: Timeline, start: int, end: int) -> list[ClipView]:
    """Where each track has sound, neighbours joined."""
    out: list[ClipView] = []
    for track in timeline.tracks:
        first = bisect.bisect_right(track.clips, start, key=lambda clip: clip.end)
        for clip in track.clips[first:]:
            if clip.at >= end:
                break
            last = out[-1] if out and out[-1].track == track.id else None
            if last and last.start + last.frames == clip.at:
                last.frames += clip.frames
            else:
                out.append(ClipView(track=track.id, start=clip.at, frames=clip.frames))
    return out


@router.get("/skyline", response_class=Response)
def skyline_bytes(
    context: Context,
    episode_id: int,
    revision: int = Query(ge=0),
    start: int = Query(ge=0),
    frames: int = Query(gt=0),
    columns: int = Query(gt=0, le=40_000),
) -> Response:
    """The skyline as bytes: for each track in order, ``columns`` peaks, then ``columns`` RMS
    values; each 0–255 over −66 to 0 dBFS."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    values = skyline(timeline, store.peaks, start, frames, columns)
    return Response(
        to_byte_scale(values).tobytes(), media_type="application/octet-stream", headers=FOREVER
    )


@router.get("/audio", response_class=Response)
def audio(
    context: Context,
    episode_id: int,
    revision: int = Query(ge=0),
    start: int = Query(ge=0),
    frames: int = Query(gt=0, le=LONGEST_PIECE_FRAMES),
) -> Response:
    """A piece of the finished sound, as 16-bit WAV at 48 kHz."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    sound = rendered(store, timeline, start, frames)
    buffer = io.BytesIO()
    soundfile.write(buffer, sound, FRAME_RATE, format="WAV", subtype="PCM_16")
    return Response(buffer.getvalue(), media_type="audio/wav", headers=FOREVER)


def rendered(store: Store, timeline: Timeline, start: int, frames: int) -> np.ndarray:
    """A rendered piece in one array, shape ``(n, channels)``; shorter at the end."""
    blocks = list(render(timeline, store.reader, store.words(timeline), start, frames))
    empty = np.zeros((0, timeline.loudness.channels), np.float32)
    return np.concatenate([empty, *blocks])
