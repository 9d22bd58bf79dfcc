"""A copy of an episode on the same machine: its whole history, and recordings of its own that lie
on the disk only once where that can be; and links that make one."""

import json
import shutil
from contextlib import suppress
from secrets import token_urlsafe
from typing import Any
from uuid import uuid4

from sqlmodel import Session, col, select

from airtrim.errors import BadInput, Gone, NotFound
from airtrim.store.database import reading, writing
from airtrim.store.rows import row_of
from airtrim.store.store import Store
from airtrim.store.tables import CopyLinkRow, EditRow, EpisodeRow, TakeRow, now
from airtrim.store.unpacking import renamed

MOST_LINKS = 20
_TONE = "room-tone.json"


def copy_episode(store: Store, episode_id: int, title: str) -> EpisodeRow:
    """A new episode in the same show that is the same, and shares nothing that can be changed.

    Raises NotFound where sound is missing from the disk; then nothing is made."""
    store.files.need(0)
    store.episode(episode_id)
    with reading(store.engine) as session:
        of = TakeRow.episode_id == episode_id
        takes = list(session.exec(select(TakeRow).where(of)).all())
    names = {take.id: uuid4().hex for take in takes}
    try:
        for take in takes:
            store.copy_files(take.id, names[take.id])
            with suppress(FileNotFoundError):
                shutil.copyfile(
                    store.files.take(take.id) / _TONE, store.files.take(names[take.id]) / _TONE
                )
        with writing(store.engine) as session:
            return _rows(session, episode_id, title, names)
    except BaseException:
        for name in names.values():
            shutil.rmtree(store.files.take(name), ignore_errors=True)
        raise


def _rows(session: Session, episode_id: int, title: str, names: dict[str, str]) -> EpisodeRow:
    episode = row_of(session, EpisodeRow, episode_id, "That episode is not on the shelf.")
    made = EpisodeRow(**{**episode.model_dump(exclude=_OWN), "title": title[:200]})
    session.add(made)
    session.flush()
    made_id = made.id or 0
    for take in session.exec(select(TakeRow).where(TakeRow.episode_id == episode_id)).all():
        if take.id in names:
            told = {**take.model_dump(), "id": names[take.id], "episode_id": made_id}
            session.add(TakeRow(**told))
    session.flush()
    ids: dict[int | None, int | None] = {None: None}
    history = select(EditRow).where(EditRow.episode_id == episode_id).order_by(col(EditRow.id))
    for edit in session.exec(history).all():
        row = EditRow(
            episode_id=made_id,
            parent_id=ids[edit.parent_id],
            depth=edit.depth,
            name=edit.name,
            edit=_renamed(edit.edit, names),
            snapshot=edit.snapshot and _renamed(edit.snapshot, names),
            created_at=edit.created_at,
        )
        session.add(row)
        session.flush()
        ids[edit.id] = row.id
    made.head_id, made.tip_id = ids[episode.head_id], ids[episode.tip_id]
    session.flush()
    session.refresh(made)
    session.expunge(made)
    return made


_OWN = {"id", "head_id", "tip_id", "created_at", "updated_at", "deleted_at"}
"""What of an episode's row is not copied as it is."""


def _renamed(text: str, names: dict[str, str]) -> str:
    told: Any = renamed(json.loads(text), names)
    return json.dumps(told, ensure_ascii=False, separators=(",", ":"))


class CopyLinks:
    """Links that make a copy of an episode for whoever opens them, never showing the original."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def make(self, episode_id: int) -> CopyLinkRow:
        """A new link."""
        self._store.episode(episode_id)
        self._store.files.need(0)
        if len(self.of(episode_id)) >= MOST_LINKS:
            raise BadInput(f"There are {MOST_LINKS} links already. Withdraw one first.")
        with writing(self._store.engine) as session:
            row = CopyLinkRow(token=token_urlsafe(18), episode_id=episode_id)
            session.add(row)
        return row

    def of(self, episode_id: int) -> list[CopyLinkRow]:
        """The links of an episode that were not withdrawn, oldest first."""
        query = select(CopyLinkRow).where(
            CopyLinkRow.episode_id == episode_id, col(CopyLinkRow.revoked_at).is_(None)
        )
        with reading(self._store.engine) as session:
            return list(session.exec(query.order_by(col(CopyLinkRow.created_at))).all())

    def withdraw(self, token: str, *, back: bool = False) -> None:
        """Let a link lead nowhere any more, or ``back`` to its episode."""
        with writing(self._store.engine) as session:
            row = row_of(session, CopyLinkRow, token, "That link is not known here.")
            row.revoked_at = None if back else now()

    def led_to(self, token: str) -> int:
        """The episode of a link. Raises Gone where it is unknown, withdrawn, or the episode was
        deleted."""
        with reading(self._store.engine) as session:
            row = session.get(CopyLinkRow, token)
        if row is None or row.revoked_at is not None:
            raise Gone("This link leads nowhere any more. Ask for a new one.")
        try:
            self._store.episode(row.episode_id)
        except NotFound as error:
            raise Gone("The episode of this link is not there any more.") from error
        return row.episode_id
