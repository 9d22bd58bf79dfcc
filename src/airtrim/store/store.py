"""All that is kept, under one folder."""

from dataclasses import dataclass

from airtrim.core.timeline.model import Timeline
from airtrim.store.chains import Chains
from airtrim.store.database import reading
from airtrim.store.derived import Derived
from airtrim.store.handing import Handing
from airtrim.store.jobs import Jobs
from airtrim.store.setups import Setups
from airtrim.store.sounds import Sounds
from airtrim.store.tables import EditRow, EpisodeRow, ShowRow
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
