"""Documents: edits with their history, undo and redo."""

from collections.abc import Hashable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import datetime
from typing import NamedTuple

from pydantic import TypeAdapter, ValidationError
from sqlmodel import Session, col, select

from airtrim.core.timeline.bounds import brought_within
from airtrim.core.timeline.edits import Edit, apply, replay
from airtrim.core.timeline.model import Timeline
from airtrim.errors import BadInput, NotFound, Stale
from airtrim.store.cache import Key
from airtrim.store.database import reading, writing
from airtrim.store.reserve import freeing
from airtrim.store.shelf import Shelf
from airtrim.store.tables import EditRow, EpisodeRow, now

SNAPSHOT_EVERY = 100
MOST_EDITS_SINCE = 200
MANY = 50
"""Cuts made or put back in one edit from which on the document after it is kept whole."""
CHANGED_MEANWHILE = (
    "The episode was changed before your change arrived. Your change was not made, because it no "
    "longer fits; here is the episode as it is now."
)
_EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
_TIMELINE = TypeAdapter(Timeline)


@dataclass(frozen=True, slots=True)
class HistoryEntry:
    """A state of the document that undo or redo can reach."""

    revision: int
    name: str
    done: bool
    made_at: datetime


class Documents(Shelf):
    """The document of every episode, at every revision."""

    def timeline(self, episode_id: int, revision: int) -> Timeline:
        """The document of an episode at a revision (0: empty). Raises NotFound where the episode
        or the revision does not exist."""
        with reading(self.engine) as session:
            return self._timeline(session, episode_id, revision)

    def current(self, episode_id: int) -> Timeline:
        """The document of an episode as it is now."""
        with reading(self.engine) as session:
            episode = self._episode(session, episode_id)
            return self._timeline(session, episode_id, episode.head_id or 0)

    def _timeline(self, session: Session, episode_id: int, revision: int) -> Timeline:
        # Another process may have deleted the episode for good since it was last read here.
        self._episode(session, episode_id)
        if revision == 0:
            return Timeline()
        chain: list[EditRow] = []
        at: int | None = revision
        timeline = Timeline()
        while at is not None:
            cached = self.cache.get(("document", episode_id, at))
            if cached is not None:
                timeline = cached
                break
            row = session.get(EditRow, at)
            if row is None or row.episode_id != episode_id:
                raise NotFound("That state of the episode is not here.")
            stored = _read_snapshot(row)
            if stored is not None:
                timeline = stored
                break
            chain.append(row)
            at = row.parent_id
        for row in reversed(chain):
            timeline = replayed(timeline, row)
        self._remember(episode_id, revision, timeline)
        return timeline

    def _remember(self, episode_id: int, revision: int, timeline: Timeline) -> None:
        self.cache.put(("document", episode_id, revision), timeline, _size(timeline))

    def forget_purged(self, episodes: Iterable[int]) -> None:
        """Remove the documents of episodes that were deleted for good from memory."""
        gone = set(episodes)
        self.cache.drop(lambda key: _episode_of(key) in gone)

    def edits_since(
        self, episode_id: int, revision: int, until: int | None = None
    ) -> tuple[int, list[EditRow]] | None:
        """The revision ``until`` (None: the current one), and the edits that led to it from
        ``revision``, oldest first.

        None where ``until`` does not follow ``revision``, since that was undone, or where it is
        more than ``MOST_EDITS_SINCE`` edits later.
        """
        rows: list[EditRow] = []
        with reading(self.engine) as session:
            episode = self._episode(session, episode_id)
            head = at = (episode.head_id or 0) if until is None else until
            while at != revision:
                row = session.get(EditRow, at) if at else None
                if row is None or len(rows) == MOST_EDITS_SINCE:
                    return None
                rows.append(row)
                at = row.parent_id or 0
        return head, rows[::-1]

    def edit(
        self,
        episode_id: int,
        revision: int | None,
        edit: Edit,
        name: str | None = None,
    ) -> int:
        """Apply ``edit`` to the document at ``revision``; returns the new revision.

        ``revision`` None means whatever stands now. Raises Stale when the document has moved on,
        BadInput where the edit does not fit; then nothing is changed.
        """
        with self.changing(episode_id, revision) as change:
            change(edit, name)
        return change.revision

    @contextmanager
    def changing(self, episode_id: int, revision: int | None) -> "Iterator[_Change]":
        """Several edits, and rows beside them, in one transaction."""
        self.files.need(0)
        with writing(self.engine) as session:
            episode = self._episode(session, episode_id)
            self._check(episode, revision)
            change = _Change(self, session, episode)
            yield change
        for made, timeline in change.made:
            self._remember(episode_id, made, timeline)

    @staticmethod
    def _check(episode: EpisodeRow, revision: int | None) -> None:
        current = episode.head_id or 0
        if revision is not None and revision != current:
            raise Stale(CHANGED_MEANWHILE, current)

    def undo(self, episode_id: int, revision: int) -> int:
        """Step back one edit; returns the revision stood at now."""
        with freeing(self.engine, self.files) as session:
            episode = self._episode(session, episode_id)
            self._check(episode, revision)
            if episode.head_id is None:
                raise BadInput("There is nothing left to undo.")
            row = session.get(EditRow, episode.head_id)
            assert row is not None
            return self._move(session, episode, row.parent_id)

    def redo(self, episode_id: int, revision: int) -> int:
        """Step forward to the edit that was undone last; returns the revision stood at now."""
        with freeing(self.engine, self.files) as session:
            episode = self._episode(session, episode_id)
            self._check(episode, revision)
            after = self._next(session, episode)
            if after is None:
                raise BadInput("There is nothing to redo.")
            return self._move(session, episode, after.id)

    def jump(self, episode_id: int, revision: int, to: int) -> int:
        """Go to any state that undo or redo can reach (0: empty); returns it."""
        with freeing(self.engine, self.files) as session:
            episode = self._episode(session, episode_id)
            self._check(episode, revision)
            at = episode.tip_id
            links = self._links(session, episode_id)
            while at is not None and at != to:
                link = links.get(at)
                at = link.parent_id if link else None
            if (at or 0) != to:
                raise BadInput("That state cannot be reached any more. Nothing was changed.")
            return self._move(session, episode, to or None)

    def _move(self, session: Session, episode: EpisodeRow, to: int | None) -> int:
        episode.head_id = to
        copy_to_shelf(episode, self._timeline(session, episode.id or 0, to or 0))
        return to or 0

    @staticmethod
    def _next(session: Session, episode: EpisodeRow) -> EditRow | None:
        """The edit that redo makes again: the newest of those made on the head, since the tip is
        always the newest edit of all."""
        if episode.tip_id == episode.head_id:
            return None
        query = (
            select(EditRow)
            .where(EditRow.episode_id == episode.id, EditRow.parent_id == episode.head_id)
            .order_by(col(EditRow.id).desc())
            .limit(1)
        )
        return session.exec(query).first()

    def history(self, episode_id: int) -> list[HistoryEntry]:
        """The named edits from the first to the last that redo can reach."""
        with reading(self.engine) as session:
            episode = self._episode(session, episode_id)
            links = self._links(session, episode_id)
        head = links.get(episode.head_id or 0)
        depth = head.depth if head else 0
        entries: list[HistoryEntry] = []
        at = episode.tip_id
        while at is not None and (link := links.get(at)) is not None:
            entries.append(HistoryEntry(at, link.name, link.depth <= depth, link.created_at))
            at = link.parent_id
        return entries[::-1]

    @staticmethod
    def _links(session: Session, episode_id: int) -> dict[int, "_Link"]:
        """Every edit of an episode without its content: a long history is read at once."""
        columns = (
            *(EditRow.id, EditRow.parent_id, EditRow.depth),
            *(EditRow.name, EditRow.created_at),
        )
        query = select(*columns).where(EditRow.episode_id == episode_id)  # type: ignore[call-overload]
        return {number: _Link(*link) for number, *link in session.exec(query)}


class _Link(NamedTuple):
    """An edit in its history: the edit before it, how many edits led to it, name, and time."""

    parent_id: int | None
    depth: int
    name: str
    created_at: datetime


def _read_snapshot(row: EditRow) -> Timeline | None:
    """The document that was stored after an edit. None where there is none, or where it cannot be
    read: the history before it is intact, and is replayed."""
    if row.snapshot is None:
        return None
    try:
        return brought_within(_TIMELINE.validate_json(row.snapshot))
    except (ValidationError, ValueError, BadInput):
        return None


def _episode_of(key: Key) -> Hashable:
    """The episode that a cached value belongs to; None for values of takes."""
    if key[0] == "snags as JSON":
        return _episode_of(key[1:])
    return key[1] if key[0] in ("document", "snags") else None


def _size(timeline: Timeline) -> int:
    """Bytes of a document, roughly. Documents of one history share most of what they hold, so
    this is an upper bound."""
    parts = len(timeline.cuts) + len(timeline.markers) + len(timeline.sections)
    held = sum(len(track.clips) + len(track.envelope) for track in timeline.tracks)
    corrections = len(timeline.corrections) + len(timeline.kept)
    return 4_000 + 250 * (parts + held + corrections) + 2 * len(timeline.script)


def replayed(timeline: Timeline, row: EditRow) -> Timeline:
    """The document after a stored edit. One that cannot be read or carried out any more is left out
    and told by its name: all that was done before and after it can still be opened."""
    try:
        return replay(timeline, _EDIT.validate_json(row.edit))
    except (ValidationError, BadInput):
        notice = f"The change “{row.name}” cannot be read any more and was left out."
        return replace(timeline, notices=(*timeline.notices, notice))


def copy_to_shelf(episode: EpisodeRow, timeline: Timeline) -> None:
    """Note what the shelf shows of a document."""
    episode.frames, episode.trimmed = timeline.frames, timeline.trimmed
    episode.season, episode.number = timeline.tags.season, timeline.tags.episode
    episode.artwork = timeline.artwork
    episode.updated_at = now()


def is_kept(before: Timeline, after: Timeline, depth: int) -> bool:
    """Whether the document after an edit is kept whole, so that it need not be made again."""
    return depth % SNAPSHOT_EVERY == 0 or abs(len(after.cuts) - len(before.cuts)) > MANY


class _Change:
    """Edits being made inside one transaction."""

    def __init__(self, store: Documents, session: Session, episode: EpisodeRow) -> None:
        self.session = session
        self.episode = episode
        self._store = store
        self.made: list[tuple[int, Timeline]] = []

    @property
    def revision(self) -> int:
        """The revision stood at now."""
        return self.episode.head_id or 0

    @property
    def timeline(self) -> Timeline:
        """The document as it stands now."""
        if self.made:
            return self.made[-1][1]
        return self._store._timeline(self.session, self.episode.id or 0, self.revision)

    @property
    def tracks(self) -> list[str]:
        """The names of the tracks."""
        return [track.name for track in self.timeline.tracks]

    def __call__(self, edit: Edit, name: str | None = None) -> None:
        episode, session = self.episode, self.session
        episode_id = episode.id or 0
        before = self.timeline
        parent = session.get(EditRow, episode.head_id) if episode.head_id else None
        after = apply(before, edit)
        depth = parent.depth + 1 if parent else 1
        kept_whole = is_kept(before, after, depth)
        row = EditRow(
            episode_id=episode_id,
            parent_id=episode.head_id,
            depth=depth,
            name=name or edit.describe(before),
            edit=_EDIT.dump_json(edit).decode(),
            snapshot=_TIMELINE.dump_json(after).decode() if kept_whole else None,
        )
        session.add(row)
        session.flush()
        episode.head_id = episode.tip_id = row.id
        copy_to_shelf(episode, after)
        self.made.append((row.id or 0, after))
