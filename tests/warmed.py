"""Imported by the process that servers are forked from: their kernels are ready then, and what
they would import or work out at their first start and request is there."""

import asyncio
import gc
import tempfile
import threading
from pathlib import Path

import httpx
import uvicorn.lifespan.on
import uvicorn.loops.auto
import uvicorn.protocols.http.auto
import uvicorn.protocols.websockets.auto  # noqa: F401

from airtrim.api.app import create_app
from airtrim.core.render.warm import warm_up
from airtrim.settings import Settings


async def _asked(app: object) -> None:
    through = httpx.ASGITransport(app)  # type: ignore[arg-type]
    async with httpx.AsyncClient(transport=through, base_url="http://127.0.0.1") as client:
        for address in ("/", "/api/clock", "/api/shows"):
            (await client.get(address)).raise_for_status()


warm_up()
with tempfile.TemporaryDirectory() as folder:
    for _ in range(2):  # one on an empty folder, one on what is there
        app = create_app(Settings(data_dir=Path(folder), keep_free_bytes=0), worker=False)
        asyncio.run(_asked(app))
        app.state.airtrim.store.close()
assert threading.active_count() == 1, "what is forked must have one thread"
# What is never looked at by a collection is never copied in a fork.
gc.collect()
gc.freeze()
