"""Guests: inviting them, and what their own page may ask for with the token in its link."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool

from airtrim.api.body import read_sound
from airtrim.api.fields import Id
from airtrim.api.models.recording import (
    Invitation,
    Joined,
    JoinRequest,
    NewGuest,
    PieceKept,
    PiecePlace,
    WholeRecording,
)
from airtrim.api.recordings import LONGEST_CHECK_S, keep
from airtrim.api.state import Context
from airtrim.core.sound.checkup import Checkup, check_microphone
from airtrim.core.timeline.edits.placing import MarkerAt
from airtrim.errors import NotFound
from airtrim.store.guests import Guest, Guests
from airtrim.store.recordings import Recording, Recordings

router = APIRouter(prefix="/api", tags=["guests"])


def _view(guest: Guest) -> Invitation:
    return Invitation(
        token=guest.token, name=guest.name, revoked=guest.revoked, path=f"/join/{guest.token}"
    )


@router.get("/episodes/{episode_id}/guests")
def guests(context: Context, episode_id: Id) -> list[Invitation]:
    """The guests of an episode, oldest first."""
    return [_view(guest) for guest in Guests(context.store).of(episode_id)]


@router.post("/episodes/{episode_id}/guests", status_code=201)
def invite(context: Context, episode_id: Id, new: NewGuest) -> Invitation:
    """Make a link for a guest; their track has their name."""
    return _view(Guests(context.store).invite(episode_id, new.name.strip()))


@router.post("/guests/{token}/close")
def close(context: Context, token: str) -> Invitation:
    """Close a link: whoever has it is shown out. ``open`` undoes it."""
    guest = Guests(context.store).change(token, revoked=True)
    context.calls.close_link(guest.episode_id, token)
    return _view(guest)


@router.post("/guests/{token}/open")
def open_again(context: Context, token: str) -> Invitation:
    """Open a link again."""
    return _view(Guests(context.store).change(token, revoked=False))


# --- with the link ---


def _own(context: Context, token: str, recording_id: str) -> Recording:
    """A recording of the guest of a link. Raises Gone where the link is closed."""
    guest = Guests(context.store).let_in(token)
    recording = Recordings(context.store).get(recording_id)
    if recording.guest != guest.token:
        raise NotFound("That recording is not known here.")
    return recording


@router.get("/join/{token}")
def joined(context: Context, token: str) -> Joined:
    """What a guest's page shows. 410 where the link does not lead here any more."""
    guest = Guests(context.store).let_in(token)
    episode, show = context.store.episode(guest.episode_id)
    return Joined(name=guest.name, show=show.name, episode=episode.title)


@router.post("/join/{token}/microphone-check")
async def check(context: Context, token: str, request: Request) -> Checkup:
    """Judge some seconds from the guest's microphone."""
    await run_in_threadpool(Guests(context.store).let_in, token)
    return await run_in_threadpool(check_microphone, await read_sound(request, LONGEST_CHECK_S))


@router.post("/join/{token}/recordings", status_code=201)
def begin(context: Context, token: str, join: JoinRequest) -> Recording:
    """Begin to record beside the host, or go on with what was begun."""
    guest = Guests(context.store).let_in(token)
    return Recordings(context.store).join(guest, join.beside)


@router.get("/join/{token}/recordings/{recording_id}")
def recording(context: Context, token: str, recording_id: str) -> Recording:
    """One of the guest's recordings."""
    return _own(context, token, recording_id)


@router.put("/join/{token}/recordings/{recording_id}/pieces/{number}")
async def keep_piece(
    context: Context,
    token: str,
    recording_id: str,
    number: Id,
    request: Request,
    place: Annotated[PiecePlace, Query()],
) -> PieceKept:
    """Keep a piece of the guest's, as of the host's own."""
    view = await run_in_threadpool(_own, context, token, recording_id)
    return await keep(context, view, number, request, place)


@router.post("/join/{token}/recordings/{recording_id}/flags")
def flag(context: Context, token: str, recording_id: str, new: MarkerAt) -> Recording:
    """Note a moment of the guest's recording."""
    _own(context, token, recording_id)
    return Recordings(context.store).flag(recording_id, new)


@router.post("/join/{token}/recordings/{recording_id}/end")
def end(context: Context, token: str, recording_id: str, whole: WholeRecording) -> Recording:
    """Say that all of it has been sent."""
    _own(context, token, recording_id)
    return Recordings(context.store).end(recording_id, whole.pieces)
