"""Edits that a host made on an earlier revision than the current one."""

from collections.abc import Callable, Sequence
from itertools import takewhile

from airtrim.core.timeline.edits import Edit
from airtrim.core.timeline.frames import FrameMap, Unmappable
from airtrim.core.timeline.model import Timeline
from airtrim.errors import Stale
from airtrim.store.documents import CHANGED_MEANWHILE, replayed
from airtrim.store.store import Store

_MOST_TRIES = 8


def edit_current(
    store: Store,
    episode_id: int,
    revision: int,
    make: Callable[[int], Edit],
    name: str | None = None,
) -> int:
    """Make an edit on the current document; returns the new revision.

    Parameters
    ----------
    revision
        The revision that the host saw.
    make
        Returns the complete edit for the current revision, which it receives. Called again if
        somebody else was faster.
    name
        Name in the history; None for the usual name of the edit.

    Raises
    ------
    Stale
        ``revision`` was undone, or ``make`` could not relocate its edit.
    """
    for _ in range(_MOST_TRIES):
        current = current_revision(store, episode_id, revision)
        try:
            return store.edit(episode_id, current, make(current), name)
        except Stale as error:
            if error.revision == current:  # raised by ``make``: it does not fit
                raise
    raise Stale(CHANGED_MEANWHILE, store.episode(episode_id)[0].head_id or 0)


def current_revision(store: Store, episode_id: int, revision: int) -> int:
    """The current revision. Raises Stale where ``revision`` is not an earlier state of it."""
    since = store.edits_since(episode_id, revision)
    if since is None:
        raise Stale(CHANGED_MEANWHILE, store.episode(episode_id)[0].head_id or 0)
    return since[0]


def relocated(
    store: Store,
    episode_id: int,
    revision: int,
    current: int,
    edit: Edit,
    own: Sequence[int] = (),
) -> Edit:
    """Return ``edit``, made on ``revision``, for the revision ``current``.

    Parameters
    ----------
    own
        Revisions that the same client made itself. Values that it changed in an unbroken row of
        them are not a conflict.

    Raises
    ------
    Stale
        What the edit refers to has changed since.
    """
    if revision == current:
        return edit
    frames = _frame_map(store, episode_id, revision, current, own)
    if frames is None:
        raise Stale(CHANGED_MEANWHILE, current)
    try:
        return edit.relocated(frames)
    except Unmappable as error:
        raise Stale(CHANGED_MEANWHILE, current) from error


def moved(
    store: Store, episode_id: int, current: int, marks: Sequence[tuple[int, int, int]]
) -> list[tuple[int, int] | None]:
    """Where the host's selection and playhead are in the document at ``current``.

    Parameters
    ----------
    marks
        ``(revision, start, frames)`` of each; ``frames`` 0 is a point.

    Returns
    -------
    ``(start, frames)`` of each, or None where its audio has changed.
    """
    maps: dict[int, FrameMap | None] = {}
    places: list[tuple[int, int] | None] = []
    for revision, start, frames in marks:
        if revision == current:
            places.append((start, frames))
            continue
        if revision not in maps:
            maps[revision] = _frame_map(store, episode_id, revision, current)
        known = maps[revision]
        places.append(known.mark(start, frames) if known else None)
    return places


def _frame_map(
    store: Store, episode_id: int, revision: int, current: int, own: Sequence[int] = ()
) -> FrameMap | None:
    """Frame map between two revisions; None where ``current`` does not follow ``revision``."""
    since = store.edits_since(episode_id, revision, current)
    if since is None:
        return None
    _, rows = since

    def replay(timeline: Timeline) -> Timeline:
        for row in rows:
            timeline = replayed(timeline, row)
        return timeline

    own_rows = list(takewhile(lambda row: row.id in own, rows))
    newest_own = (own_rows[-1].id or 0) if own_rows else revision
    return FrameMap(
        store.timeline(episode_id, revision),
        store.timeline(episode_id, current),
        replay,
        store.timeline(episode_id, newest_own),
    )
