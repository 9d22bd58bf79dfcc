"""Placed sounds of a stored episode: told of the talk as it is written down."""

from airtrim.core.timeline.edits.sounds import HearTalk, heard_talk
from airtrim.services.sources import StoredSources
from airtrim.store.store import Store


def hear_talk(store: Store, episode_id: int) -> None:
    """Let the sounds of an episode hold on to words that its document does not know yet. Where no
    sound is placed, nothing is changed."""
    if not store.current(episode_id).placed:
        return
    with store.changing(episode_id, None) as change:
        fresh = heard_talk(StoredSources(store, episode_id, change.revision))
        if fresh:
            change(HearTalk(talk=fresh))
