"""The tables."""

from datetime import UTC, datetime

from sqlalchemy import Index
from sqlmodel import Field, SQLModel

from airtrim.core.media.take import TakeInfo


def now() -> datetime:
    """The time, as it is stored."""
    return datetime.now(UTC)


NEVER_REUSED = {"sqlite_autoincrement": True}
"""SQLite gives the id of a deleted row to no other row of the table."""


class IdentityRow(SQLModel, table=True):
    """Identity of the data: a single row.

    ``folder`` is the mark that the folder carries too (``store/identity.py``). ``generation``
    changes when the history of ids starts over, as after a restored backup; it is part of each
    address that a browser may cache for good.
    """

    __tablename__ = "identity"
    key: int = Field(default=1, primary_key=True)
    folder: str
    generation: str


class ShowRow(SQLModel, table=True):
    """A show on the shelf."""

    __tablename__ = "show"
    __table_args__ = NEVER_REUSED
    id: int | None = Field(default=None, primary_key=True)
    name: str
    created_at: datetime = Field(default_factory=now)
    deleted_at: datetime | None = None


class EpisodeRow(SQLModel, table=True):
    """An episode. ``head_id`` is the edit its document stands at (None: empty), ``tip_id`` the
    last one that redo can reach. Length, trim, number and artwork are the document's, copied here
    so that the shelf need not open every document. What is archived is put away, and otherwise as
    it was."""

    __tablename__ = "episode"
    __table_args__ = NEVER_REUSED
    id: int | None = Field(default=None, primary_key=True)
    show_id: int = Field(foreign_key="show.id", index=True)
    title: str
    head_id: int | None = None
    tip_id: int | None = None
    frames: int = 0
    trimmed: int = 0
    season: int | None = None
    number: int | None = None
    artwork: str | None = None
    created_at: datetime = Field(default_factory=now)
    updated_at: datetime = Field(default_factory=now)
    deleted_at: datetime | None = None
    archived_at: datetime | None = None


class EditRow(SQLModel, table=True):
    """One edit; its id is the revision of the document after it. ``snapshot`` holds that document
    now and then, so that opening does not replay a whole history."""

    __tablename__ = "edit"
    __table_args__ = (Index("edit_parent", "parent_id"), NEVER_REUSED)
    id: int | None = Field(default=None, primary_key=True)
    episode_id: int = Field(foreign_key="episode.id", index=True)
    parent_id: int | None = Field(default=None, foreign_key="edit.id")
    depth: int
    name: str
    edit: str
    snapshot: str | None = None
    created_at: datetime = Field(default_factory=now)


class TakeRow(SQLModel, table=True):
    """A recording. Its files lie in ``takes/<id>/``: original, sound, peaks. ``language`` is that
    of its words, ``recogniser`` the one that wrote them; empty where that is not known.
    ``words_version`` counts how often the words were written."""

    __tablename__ = "take"
    id: str = Field(primary_key=True)
    episode_id: int = Field(foreign_key="episode.id", index=True)
    name: str
    frames: int
    channels: int
    sha256: str
    notice: str | None = None
    words: str | None = None
    words_version: int = 0
    language: str = ""
    recogniser: str = ""
    created_at: datetime = Field(default_factory=now)

    @classmethod
    def of(cls, take_id: str, episode_id: int, name: str, info: TakeInfo) -> "TakeRow":
        """The row of a take that was just stored."""
        return cls(
            id=take_id,
            episode_id=episode_id,
            name=name,
            frames=info.frames,
            channels=info.channels,
            sha256=info.sha256,
            notice=info.notice,
        )


class ChainRow(SQLModel, table=True):
    """What a host kept of a track's sound to use again; ``chain`` is JSON."""

    __tablename__ = "chain"
    __table_args__ = NEVER_REUSED
    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(unique=True)
    chain: str
    created_at: datetime = Field(default_factory=now)
    deleted_at: datetime | None = None


class SetupRow(SQLModel, table=True):
    """What the episodes of a show have in common; ``setup`` is JSON."""

    __tablename__ = "setup"
    __table_args__ = NEVER_REUSED
    id: int | None = Field(default=None, primary_key=True)
    show_id: int = Field(foreign_key="show.id", index=True)
    name: str
    setup: str
    created_at: datetime = Field(default_factory=now)
    used_at: datetime = Field(default_factory=now)
    deleted_at: datetime | None = None


class SoundRow(SQLModel, table=True):
    """A sound on a show's shelf. Its files lie where those of recordings do, ``takes/<id>/``;
    ``start`` and ``end`` are the frames of them that are used, ``lufs`` is how loud those are;
    ``at_key`` is the key, 1 to 9, that plays it in while recording."""

    __tablename__ = "sound"
    id: str = Field(primary_key=True)
    show_id: int = Field(foreign_key="show.id", index=True)
    name: str
    kind: str
    frames: int
    channels: int
    sha256: str
    start: int
    end: int
    lufs: float | None = None
    credit: str = ""
    licence: str = ""
    at_key: int | None = None
    created_at: datetime = Field(default_factory=now)
    deleted_at: datetime | None = None


class CopyLinkRow(SQLModel, table=True):
    """A link that makes a copy of an episode for whoever opens it."""

    __tablename__ = "copy_link"
    token: str = Field(primary_key=True)
    episode_id: int = Field(foreign_key="episode.id", index=True)
    created_at: datetime = Field(default_factory=now)
    revoked_at: datetime | None = None


class GuestRow(SQLModel, table=True):
    """Somebody who may join an episode's recordings through a link that holds ``token``."""

    __tablename__ = "guest"
    token: str = Field(primary_key=True)
    episode_id: int = Field(foreign_key="episode.id", index=True)
    name: str
    created_at: datetime = Field(default_factory=now)
    revoked_at: datetime | None = None


class RecordingRow(SQLModel, table=True):
    """A recording that is being made, or was. Its pieces lie in ``recordings/<id>/``. States:
    open, adding (being put into the episode), added, discarded. ``tracks``, ``landing``,
    ``flags`` and ``played`` (sounds played in meanwhile) are JSON.

    A guest's has the guest's token and the host's recording that it goes ``beside``. ``whole`` is
    how many pieces there are of one that has been ended; ``heard`` (JSON) when the runs of one that
    was added were heard, for what is to be laid beside it later. ``discarded_at`` is when the host
    discarded it: it can be restored for 30 days from then."""

    __tablename__ = "recording"
    id: str = Field(primary_key=True)
    episode_id: int = Field(foreign_key="episode.id", index=True)
    state: str = Field(default="open", index=True)
    tracks: str
    landing: str
    flags: str = "[]"
    played: str = "[]"
    guest: str | None = None
    beside: str | None = Field(default=None, index=True)
    whole: int | None = None
    heard: str | None = None
    created_at: datetime = Field(default_factory=now)
    discarded_at: datetime | None = None


UNFINISHED = ("queued", "running")
"""States of work that has not ended."""
NOT_OVER = (*UNFINISHED, "interrupted")
"""The same, and of work that was cut off, which waits for the host."""


class JobRow(SQLModel, table=True):
    """Background work and how far it is. States: queued, running, done, failed, cancelled,
    interrupted."""

    __tablename__ = "job"
    id: str = Field(primary_key=True)
    kind: str
    episode_id: int = Field(foreign_key="episode.id", index=True)
    params: str
    state: str = Field(default="queued", index=True)
    progress: float = 0.0
    doing: str = "Waiting"
    result: str | None = None
    error: str | None = None
    place: str | None = None
    cancel: bool = False
    attempts: int = 0
    created_at: datetime = Field(default_factory=now)
    updated_at: datetime = Field(default_factory=now, index=True)


class DestinationRow(SQLModel, table=True):
    """Where a show's files are handed over. ``way`` is how, ``address`` where, as JSON; what is
    secret is kept elsewhere (``services/secrets.py``)."""

    __tablename__ = "destination"
    __table_args__ = NEVER_REUSED
    id: int | None = Field(default=None, primary_key=True)
    show_id: int = Field(foreign_key="show.id", index=True)
    name: str
    way: str
    address: str
    created_at: datetime = Field(default_factory=now)
    deleted_at: datetime | None = None


class HandOverRow(SQLModel, table=True):
    """A file on its way to a destination, or there. States: sending, draft, scheduled, publishing,
    published, failed, overdue (a scheduled draft that could not be published; the host decides).
    ``remote`` is its name on the other side, ``page`` where it can be looked at; ``publish_at``
    when a draft is to be published. ``attempts`` counts failed attempts to publish it, ``retry_at``
    is the time of the next one."""

    __tablename__ = "hand_over"
    id: str = Field(primary_key=True)
    episode_id: int = Field(foreign_key="episode.id", index=True)
    destination_id: int = Field(foreign_key="destination.id")
    export_id: str
    file: int = 0
    revision: int
    state: str = "sending"
    remote: str = ""
    page: str = ""
    sha256: str = ""
    publish_at: datetime | None = None
    attempts: int = 0
    retry_at: datetime | None = None
    error: str | None = None
    created_at: datetime = Field(default_factory=now)
    updated_at: datetime = Field(default_factory=now)
