"""Guests of episodes: who may join a recording, by the token in their link."""

from datetime import datetime
from secrets import token_urlsafe

from pydantic import BaseModel
from sqlmodel import Session

from airtrim.errors import BadInput, Gone, NotFound
from airtrim.store.database import reading, writing
from airtrim.store.rows import by_age
from airtrim.store.store import Store
from airtrim.store.tables import GuestRow, now

MOST_GUESTS = 7


class Guest(BaseModel):
    """A guest; ``revoked`` where the link no longer lets them in."""

    token: str
    episode_id: int
    name: str
    revoked: bool
    created_at: datetime


class Guests:
    """Guests of a store."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def invite(self, episode_id: int, name: str) -> Guest:
        """A new guest with a link of their own; their track has their name."""
        self._store.episode(episode_id)
        self._store.files.need(0)
        with writing(self._store.engine) as session:
            known = self._of(session, episode_id)
            if any(row.name == name and row.revoked_at is None for row in known):
                raise BadInput(f"“{name}” has a link already. Give each guest a name of their own.")
            if sum(row.revoked_at is None for row in known) >= MOST_GUESTS:
                raise BadInput(
                    f"There are {MOST_GUESTS} guests already. Close a link first.", place="record"
                )
            row = GuestRow(token=token_urlsafe(24), episode_id=episode_id, name=name)
            session.add(row)
        return _view(row)

    def of(self, episode_id: int) -> list[Guest]:
        """The guests of an episode, oldest first."""
        with reading(self._store.engine) as session:
            return [_view(row) for row in self._of(session, episode_id)]

    def change(self, token: str, *, revoked: bool) -> Guest:
        """Close a link, or open it again."""
        with writing(self._store.engine) as session:
            row = session.get(GuestRow, token)
            if row is None:
                raise Gone("That link is not known here.")
            row.revoked_at = now() if revoked else None
        return _view(row)

    def let_in(self, token: str) -> Guest:
        """The guest of a link. Raises Gone where it is unknown, closed, or its episode deleted."""
        with reading(self._store.engine) as session:
            row = session.get(GuestRow, token)
        if row is None:
            raise Gone("This link is not known. Ask your host to send it again.")
        if row.revoked_at is not None:
            raise Gone("Your host has closed this link. Ask for a new one.")
        try:
            self._store.episode(row.episode_id)
        except NotFound as error:
            raise Gone("This episode is not there any more. Ask your host.") from error
        return _view(row)

    @staticmethod
    def _of(session: Session, episode_id: int) -> list[GuestRow]:
        return by_age(session, GuestRow, GuestRow.episode_id == episode_id)


def _view(row: GuestRow) -> Guest:
    return Guest(
        token=row.token,
        episode_id=row.episode_id,
        name=row.name,
        revoked=row.revoked_at is not None,
        created_at=row.created_at,
    )
