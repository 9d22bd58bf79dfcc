"""The running order of an episode, for the screen and for scripts."""

from dataclasses import dataclass

from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.parting import Place, proposed
from airtrim.core.timeline.rundown import Row, lying_aside, running_order
from airtrim.store.store import Store


@dataclass(frozen=True, slots=True)
class Rundown:
    """The document, its parts in order, and those that lie aside."""

    timeline: Timeline
    rows: tuple[Row, ...]
    aside: tuple[Row, ...]


def proposed_places(store: Store, episode_id: int, revision: int) -> tuple[Place, ...]:
    """Where the episode could be parted. Raises NotFound."""
    timeline = store.timeline(episode_id, revision)
    return proposed(timeline, store.words(timeline))


def rundown_of(store: Store, episode_id: int, revision: int | None = None) -> Rundown:
    """The running order at a revision, or as it stands now. Raises NotFound."""
    timeline = (
        store.current(episode_id) if revision is None else store.timeline(episode_id, revision)
    )
    words = store.words(timeline)
    return Rundown(timeline, running_order(timeline, words), lying_aside(timeline, words))
