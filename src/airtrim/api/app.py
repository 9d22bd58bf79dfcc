"""The application: routers, safety at the door, uploads, and the built interface."""

import asyncio
import gc
import json
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from secrets import compare_digest

from fastapi import FastAPI, HTTPException, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from pydantic import ValidationError
from tuspyserver import create_tus_router

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
)
from airtrim.api.door import Door
from airtrim.api.models import Problem
from airtrim.api.state import State
from airtrim.core.render.warm import warm_up
from airtrim.errors import AirTrimError, BadInput, OutOfPlace, Stale
from airtrim.jobs.queue import Queue, Watch
from airtrim.jobs.work import ImportParams
from airtrim.settings import Settings
from airtrim.store.store import Store

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
        finish_uploads(store, queue)
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
    ):
        app.include_router(module.router)

    def check_upload(metadata: dict[str, str], info: dict[str, object]) -> None:
        size = info.get("size")
        if isinstance(size, int) and size < 0:
            raise HTTPException(422, "The upload says that it is less than nothing long.")
        if isinstance(size, int) and size > settings.max_upload_bytes:
            raise HTTPException(413, f"“{metadata.get('filename')}” is {_gigabytes(size)}.")
        try:
            _import_params(metadata, "x")
            store.episode(int(metadata.get("episode", "0")))
            store.files.need(int(str(size or 0)))
        except AirTrimError as error:
            raise HTTPException(error.status, str(error)) from error

    app.include_router(
        create_tus_router(
            prefix="api/uploads",
            files_dir=str(store.files.root / "uploads"),
            max_size=settings.max_upload_bytes,
            on_upload_complete=lambda path, metadata: begin_import(
                store, queue, Path(path).name, metadata
            ),
            pre_create_hook=check_upload,
        ),
        include_in_schema=False,
    )
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


def _gigabytes(size: int) -> str:
    return f"{size / 1e9:.1f} GB; that is more than Air Trim takes"


def _import_params(metadata: dict[str, str], upload: str) -> ImportParams:
    name = (metadata.get("filename") or "Recording").replace("\x00", "")[:200]
    if not metadata.get("episode", "").isdigit():
        raise BadInput("The upload does not say which episode it is for.")
    told = {
        "track_name": metadata.get("track"),
        "track_kind": metadata.get("kind"),
        "at": metadata.get("at"),
        "insert": metadata.get("insert"),
    }
    try:
        given = {key: value for key, value in told.items() if value}
        return ImportParams.model_validate({"upload": upload, "name": name, **given})
    except ValidationError as error:
        raise BadInput("The upload does not say rightly where it is to go.") from error


def begin_import(store: Store, queue: Queue, upload: str, metadata: dict[str, str]) -> None:
    """Bring a finished upload into its episode; doing so twice is the same as once."""
    params = _import_params(metadata, upload)
    episode_id = int(metadata["episode"])
    job = store.add_job("import", episode_id, params.model_dump_json(), job_id=upload)
    queue.wake(job.id)


def finish_uploads(store: Store, queue: Queue) -> None:
    """Begin the import of uploads that were whole when the server was stopped."""
    for path in (store.files.root / "uploads").glob("*.info"):
        info = json.loads(path.read_text())
        whole = info.get("size") is not None and info.get("size") == info.get("offset")
        if whole and path.with_suffix("").exists():
            begin_import(store, queue, path.stem, info.get("metadata") or {})


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
