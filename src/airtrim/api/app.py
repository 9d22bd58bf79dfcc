"""The application: routers, safety at the door, and the built interface."""

import asyncio
import gc
import logging
import os
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.responses import FileResponse, RedirectResponse
from fastapi.staticfiles import StaticFiles

from airtrim.api import (
    batches,
    call,
    catalogue,
    checking,
    copying,
    episodes,
    finding,
    guests,
    handing,
    health,
    jobs,
    page,
    recordings,
    release,
    rundown,
    searching,
    setups,
    shelf,
    snags,
    sound,
    sounds,
    standing,
    takes,
    transcript,
    travelling,
    uploads,
)
from airtrim.api.bodies import Bodies
from airtrim.api.connections import MOST_CONNECTIONS, BoundedHttp
from airtrim.api.description import describe_whole
from airtrim.api.door import Door
from airtrim.api.problems import tell_problems
from airtrim.api.requests import Requests
from airtrim.api.sessions import Sessions
from airtrim.api.state import State
from airtrim.api.strangers import Strangers
from airtrim.api.watching import Watching
from airtrim.core.render.warm import warm_up
from airtrim.jobs.queue import Queue, Watch
from airtrim.logs import event
from airtrim.services.trash import empty_trash
from airtrim.settings import Settings
from airtrim.store.store import Store

WEB = Path(__file__).parent.parent / "web_dist"
_TIDY_UP_AFTER_S = 600.0
_TIDY_UP_EVERY_S = 3600.0
_DESCRIBE_AFTER_S = 10.0
_LONGEST_MESSAGE = 200_000


def create_app(settings: Settings, *, worker: bool = True) -> FastAPI:
    """The application on ``settings``; ``worker`` False leaves background work undone."""
    # An edit of a long episode makes thousands of small values and frees none in cycles: with
    # Python's usual thresholds a quarter of its time goes into looking for some.
    gc.set_threshold(50_000, 20, 100)
    store = Store(settings.data_dir, settings.keep_free_bytes)
    queue = Queue(store, settings)
    watch = Watch(settings) if worker else None
    strangers = Strangers()

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        store.files.sweep()
        uploads.finish_uploads(store, queue, _warn)
        if watch:
            watch.start()
        describing = asyncio.create_task(_describe(app))
        warming = asyncio.create_task(asyncio.to_thread(warm_up))
        # What is there now stays: looking through it for cycles would hold the loop each time.
        warming.add_done_callback(lambda _: gc.freeze())
        tidying = asyncio.create_task(_tidy_up(store))
        event("started", process=os.getpid(), worker=worker)
        yield
        tidying.cancel()
        describing.cancel()
        await warming
        if watch:
            await asyncio.to_thread(watch.stop)
            store.give_back_jobs()
            store.files.sweep(everything=True)
        searching.end()
        store.close()
        event("stopped", process=os.getpid())

    app = FastAPI(
        title="Air Trim",
        version="1",
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    app.state.airtrim = State(store, queue, settings, Watching(store), watch=watch)
    app.add_middleware(Bodies)
    app.add_middleware(Door, settings=settings, strangers=strangers)
    app.add_middleware(Requests)
    tell_problems(app)
    # Routes are worked out in this order as they are first asked for: an upload that goes on after
    # a stop need not wait for all others.
    for module in (
        uploads,
        shelf,
        episodes,
        page,
        takes,
        snags,
        sound,
        setups,
        copying,
        sounds,
        transcript,
        travelling,
        recordings,
        guests,
        call,
        rundown,
        release,
        checking,
        handing,
        batches,
        catalogue,
        standing,
        finding,
        jobs,
        health,
    ):
        app.include_router(module.router)
    describe_whole(app)
    if WEB.exists():
        _add_interface(app, settings, strangers)
    return app


def _add_interface(app: FastAPI, settings: Settings, strangers: Strangers) -> None:
    """The built interface; whoever opens it with the token gets a session, and the token leaves the
    address bar."""
    sessions = Sessions(settings.token)
    app.mount("/assets", StaticFiles(directory=WEB / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    def interface(request: Request, path: str, token: str = "") -> Response:
        if path.startswith("api/"):
            raise HTTPException(404, "There is no such address.")
        if not token or not settings.token:
            return FileResponse(WEB / "index.html", headers={"Cache-Control": "no-cache"})
        address = request.client.host if request.client else ""
        # Not of the query itself: an address there would lead elsewhere.
        away = RedirectResponse(f"/{path.lstrip('/')}", status_code=303)
        away.headers["Cache-Control"] = "no-store"
        if not strangers.shut_out(address):
            if sessions.is_token(token):
                sessions.set_on(away, secure=request.url.scheme == "https")
            else:
                strangers.failed(address)
        return away


async def _describe(app: FastAPI) -> None:
    """Have routes ready that nobody has asked for yet: each is made so by the first who does, and
    all of them take half a second, which nobody should meet later on."""
    await asyncio.sleep(_DESCRIBE_AFTER_S)
    await asyncio.to_thread(app.openapi)


async def _tidy_up(store: Store) -> None:
    """Delete for good what was deleted over 30 days ago, once an hour.

    Nothing is deleted at the start: whoever starts Air Trim on the wrong data has time to stop it.
    """
    await asyncio.sleep(_TIDY_UP_AFTER_S)
    while True:
        try:
            freed = await asyncio.to_thread(empty_trash, store)
            if freed.bytes:
                event("emptied", episodes=freed.episodes, bytes=freed.bytes)
        except Exception:
            logging.getLogger("airtrim").exception("tidying up failed")
        await asyncio.sleep(_TIDY_UP_EVERY_S)


def _warn(what: str) -> None:
    event("problem", level=logging.WARNING, what=what)


def server_options(settings: Settings) -> dict[str, Any]:
    """How uvicorn is to serve the application: bounded in whatever a stranger could fill."""
    return {
        "http": BoundedHttp,
        "ws_max_size": _LONGEST_MESSAGE,
        "limit_concurrency": MOST_CONNECTIONS,
        "ssl_certfile": settings.tls_certificate,
        "ssl_keyfile": settings.tls_key,
        "log_config": None,
        "access_log": False,
        "server_header": False,
        "timeout_graceful_shutdown": 2,
    }
