"""Editing an episode: edits as a host means them, decisions about snags, tidying."""

from collections.abc import Sequence
from dataclasses import dataclass

from airtrim.core.snags.base import Do, Snag
from airtrim.core.snags.decide import Decision, How, coverable, decided, tidy
from airtrim.core.snags.find import keeping
from airtrim.core.snags.talk import talk_of
from airtrim.core.timeline.edits import Edit, complete
from airtrim.core.timeline.edits.snags import Tidy
from airtrim.errors import BadInput
from airtrim.services.finding import snags
from airtrim.services.following import told
from airtrim.services.revisions import edit_current, relocated
from airtrim.services.sources import StoredSources
from airtrim.store.store import Store


@dataclass(frozen=True, slots=True)
class SnagChoice:
    """What is to be done about a snag, told by its id; ``attempt``: which of a repeat's stays."""

    snag_id: str
    do: Do
    attempt: int = -1


def make_edit(
    store: Store,
    episode_id: int,
    revision: int,
    edit: Edit,
    *,
    snap: bool,
    own: Sequence[int] = (),
) -> int:
    """Complete an edit and make it on the current document; returns the new revision.

    ``revision`` is the one that the host saw, ``own`` those that the same client made
    itself (see ``relocated``). Raises Stale where what the edit refers to has changed since, and
    BadInput where the edit does not fit.
    """

    def make(current: int) -> Edit:
        placed = relocated(store, episode_id, revision, current, edit, own)
        sources = StoredSources(store, episode_id, current)
        return told(complete(placed, sources, snap=snap), sources)

    return edit_current(store, episode_id, revision, make)


def decision(store: Store, episode_id: int, revision: int, choices: Sequence[SnagChoice]) -> Edit:
    """Decisions about snags as one complete edit, which is not made yet."""
    known = {snag.id: snag for snag in snags(store, episode_id, revision)}
    sources = StoredSources(store, episode_id, revision)
    return told(complete(_decided(known, choices), sources, snap=True), sources)


def decide(store: Store, episode_id: int, revision: int, choices: Sequence[SnagChoice]) -> int:
    """Settle snags, all in one step; returns the new revision.

    The choices refer to the snags of ``revision``. Raises Stale where their audio has changed.
    """

    def make(current: int) -> Edit:
        known = {snag.id: snag for snag in snags(store, episode_id, revision)}
        edit = _decided(known, choices)
        sources = StoredSources(store, episode_id, revision)
        seen = complete(edit, sources, snap=True)
        placed = relocated(store, episode_id, revision, current, seen)
        return told(placed, StoredSources(store, episode_id, current))

    return edit_current(store, episode_id, revision, make)


def _decided(known: dict[str, Snag], choices: Sequence[SnagChoice]) -> Tidy:
    if any(one.snag_id not in known for one in choices):
        raise BadInput("That snag is not there any more. Nothing was changed.")
    return decided([Decision(known[one.snag_id], one.do, one.attempt) for one in choices])


def reopen(store: Store, episode_id: int, revision: int, snag_ids: set[str]) -> int:
    """Let snags that were kept be decided again; returns the new revision."""
    kept = [s for s in snags(store, episode_id, revision) if s.id in snag_ids and s.kept]
    if not kept:
        raise BadInput("That snag is not kept. Nothing was changed.")

    def make(current: int) -> Edit:
        now = store.timeline(episode_id, current).kept
        gone = tuple(one for snag in kept for one in keeping(snag, now))
        return Tidy(unkeep=gone, name="Left a snag to be decided")

    return edit_current(store, episode_id, revision, make)


def tidy_up(store: Store, episode_id: int, revision: int, how: How) -> int:
    """Settle all that a whole pass settles, in one step; returns the new revision."""

    def make(current: int) -> Edit:
        sources = StoredSources(store, episode_id, current)
        timeline = sources.timeline
        talk = talk_of(timeline, store.words(timeline))
        proposal = tidy(talk, snags(store, episode_id, current), how)
        edit = coverable(proposal.edit, sources)
        if not edit.cuts and not edit.covers:
            raise BadInput("There is nothing to tidy: no snag is left that a pass would settle.")
        return told(complete(edit, sources, snap=True), sources)

    return edit_current(store, episode_id, revision, make)
