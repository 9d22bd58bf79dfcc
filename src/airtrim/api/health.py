"""Whether the server lives, and whether it can do its work; for whoever watches over it."""

from typing import Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel

from airtrim.api.state import Context

router = APIRouter(tags=["health"])


class Health(BaseModel):
    """Alive."""

    status: Literal["ok"] = "ok"


class Readiness(BaseModel):
    """What the work needs: the ``database`` answers, the ``folder`` can be written to, there is
    ``room`` on the disk, the ``worker`` runs."""

    ready: bool
    database: bool
    folder: bool
    room: bool
    worker: bool


@router.get("/healthz")
async def healthz() -> Health:
    """Answered while the process lives."""
    return Health()


@router.get("/readyz", responses={503: {"model": Readiness}})
def readyz(context: Context, response: Response) -> Readiness:
    """200 where all that the work needs is there, else 503 and what is not."""
    store = context.store
    parts = {
        "database": store.answers(),
        "folder": store.files.writable(),
        "room": store.files.room() > 0,
        "worker": context.watch is None or context.watch.running,
    }
    ready = all(parts.values())
    response.status_code = 200 if ready else 503
    return Readiness(ready=ready, **parts)
