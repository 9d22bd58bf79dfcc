"""The store: shelf, documents with their history, takes, and job rows."""

from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import lru_cache
from pathlib import Path
from threading import Lock
from uuid import uuid4
from zipfile import BadZipFile

import numpy as np
from pydantic import TypeAdapter, ValidationError
from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session, col, select

from airtrim.core.loudness.meter import Profile
from airtrim.core.media.peaks import Columns, NoPeaks, Peaks
from airtrim.core.media.take import TakeReader
from airtrim.core.snags.find import Snag, find_snags
from airtrim.core.snags.listen import Listened, listen
from airtrim.core.sound.denoise import Cleaned
from airtrim.core.sound.fill import FillPeaks, RoomToneFill, made_up
from airtrim.core.sound.roomtone import RoomTone, find_room_tone
from airtrim.core.timeline.bounds import brought_within
from airtrim.core.timeline.chain import Chain
from airtrim.core.timeline.cleaned import is_cleaned
from airtrim.core.timeline.edits import Edit, apply, replay
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tone import is_tone
from airtrim.core.timeline.words import TakeWords, Word
from airtrim.errors import BadInput, NotFound, Stale
from airtrim.store.cleaned import CleanedTakes
from airtrim.store.database import open_engine, reading, writing
from airtrim.store.files import Files
from airtrim.store.soundness import Soundness
from airtrim.store.tables import EditRow, EpisodeRow, JobRow, SetupRow, ShowRow, TakeRow, now

SNAPSHOT_EVERY = 100
MANY = 50
"""Cuts made or put back in one edit from which on the document after it is kept whole."""

_EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
_TIMELINE = TypeAdapter(Timeline)
_WORDS = TypeAdapter(tuple[Word, ...])
_LISTENED = TypeAdapter(Listened)
_CHAIN = TypeAdapter(Chain)
_ROOM_TONE: TypeAdapter[RoomTone | None] = TypeAdapter(RoomTone | None)


@dataclass(frozen=True, slots=True)
class HistoryEntry:
    """A state of the document that undo or redo can reach."""

    revision: int
    name: str
    done: bool
    made_at: datetime


@dataclass(frozen=True, slots=True)
class TakeSummary:
    """A recording without its words; ``heard`` says whether they have been written down,
    ``missing`` whether its sound is gone from the disk, ``damaged`` whether it is not as it was,
    ``reworded`` whether it had other words."""

    id: str
    name: str
    frames: int
    channels: int
    notice: str | None
    heard: bool
    missing: bool
    damaged: bool
    reworded: bool


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


class Store:
    """All that is kept, under one folder. Safe for many threads and processes."""

    def __init__(self, root: Path, keep_free_bytes: int = 0) -> None:
        root.mkdir(parents=True, exist_ok=True)
        self.files = Files(root, keep_free_bytes)
        self.engine = open_engine(root / "airtrim.db")
        self._timelines: OrderedDict[tuple[int, int], Timeline] = OrderedDict()
        self._words: dict[str, tuple[Word, ...]] = {}
        self._versions: dict[str, int] = {}
        self._room_tones: dict[str, RoomTone | None] = {}
        self._listened: dict[str, Listened] = {}
        self._snags: OrderedDict[tuple[int, int, frozenset[str]], tuple[Snag, ...]] = OrderedDict()
        self._lock = Lock()
        self._readers = lru_cache(maxsize=64)(self._open_reader)
        self._fill = lru_cache(maxsize=256)(self._open_fill)
        self._peaks = lru_cache(maxsize=64)(self._open_peaks)
        self.soundness = Soundness(self.files)
        self.cleaned = CleanedTakes(self.files, self._reader, self.room_tone)

    def close(self) -> None:
        """Let go of the database."""
        self.engine.dispose()

    def answers(self) -> bool:
        """Whether the database can be read."""
        try:
            with reading(self.engine) as session:
                session.exec(select(ShowRow.id).limit(1)).first()
        except SQLAlchemyError:
            return False
        return True

    @contextmanager
    def versions(self) -> Iterator[Callable[[], int]]:
        """A function that tells a number which is another one once anybody else has written."""
        with self.engine.connect() as connection:
            raw = connection.connection.driver_connection
            assert raw is not None
            yield lambda: int(raw.execute("PRAGMA data_version").fetchone()[0])

    # --- shelf ---

    def stamps(self) -> dict[int, tuple[int, str]]:
        """The revision of every episode on the shelf, and when it was changed last."""
        columns = col(EpisodeRow.id), col(EpisodeRow.head_id), col(EpisodeRow.updated_at)
        query = select(*columns).where(col(EpisodeRow.deleted_at).is_(None))
        with reading(self.engine) as session:
            rows = session.exec(query).all()
        return {number or 0: (head or 0, at.isoformat()) for number, head, at in rows}

    def shows(self) -> list[tuple[ShowRow, list[EpisodeRow]]]:
        """Every show with its episodes, deleted ones left out."""
        with reading(self.engine) as session:
            shows = session.exec(
                select(ShowRow).where(col(ShowRow.deleted_at).is_(None)).order_by(col(ShowRow.id))
            ).all()
            episodes = session.exec(
                select(EpisodeRow)
                .where(col(EpisodeRow.deleted_at).is_(None))
                .order_by(col(EpisodeRow.id).desc())
            ).all()
        return [(show, [e for e in episodes if e.show_id == show.id]) for show in shows]

    def add_show(self, name: str) -> ShowRow:
        """A new show."""
        self.files.need(0)
        with writing(self.engine) as session:
            show = ShowRow(name=name)
            session.add(show)
        return show

    def change_show(
        self, show_id: int, *, name: str | None = None, deleted: bool | None = None
    ) -> ShowRow:
        """Rename, delete or bring back a show."""
        with writing(self.engine) as session:
            show = session.get(ShowRow, show_id)
            if show is None:
                raise NotFound("That show is not on the shelf.")
            if name is not None:
                show.name = name
            if deleted is not None:
                show.deleted_at = now() if deleted else None
        return show

    def add_episode(self, show_id: int, title: str) -> EpisodeRow:
        """A new, empty episode."""
        self.files.need(0)
        with writing(self.engine) as session:
            if session.get(ShowRow, show_id) is None:
                raise NotFound("That show is not on the shelf.")
            episode = EpisodeRow(show_id=show_id, title=title)
            session.add(episode)
        return episode

    def change_episode(
        self, episode_id: int, *, title: str | None = None, deleted: bool | None = None
    ) -> EpisodeRow:
        """Rename, delete or bring back an episode."""
        with writing(self.engine) as session:
            episode = self._episode(session, episode_id)
            if title is not None:
                episode.title = title
            if deleted is not None:
                episode.deleted_at = now() if deleted else None
        return episode

    def episode(self, episode_id: int) -> tuple[EpisodeRow, ShowRow]:
        """An episode and its show."""
        with reading(self.engine) as session:
            return self._on_shelf(session, episode_id)

    @classmethod
    def _on_shelf(cls, session: Session, episode_id: int) -> tuple[EpisodeRow, ShowRow]:
        episode = cls._episode(session, episode_id)
        show = session.get(ShowRow, episode.show_id)
        if show is None or episode.deleted_at is not None:
            raise NotFound("That episode is not on the shelf. It may have been deleted.")
        return episode, show

    @staticmethod
    def _episode(session: Session, episode_id: int) -> EpisodeRow:
        episode = session.get(EpisodeRow, episode_id)
        if episode is None:
            raise NotFound("That episode is not on the shelf.")
        return episode

    def touch(self, episode_id: int) -> None:
        """Let browsers know that what they show of an episode is not as it was."""
        with writing(self.engine) as session:
            self._episode(session, episode_id).updated_at = now()

    # --- documents ---

    def timeline(self, episode_id: int, revision: int) -> Timeline:
        """The document of an episode at a revision (0: empty)."""
        with reading(self.engine) as session:
            return self._timeline(session, episode_id, revision)

    def _timeline(self, session: Session, episode_id: int, revision: int) -> Timeline:
        if revision == 0:
            return Timeline()
        chain: list[EditRow] = []
        at: int | None = revision
        timeline = Timeline()
        while at is not None:
            with self._lock:
                cached = self._timelines.get((episode_id, at))
            if cached is not None:
                timeline = cached
                break
            row = session.get(EditRow, at)
            if row is None or row.episode_id != episode_id:
                raise NotFound("That state of the episode is not here.")
            if row.snapshot is not None:
                timeline = brought_within(_TIMELINE.validate_json(row.snapshot))
                break
            chain.append(row)
            at = row.parent_id
        for row in reversed(chain):
            timeline = replayed(timeline, row)
        self._remember(episode_id, revision, timeline)
        return timeline

    def _remember(self, episode_id: int, revision: int, timeline: Timeline) -> None:
        key = episode_id, revision
        with self._lock:
            self._timelines[key] = timeline
            self._timelines.move_to_end(key)
            while len(self._timelines) > 64:
                self._timelines.popitem(last=False)

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
            raise Stale(
                "This episode was changed in another window. Your change was not made; "
                "here is the episode as it stands now.",
                current,
            )

    def undo(self, episode_id: int, revision: int) -> int:
        """Step back one edit; returns the revision stood at now."""
        with writing(self.engine) as session:
            episode = self._episode(session, episode_id)
            self._check(episode, revision)
            if episode.head_id is None:
                raise BadInput("There is nothing left to undo.")
            row = session.get(EditRow, episode.head_id)
            assert row is not None
            return self._move(session, episode, row.parent_id)

    def redo(self, episode_id: int, revision: int) -> int:
        """Step forward to the edit that was undone last; returns the revision stood at now."""
        with writing(self.engine) as session:
            episode = self._episode(session, episode_id)
            self._check(episode, revision)
            after = self._next(session, episode)
            if after is None:
                raise BadInput("There is nothing to redo.")
            return self._move(session, episode, after.id)

    def jump(self, episode_id: int, revision: int, to: int) -> int:
        """Go to any state that undo or redo can reach (0: empty); returns it."""
        with writing(self.engine) as session:
            episode = self._episode(session, episode_id)
            self._check(episode, revision)
            at = episode.tip_id
            while at is not None and at != to:
                row = session.get(EditRow, at)
                at = row.parent_id if row else None
            if (at or 0) != to:
                raise BadInput("That state cannot be reached any more. Nothing was changed.")
            return self._move(session, episode, to or None)

    def _move(self, session: Session, episode: EpisodeRow, to: int | None) -> int:
        episode.head_id = to
        _copy_to_shelf(episode, self._timeline(session, episode.id or 0, to or 0))
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
            head = session.get(EditRow, episode.head_id) if episode.head_id else None
            rows: list[EditRow] = []
            at = episode.tip_id
            while at is not None and (row := session.get(EditRow, at)) is not None:
                rows.append(row)
                at = row.parent_id
        depth = head.depth if head else 0
        return [
            HistoryEntry(row.id or 0, row.name, row.depth <= depth, row.created_at)
            for row in reversed(rows)
        ]

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

    # --- takes ---

    def takes(self, episode_id: int) -> list[TakeSummary]:
        """All recordings of an episode, without their words."""
        with reading(self.engine) as session:
            return self._takes(session, episode_id)

    def _takes(self, session: Session, episode_id: int) -> list[TakeSummary]:
        columns = (TakeRow.id, TakeRow.name, TakeRow.frames, TakeRow.channels, TakeRow.notice)
        query = select(*columns, col(TakeRow.words).is_not(None)).where(  # type: ignore[call-overload]
            TakeRow.episode_id == episode_id
        )
        found: list[TakeSummary] = []
        for take, name, frames, channels, notice, heard in session.exec(query).all():
            missing = not (self.files.take(take) / "sound").exists()
            damaged = self.soundness.looks_damaged(take, frames, channels)
            reworded = self.files.words_before(take).exists()
            found.append(
                TakeSummary(take, name, frames, channels, notice, heard, missing, damaged, reworded)
            )
        return found

    def take(self, take_id: str) -> TakeRow:
        """One recording."""
        with reading(self.engine) as session:
            row = session.get(TakeRow, take_id)
        if row is None:
            raise NotFound("That recording is not here.")
        return row

    def set_words(self, take_id: str, words: tuple[Word, ...]) -> None:
        """Keep the words of a take; those it had before are kept beside it."""
        self.files.need(0)
        with writing(self.engine) as session:
            row = session.get(TakeRow, take_id)
            if row is None:
                raise NotFound("That recording is not here.")
            written = _WORDS.dump_json(words).decode()
            # A job that is done twice must not take the new words for those of before.
            if row.words not in (None, written):
                self.files.keep(self.files.words_before(take_id), row.words.encode())
            row.words = written
            frames = row.frames
            episode = self._episode(session, row.episode_id)
            episode.updated_at = now()
        # Now, so that no page has to wait for it.
        self._find_room_tone(take_id, frames, words)
        self._listen(take_id, frames, words)

    def words_before(self, take_id: str) -> tuple[Word, ...]:
        """The words that a take had before it was given others."""
        kept = self.files.words_before(take_id)
        if not kept.exists():
            raise BadInput("This recording had no other words before.")
        return _WORDS.validate_json(kept.read_bytes())

    def words(self, timeline: Timeline) -> TakeWords:
        """The words of all takes in use; takes not yet heard have none."""
        found: TakeWords = {}
        missing = []
        for take in timeline.takes():
            self._forget_if_heard_anew(take)
            if take in self._words:
                found[take] = self._words[take]
            else:
                missing.append(take)
        if missing:
            with reading(self.engine) as session:
                rows = session.exec(select(TakeRow).where(col(TakeRow.id).in_(missing))).all()
            for row in rows:
                if row.words is not None:
                    self._words[row.id] = found[row.id] = _WORDS.validate_json(row.words)
        return found

    def _forget_if_heard_anew(self, take_id: str) -> None:
        """Drop what is remembered of a take whose words were written anew by another process: what
        was heard besides them is kept beside the take each time."""
        try:
            version = self.files.listened(take_id).stat().st_mtime_ns
        except FileNotFoundError:
            version = 0
        if self._versions.get(take_id, version) != version:
            self._words.pop(take_id, None)
            self._room_tones.pop(take_id, None)
            self._listened.pop(take_id, None)
            with self._lock:
                self._snags.clear()
        self._versions[take_id] = version

    def reader(self, take_id: str) -> TakeReader | RoomToneFill | Cleaned:
        """Random access to a take's sound; room tone that was made up is a take as well, and so is
        a recording with its room taken out."""
        if is_cleaned(take_id):
            return self.cleaned.reader(take_id)
        return self._fill(take_id) if is_tone(take_id) else self._reader(take_id)

    def _reader(self, take_id: str) -> TakeReader:
        path = self.files.take(take_id) / "sound"
        try:
            # A take that was mended is another file.
            return self._readers(path, path.stat().st_mtime_ns)
        except FileNotFoundError:
            raise NotFound(
                f"The sound of “{self.take(take_id).name}” is missing from the disk. Put it back "
                "into the folder of takes, or cut what is left of it from the episode."
            ) from None

    @staticmethod
    def _open_reader(path: Path, version: int) -> TakeReader:
        return TakeReader(path)

    def _open_fill(self, take_id: str) -> RoomToneFill:
        return made_up(take_id, self._reader)

    def peaks(self, take_id: str) -> Columns:
        """What a picture of a take is drawn from; nothing where its sound is missing."""
        if is_tone(take_id):
            return FillPeaks(self._fill(take_id))
        if not (self.files.take(take_id) / "sound").exists():
            return NoPeaks()
        return self._peaks(take_id)

    def _open_peaks(self, take_id: str) -> Columns:
        """The picture of a take; one that is gone or broken is made anew."""
        path, frames = self.files.take(take_id) / "peaks", self.take(take_id).frames
        with suppress(OSError, ValueError):
            return Peaks(path, frames)
        try:
            self.soundness.mend_peaks(take_id)
            return Peaks(path, frames)
        except (OSError, ValueError, RuntimeError):  # its sound is broken too
            return NoPeaks()

    def room_tone(self, take_id: str) -> RoomTone | None:
        """The room tone found in a take; None where there is none, or its words are not known."""
        if take_id in self._room_tones:
            return self._room_tones[take_id]
        with suppress(OSError, ValidationError):  # one that cannot be read is found anew
            kept = self.files.room_tone(take_id).read_bytes()
            found = self._room_tones[take_id] = _ROOM_TONE.validate_json(kept)
            return found
        take = self.take(take_id)
        if take.words is None:
            return None
        return self._find_room_tone(take_id, take.frames, _WORDS.validate_json(take.words))

    def _find_room_tone(
        self, take_id: str, frames: int, words: tuple[Word, ...]
    ) -> RoomTone | None:
        """Find it and keep it beside the take; nothing is kept where the sound is missing."""
        peaks = self.peaks(take_id)
        if isinstance(peaks, NoPeaks):
            return None
        found = find_room_tone(peaks, frames, words)
        self.files.keep(self.files.room_tone(take_id), _ROOM_TONE.dump_json(found))
        self._room_tones[take_id] = found
        return found

    # --- snags ---

    def snags(self, episode_id: int, revision: int) -> tuple[Snag, ...]:
        """The snags of an episode's document at a revision, in order of time."""
        found = self.known_snags(episode_id, revision)
        if found is None:
            timeline = self.timeline(episode_id, revision)
            words = self.words(timeline)
            heard = {take: self._heard_in(take, said) for take, said in words.items()}
            found = find_snags(timeline, words, heard)
            self.remember_snags(episode_id, revision, found)
        return found

    def known_snags(self, episode_id: int, revision: int) -> tuple[Snag, ...] | None:
        """The same, if they have been looked for since words were last written down."""
        key = episode_id, revision, frozenset(self.words(self.timeline(episode_id, revision)))
        with self._lock:
            return self._snags.get(key)

    def remember_snags(self, episode_id: int, revision: int, found: tuple[Snag, ...]) -> None:
        """Keep what was found, here or by another process."""
        key = episode_id, revision, frozenset(self.words(self.timeline(episode_id, revision)))
        with self._lock:
            self._snags[key] = found
            while len(self._snags) > 8:
                self._snags.popitem(last=False)

    def _heard_in(self, take_id: str, words: tuple[Word, ...]) -> Listened:
        """What was heard in a take whose words are known; listened to now if it never was."""
        if take_id not in self._listened:
            try:
                kept = self.files.listened(take_id).read_bytes()
                self._listened[take_id] = _LISTENED.validate_json(kept)
            except (OSError, ValidationError):  # never listened to, or it cannot be read
                return self._listen(take_id, self.take(take_id).frames, words)
        return self._listened[take_id]

    def _listen(self, take_id: str, frames: int, words: tuple[Word, ...]) -> Listened:
        """Listen and keep what is heard beside the take; nothing where the sound is missing."""
        if not (self.files.take(take_id) / "sound").exists():
            return Listened()
        found = listen(self.reader(take_id).read, frames, words)
        self.files.keep(self.files.listened(take_id), _LISTENED.dump_json(found))
        self._listened[take_id] = found
        return found

    # --- profiles ---

    def profile(self, key: str) -> Profile | None:
        """A measured profile, if it is there."""
        path = self.files.profile(key)
        if not path.exists():
            return None
        try:
            with np.load(path) as data:
                return Profile(data["energy"], data["peak"], float(data["sample_peak"]))
        except (OSError, ValueError, KeyError, BadZipFile):  # broken: it is measured anew
            path.unlink(missing_ok=True)
            return None

    def save_profile(self, key: str, profile: Profile) -> None:
        """Keep a measured profile."""
        with self.files.beside() as folder:
            np.savez(
                folder / "p.npz",
                energy=profile.energy,
                peak=profile.peak,
                sample_peak=profile.sample_peak,
            )
            (folder / "p.npz").replace(self.files.profile(key))

    # --- setups ---

    def setups(self) -> list[tuple[int, str, Chain]]:
        """What hosts kept of a track's sound to use again: number, name, chain."""
        with reading(self.engine) as session:
            rows = session.exec(select(SetupRow).order_by(col(SetupRow.name))).all()
        kept = [row for row in rows if row.deleted_at is None]
        return [(row.id or 0, row.name, _CHAIN.validate_json(row.chain)) for row in kept]

    def keep_setup(self, name: str, chain: Chain) -> int:
        """Keep a chain under a name; one of that name is replaced."""
        self.files.need(0)
        with writing(self.engine) as session:
            row = session.exec(select(SetupRow).where(SetupRow.name == name)).first()
            row = row or SetupRow(name=name, chain="")
            row.chain = _CHAIN.dump_json(chain).decode()
            row.deleted_at = None
            session.add(row)
            session.flush()
            return row.id or 0

    def remove_setup(self, setup_id: int, *, back: bool = False) -> None:
        """Take one away, or bring it ``back``."""
        with writing(self.engine) as session:
            row = session.get(SetupRow, setup_id)
            if row is None:
                raise NotFound("That setup is not kept any more.")
            row.deleted_at = None if back else now()
            session.add(row)

    # --- jobs ---

    def add_job(self, kind: str, episode_id: int, params: str, job_id: str | None = None) -> JobRow:
        """A row for new work, queued; with a ``job_id`` that is there already, that row."""
        self.files.need(0)
        with writing(self.engine) as session:
            known = session.get(JobRow, job_id) if job_id else None
            if known is not None:
                return known
            self._episode(session, episode_id)
            return self.add_job_in(session, kind, episode_id, params, job_id)

    @staticmethod
    def add_job_in(
        session: Session, kind: str, episode_id: int, params: str, job_id: str | None = None
    ) -> JobRow:
        """The same within a transaction."""
        job = JobRow(id=job_id or uuid4().hex, kind=kind, episode_id=episode_id, params=params)
        session.add(job)
        return job

    def job(self, job_id: str) -> JobRow:
        """One job."""
        with reading(self.engine) as session:
            job = session.get(JobRow, job_id)
        if job is None:
            raise NotFound("That work is not known here.")
        return job

    def jobs(self, episode_id: int | None = None, states: tuple[str, ...] = ()) -> list[JobRow]:
        """Jobs, oldest first."""
        query = select(JobRow).order_by(col(JobRow.created_at))
        if episode_id is not None:
            query = query.where(JobRow.episode_id == episode_id)
        if states:
            query = query.where(col(JobRow.state).in_(states))
        with reading(self.engine) as session:
            return list(session.exec(query).all())

    def recent_jobs(self) -> list[JobRow]:
        """Jobs that changed in the last minute, and all that have not ended."""
        since = now() - timedelta(minutes=1)
        query = select(JobRow).where(
            col(JobRow.state).in_(("queued", "running")) | (col(JobRow.updated_at) > since)
        )
        with reading(self.engine) as session:
            return list(session.exec(query).all())

    def begin_job(self, job_id: str) -> JobRow | None:
        """Take a queued job to be run, in one step, so that no two workers run it; None where it
        does not wait. One that was cancelled while it waited ends here."""
        with writing(self.engine) as session:
            job = session.get(JobRow, job_id)
            if job is None or job.state != "queued":
                return None
            if job.cancel:
                job.state, job.doing = "cancelled", "Cancelled"
            else:
                job.state, job.doing = "running", "Starting"
                job.attempts += 1
            job.updated_at = now()
            session.add(job)
        return None if job.cancel else job

    def give_back_jobs(self) -> None:
        """Put jobs that were running back in line, as if they had not been begun: the worker was
        told to stop, and did."""
        with writing(self.engine) as session:
            for job in session.exec(select(JobRow).where(JobRow.state == "running")).all():
                job.state, job.doing = "queued", "Waiting"
                job.attempts = max(0, job.attempts - 1)
                job.updated_at = now()

    def update_job(self, job_id: str, **values: object) -> JobRow:
        """Change columns of a job."""
        with writing(self.engine) as session:
            job = session.get(JobRow, job_id)
            if job is None:
                raise NotFound("That work is not known here.")
            for name, value in values.items():
                setattr(job, name, value)
            job.updated_at = now()
        return job


def replayed(timeline: Timeline, row: EditRow) -> Timeline:
    """The document after a stored edit. One that cannot be read or carried out any more is left out
    and told by its name: all that was done before and after it can still be opened."""
    try:
        return replay(timeline, _EDIT.validate_json(row.edit))
    except (ValidationError, BadInput):
        told = f"The change “{row.name}” cannot be read any more and was left out."
        return replace(timeline, notices=(*timeline.notices, told))


def _copy_to_shelf(episode: EpisodeRow, timeline: Timeline) -> None:
    """Note what the shelf shows of a document."""
    episode.frames, episode.trimmed = timeline.frames, timeline.trimmed
    episode.season, episode.number = timeline.tags.season, timeline.tags.episode
    episode.artwork = timeline.artwork
    episode.updated_at = now()


def _is_kept(before: Timeline, after: Timeline, depth: int) -> bool:
    """Whether the document after an edit is kept whole, so that it need not be made again."""
    return depth % SNAPSHOT_EVERY == 0 or abs(len(after.cuts) - len(before.cuts)) > MANY


class _Change:
    """Edits being made inside one transaction."""

    def __init__(self, store: Store, session: Session, episode: EpisodeRow) -> None:
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
        kept_whole = _is_kept(before, after, depth)
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
        _copy_to_shelf(episode, after)
        self.made.append((row.id or 0, after))
