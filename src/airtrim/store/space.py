"""What episodes take on the disk, and what of that can be made again."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from sqlmodel import Session, col, select

from airtrim.store.database import reading
from airtrim.store.purging import LEAVE_FILES, folders_of, size_of
from airtrim.store.store import Store
from airtrim.store.tables import UNFINISHED, EpisodeRow, HandOverRow, JobRow, TakeRow


@dataclass(frozen=True, slots=True)
class Taken:
    """Bytes on the disk: of an episode, and of those its finished files that can be made again;
    ``damaged`` are the names of recordings that do not look whole."""

    id: int
    bytes: int
    clearable: int
    damaged: list[str]


def space_of(store: Store) -> list[Taken]:
    """What each episode on the shelf takes."""
    with reading(store.engine) as session:
        query = select(EpisodeRow.id).where(col(EpisodeRow.deleted_at).is_(None))
        return [
            Taken(
                episode or 0,
                size_of(folders_of(store, session, episode or 0)),
                size_of(_paths(store, _clearable(session, episode or 0))),
                _damaged(store, session, episode or 0),
            )
            for episode in session.exec(query).all()
        ]


def clear(store: Store, episode_id: int) -> int:
    """Delete the finished files of an episode that can be made again; returns bytes freed. What was
    handed over stays, as what others were given; so does what is still being made."""
    with reading(store.engine) as session:
        jobs = _clearable(session, episode_id)
    freed = size_of(_paths(store, jobs))
    for job in jobs:
        store.remove_job(job)
        store.files.remove_export(job)
    return freed


def _clearable(session: Session, episode_id: int) -> Sequence[str]:
    handed_over = select(HandOverRow.export_id).where(HandOverRow.episode_id == episode_id)
    query = select(JobRow.id).where(
        JobRow.episode_id == episode_id,
        col(JobRow.kind).in_(LEAVE_FILES),
        col(JobRow.state).not_in(UNFINISHED),
        col(JobRow.id).not_in(handed_over),
    )
    return session.exec(query).all()


def _damaged(store: Store, session: Session, episode_id: int) -> list[str]:
    # Without their words, which are long.
    columns = TakeRow.id, TakeRow.name, TakeRow.frames, TakeRow.channels
    found = session.exec(select(*columns).where(TakeRow.episode_id == episode_id)).all()
    looks_damaged = store.soundness.looks_damaged
    return [name for take, name, frames, channels in found if looks_damaged(take, frames, channels)]


def _paths(store: Store, jobs: Sequence[str]) -> list[Path]:
    return [store.files.export(job) for job in jobs]
