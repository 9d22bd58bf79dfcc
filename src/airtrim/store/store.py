"""All that is kept, under one folder."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlmodel import col, select

from airtrim.core.timeline.model import Timeline
from airtrim.store.chains import Chains
from airtrim.store.database import reading
from airtrim.store.derived import Derived
from airtrim.store.handing import THERE, Handing
from airtrim.store.jobs import Jobs
from airtrim.store.setups import Setups
from airtrim.store.sounds import Sounds
from airtrim.store.tables import (
    DestinationRow,
    EditRow,
    EpisodeRow,
    HandOverRow,
    JobRow,
    ShowRow,
    TakeRow,
)
from airtrim.store.takes import TakeSummary


@dataclass(frozen=True, slots=True)
class Opened:
    """An episode as it stands: rows, document, recordings, and the edits undo and redo touch."""

    episode: EpisodeRow
    show: ShowRow
    timeline: Timeline
    takes: list[TakeSummary]
    undo: str | None
    redo: str | None
    before: int


@dataclass(frozen=True, slots=True)
class ShelfFacts:
    """What stands beside the document of an episode: whether a recording has no words, the revision
    that its newest file was made of (None: there is none), and where that was handed over."""

    without_words: bool = False
    file_of: int | None = None
    handed_over: str = ""
    public: bool = False
    overdue: bool = False


NO_FACTS = ShelfFacts()


class Store(Derived, Chains, Setups, Sounds, Handing, Jobs):
    """Shelf, documents, recordings, what is derived of them, and work, each in its own module."""

    def opened(self, episode_id: int) -> "Opened":
        """An episode with all that stands beside its document."""
        with reading(self.engine) as session:
            episode, show = self._on_shelf(session, episode_id)
            head = session.get(EditRow, episode.head_id) if episode.head_id else None
            after = self._next(session, episode)
            timeline = self._timeline(session, episode_id, episode.head_id or 0)
            takes = self._takes(session, episode_id)
        undo, redo = head.name if head else None, after.name if after else None
        before = (head.parent_id or 0) if head else 0
        return Opened(episode, show, timeline, takes, undo, redo, before)

    def shelf_facts(self) -> dict[int, ShelfFacts]:
        """What stands beside the document of every episode that has anything."""
        with reading(self.engine) as session:
            without = session.exec(select(TakeRow.episode_id).where(col(TakeRow.words).is_(None)))
            found = {one: ShelfFacts(without_words=True) for one in without}
            made = select(JobRow.episode_id, JobRow.params).where(
                JobRow.kind == "export", JobRow.state == "done"
            )
            for one, params in session.exec(made.order_by(col(JobRow.created_at))):
                file_of = json.loads(params)["revision"]
                found[one] = replace(found.get(one, NO_FACTS), file_of=file_of)
            handed = (
                select(HandOverRow.episode_id, HandOverRow.state, DestinationRow.name)
                .join(DestinationRow, col(DestinationRow.id) == HandOverRow.destination_id)
                .where(col(HandOverRow.state).in_(THERE))
                .order_by(col(HandOverRow.created_at))
            )
            for one, state, name in session.exec(handed):
                known = found.get(one, NO_FACTS)
                found[one] = replace(
                    known,
                    handed_over=name,
                    public=state == "published",
                    overdue=state == "overdue",
                )
        return found

    def episodes_holding(self, parts: Sequence[str]) -> set[int]:
        """The episodes in whose words, or in corrections of them, all of ``parts`` stand somewhere,
        in lower or upper case; all that there are for none."""
        with reading(self.engine) as session:
            found = set(session.exec(select(TakeRow.episode_id)).all())
            for part in parts:
                like = f"%{part}%"
                heard = select(TakeRow.episode_id).where(col(TakeRow.words).like(like))
                corrected = select(EditRow.episode_id).where(
                    col(EditRow.edit).like('%"correct%'), col(EditRow.edit).like(like)
                )
                found &= {*session.exec(heard).all(), *session.exec(corrected).all()}
        return found
