"""Every request gets an id, which its answer and its line in the log carry."""

import logging
import time
from secrets import token_hex

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from airtrim.logs import event

_SLOW_MS = 2000.0
_STREAM = "/api/events"
"""It lasts for as long as somebody listens."""


class Requests:
    """Middleware around all others."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on and log how it ended."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        request_id = token_hex(6)
        scope["request_id"] = request_id
        begun = time.monotonic()
        status = 500

        async def sent(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)["X-Request-Id"] = request_id
            await send(message)

        try:
            await self.app(scope, receive, sent)
        finally:
            took_ms = (time.monotonic() - begun) * 1000
            # The route, not the address: that may hold a link's token, or a name.
            route = getattr(scope.get("route"), "path", "-")
            trouble = status >= 500 or (took_ms > _SLOW_MS and route != _STREAM)
            event(
                "request",
                level=logging.WARNING if trouble else logging.DEBUG,
                id=request_id,
                method=scope["method"],
                route=route,
                status=status,
                ms=round(took_ms, 1),
            )
