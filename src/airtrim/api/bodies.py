"""How much a request may send, known before any of it is read, and how long it may keep silent."""

import asyncio
import re
from collections.abc import Sequence

from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from airtrim.api.answers import sentence

SILENT_S = 30.0
_PLAIN = 10_000_000
"""An edit that settles twenty thousand snags at once is five million bytes long."""
_GUEST = 64_000
_LIMITS: Sequence[tuple[re.Pattern[str], int]] = [
    (re.compile(r"/api/join/[^/]+/recordings/[^/]+/pieces/"), 400_000),
    (re.compile(r"/api/join/[^/]+/microphone-check$"), 2_500_000),
    (re.compile(r"/api/join/"), _GUEST),
    (re.compile(r"/api/takes/[^/]+/transcript$"), 21_000_000),
    (re.compile(r"/api/shows/[^/]+/setups/file$"), 300_000_000),
]
"""The first that fits counts; uploads bound themselves."""


class Bodies:
    """Middleware that ends a request whose body is too long, or does not come."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, its body counted as it comes."""
        if scope["type"] != "http" or scope["path"].startswith("/api/uploads/"):
            await self.app(scope, receive, send)
            return
        most = next((size for path, size in _LIMITS if path.match(scope["path"])), _PLAIN)
        headers = dict(scope["headers"])
        length = headers.get(b"content-length", b"0")
        if not length.isdigit() or int(length) > most:
            await sentence(_too_much(most), 413)(scope, receive, send)
            return
        read, more = 0, True

        async def counted() -> Message:
            nonlocal read, more
            if not more:
                return await receive()
            try:
                async with asyncio.timeout(SILENT_S):
                    message = await receive()
            except TimeoutError as error:
                raise HTTPException(
                    408, "The request broke off, and was not carried out."
                ) from error
            if message["type"] == "http.request":
                read += len(message.get("body", b""))
                more = message.get("more_body", False)
                if read > most:
                    raise HTTPException(413, _too_much(most))
            return message

        await self.app(scope, counted, send)


def _too_much(most: int) -> str:
    size = f"{most / 1e6:.0f} MB" if most >= 1_000_000 else f"{most / 1e3:.0f} kB"
    return f"That is more than is taken here at once ({size}). Nothing was changed."
