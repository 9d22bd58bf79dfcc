"""One place where errors become a status and a sentence."""

import logging
import sqlite3
from http import HTTPStatus

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import DatabaseError
from starlette.exceptions import HTTPException

from airtrim.api.answers import sentence
from airtrim.api.misunderstood import misunderstood
from airtrim.api.models.work import Problem
from airtrim.errors import AirTrimError, OutOfPlace, Stale, StoreFull
from airtrim.store.files import FULL
from airtrim.store.full import is_full

_log = logging.getLogger("airtrim")
_OF_STATUS = {
    400: "That request cannot be read.",
    404: "There is no such address.",
    405: "That cannot be done at this address.",
}


DAMAGED = (
    "A part of the database is damaged, and what you asked for lies in it. Recordings are files of "
    "their own. “airtrim check-data” says what is affected; “airtrim restore” brings back the last "
    "backup."
)


def tell_problems(app: FastAPI) -> None:
    """Answer every error that a route raises."""

    @app.exception_handler(AirTrimError)
    async def ours(_: Request, error: AirTrimError) -> JSONResponse:
        revision = error.revision if isinstance(error, Stale) else None
        wanted = error.wanted if isinstance(error, OutOfPlace) else None
        problem = Problem(sentence=str(error), revision=revision, wanted=wanted, place=error.place)
        return JSONResponse(problem.model_dump(), status_code=error.status)

    @app.exception_handler(RequestValidationError)
    async def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        return sentence(misunderstood(error.errors()[0]), 422)

    @app.exception_handler(HTTPException)
    async def http(_: Request, error: HTTPException) -> JSONResponse:
        plain = error.detail == _usual_detail(error.status_code)
        text = _OF_STATUS.get(error.status_code, error.detail) if plain else error.detail
        return sentence(str(text), error.status_code, dict(error.headers or {}))

    @app.exception_handler(OSError)
    @app.exception_handler(DatabaseError)
    @app.exception_handler(Exception)
    async def unforeseen(request: Request, error: Exception) -> JSONResponse:
        if is_full(error, request.app.state.airtrim.store.files.free()):
            return await ours(request, StoreFull(FULL))
        code = getattr(getattr(error, "orig", None), "sqlite_errorcode", 0) & 0xFF
        if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
            return sentence("Air Trim is busy just now. Nothing was changed; try again.", 503)
        if code in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB):
            _log.error("database damaged", exc_info=error)
            return sentence(DAMAGED, 500)
        return _inside(request, error)


def _inside(request: Request, error: Exception) -> JSONResponse:
    request_id = request.scope.get("request_id", "")
    _log.error("failed", exc_info=error, extra={"fields": {"id": request_id}})
    text = (
        f"This went wrong inside Air Trim ({type(error).__name__}). What was there before is kept. "
        f"The log tells more under {request_id}."
    )
    return sentence(text, 500)


def _usual_detail(status: int) -> str:
    try:
        return HTTPStatus(status).phrase
    except ValueError:
        return ""
