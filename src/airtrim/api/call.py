"""The two doors of a call: the host's, and a guest's by the token in their link."""

from collections.abc import Callable

from fastapi import APIRouter, WebSocket
from starlette.concurrency import run_in_threadpool

from airtrim.api.calls import CLOSED_LINK
from airtrim.api.door import may_call
from airtrim.api.fields import Id
from airtrim.api.state import State
from airtrim.errors import AirTrimError
from airtrim.store.guests import Guests
from airtrim.store.recordings import Recordings

router = APIRouter()

_NOT_LET_IN = 4403
_TOO_MANY = 4429


@router.websocket("/api/episodes/{episode_id}/call")
async def host_call(socket: WebSocket, episode_id: Id) -> None:
    """The host's end."""

    def who(state: State) -> tuple[int, str, None]:
        state.store.episode(episode_id)
        return episode_id, "Host", None

    await _open(socket, who)


@router.websocket("/api/join/{token}/call")
async def guest_call(socket: WebSocket, token: str) -> None:
    """A guest's end."""

    def who(state: State) -> tuple[int, str, str]:
        guest = Guests(state.store).let_in(token)
        return guest.episode_id, guest.name, token

    await _open(socket, who)


async def _open(socket: WebSocket, who: Callable[[State], tuple[int, str, str | None]]) -> None:
    """Let somebody in, or say why not; ``who`` tells their episode, name and token."""
    state: State = socket.app.state.airtrim
    await socket.accept()
    try:
        episode_id, name, guest = await run_in_threadpool(who, state)
    except AirTrimError as error:
        return await socket.close(CLOSED_LINK, str(error))
    problem = may_call(socket, state.settings, guest=guest is not None)
    if problem:
        return await socket.close(_NOT_LET_IN, problem)
    if state.calls.crowded(episode_id, guest):
        return await socket.close(_TOO_MANY, "This call is open in too many windows already.")
    under_way = await run_in_threadpool(Recordings(state.store).under_way, episode_id)
    recording = under_way.id if under_way else None
    await state.calls.attend(socket, episode_id, name, guest, recording)
