"""Recordings: rows beside their pieces on disk."""

from uuid import uuid4

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter
from sqlmodel import Session, col, select

from airtrim.core.timeline.edits import MarkerAt
from airtrim.errors import BadInput, Busy, NotFound
from airtrim.store.database import reading, writing
from airtrim.store.pieces import Pieces
from airtrim.store.store import Store
from airtrim.store.tables import JobRow, RecordingRow

_TRACKS = TypeAdapter(tuple[str, ...])
_FLAGS = TypeAdapter(tuple[MarkerAt, ...])


class Landing(BaseModel):
    """Where a recording goes: after what is there, or at frame ``at``, where ``replacing`` frames
    are cut and everything later makes room, or nothing moves (``alongside``)."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    at: int | None = Field(default=None, ge=0)
    replacing: int = Field(default=0, ge=0)
    alongside: bool = False


class Recording(BaseModel):
    """A recording as it stands: ``pieces`` and ``frames`` are what is safe on disk."""

    id: str
    episode_id: int
    state: str
    tracks: tuple[str, ...]
    landing: Landing
    flags: tuple[MarkerAt, ...]
    pieces: int
    frames: int


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
        self._store.episode(episode_id)
        with writing(self._store.engine) as session:
            for row in self._open(session, episode_id):
                shared = set(tracks) & set(_TRACKS.validate_json(row.tracks))
                if shared:
                    raise Busy(
                        f"A recording on “{min(shared)}” is still open. "
                        "Go on with it, add it, or set it aside first."
                    )
            row = RecordingRow(
                id=uuid4().hex,
                episode_id=episode_id,
                tracks=_TRACKS.dump_json(tracks).decode(),
                landing=landing.model_dump_json(),
            )
            session.add(row)
        return self._view(row)

    def get(self, recording_id: str) -> Recording:
        """One recording."""
        with reading(self._store.engine) as session:
            return self._view(self._row(session, recording_id))

    def unfinished(self, episode_id: int) -> list[Recording]:
        """Recordings of an episode that were neither added nor set aside."""
        with reading(self._store.engine) as session:
            return [self._view(row) for row in self._open(session, episode_id)]

    def flag(self, recording_id: str, flag: MarkerAt) -> Recording:
        """Note a moment; noting it twice is the same as once."""
        with writing(self._store.engine) as session:
            row = self._row(session, recording_id)
            flags = _FLAGS.validate_json(row.flags)
            if flag not in flags:
                row.flags = _FLAGS.dump_json((*flags, flag)).decode()
        return self._view(row)

    def change(self, recording_id: str, state: str, *allowed: str) -> Recording:
        """Set the state. Raises BadInput unless it was one of ``allowed``."""
        with writing(self._store.engine) as session:
            row = self._row(session, recording_id)
            self.change_in(row, state, *allowed)
        return self._view(row)

    def begin_adding(self, recording: Recording, params: str) -> JobRow:
        """Queue the job that adds it, in one transaction with its state: it is never without."""
        with writing(self._store.engine) as session:
            self.change_in(self._row(session, recording.id), "adding", "open")
            return self._store.add_job_in(session, "record", recording.episode_id, params)

    @staticmethod
    def change_in(row: RecordingRow, state: str, *allowed: str) -> None:
        """The same on a row of a transaction."""
        if row.state not in allowed:
            raise BadInput("That recording has already been added or set aside.")
        row.state = state

    @staticmethod
    def _open(session: Session, episode_id: int) -> list[RecordingRow]:
        query = (
            select(RecordingRow)
            .where(RecordingRow.episode_id == episode_id, RecordingRow.state == "open")
            .order_by(col(RecordingRow.created_at))
        )
        return list(session.exec(query).all())

    @staticmethod
    def _row(session: Session, recording_id: str) -> RecordingRow:
        row = session.get(RecordingRow, recording_id)
        if row is None:
            raise NotFound("That recording is not known here.")
        return row

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
            pieces=pieces,
            frames=frames,
        )
