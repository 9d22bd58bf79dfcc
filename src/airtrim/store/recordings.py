"""Recordings: rows beside their pieces on disk.

A guest's recording goes *beside* the host's: it is made in another browser at the same time, and is
added, set aside and brought back with it.
"""

from collections.abc import Sequence
from datetime import UTC, datetime
from uuid import uuid4

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter
from sqlmodel import Session, col, select

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.alignment import Run
from airtrim.core.timeline.bounds import MOST_TRACKS
from airtrim.core.timeline.edits.fields import Frame, Number
from airtrim.core.timeline.edits.placing import MOST_PLAYED, MarkerAt, PlayedIn
from airtrim.errors import BadInput, Busy
from airtrim.store.database import reading, writing
from airtrim.store.guests import Guest
from airtrim.store.pieces import LONGEST_FRAMES, Pieces
from airtrim.store.rows import by_age, row_of
from airtrim.store.store import Store
from airtrim.store.tables import GuestRow, JobRow, RecordingRow, now

_TRACKS = TypeAdapter(tuple[str, ...])
_FLAGS = TypeAdapter(tuple[MarkerAt, ...])
_PLAYED = TypeAdapter(tuple[PlayedIn, ...])
RUNS = TypeAdapter(tuple[Run, ...])
_SPARE_S = 60.0
MOST_FLAGS = 1000
"""A host who marks something every four seconds reaches it in an hour."""


class Landing(BaseModel):
    """Where a recording goes: after what is there, or at frame ``at``, where ``replacing`` frames
    are cut and everything later makes room, or nothing moves (``alongside``). ``skip`` frames of it
    are left out at its start: the delay of what was played along. ``at`` and ``replacing`` count in
    the document at ``revision``; None is the current one."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    at: Frame | None = None
    replacing: Frame = 0
    alongside: bool = False
    skip: int = Field(default=0, ge=0, le=480_000)
    revision: Number | None = None


class Recording(BaseModel):
    """A recording as it stands: ``pieces`` and ``frames`` are what is safe on disk.

    Of a guest's, ``guest`` is their token and ``beside`` the host's recording; ``whole`` is how
    many pieces it has, once it has been ended."""

    id: str
    episode_id: int
    state: str
    tracks: tuple[str, ...]
    landing: Landing
    flags: tuple[MarkerAt, ...]
    played: tuple[PlayedIn, ...] = ()
    pieces: int
    frames: int
    guest: str | None = None
    beside: str | None = None
    whole: int | None = None
    begun: datetime = Field(default_factory=now, exclude=True)

    @property
    def most_frames(self) -> int:
        """How long it can be by now: what is recorded takes its time. A guest is held to it, with
        a minute to spare for clocks."""
        if self.guest is None:
            return LONGEST_FRAMES
        since_s = (now() - self.begun.replace(tzinfo=UTC)).total_seconds()
        return min(LONGEST_FRAMES, round((since_s + _SPARE_S) * FRAME_RATE))


class Recordings:
    """Recordings of a store."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def pieces(self, recording: Recording) -> Pieces:
        """The pieces of a recording."""
        return Pieces(self._store.files.recording(recording.id), len(recording.tracks))

    def begin(self, episode_id: int, tracks: tuple[str, ...], landing: Landing) -> Recording:
        """A new recording. Raises Busy where one is open on one of ``tracks``."""
        if len(set(tracks)) != len(tracks):
            raise BadInput("Each microphone needs a track of its own.")
        self._need_tracks(episode_id, tracks)
        with writing(self._store.engine) as session:
            for row in self._open(session, episode_id):
                shared = set(tracks) & set(_TRACKS.validate_json(row.tracks))
                if shared:
                    raise Busy(
                        f"A recording on “{min(shared)}” is still open. "
                        "Go on with it, add it, or set it aside first.",
                        place="record",
                    )
            query = select(GuestRow.name).where(
                GuestRow.episode_id == episode_id, col(GuestRow.revoked_at).is_(None)
            )
            taken = set(tracks) & set(session.exec(query).all())
            if taken:
                raise BadInput(f"“{min(taken)}” is the track of a guest. Give yours another name.")
            row = RecordingRow(
                id=uuid4().hex,
                episode_id=episode_id,
                tracks=_TRACKS.dump_json(tracks).decode(),
                landing=landing.model_dump_json(),
            )
            session.add(row)
        return self._view(row)

    def join(self, guest: Guest, beside: str) -> Recording:
        """A guest's recording beside the host's; the one that is there already, if there is, which
        goes on even if it had been ended."""
        self._store.files.need(0)
        self._need_tracks(guest.episode_id, (guest.name,))
        with writing(self._store.engine) as session:
            host = self._row(session, beside)
            if host.episode_id != guest.episode_id or host.guest or host.state != "open":
                raise BadInput("That recording is not being made any more.")
            for row in self._beside(session, beside):
                if row.guest == guest.token and row.state == "open":
                    row.whole = None
                    return self._view(row)
            row = RecordingRow(
                id=uuid4().hex,
                episode_id=guest.episode_id,
                tracks=_TRACKS.dump_json((guest.name,)).decode(),
                landing=Landing(alongside=True).model_dump_json(),
                guest=guest.token,
                beside=beside,
            )
            session.add(row)
        return self._view(row)

    def _need_tracks(self, episode_id: int, names: Sequence[str]) -> None:
        """Raise BadInput where the episode has no place for the tracks of a recording."""
        timeline = self._store.current(episode_id)
        with reading(self._store.engine) as session:
            rows = self._open(session, episode_id, guests=True)
            open_ids = {row.id for row in rows}
            beside = [row for one in open_ids for row in self._beside(session, one)]
            pending = {
                name
                for row in (*rows, *beside)
                if row.state == "open"
                for name in _TRACKS.validate_json(row.tracks)
            }
        known = {track.name for track in timeline.tracks}
        if len(timeline.tracks) + len((pending | set(names)) - known) > MOST_TRACKS:
            raise BadInput(
                f"An episode has {MOST_TRACKS} tracks at most. Record on a track that is there, or "
                "remove a track first."
            )

    def land(self, recording_id: str, landing: Landing) -> Recording:
        """Settle where it goes."""
        with writing(self._store.engine) as session:
            row = self._row(session, recording_id)
            row.landing = landing.model_dump_json()
        return self._view(row)

    def end(self, recording_id: str, pieces: int) -> Recording:
        """Note that a recording has been ended and has ``pieces`` pieces."""
        with writing(self._store.engine) as session:
            row = self._row(session, recording_id)
            row.whole = pieces
        return self._view(row)

    def under_way(self, episode_id: int) -> Recording | None:
        """The host's recording that guests should be recording beside, if there is one."""
        with reading(self._store.engine) as session:
            rows = self._open(session, episode_id)
            return next((self._view(row) for row in reversed(rows) if row.whole is None), None)

    def companions(self, recording_id: str) -> list[Recording]:
        """Guests' recordings beside one, oldest first, that were not set aside."""
        with reading(self._store.engine) as session:
            rows = self._beside(session, recording_id)
            return [self._view(row) for row in rows if row.state != "discarded"]

    def heard(self, recording_id: str) -> tuple[Run, ...]:
        """When the runs of an added recording were heard."""
        with reading(self._store.engine) as session:
            heard = self._row(session, recording_id).heard
        return RUNS.validate_json(heard) if heard else ()

    def get(self, recording_id: str) -> Recording:
        """One recording."""
        with reading(self._store.engine) as session:
            return self._view(self._row(session, recording_id))

    def unfinished(self, episode_id: int) -> list[Recording]:
        """Recordings of an episode that were neither added nor set aside. A guest's is among them
        only when the host's has been added without it."""
        with reading(self._store.engine) as session:
            return [self._view(row) for row in self._open(session, episode_id, guests=True)]

    def flag(self, recording_id: str, flag: MarkerAt) -> Recording:
        """Note a moment; noting it twice is the same as once."""
        with writing(self._store.engine) as session:
            row = self._row(session, recording_id)
            flags = _FLAGS.validate_json(row.flags)
            if flag not in flags:
                if len(flags) >= MOST_FLAGS:
                    raise BadInput(f"A recording has {MOST_FLAGS} marks at most.")
                row.flags = _FLAGS.dump_json((*flags, flag)).decode()
        return self._view(row)

    def play_in(self, recording_id: str, sound: PlayedIn) -> Recording:
        """Note a sound that was played in; one from the same frame on takes its place."""
        with writing(self._store.engine) as session:
            row = self._row(session, recording_id)
            if row.state != "open":
                raise BadInput("That recording has already been added or set aside.")
            others = [one for one in _PLAYED.validate_json(row.played) if one.at != sound.at]
            if len(others) >= MOST_PLAYED:
                raise BadInput(f"{MOST_PLAYED} sounds can be played into one recording.")
            row.played = _PLAYED.dump_json((*others, sound)).decode()
        return self._view(row)

    def change(self, recording_id: str, state: str, *allowed: str) -> Recording:
        """Set the state, of guests' recordings beside it as well. Raises BadInput unless it was one
        of ``allowed``."""
        with writing(self._store.engine) as session:
            row = self._row(session, recording_id)
            self.change_in(row, state, *allowed)
            for other in self._beside(session, recording_id):
                if other.state in allowed:
                    self.change_in(other, state, *allowed)
        return self._view(row)

    def turn(self, ids: Sequence[str], state: str, *allowed: str) -> None:
        """Set the state of just these, of all or of none. Raises BadInput unless each was one of
        ``allowed``."""
        with writing(self._store.engine) as session:
            for one in ids:
                self.change_in(self._row(session, one), state, *allowed)

    def free(self, named: set[str]) -> None:
        """Open what is being added by no work that is ``named``: it was left by a fault."""
        with writing(self._store.engine) as session:
            query = select(RecordingRow).where(RecordingRow.state == "adding")
            for row in session.exec(query).all():
                if row.id not in named:
                    row.state = "open"

    def begin_adding(
        self, recording: Recording, companions: Sequence[Recording], kind: str, params: str
    ) -> JobRow:
        """Queue the job that adds it, in one transaction with its state: it is never without."""
        with writing(self._store.engine) as session:
            for one in (recording, *companions):
                self.change_in(self._row(session, one.id), "adding", "open")
            return self._store.add_job_in(session, kind, recording.episode_id, params)

    @staticmethod
    def change_in(row: RecordingRow, state: str, *allowed: str) -> None:
        """The same on a row of a transaction."""
        if row.state not in allowed:
            raise BadInput("That recording has already been added or set aside.")
        row.state = state
        row.discarded_at = now() if state == "discarded" else None

    @staticmethod
    def _open(session: Session, episode_id: int, *, guests: bool = False) -> list[RecordingRow]:
        """The host's open recordings, and with ``guests`` those of guests left without one."""
        query = (
            select(RecordingRow)
            .where(RecordingRow.episode_id == episode_id, RecordingRow.state == "open")
            .order_by(col(RecordingRow.created_at))
        )
        rows = session.exec(query).all()
        open_ids = {row.id for row in rows}
        return [row for row in rows if not row.guest or (guests and row.beside not in open_ids)]

    @staticmethod
    def _beside(session: Session, recording_id: str) -> list[RecordingRow]:
        return by_age(session, RecordingRow, RecordingRow.beside == recording_id)

    @staticmethod
    def _row(session: Session, recording_id: str) -> RecordingRow:
        return row_of(session, RecordingRow, recording_id, "That recording is not known here.")

    def _view(self, row: RecordingRow) -> Recording:
        tracks = _TRACKS.validate_json(row.tracks)
        pieces, frames = Pieces(self._store.files.recording(row.id), len(tracks)).state()
        return Recording(
            id=row.id,
            episode_id=row.episode_id,
            state=row.state,
            tracks=tracks,
            landing=Landing.model_validate_json(row.landing),
            flags=_FLAGS.validate_json(row.flags),
            played=_PLAYED.validate_json(row.played),
            pieces=pieces,
            frames=frames,
            guest=row.guest,
            beside=row.beside,
            whole=row.whole,
            begun=row.created_at,
        )
