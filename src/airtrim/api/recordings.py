"""Microphones, and recordings in pieces that are acknowledged when they are on disk."""

import io

import numpy as np
import soundfile
from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from airtrim.api.models import JobView, NewRecording, PieceKept, WholeRecording, job_view
from airtrim.api.state import Context
from airtrim.core.media import FRAME_RATE
from airtrim.core.sound.checkup import Checkup, check_microphone
from airtrim.core.timeline.edits import MarkerAt
from airtrim.errors import BadInput, OutOfPlace, TooLarge
from airtrim.jobs.work import RecordParams
from airtrim.standins.microphone import Fault, Voice, simulated
from airtrim.store.pieces import MOST_FRAMES
from airtrim.store.recordings import Recording, Recordings

router = APIRouter(prefix="/api", tags=["recording"])

_LONGEST_CHECK_S = 10


@router.post("/microphone-check")
async def check(request: Request) -> Checkup:
    """Judge some seconds from a microphone: raw float32 samples at 48 kHz, one channel."""
    data = await _body(request, _LONGEST_CHECK_S * FRAME_RATE * 4, "That is more than ten seconds.")
    if not data or len(data) % 4:
        raise BadInput("That is no sound from a microphone.")
    sound = np.frombuffer(data, "<f4").reshape(-1, 1)
    return await run_in_threadpool(check_microphone, np.nan_to_num(sound))


@router.get("/standins/microphone", response_class=Response)
def simulated_microphone(voice: Voice = "voice", fault: Fault = "none") -> Response:
    """What the simulated microphone hears, as WAV."""
    buffer = io.BytesIO()
    soundfile.write(buffer, simulated(voice, fault), FRAME_RATE, format="WAV", subtype="FLOAT")
    return Response(buffer.getvalue(), media_type="audio/wav")


async def _body(request: Request, most_bytes: int, too_long: str) -> bytes:
    data = bytearray()
    async for part in request.stream():
        data += part
        if len(data) > most_bytes:
            raise TooLarge(too_long)
    return bytes(data)


@router.post("/episodes/{episode_id}/recordings", status_code=201)
def begin(context: Context, episode_id: int, new: NewRecording) -> Recording:
    """Begin a recording. 409 where one is open on one of its tracks."""
    context.store.files.need(60 * FRAME_RATE * 4 * len(new.tracks))
    return Recordings(context.store).begin(episode_id, new.tracks, new.landing)


@router.get("/episodes/{episode_id}/recordings")
def unfinished(context: Context, episode_id: int) -> list[Recording]:
    """Recordings that were begun and neither added nor set aside."""
    return Recordings(context.store).unfinished(episode_id)


@router.get("/recordings/{recording_id}")
def recording(context: Context, recording_id: str) -> Recording:
    """One recording."""
    return Recordings(context.store).get(recording_id)


@router.put("/recordings/{recording_id}/pieces/{number}")
async def keep_piece(
    context: Context,
    recording_id: str,
    number: int,
    request: Request,
    start: int = Query(ge=0),
) -> PieceKept:
    """Keep a piece: raw float32 samples, the channels of a frame side by side, from frame
    ``start`` of the recording. Answered when it is on disk. 409 with the number that is wanted
    for a piece out of its place."""
    recordings = Recordings(context.store)
    view = await run_in_threadpool(recordings.get, recording_id)
    if view.state != "open":
        raise BadInput("That recording has already been added or set aside.")
    most = MOST_FRAMES * 4 * len(view.tracks)
    data = await _body(request, most, "That piece is longer than a second.")
    context.store.files.need(len(data))
    pieces, frames = await run_in_threadpool(recordings.pieces(view).add, number, start, data)
    rate = FRAME_RATE * 4 * len(view.tracks)
    return PieceKept(pieces=pieces, frames=frames, seconds_left=context.store.files.room() // rate)


@router.post("/recordings/{recording_id}/flags")
def flag(context: Context, recording_id: str, new: MarkerAt) -> Recording:
    """Note a moment of the recording."""
    return Recordings(context.store).flag(recording_id, new)


@router.post("/recordings/{recording_id}/add", status_code=202)
def add(context: Context, recording_id: str, whole: WholeRecording) -> JobView:
    """Put the recording into its episode. 409 while pieces are missing."""
    recordings = Recordings(context.store)
    view = recordings.get(recording_id)
    if whole.pieces != view.pieces:
        raise OutOfPlace("Not all of the recording has come yet.", view.pieces)
    if view.frames == 0:
        raise BadInput("Nothing has been recorded yet.")
    params = RecordParams(recording=recording_id, landing=whole.landing or view.landing)
    job = recordings.begin_adding(view, params.model_dump_json())
    context.queue.wake(job.id)
    return job_view(job)


@router.post("/recordings/{recording_id}/discard")
def discard(context: Context, recording_id: str) -> Recording:
    """Set a recording aside. Its sound is kept; ``bring-back`` undoes it."""
    return Recordings(context.store).change(recording_id, "discarded", "open")


@router.post("/recordings/{recording_id}/bring-back")
def bring_back(context: Context, recording_id: str) -> Recording:
    """Open a recording again that was set aside."""
    return Recordings(context.store).change(recording_id, "open", "discarded")
