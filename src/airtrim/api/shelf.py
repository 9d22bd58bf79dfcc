"""Shows and episodes."""

from fastapi import APIRouter

from airtrim.api.fields import Id
from airtrim.api.models.shelf import (
    DeletedView,
    EpisodeChange,
    EpisodeOnShelf,
    FreedView,
    KeepingView,
    NewEpisode,
    NewShow,
    ShelfChange,
    ShowOnShelf,
    SpaceView,
    TakenView,
)
from airtrim.api.state import Context
from airtrim.services.standing import standings
from airtrim.services.trash import empty_trash
from airtrim.store.backup import last_backup
from airtrim.store.purging import Bin
from airtrim.store.space import clear, space_of
from airtrim.store.tables import ShowRow

router = APIRouter(prefix="/api", tags=["shelf"])


def _empty(row: ShowRow) -> ShowOnShelf:
    return ShowOnShelf(id=row.id or 0, name=row.name, episodes=[])


@router.get("/shows")
def shelf(context: Context) -> list[ShowOnShelf]:
    """All shows with their episodes."""
    shows = context.store.shows()
    found = standings(context.store, (one for _, episodes in shows for one in episodes))
    return [
        ShowOnShelf(
            id=show.id or 0,
            name=show.name,
            episodes=[EpisodeOnShelf.of(one, found[one.id or 0]) for one in episodes],
        )
        for show, episodes in shows
    ]


@router.post("/shows", status_code=201)
def add_show(context: Context, new: NewShow) -> ShowOnShelf:
    """Make a show."""
    return _empty(context.store.add_show(new.name))


@router.patch("/shows/{show_id}")
def change_show(context: Context, show_id: Id, change: ShelfChange) -> ShowOnShelf:
    """Rename, delete or bring back a show."""
    row = context.store.change_show(show_id, name=change.name, deleted=change.deleted)
    return _empty(row)


@router.post("/shows/{show_id}/episodes", status_code=201)
def add_episode(context: Context, show_id: Id, new: NewEpisode) -> EpisodeOnShelf:
    """Make an empty episode."""
    return EpisodeOnShelf.of(context.store.add_episode(show_id, new.title))


@router.get("/keeping")
def keeping(context: Context) -> KeepingView:
    """When all was backed up last, and what was deleted and can be brought back."""
    deleted = [
        DeletedView.model_validate(one, from_attributes=True)
        for one in Bin(context.store).contents()
    ]
    return KeepingView(backed_up_at=last_backup(context.settings.data_dir), deleted=deleted)


@router.post("/keeping/empty")
def empty(context: Context) -> FreedView:
    """Let what was deleted go for good, now."""
    freed = empty_trash(context.store, all_now=True)
    return FreedView.model_validate(freed, from_attributes=True)


@router.patch("/episodes/{episode_id}")
def change_episode(context: Context, episode_id: Id, change: EpisodeChange) -> EpisodeOnShelf:
    """Rename, delete, put away or bring back an episode."""
    return EpisodeOnShelf.of(
        context.store.change_episode(
            episode_id, title=change.name, deleted=change.deleted, archived=change.archived
        )
    )


@router.get("/space")
def space(context: Context) -> SpaceView:
    """What episodes take on the disk, and which recordings do not look whole."""
    taken = space_of(context.store)
    return SpaceView(
        episodes=[TakenView.model_validate(one, from_attributes=True) for one in taken],
        free=context.store.files.room(),
    )


@router.post("/episodes/{episode_id}/clear")
def clear_files(context: Context, episode_id: Id) -> FreedView:
    """Delete the finished files of an episode that were not handed over. They can be made again."""
    context.store.episode(episode_id)
    return FreedView(episodes=0, recordings=0, bytes=clear(context.store, episode_id))
