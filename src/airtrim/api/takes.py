"""Takes: their room tone, and their sound as it was recorded."""

import io

import soundfile
from fastapi import APIRouter, Query, Response

from airtrim.api.fields import At, Id, Revision
from airtrim.api.models.episode import RoomToneView
from airtrim.api.page import FOREVER, LONGEST_PIECE_FRAMES, NEVER
from airtrim.api.state import Context
from airtrim.core.media import FRAME_RATE
from airtrim.core.sound.roomtone import level_of
from airtrim.services import finding

router = APIRouter(prefix="/api", tags=["takes"])


@router.get("/episodes/{episode_id}/takes/{take_id}/room-tone")
def room_tone(context: Context, episode_id: Id, take_id: str, revision: Revision) -> RoomToneView:
    """The room tone of a take: chosen by hand, or else found (0 frames where there is none)."""
    store = context.store
    chosen = store.timeline(episode_id, revision).room_tones.get(take_id)
    if chosen:
        level = level_of(store.peaks(take_id), chosen.start, chosen.frames)
        return RoomToneView(start=chosen.start, frames=chosen.frames, level_dbfs=level, chosen=True)
    tone = finding.room_tone(store, take_id)
    if tone is None:
        return RoomToneView(start=0, frames=0, level_dbfs=0.0, chosen=False)
    return RoomToneView(
        start=tone.start, frames=tone.frames, level_dbfs=tone.level_dbfs, chosen=False
    )


@router.get("/takes/{take_id}/audio", response_class=Response)
def audio(
    context: Context,
    take_id: str,
    start: At,
    frames: int = Query(gt=0, le=LONGEST_PIECE_FRAMES),
) -> Response:
    """A piece of a take as it was recorded, as 16-bit WAV."""
    take = context.store.take(take_id)
    reader = context.store.reader(take_id)
    sound = reader.read(start, max(0, min(frames, take.frames - start)))
    buffer = io.BytesIO()
    soundfile.write(buffer, sound, FRAME_RATE, format="WAV", subtype="PCM_16")
    # Ids of takes are random, and their sound never changes. What cannot be read is silent for now.
    headers = NEVER if getattr(reader, "damaged", False) else FOREVER
    return Response(buffer.getvalue(), media_type="audio/wav", headers=headers)
