"""Answers and events that come late to a browser, by chance: ``LATE=3 .venv/bin/pytest tests/web``.

What a page shows in the end may not depend on which of two answers comes first; a quick machine
always brings them in the same order.
"""

import asyncio
import random

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from airtrim.api import serving
from airtrim.settings import Settings


class _Late:
    """An application that browsers hear of late; tests that ask it themselves do not."""

    def __init__(self, app: ASGIApp, seed: int) -> None:
        self._app = app
        self._chance = random.Random(seed)

    def _delay(self, how_often: float, most_s: float) -> float:
        return self._chance.uniform(0, most_s) if self._chance.random() < how_often else 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        browser = b"Mozilla" in dict(scope.get("headers", [])).get(b"user-agent", b"")
        if scope["type"] != "http" or not browser or not scope["path"].startswith("/api/"):
            return await self._app(scope, receive, send)
        stream = scope["path"] == "/api/events"

        async def send_late(message: Message) -> None:
            if stream:
                await asyncio.sleep(self._delay(0.3, 0.6))
            elif message["type"] == "http.response.start":
                await asyncio.sleep(self._delay(0.35, 0.8))
            await send(message)

        if not stream:
            await asyncio.sleep(self._delay(0.25, 0.4))
        return await self._app(scope, receive, send_late)


def answer_late(seed: int) -> None:
    """Have the server of this process answer late."""
    make = serving.create_app

    def create_app(settings: Settings) -> ASGIApp:
        return _Late(make(settings), seed)

    serving.create_app = create_app  # type: ignore[assignment]
