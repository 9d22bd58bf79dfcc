"""Editing an episode: edits as a host means them, decisions about snags, tidying."""

from collections.abc import Sequence
from dataclasses import dataclass

from airtrim.core.snags.base import Do
from airtrim.core.snags.decide import Decision, How, coverable, decided, tidy
from airtrim.core.snags.find import keeping
from airtrim.core.snags.talk import talk_of
from airtrim.core.timeline.edits import Edit, complete
from airtrim.core.timeline.edits.snags import Tidy
from airtrim.errors import BadInput
from airtrim.services.finding import snags
from airtrim.services.following import told
from airtrim.services.sources import StoredSources
from airtrim.store.store import Store


@dataclass(frozen=True, slots=True)
class SnagChoice:
    """What is to be done about a snag, told by its id; ``attempt``: which of a repeat's stays."""

    snag_id: str
    do: Do
    attempt: int = -1


def make_edit(store: Store, episode_id: int, revision: int, edit: Edit, *, snap: bool) -> int:
    """Complete an edit and make it; returns the new revision.

    Raises Stale where the document has moved on, BadInput where the edit does not fit.
    """
    sources = StoredSources(store, episode_id, revision)
    return store.edit(episode_id, revision, told(complete(edit, sources, snap=snap), sources))


def decision(store: Store, episode_id: int, revision: int, choices: Sequence[SnagChoice]) -> Edit:
    """Decisions about snags as one complete edit, which is not made yet."""
    known = {snag.id: snag for snag in snags(store, episode_id, revision)}
    if any(one.snag_id not in known for one in choices):
        raise BadInput("That snag is not there any more. Nothing was changed.")
    edit = decided([Decision(known[one.snag_id], one.do, one.attempt) for one in choices])
    sources = StoredSources(store, episode_id, revision)
    return told(complete(edit, sources, snap=True), sources)


def decide(store: Store, episode_id: int, revision: int, choices: Sequence[SnagChoice]) -> int:
    """Settle snags, all in one step; returns the new revision."""
    return store.edit(episode_id, revision, decision(store, episode_id, revision, choices))


def reopen(store: Store, episode_id: int, revision: int, snag_ids: set[str]) -> int:
    """Let snags that were kept be decided again; returns the new revision."""
    timeline = store.timeline(episode_id, revision)
    kept = [s for s in snags(store, episode_id, revision) if s.id in snag_ids and s.kept]
    if not kept:
        raise BadInput("That snag is not kept. Nothing was changed.")
    gone = tuple(one for snag in kept for one in keeping(snag, timeline.kept))
    edit = Tidy(unkeep=gone, name="Left a snag to be decided")
    return store.edit(episode_id, revision, edit)


def tidy_up(store: Store, episode_id: int, revision: int, how: How) -> int:
    """Settle all that a whole pass settles, in one step; returns the new revision."""
    sources = StoredSources(store, episode_id, revision)
    timeline = sources.timeline
    talk = talk_of(timeline, store.words(timeline))
    proposal = tidy(talk, snags(store, episode_id, revision), how)
    edit = coverable(proposal.edit, sources)
    if not edit.cuts and not edit.covers:
        raise BadInput("There is nothing to tidy: no snag is left that a pass would settle.")
    return store.edit(episode_id, revision, told(complete(edit, sources, snap=True), sources))
