"""Work within a request that ends when its browser has gone, or when it takes too long."""

import asyncio
import threading
from collections.abc import Callable
from typing import TypeVar

from fastapi import Request
from starlette.concurrency import run_in_threadpool

from airtrim.errors import BadInput, Cancelled

_T = TypeVar("_T")
_LOOK_EVERY_S = 0.5


async def while_wanted(
    request: Request, work: Callable[[Callable[[], None]], _T], most_s: float
) -> _T:
    """The result of ``work``, done in a thread. It is given a function to call now and then, which
    raises Cancelled once nobody waits for it, or BadInput after ``most_s`` seconds."""
    unwanted, late = threading.Event(), threading.Event()

    def check() -> None:
        if late.is_set():
            raise BadInput(
                "This takes longer than Air Trim waits for it, and was stopped. Nothing was "
                "changed; try it with less at a time."
            )
        if unwanted.is_set():
            raise Cancelled("Nobody waits for this any more.")

    async def look() -> None:
        ends = asyncio.get_running_loop().time() + most_s
        while not await request.is_disconnected():
            if asyncio.get_running_loop().time() > ends:
                late.set()
            await asyncio.sleep(_LOOK_EVERY_S)
        unwanted.set()

    looking = asyncio.create_task(look())
    try:
        return await run_in_threadpool(work, check)
    finally:
        unwanted.set()
        looking.cancel()
