"""Microphones, and recordings in pieces that are acknowledged when they are on disk."""

import io
import time
from typing import Annotated

import numpy as np
import soundfile
from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from airtrim.api.body import read_body, read_sound
from airtrim.api.fields import Id, PathFrame
from airtrim.api.models.recording import (
    ClockView,
    NewPlayed,
    NewRecording,
    PieceKept,
    PiecePlace,
    SimulatedMicrophone,
    WholeRecording,
)
from airtrim.api.models.work import JobView, job_view
from airtrim.api.state import Context, State
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.alignment import Reading
from airtrim.core.sound.checkup import Checkup, check_microphone
from airtrim.core.sound.delay import Delay, find_delay, probe
from airtrim.core.timeline.edits.placing import MarkerAt
from airtrim.errors import BadInput, NotFound, OutOfPlace
from airtrim.jobs.kinds.adding import RECORD, RecordParams
from airtrim.services.shelving import note_played
from airtrim.standins.microphone import DEVICES, Fault, Voice, simulated
from airtrim.store.pieces import MOST_FRAMES
from airtrim.store.recordings import Landing, Recording, Recordings

router = APIRouter(prefix="/api", tags=["recording"])

LONGEST_CHECK_S = 10


@router.get("/clock")
def clock() -> ClockView:
    """The server's clock, by which browsers tell when they heard what."""
    return ClockView(at_s=time.time())


@router.post("/microphone-check")
async def check(request: Request) -> Checkup:
    """Judge some seconds from a microphone: raw float32 samples at 48 kHz, one channel."""
    return await run_in_threadpool(check_microphone, await read_sound(request, LONGEST_CHECK_S))


@router.get("/delay/probe", response_class=Response)
def delay_probe() -> Response:
    """What is played to measure the delay from loudspeaker to microphone, as WAV."""
    return _wav(probe())


@router.post("/delay")
async def delay(request: Request) -> Delay:
    """The delay in what was recorded from the frame on which the probe began to play."""
    return await run_in_threadpool(find_delay, await read_sound(request, LONGEST_CHECK_S))


@router.get("/standins/microphones")
def simulated_microphones(context: Context) -> list[SimulatedMicrophone]:
    """The simulated microphones of the demo; none elsewhere."""
    if not context.settings.simulated_microphones:
        return []
    return [SimulatedMicrophone(id=id, name=name) for id, name in DEVICES.items()]


@router.get("/standins/microphone", response_class=Response)
def simulated_microphone(
    context: Context, voice: Voice = "voice", fault: Fault = "none"
) -> Response:
    """What a simulated microphone hears, as WAV. 404 where there are none."""
    if not context.settings.simulated_microphones:
        raise NotFound("Simulated microphones belong to the demo.")
    return _wav(simulated(voice, fault))


def _wav(sound: np.ndarray) -> Response:
    buffer = io.BytesIO()
    soundfile.write(buffer, sound, FRAME_RATE, format="WAV", subtype="FLOAT")
    return Response(buffer.getvalue(), media_type="audio/wav")


@router.post("/episodes/{episode_id}/recordings", status_code=201)
def begin(context: Context, episode_id: Id, new: NewRecording) -> Recording:
    """Begin a recording. 409 where one is open on one of its tracks."""
    context.store.files.need(60 * FRAME_RATE * 4 * len(new.tracks))
    recording = Recordings(context.store).begin(episode_id, new.tracks, new.landing)
    context.calls.tell_guests(episode_id, "begin", recording.id)
    return recording


@router.get("/episodes/{episode_id}/recordings")
def unfinished(context: Context, episode_id: Id) -> list[Recording]:
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
    number: Id,
    request: Request,
    place: Annotated[PiecePlace, Query()],
) -> PieceKept:
    """Keep a piece: raw float32 samples, the channels of a frame side by side. Answered when it is
    on disk. 409 with the number that is wanted for a piece out of its place."""
    view = await run_in_threadpool(Recordings(context.store).get, recording_id)
    return await keep(context, view, number, request, place)


async def keep(
    state: State,
    view: Recording,
    number: int,
    request: Request,
    place: PiecePlace,
) -> PieceKept:
    """Keep a piece of a recording, whoever sends it."""
    if view.state != "open":
        raise BadInput("That recording has already been added or set aside.")
    most = MOST_FRAMES * 4 * len(view.tracks)
    data = await read_body(request, most, "That piece is longer than a second.")
    files = state.store.files
    await run_in_threadpool(files.need, len(data))
    kept = Recordings(state.store).pieces(view)
    pieces, frames = await run_in_threadpool(kept.add, number, place.start, data, view.most_frames)
    if place.at_s is not None and np.isfinite(place.at_s):
        await run_in_threadpool(kept.note, Reading(place.start, place.at_s, place.run))
    rate = FRAME_RATE * 4 * len(view.tracks)
    return PieceKept(pieces=pieces, frames=frames, seconds_left=files.room() // rate)


@router.post("/recordings/{recording_id}/flags")
def flag(context: Context, recording_id: str, new: MarkerAt) -> Recording:
    """Note a moment of the recording."""
    return Recordings(context.store).flag(recording_id, new)


@router.put("/recordings/{recording_id}/played/{at}")
def play_in(context: Context, recording_id: str, at: PathFrame, new: NewPlayed) -> Recording:
    """Note that a sound of the shelf was played in from a frame of the recording on; again, with
    fewer frames, where it was ended before its end."""
    return note_played(context.store, recording_id, at, new.sound, new.frames, new.gain_db)


@router.post("/recordings/{recording_id}/landing")
def land(context: Context, recording_id: str, landing: Landing) -> Recording:
    """Settle where a recording goes that is being made."""
    return Recordings(context.store).land(recording_id, landing)


@router.post("/recordings/{recording_id}/end")
def end(context: Context, recording_id: str, whole: WholeRecording) -> Recording:
    """Say that all of it has been sent; guests' recordings beside it are ended too."""
    recording = Recordings(context.store).end(recording_id, whole.pieces)
    context.calls.tell_guests(recording.episode_id, "end", recording_id)
    return recording


@router.get("/recordings/{recording_id}/companions")
def companions(context: Context, recording_id: str) -> list[Recording]:
    """Guests' recordings beside one, and how much of them has come."""
    return Recordings(context.store).companions(recording_id)


@router.post("/recordings/{recording_id}/add", status_code=202)
def add(context: Context, recording_id: str, whole: WholeRecording) -> JobView:
    """Put the recording into its episode, and guests' that are whole beside it. 409 while pieces
    are missing. A guest's that is not whole yet can be added later."""
    recordings = Recordings(context.store)
    view = recordings.get(recording_id)
    if whole.pieces != view.pieces:
        raise OutOfPlace("Not all of the recording has come yet.", view.pieces)
    if view.frames == 0:
        raise BadInput("Nothing has been recorded yet.")
    guests = [
        guest
        for guest in recordings.companions(recording_id)
        if guest.state == "open" and guest.whole == guest.pieces and guest.frames
    ]
    params = RecordParams(
        recording=recording_id,
        landing=whole.landing or view.landing,
        guests=tuple(guest.id for guest in guests),
    )
    job = recordings.begin_adding(view, guests, RECORD.name, params.model_dump_json())
    context.calls.tell_guests(view.episode_id, "end", recording_id)
    context.queue.wake(job.id)
    return job_view(job)


@router.post("/recordings/{recording_id}/discard")
def discard(context: Context, recording_id: str) -> Recording:
    """Set a recording aside. Its sound is kept; ``bring-back`` undoes it."""
    recording = Recordings(context.store).change(recording_id, "discarded", "open")
    context.calls.tell_guests(recording.episode_id, "end", recording_id)
    return recording


@router.post("/recordings/{recording_id}/bring-back")
def bring_back(context: Context, recording_id: str) -> Recording:
    """Open a recording again that was set aside."""
    return Recordings(context.store).change(recording_id, "open", "discarded")
