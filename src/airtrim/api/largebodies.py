"""Requests with large bodies, read and checked beside the event loop.

Some megabytes of JSON take a tenth of a second to be understood, in which nobody else would be
answered; a route of this class does it on a loop of its own, in a thread.
"""

import asyncio
from collections.abc import Callable, Coroutine
from typing import Any

from fastapi import Request, Response
from fastapi.routing import APIRoute
from starlette.concurrency import run_in_threadpool
from starlette.types import Message

_LARGE = 100_000


class LargeBodies(APIRoute):
    """A route whose body may be large."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """The usual one, elsewhere where the body is large or of untold length."""
        handle = super().get_route_handler()

        async def handled(request: Request) -> Response:
            length = request.headers.get("content-length")
            if request.method == "GET" or (length is not None and int(length) <= _LARGE):
                return await handle(request)
            body = await request.body()

            async def receive() -> Message:
                return {"type": "http.request", "body": body, "more_body": False}

            apart = Request(request.scope, receive)
            return await run_in_threadpool(asyncio.run, handle(apart))

        return handled
