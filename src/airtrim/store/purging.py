"""Deleting for good: what was deleted goes, with all that lies on the disk for it, once its undo
has passed. Rows go first, then files. Files that a stop in between left have no row any more: they
go into quarantine first, since a file without a row can be a recording that the database lost."""

import shutil
import time
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlmodel import Session, col, delete, select

from airtrim.store.database import reading
from airtrim.store.quarantine import Quarantine
from airtrim.store.reserve import freeing
from airtrim.store.store import Store
from airtrim.store.tables import (
    NOT_OVER,
    UNFINISHED,
    ChainRow,
    CopyLinkRow,
    DestinationRow,
    EditRow,
    EpisodeRow,
    GuestRow,
    HandOverRow,
    JobRow,
    RecordingRow,
    SetupRow,
    ShowRow,
    SoundRow,
    TakeRow,
    now,
)
from airtrim.store.uploads import Uploads

UNDO = timedelta(days=30)
"""How long what was deleted can be brought back."""
_LEFT_OVER_S = 24 * 3600.0
"""Files without a row stay in place for a day: work under way creates them before its rows."""
LEAVE_FILES = ("export", "pack", "tracks", "parts")
"""Kinds of jobs that leave a folder of their own."""
_LEAVE_REPORTS = ("batch",)
"""Kinds whose jobs are the report of what was done."""


@dataclass(frozen=True, slots=True)
class Deleted:
    """An episode that was deleted, when it goes for good, and what it takes on the disk."""

    id: int
    title: str
    show: str
    deleted_at: datetime
    goes_at: datetime
    bytes: int


@dataclass(frozen=True, slots=True)
class Freed:
    """What was deleted for good: episodes, discarded recordings, bytes on the disk, and the ids of
    destinations, whose secrets the caller has to delete."""

    episodes: int
    recordings: int
    bytes: int
    destinations: tuple[int, ...] = ()


class Bin:
    """What was deleted in a store."""

    def __init__(self, store: Store) -> None:
        self._store, self._files = store, store.files

    def contents(self) -> list[Deleted]:
        """Episodes that were deleted, the first to go first."""
        with reading(self._store.engine) as session:
            found = []
            for episode, show, since in self._deleted(session):
                size = size_of(folders_of(self._store, session, episode.id or 0))
                found.append(
                    Deleted(episode.id or 0, episode.title, show.name, since, since + UNDO, size)
                )
        return sorted(found, key=lambda one: one.goes_at)

    def empty(self, *, all_now: bool = False) -> Freed:
        """Delete for good what was deleted longer ago than its undo lasts, or ``all_now``. An
        episode with work under way stays until the work has ended."""
        latest = now() if all_now else now() - UNDO
        folders: list[Path] = []
        with freeing(self._store.engine, self._store.files) as session:
            gone = [e for e, _, since in self._deleted(session) if since <= latest]
            gone = [e for e in gone if not self._at_work(session, e.id or 0)]
            for episode in gone:
                folders += folders_of(self._store, session, episode.id or 0)
                _remove_rows(session, episode)
            aside = self._set_aside(session, latest)
            folders += [self._files.recording(row.id) for row in aside]
            for row in aside:
                session.delete(row)
            folders += [self._files.take(sound) for sound in _remove_sounds(session, latest)]
            destinations = _remove_empty_shows(session, latest)
            _forget_work(session)
            for table in (ChainRow, SetupRow):
                session.exec(delete(table).where(col(table.deleted_at) <= latest))
            artwork = _artwork_in_use(session)
        folders += self._unused_artwork(artwork)
        freed = size_of(folders)
        for folder in folders:
            _remove(folder)
        self._store.forget_purged([e.id or 0 for e in gone])
        freed += self._quarantine_orphans() + self._unused_uploads()
        return Freed(len(gone), len(aside), freed, tuple(destinations))

    def _deleted(self, session: Session) -> list[tuple[EpisodeRow, ShowRow, datetime]]:
        found = []
        for episode in session.exec(select(EpisodeRow)).all():
            show = session.get(ShowRow, episode.show_id)
            assert show is not None
            since = [at for at in (episode.deleted_at, show.deleted_at) if at is not None]
            if since:
                found.append((episode, show, _aware(min(since))))
        return found

    @staticmethod
    def _at_work(session: Session, episode_id: int) -> bool:
        under_way = col(JobRow.state).in_(UNFINISHED)
        query = select(JobRow.id).where(JobRow.episode_id == episode_id, under_way).limit(1)
        return session.exec(query).first() is not None

    @staticmethod
    def _set_aside(session: Session, latest: datetime) -> list[RecordingRow]:
        query = select(RecordingRow).where(RecordingRow.state == "discarded")
        rows = session.exec(query).all()
        return [row for row in rows if _aware(row.discarded_at or row.created_at) <= latest]

    def _unused_artwork(self, used: set[str]) -> list[Path]:
        return [p for p in (self._files.root / "artwork").iterdir() if p.name not in used]

    def _quarantine_orphans(self) -> int:
        """Move folders of takes, recordings and exports that no row names into quarantine, and
        delete what has been there for 30 days. Returns the bytes freed."""
        with reading(self._store.engine) as session:
            known = {
                "takes": {
                    *session.exec(select(TakeRow.id)).all(),
                    *session.exec(select(SoundRow.id)).all(),
                },
                "recordings": set(session.exec(select(RecordingRow.id)).all()),
                "exports": set(session.exec(select(JobRow.id)).all()),
            }
        old = time.time() - _LEFT_OVER_S
        orphans = [
            folder
            for kind, ids in known.items()
            for folder in (self._files.root / kind).iterdir()
            if folder.name not in ids and folder.stat().st_mtime < old
        ]
        quarantine = Quarantine(self._files.root)
        expired = list(quarantine.expired())
        # A damaged database can hide rows of files that are in use.
        if not (orphans or expired) or not self._store.is_database_sound():
            return 0
        for folder in orphans:
            quarantine.add(folder)
        freed = 0
        for item in expired:
            if item.name not in known.get(item.kind, set()):
                freed += size_of([item.path])
                quarantine.delete(item)
        return freed

    def _unused_uploads(self) -> int:
        """Remove uploads that have expired and that no work waits for; bytes freed."""
        with reading(self._store.engine) as session:
            query = select(JobRow.id).where(col(JobRow.state).in_(NOT_OVER))
            wanted = set(session.exec(query).all())
        uploads = Uploads(self._files)
        freed = 0
        for upload_id in uploads.expired():
            if upload_id not in wanted:
                freed += size_of([self._files.upload(upload_id)])
                uploads.remove(upload_id)
        return freed


def folders_of(store: Store, session: Session, episode_id: int) -> list[Path]:
    """All that lies on the disk for an episode alone."""
    takes = session.exec(select(TakeRow.id).where(TakeRow.episode_id == episode_id)).all()
    recordings = session.exec(
        select(RecordingRow.id).where(RecordingRow.episode_id == episode_id)
    ).all()
    jobs = session.exec(
        select(JobRow.id).where(JobRow.episode_id == episode_id, col(JobRow.kind).in_(LEAVE_FILES))
    ).all()
    return [
        *(store.files.take(take) for take in takes),
        *(store.files.recording(recording) for recording in recordings),
        *(store.files.export(job) for job in jobs),
    ]


def _remove_rows(session: Session, episode: EpisodeRow) -> None:
    episode_id = episode.id
    episode.head_id = episode.tip_id = None
    session.flush()
    for table in (HandOverRow, JobRow, RecordingRow, GuestRow, CopyLinkRow, TakeRow, EditRow):
        session.exec(delete(table).where(col(table.episode_id) == episode_id))
    session.delete(episode)
    session.flush()


def _remove_sounds(session: Session, latest: datetime) -> list[str]:
    """Let go of sounds that were taken off a shelf, or whose show was deleted, that long ago; their
    ids. Episodes have copies of their own of what they use."""
    gone = []
    for sound in session.exec(select(SoundRow)).all():
        show = session.get(ShowRow, sound.show_id)
        since = [at for at in (sound.deleted_at, show and show.deleted_at) if at]
        if since and _aware(min(since)) <= latest:
            gone.append(sound.id)
            session.delete(sound)
    session.flush()
    return gone


def _remove_empty_shows(session: Session, latest: datetime) -> list[int]:
    """Delete shows without episodes that were deleted before ``latest``. Returns the ids of their
    destinations, whose secrets have to go as well."""
    destinations: list[int] = []
    for show in session.exec(select(ShowRow).where(col(ShowRow.deleted_at).is_not(None))).all():
        left = session.exec(select(EpisodeRow.id).where(EpisodeRow.show_id == show.id)).first()
        if left is None and show.deleted_at and _aware(show.deleted_at) <= latest:
            session.exec(delete(SetupRow).where(col(SetupRow.show_id) == show.id))
            of_show = col(DestinationRow.show_id) == show.id
            destinations += [
                found for found in session.exec(select(DestinationRow.id).where(of_show)) if found
            ]
            session.exec(delete(DestinationRow).where(of_show))
            session.delete(show)
    return destinations


def _forget_work(session: Session) -> None:
    """Remove jobs that ended long ago and left neither a file nor a report: what came of them is in
    the episode, whose list of jobs would only ever grow."""
    over = col(JobRow.state).not_in(NOT_OVER) & (col(JobRow.updated_at) <= now() - UNDO)
    kept = col(JobRow.kind).in_((*LEAVE_FILES, *_LEAVE_REPORTS))
    session.exec(delete(JobRow).where(over & ~kept))


def _artwork_in_use(session: Session) -> set[str]:
    """Covers and pictures of chapters that any document has, or has had, since undo can bring each
    back; and of setups."""
    used = {art for art in session.exec(select(EpisodeRow.artwork)).all() if art}
    edits = select(EditRow.edit).where(col(EditRow.edit).contains('"artwork"'))
    text = " ".join([*session.exec(edits).all(), *session.exec(select(SetupRow.setup)).all()])
    return used | {word for word in text.replace('"', " ").split() if len(word) == 64}


def _aware(at: datetime) -> datetime:
    return at if at.tzinfo else at.replace(tzinfo=UTC)


def size_of(paths: Iterable[Path]) -> int:
    """Bytes that files take on the disk; one that has a second name counts where both go."""
    seen: dict[tuple[int, int], int] = {}
    for path in paths:
        for file in path.rglob("*") if path.is_dir() else [path]:
            try:
                found = file.lstat()
            except FileNotFoundError:
                continue
            seen[found.st_dev, found.st_ino] = found.st_blocks * 512
    return sum(seen.values())


def _remove(path: Path) -> None:
    if path.is_dir():
        shutil.rmtree(path, ignore_errors=True)
    else:
        path.unlink(missing_ok=True)
