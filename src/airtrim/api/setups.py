"""Setups of shows."""

from contextlib import ExitStack

from fastapi import APIRouter, Request, Response
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool

from airtrim.api.fields import Id
from airtrim.api.models.setups import (
    BegunEpisode,
    KeptSetup,
    NewFromSetup,
    NewSetup,
    SetupChange,
    SetupView,
)
from airtrim.api.models.shelf import EpisodeOnShelf
from airtrim.api.state import Context, State
from airtrim.core.timeline.setup import Setup
from airtrim.services import setups as services
from airtrim.services.travelling import plain_name
from airtrim.store.setupfile import write_setup
from airtrim.store.tables import SetupRow

router = APIRouter(prefix="/api", tags=["setups"])


def _view(context: State, row: SetupRow) -> SetupView:
    setup = Setup.model_validate_json(row.setup)
    known = {sound.sha256 for sound in context.store.sounds(row.show_id)}
    return SetupView.of(row, setup, services.missing_sounds(setup, known))


@router.get("/shows/{show_id}/setups")
def setups(context: Context, show_id: Id) -> list[SetupView]:
    """What the show's episodes can begin from, what was used last first."""
    return [_view(context, row) for row in context.store.setups(show_id)]


@router.post("/episodes/{episode_id}/setup", status_code=201)
def keep(context: Context, episode_id: Id, new: NewSetup) -> KeptSetup:
    """Make a setup of an episode; one of that name is replaced."""
    kept = services.keep_setup(context.store, episode_id, new.revision, new.name.strip())
    return KeptSetup(setup=_view(context, kept.row), left_out=kept.left_out)


@router.patch("/setups/{setup_id}")
def change(context: Context, setup_id: Id, change: SetupChange) -> SetupView:
    """Change a setup, take it away, or bring it back. Episodes begun from it stay as they are."""
    told = {name: getattr(change, name) for name in change.model_fields_set}
    return _view(context, context.store.change_setup(setup_id, **told))


@router.post("/setups/{setup_id}/episodes", status_code=201)
def begin(context: Context, setup_id: Id, new: NewFromSetup) -> BegunEpisode:
    """Begin an episode from it, with the next number."""
    begun = services.begin_from(context.store, setup_id, new.title)
    return BegunEpisode(episode=EpisodeOnShelf.of(begun.episode), missing=begun.missing)


@router.get("/setups/{setup_id}/file", response_class=FileResponse)
def download(context: Context, setup_id: Id) -> Response:
    """The setup as one file."""
    row = context.store.setup(setup_id)
    with ExitStack() as until_sent:
        path = until_sent.enter_context(context.store.files.beside()) / "setup.zip"
        write_setup(context.store, setup_id, path)
        return FileResponse(
            path,
            media_type="application/zip",
            filename=f"{plain_name(row.name)}.airtrim-setup.zip",
            background=BackgroundTask(until_sent.pop_all().close),
        )


@router.post("/shows/{show_id}/setups/file", status_code=201)
async def open_file(context: Context, show_id: Id, request: Request) -> SetupView:
    """Keep a setup that came as a file: the body is its bytes."""
    with context.store.files.beside() as folder:
        path = folder / "setup.zip"
        with path.open("wb") as out:
            async for part in request.stream():
                await run_in_threadpool(context.store.files.need, len(part))
                await run_in_threadpool(out.write, part)
        row = await run_in_threadpool(services.open_setup, context.store, show_id, path)
    return await run_in_threadpool(_view, context, row)
