"""The application: routers, safety at the door, uploads, and the built interface."""

import asyncio
import gc
import logging
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from secrets import compare_digest

from fastapi import FastAPI, HTTPException, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles

from airtrim.api import (
    call,
    episodes,
    guests,
    jobs,
    page,
    recordings,
    release,
    searching,
    shelf,
    snags,
    sound,
    takes,
    transcript,
    uploads,
)
from airtrim.api.door import Door
from airtrim.api.models import Problem
from airtrim.api.state import State
from airtrim.core.render.warm import warm_up
from airtrim.errors import AirTrimError, OutOfPlace, Stale
from airtrim.jobs.queue import Queue, Watch
from airtrim.settings import Settings
from airtrim.store.store import Store

_log = logging.getLogger("airtrim")
WEB = Path(__file__).parent.parent / "web_dist"


def create_app(settings: Settings, *, worker: bool = True) -> FastAPI:
    """The application on ``settings``; ``worker`` False leaves background work undone."""
    # An edit of a long episode makes thousands of small values and frees none in cycles: with
    # Python's usual thresholds a quarter of its time goes into looking for some.
    gc.set_threshold(50_000, 20, 100)
    store = Store(settings.data_dir, settings.keep_free_bytes)
    queue = Queue(store, settings)
    watch = Watch(settings) if worker else None

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        uploads.finish_uploads(store, queue, _log.warning)
        if watch:
            watch.start()
        warming = asyncio.create_task(asyncio.to_thread(warm_up))
        yield
        await warming
        if watch:
            watch.stop()
        searching.end()
        store.close()

    app = FastAPI(title="Air Trim", version="1", lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.airtrim = State(store, queue, settings)
    app.add_middleware(Door, settings=settings)
    _problems(app)
    for module in (
        shelf,
        episodes,
        page,
        takes,
        snags,
        sound,
        transcript,
        recordings,
        guests,
        call,
        release,
        jobs,
        uploads,
    ):
        app.include_router(module.router)

    if WEB.exists():
        app.mount("/assets", StaticFiles(directory=WEB / "assets"))

        @app.get("/{path:path}", include_in_schema=False)
        def interface(path: str, token: str = "") -> FileResponse:
            if path.startswith("api/"):
                raise HTTPException(404, "There is no such address.")
            page = FileResponse(WEB / "index.html", headers={"Cache-Control": "no-cache"})
            if settings.token and compare_digest(token.encode(), settings.token.encode()):
                page.set_cookie("airtrim", settings.token, httponly=True, samesite="strict")
            return page

    return app


def _problems(app: FastAPI) -> None:
    """One place where errors become a status and a sentence."""

    @app.exception_handler(AirTrimError)
    async def ours(_: Request, error: AirTrimError) -> JSONResponse:
        revision = error.revision if isinstance(error, Stale) else None
        wanted = error.wanted if isinstance(error, OutOfPlace) else None
        problem = Problem(sentence=str(error), revision=revision, wanted=wanted)
        return JSONResponse(problem.model_dump(), status_code=error.status)

    @app.exception_handler(RequestValidationError)
    async def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"] if part != "body")
        sentence = f"That was not understood: {place}: {first['msg']}."
        return JSONResponse(Problem(sentence=sentence).model_dump(), status_code=422)

    @app.exception_handler(HTTPException)
    async def http(_: Request, error: HTTPException) -> JSONResponse:
        problem = Problem(sentence=str(error.detail))
        return JSONResponse(
            problem.model_dump(), status_code=error.status_code, headers=error.headers
        )
