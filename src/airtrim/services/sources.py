"""What lies beside a stored document, for an edit that is made on it."""

from functools import cached_property

from airtrim.core.render.graph import Mix, as_recorded
from airtrim.core.render.solo import loudness_between
from airtrim.core.timeline.model import Span, Timeline
from airtrim.core.timeline.snap import Read
from airtrim.core.timeline.talk import Talk
from airtrim.core.timeline.words import TakeWords
from airtrim.services.finding import room_tone
from airtrim.store.store import Store


class StoredSources:
    """``Sources`` of an episode in the store, on its document at a revision."""

    def __init__(self, store: Store, episode_id: int, revision: int) -> None:
        self._store = store
        self._episode_id = episode_id
        self._revision = revision

    @cached_property
    def timeline(self) -> Timeline:
        """The document at the revision."""
        return self.timeline_at(self._revision)

    def timeline_at(self, revision: int) -> Timeline:
        """Raises NotFound where there is no such state."""
        return self._store.timeline(self._episode_id, revision)

    def take_frames(self, take: str) -> int:
        """0 for recordings of other episodes, too."""
        return self._take_frames.get(take, 0)

    @cached_property
    def _take_frames(self) -> dict[str, int]:
        return {take.id: take.frames for take in self._store.takes(self._episode_id)}

    def words(self, timeline: Timeline) -> TakeWords:
        """As far as they are written down."""
        return self._store.words(timeline)

    def numbered(self, take: str) -> int:
        """All of them, once they are written down."""
        known = self.words(self.timeline).get(take)
        if known is not None:
            return len(known)
        coming = self._store.coming(take)
        return coming.numbered if coming else 0

    def talk(self, timeline: Timeline) -> dict[str, Talk]:
        """By the words, as far as they are written down."""
        return self._store.talk(timeline)

    def room_tone(self, take: str) -> Span | None:
        """As it was found when words were written down."""
        found = room_tone(self._store, take)
        return Span(take, found.start, found.frames) if found else None

    def sound(self, timeline: Timeline) -> Read:
        """Raises NotFound, when it is read, where a recording is missing."""
        return Mix(as_recorded(timeline), self._store.reader).read

    def loudness(self, timeline: Timeline, start: int, end: int) -> float | None:
        """Raises NotFound where a recording is missing."""
        return loudness_between(timeline, self._store.reader, start, end)
