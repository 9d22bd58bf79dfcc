"""Looking through all that is kept: every checksum, every row and its files, every history."""

import hashlib
import json
import zlib
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TypeVar

from pydantic import TypeAdapter, ValidationError
from sqlalchemy.exc import DatabaseError
from sqlmodel import Session, SQLModel, col, select

from airtrim.core.media.peaks import Peaks
from airtrim.core.media.take import checksum
from airtrim.core.progress import Progress
from airtrim.core.snags.listen import Listened
from airtrim.core.sound.choosing import Heard
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tone import is_tone
from airtrim.errors import AirTrimError, Damaged
from airtrim.store.database import reading
from airtrim.store.documents import replayed
from airtrim.store.pieces import Pieces
from airtrim.store.quarantine import Quarantine
from airtrim.store.store import Store
from airtrim.store.tables import EditRow, EpisodeRow, JobRow, RecordingRow, SoundRow, TakeRow
from airtrim.store.uploads import Uploads

Row = TypeVar("Row", bound=SQLModel)
_TIMELINE = TypeAdapter(Timeline)
_DERIVED: dict[str, TypeAdapter[object]] = {
    "room-tone.json": TypeAdapter(RoomTone | None),
    "listened.json": TypeAdapter(Listened),
    "noise.json": TypeAdapter(Heard),
}


@dataclass(frozen=True, slots=True)
class Finding:
    """Something that is not as it should be: ``what`` in a sentence, and whether it was mended."""

    what: str
    repaired: bool = False


@dataclass(frozen=True, slots=True)
class Checked:
    """Result of a check: what was checked, faults (``findings``), and remarks (``notes``)."""

    takes: int
    edits: int
    episodes: int
    findings: tuple[Finding, ...]
    notes: tuple[str, ...] = ()

    @property
    def sound(self) -> bool:
        """Whether nothing is left that is not as it should be."""
        return all(finding.repaired for finding in self.findings)


def check_data(
    store: Store,
    *,
    repair: bool = False,
    restore_files: bool = False,
    progress: Progress = lambda _f, _d: None,
) -> Checked:
    """Check all data.

    Parameters
    ----------
    repair
        Compute derived data again, and recordings from their originals. No server may run.
    restore_files
        Move files from quarantine back to their places.
    """
    return _Checking(store, repair, restore_files, progress).run()


class _Checking:
    def __init__(self, store: Store, repair: bool, restore_files: bool, progress: Progress) -> None:
        self._store, self._files, self._repair = store, store.files, repair
        self._restore_files = restore_files
        self._notes: list[str] = []
        self._progress = progress
        self._findings: list[Finding] = []
        self._edits = 0

    def run(self) -> Checked:
        self._guarded("The database", self._database)
        takes = self._rows(TakeRow)
        sounds = [_as_take(sound) for sound in self._rows(SoundRow)]
        episodes = self._rows(EpisodeRow)
        known = {take.id: take for take in takes}
        for number, episode in enumerate(episodes):
            self._progress(0.2 * number / max(1, len(episodes)), "Reading histories")
            what = f"The history of “{episode.title}”"
            self._guarded(what, partial(self._history, episode, known))
        self._guarded("A recording that is being made", self._recordings)
        self._guarded("An export", self._exports)
        part = 0.8 / max(1, len(takes) + len(sounds))
        for number, take in enumerate([*takes, *sounds]):

            def done(fraction: float, before: float = 0.2 + number * part) -> None:
                self._progress(before + part * fraction, "Reading recordings")

            self._guarded(f"“{take.name}”", partial(self._take, take, done))
        self._guarded("An upload", self._uploads)
        self._guarded("The quarantine", self._quarantine)
        return Checked(
            len(takes), self._edits, len(episodes), tuple(self._findings), tuple(self._notes)
        )

    def _guarded(self, what: str, look: Callable[[], None]) -> None:
        """Look at one thing. What cannot be read is a finding, and the check goes on: whoever
        calls it has damaged data and needs the whole report."""
        try:
            look()
        except (AirTrimError, DatabaseError, OSError, ValueError, LookupError, TypeError) as error:
            reason = error.orig if isinstance(error, DatabaseError) else error
            self._found(f"{what} cannot be checked ({reason}).")

    def _rows(self, table: type[Row]) -> list[Row]:
        """All rows of a table, or those before the place where it cannot be read."""
        rows: list[Row] = []
        name = str(table.__tablename__)

        def read() -> None:
            with reading(self._store.engine) as session:
                for row in session.exec(select(table).execution_options(yield_per=1)):
                    rows.append(row)

        self._guarded(f"The table “{name}”", read)
        return rows

    def _found(self, what: str, *, repaired: bool = False) -> None:
        self._findings.append(Finding(what, repaired))

    def _database(self) -> None:
        with self._store.engine.connect() as connection:
            problems = [row[0] for row in connection.exec_driver_sql("PRAGMA integrity_check")]
            orphans = connection.exec_driver_sql("PRAGMA foreign_key_check").fetchall()
        if problems != ["ok"]:
            self._found(f"The database is damaged: {'; '.join(problems[:5])}.")
        if orphans:
            self._found(f"{len(orphans)} rows of the database name rows that are not there.")

    # --- histories ---

    def _history(self, episode: EpisodeRow, takes: dict[str, TakeRow]) -> None:
        """Every state that any edit of an episode led to, made anew from nothing."""
        with reading(self._store.engine) as session:
            self._states(session, episode, takes)

    def _states(self, session: Session, episode: EpisodeRow, takes: dict[str, TakeRow]) -> None:
        query = select(EditRow).where(EditRow.episode_id == episode.id).order_by(col(EditRow.id))
        states: dict[int | None, Timeline] = {None: Timeline()}
        head: Timeline | None = Timeline() if episode.head_id is None else None
        waiting: dict[int | None, int] = {}
        rows = list(session.exec(query).all())
        for row in rows:
            waiting[row.parent_id] = waiting.get(row.parent_id, 0) + 1
        where = f"“{episode.title}” (episode {episode.id})"
        for row in rows:
            self._edits += 1
            before = states.get(row.parent_id)
            if before is None:
                self._found(f"{where}: the change “{row.name}” follows none that is there.")
                continue
            after = replayed(before, row)
            if len(after.notices) > len(before.notices):
                self._found(f"{where}: {after.notices[-1]}")
            self._snapshot(row, after, where)
            if row.id == episode.head_id:
                head = after
            states[row.id] = after
            waiting[row.parent_id] -= 1
            if not waiting[row.parent_id]:  # nothing more follows it
                states.pop(row.parent_id, None)
        if head is None:
            self._found(f"{where} stands at a change that is not there.")
            return
        for take_id in head.takes():
            known = takes.get(take_id)
            if not is_tone(take_id) and (known is None or known.episode_id != episode.id):
                self._found(f"{where} uses a recording that is not there ({take_id}).")
        for sha256 in {head.artwork, *(marker.artwork for marker in head.markers)} - {None}:
            self._artwork(str(sha256), where)

    def _snapshot(self, row: EditRow, after: Timeline, where: str) -> None:
        if row.snapshot is None:
            return
        try:
            same = _TIMELINE.validate_json(row.snapshot).tracks == after.tracks
        except ValidationError:
            same = False
        if not same and not after.notices:
            self._found(f"{where}: what was kept after “{row.name}” is not what it led to.")

    def _artwork(self, sha256: str, where: str) -> None:
        try:
            data = self._files.artwork(sha256).read_bytes()
        except (AirTrimError, OSError):
            self._found(f"{where}: its artwork is not there.")
            return
        if hashlib.sha256(data).hexdigest() != sha256:
            self._found(f"{where}: its artwork is damaged.")

    # --- recordings and files ---

    def _take(self, take: TakeRow, progress: Callable[[float], None]) -> None:
        name, folder = f"“{take.name}”", self._files.take(take.id)
        if not (folder / "sound").exists() or not self._store.soundness.is_whole(take, progress):
            missing = not (folder / "sound").exists()
            what = f"{name} is {'missing' if missing else 'damaged'} ({take.id})."
            self._found(what, repaired=self._repair and self._mended(take, progress))
        if (folder / "sound").exists():
            self._peaks(take)
        for file, adapter in _DERIVED.items():
            self._json(folder / file, adapter, name)
        if take.words is not None:
            self._words(take)
        for cleaned in folder.glob("cleaned-*"):
            if checksum(cleaned) is None:
                self._derived(cleaned, f"What was cleaned of {name} is damaged.")

    def _mended(self, take: TakeRow, progress: Callable[[float], None]) -> bool:
        try:
            self._store.soundness.mend(take, progress)
        except Damaged:
            return False
        return True

    def _peaks(self, take: TakeRow) -> None:
        path = self._files.take(take.id) / "peaks"
        try:
            Peaks(path, take.frames)
            whole = True
        except (OSError, ValueError):
            whole = False
        if not whole:
            repaired = False
            if self._repair:
                with suppress(AirTrimError, OSError, ValueError):  # its sound is damaged too
                    self._store.soundness.mend_peaks(take.id)
                    repaired = True
            self._found(f"The picture of “{take.name}” is damaged.", repaired=repaired)

    def _json(self, path: Path, adapter: TypeAdapter[object], name: str) -> None:
        if path.exists():
            try:
                adapter.validate_json(path.read_bytes())
            except ValidationError:
                self._derived(path, f"What was found in {name} cannot be read ({path.name}).")

    def _words(self, take: TakeRow) -> None:
        try:
            json.loads(take.words or "")
        except ValueError:
            self._found(f"The words of “{take.name}” cannot be read.")

    def _derived(self, path: Path, what: str) -> None:
        """Something that is made anew when it is next needed."""
        if self._repair:
            path.unlink(missing_ok=True)
        self._found(what, repaired=self._repair)

    def _recordings(self) -> None:
        """Pieces of recordings that are being made, held against their own checksums."""
        unadded = col(RecordingRow.state).in_(("open", "adding", "discarded"))
        with reading(self._store.engine) as session:
            rows = session.exec(select(RecordingRow).where(unadded)).all()
        for row in rows:
            pieces = Pieces(self._files.recording(row.id), len(json.loads(row.tracks)))
            wrong = sum(crc != zlib.crc32(data) for crc, data in pieces.checksums())
            if wrong:
                self._found(f"{wrong} pieces of a recording are damaged ({row.id}).")

    def _exports(self) -> None:
        done = select(JobRow).where(JobRow.kind == "export", JobRow.state == "done")
        with reading(self._store.engine) as session:
            jobs = session.exec(done).all()
        for job in jobs:
            names = [one["name"] for one in json.loads(job.params).get("files", [])]
            told = json.loads(job.result or "{}").get("files", [])
            for name, report in zip(names, told, strict=False):
                path = self._files.export(job.id) / name
                if not path.exists():
                    self._found(
                        f"An exported file is not there any more ({job.id}). Export it again."
                    )
                elif path.stat().st_size != report["bytes"]:
                    self._found(f"An exported file is not as long as it was ({job.id}).")

    def _uploads(self) -> None:
        uploads = Uploads(self._files)
        for upload_id, _ in uploads.whole():
            try:
                uploads.check(upload_id)
            except AirTrimError:
                self._found(f"An upload that waits to be brought in is damaged ({upload_id}).")

    def _quarantine(self) -> None:
        count = 0
        for item in Quarantine(self._files.root).contents():
            count += 1
            what = f"{item.kind[:-1]} {item.name}"
            if self._restore_files and Quarantine(self._files.root).restore(item):
                self._found(f"Moved from quarantine to its place: {what}.", repaired=True)
        if count and not self._restore_files:
            self._notes.append(
                f"{count} folders without a row in the database are in quarantine. They are "
                "deleted after 30 days. --restore-files moves them back."
            )


def _as_take(sound: SoundRow) -> TakeRow:
    """A sound of a shelf lies on the disk as a recording does."""
    return TakeRow(
        id=sound.id,
        episode_id=0,
        name=sound.name,
        frames=sound.frames,
        channels=sound.channels,
        sha256=sound.sha256,
    )
