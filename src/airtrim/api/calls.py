"""The call between host and guests: who is there, and their messages to one another.

Sound goes straight from browser to browser; this room only introduces them, and tells guests when
the host begins and ends a recording. Nothing that is recorded depends on it.
"""

import asyncio
import contextlib
from collections import defaultdict
from itertools import count
from typing import Annotated, Any, Literal

from fastapi import WebSocket, WebSocketDisconnect
from pydantic import BaseModel, Field, TypeAdapter, ValidationError

CLOSED_LINK = 4410
"""Why a guest is shown out: the code its socket is closed with."""
_LONGEST_MESSAGE = 100_000
_MOST_WINDOWS = 6


class _Signal(BaseModel):
    """Something for one other browser: an offer, an answer, or a way to be reached."""

    kind: Literal["signal"]
    to: int
    data: dict[str, Any]


class _Doing(BaseModel):
    """What a browser is doing, told to all others."""

    kind: Literal["doing"]
    microphone: bool
    recording: bool


_MESSAGE: TypeAdapter[_Signal | _Doing] = TypeAdapter(
    Annotated[_Signal | _Doing, Field(discriminator="kind")]
)


class _Peer:
    """A browser in a call; ``guest`` is the token of a guest's."""

    def __init__(self, number: int, name: str, guest: str | None, socket: WebSocket) -> None:
        self.number, self.name, self.guest, self.socket = number, name, guest, socket
        self.microphone = self.recording = False

    def view(self) -> dict[str, Any]:
        """As others see it."""
        return {
            "id": self.number,
            "name": self.name,
            "host": self.guest is None,
            "microphone": self.microphone,
            "recording": self.recording,
        }

    async def say(self, message: dict[str, Any]) -> None:
        """Send a message; a browser that is gone is found out by its own reader."""
        with contextlib.suppress(RuntimeError, WebSocketDisconnect):
            await self.socket.send_json(message)


class Calls:
    """All calls, one an episode."""

    def __init__(self) -> None:
        self._rooms: dict[int, dict[int, _Peer]] = defaultdict(dict)
        self._numbers = count(1)
        self._loop: asyncio.AbstractEventLoop | None = None

    def tell_guests(self, episode_id: int, kind: Literal["begin", "end"], recording: str) -> None:
        """Tell an episode's guests that a recording begins or ends; from any thread."""
        if self._loop:
            message = {"kind": kind, "recording": recording}
            asyncio.run_coroutine_threadsafe(self._tell_guests(episode_id, message), self._loop)

    def close_link(self, episode_id: int, token: str) -> None:
        """Show a guest out whose link has been closed; from any thread."""
        if self._loop:
            asyncio.run_coroutine_threadsafe(self._show_out(episode_id, token), self._loop)

    async def _tell_guests(self, episode_id: int, message: dict[str, Any]) -> None:
        for peer in list(self._rooms[episode_id].values()):
            if peer.guest:
                await peer.say(message)

    async def _show_out(self, episode_id: int, token: str) -> None:
        for peer in list(self._rooms[episode_id].values()):
            if peer.guest == token:
                await peer.socket.close(CLOSED_LINK, "Your host has closed this link.")

    def crowded(self, episode_id: int, guest: str | None) -> bool:
        """Whether a host, or a guest's link, has as many windows in a call as there may be."""
        same = sum(peer.guest == guest for peer in self._rooms[episode_id].values())
        return same >= _MOST_WINDOWS

    async def attend(
        self,
        socket: WebSocket,
        episode_id: int,
        name: str,
        guest: str | None,
        under_way: str | None,
    ) -> None:
        """Stay with a browser until it leaves. ``under_way``: the recording the host is making."""
        self._loop = asyncio.get_running_loop()
        room = self._rooms[episode_id]
        peer = _Peer(next(self._numbers), name, guest, socket)
        others = list(room.values())
        room[peer.number] = peer
        await peer.say(
            {
                "kind": "hello",
                "you": peer.number,
                "others": [other.view() for other in others],
                "recording": under_way,
            }
        )
        try:
            for other in others:
                await other.say({"kind": "came", **peer.view()})
            while True:
                message = await socket.receive()
                if message["type"] != "websocket.receive":
                    break
                await self._heed(room, peer, message.get("text") or "")
        except (WebSocketDisconnect, RuntimeError):
            pass
        finally:
            room.pop(peer.number, None)
            for other in list(room.values()):
                await other.say({"kind": "left", "id": peer.number})

    @staticmethod
    async def _heed(room: dict[int, _Peer], peer: _Peer, text: str) -> None:
        if len(text) > _LONGEST_MESSAGE:
            return
        try:
            message = _MESSAGE.validate_json(text)
        except ValidationError:
            return
        match message:
            case _Signal():
                if message.to in room:
                    await room[message.to].say(
                        {"kind": "signal", "from": peer.number, "data": message.data}
                    )
            case _Doing():
                peer.microphone, peer.recording = message.microphone, message.recording
                for other in list(room.values()):
                    if other is not peer:
                        await other.say({"kind": "doing", **peer.view()})
