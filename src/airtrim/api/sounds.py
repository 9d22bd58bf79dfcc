"""The shelf of sounds of a show."""

from fastapi import APIRouter
from fastapi.responses import FileResponse

from airtrim.api.fields import Id
from airtrim.api.models.sounds import NewSound, ShelfSound, SoundChange, UsedSound
from airtrim.api.state import Context
from airtrim.errors import NotFound
from airtrim.services import shelving

router = APIRouter(prefix="/api", tags=["sounds"])


@router.get("/shows/{show_id}/sounds")
def sounds(context: Context, show_id: Id) -> list[ShelfSound]:
    """What stands on the shelf of a show."""
    return [ShelfSound.of(row) for row in context.store.sounds(show_id)]


@router.post("/shows/{show_id}/sounds/shipped", status_code=201)
def add_shipped(context: Context, show_id: Id) -> list[ShelfSound]:
    """Put the sounds that come with Air Trim on it."""
    shelving.shelve_shipped(context.store, show_id)
    return sounds(context, show_id)


@router.post("/sounds", status_code=201)
def keep(context: Context, new: NewSound) -> ShelfSound:
    """Keep what is selected on the shelf."""
    span = new.start, new.start + new.frames
    row = shelving.shelve_selection(
        context.store, new.episode, new.revision, new.track, span, new.name, new.kind
    )
    return ShelfSound.of(row)


@router.patch("/sounds/{sound_id}")
def change(context: Context, sound_id: str, change: SoundChange) -> ShelfSound:
    """Change a sound, take it off the shelf, or bring it back."""
    told = change.model_dump(exclude_none=True)
    if change.deleted is False:
        context.store.change_sound(sound_id, deleted=False)
        told.pop("deleted")
    return ShelfSound.of(shelving.change_sound(context.store, sound_id, **told))


@router.get("/sounds/{sound_id}/audio")
def audio(context: Context, sound_id: str) -> FileResponse:
    """The sound itself, to be listened to, as its file lies on the disk."""
    context.store.sound(sound_id)
    path = context.store.files.take(sound_id) / "sound"
    if not path.exists():
        raise NotFound("Its sound is missing from the disk.")
    with path.open("rb") as file:
        kind = "audio/flac" if file.read(4) == b"fLaC" else "audio/wav"
    return FileResponse(path, media_type=kind)


@router.post("/episodes/{episode_id}/sounds/{sound_id}")
def use(context: Context, episode_id: Id, sound_id: str) -> UsedSound:
    """Make it a recording of an episode, so that it can be placed there."""
    take = shelving.use_sound(context.store, episode_id, sound_id)
    return UsedSound(take=take.id, frames=take.frames)
