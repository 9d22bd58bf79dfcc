"""Placed sounds of a stored episode: told of the talk as it is written down."""

from airtrim.core.timeline.edits import Edit, apply
from airtrim.core.timeline.edits.sounds import HearTalk, heard_talk
from airtrim.core.timeline.holding import spot_of
from airtrim.core.timeline.sources import Sources
from airtrim.services.sources import StoredSources
from airtrim.store.store import Store


def told(edit: Edit, sources: Sources) -> Edit:
    """An edit that tells the document as well where somebody speaks, as far as sounds need it and
    it does not know yet."""
    if not sources.timeline.placed:
        return edit
    fresh = heard_talk(sources)
    if not fresh:
        return edit
    return HearTalk(talk=fresh, edit=edit.model_dump(mode="json"))


def hear_talk(store: Store, episode_id: int) -> None:
    """Let the sounds of an episode hold on to words that its document does not know yet. Where that
    moves none of them nothing is changed: the next edit tells it."""
    if not store.current(episode_id).placed:
        return
    with store.changing(episode_id, None) as change:
        before = change.timeline
        fresh = heard_talk(StoredSources(store, episode_id, change.revision))
        if not fresh:
            return
        hear = HearTalk(talk=fresh)
        after = apply(before, hear)
        spots = [[spot_of(t, one) for one in t.placed] for t in (before, after)]
        gains = [[t.envelope for t in timeline.tracks if t.held] for timeline in (before, after)]
        if spots[0] != spots[1] or gains[0] != gains[1]:
            change(hear)
