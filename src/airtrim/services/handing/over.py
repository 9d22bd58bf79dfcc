"""Handing a file over: send, look at what arrived, publish when that is asked for."""

import hashlib
import json
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

from airtrim.core.media import FRAME_RATE
from airtrim.core.progress import Progress
from airtrim.core.release.chapters import as_json, chapters_of
from airtrim.core.release.transcript import written
from airtrim.errors import AirTrimError, BadInput, NotFound, file_gone
from airtrim.services.exporting import said_in
from airtrim.services.handing.base import (
    Address,
    Allowed,
    Arrived,
    Door,
    File,
    HandOverError,
    Interrupted,
    way_named,
)
from airtrim.services.secrets import Secrets
from airtrim.store.handing import THERE
from airtrim.store.store import Store
from airtrim.store.tables import DestinationRow, HandOverRow, now

DRAFTS = ("draft", "scheduled", "publishing", "overdue")
"""States of a file that has arrived and is not public."""
RETRY_FOR = timedelta(hours=24)
"""How long after its time a scheduled draft is tried again."""
_FIRST_PAUSE, _LONGEST_PAUSE = timedelta(minutes=1), timedelta(hours=1)
_LONGEST_WAIT = timedelta(days=3653)
_MEDIA = {
    ".mp3": "audio/mpeg",
    ".m4a": "audio/mp4",
    ".opus": "audio/ogg",
    ".flac": "audio/flac",
    ".wav": "audio/wav",
}


@dataclass(frozen=True, slots=True)
class Patience:
    """How often a broken hand-over is gone on with by itself, and how long it waits first; each
    wait is twice the one before."""

    attempts: int = 6
    first_wait_s: float = 1.0


def keep_destination(
    store: Store,
    allowed: Allowed,
    show_id: int,
    *,
    name: str,
    way: str,
    address: Address,
    secret: str,
) -> DestinationRow:
    """Keep where a show's files go. Raises BadInput for an address that may not be used."""
    found = way_named(way)
    found.check(address, allowed)
    if any(ord(character) < 32 for character in address.user):
        raise BadInput("A user name contains no line breaks or control characters.")
    if found.needs_secret and not secret:
        raise BadInput("Enter the token or the password for it.")
    row = store.keep_destination(show_id, name, way, address.model_dump_json())
    if secret:
        Secrets(store.files.root).keep(secret_key(row.id), secret)
    return row


def remove_destination(store: Store, destination_id: int) -> None:
    """Take a destination away, with what was secret about it."""
    row = store.remove_destination(destination_id)
    Secrets(store.files.root).forget(secret_key(row.id))


def begin(
    store: Store,
    allowed: Allowed,
    episode_id: int,
    destination_id: int,
    *,
    export_id: str,
    file: int,
    again: bool = False,
) -> HandOverRow:
    """Note that a finished file is to go to a destination; sending it is a job. Raises BadInput
    where it went there already, NotFound where file or destination is gone."""
    destination = store.destination(destination_id)
    _, show = store.episode(episode_id)
    if destination.show_id != show.id:
        raise NotFound("That destination is another show's.")
    way_named(destination.way).check(Address.model_validate_json(destination.address), allowed)
    job = store.job(export_id)
    if job.episode_id != episode_id or job.kind != "export" or job.state != "done":
        raise NotFound("That file is not finished.")
    _made(store, export_id, file)  # raises where it is gone
    row = HandOverRow(
        id=uuid4().hex,
        episode_id=episode_id,
        destination_id=destination_id,
        export_id=export_id,
        file=file,
        revision=int(json.loads(job.params)["revision"]),
    )
    return store.begin_hand_over(row, again=again)


def send(store: Store, hand_over_id: str, progress: Progress, patience: Patience) -> HandOverRow:
    """Send a file and read it back; returns how it stands then. It is tried again where it breaks
    off. Raises HandOverError or Interrupted where it ends for now."""
    row = store.hand_over(hand_over_id)
    if row.state in THERE:  # a job that runs twice must not send a published file again
        return row
    try:
        file = _file(store, row)
        store.note_hand_over(row.id, state="sending", error=None, sha256=file.sha256)
        arrived = _patiently(
            store, row, patience, progress, lambda door: _sent(door, file, progress)
        )
    except BaseException as error:
        store.note_hand_over(row.id, state="failed", error=_why(error))
        raise
    state = "published" if arrived.live else "draft"
    return store.note_hand_over(row.id, state=state, remote=arrived.remote, page=arrived.page)


def publish(store: Store, hand_over_id: str, progress: Progress, patience: Patience) -> HandOverRow:
    """Make a draft public.

    A scheduled draft whose destination cannot be reached stays scheduled, and is tried again with
    growing pauses until ``RETRY_FOR`` after its time. Then it is *overdue*, with the reason.

    Raises
    ------
    BadInput
        It is no draft.
    HandOverError, Interrupted
        The destination refused it, or could not be reached and will not be tried again.
    """
    row = store.hand_over(hand_over_id)
    if row.state == "published":
        return row
    if row.state not in DRAFTS:
        raise BadInput("Only a draft that has arrived can be published.")
    store.note_hand_over(row.id, state="publishing", error=None)
    there = Arrived(row.remote, row.page)
    try:
        done = _patiently(store, row, patience, progress, lambda door: door.publish(there))
    except Interrupted as error:
        if row.publish_at is not None and (retry_at := _retry_at(row)):
            values = {"state": "scheduled", "attempts": row.attempts + 1, "retry_at": retry_at}
            return store.note_hand_over(row.id, error=str(error), **values)
        _not_published(store, row, error)
        raise
    except AirTrimError as error:
        _not_published(store, row, error)
        raise
    except BaseException as error:
        # The process ends or has a fault of its own. A scheduled draft keeps its schedule.
        state = "draft" if row.publish_at is None else "scheduled"
        store.note_hand_over(row.id, state=state, error=_why(error))
        raise
    return store.note_hand_over(
        row.id, state="published", page=done.page, publish_at=None, retry_at=None, error=None
    )


def _not_published(store: Store, row: HandOverRow, error: AirTrimError) -> None:
    state = "draft" if row.publish_at is None else "overdue"
    store.note_hand_over(row.id, state=state, error=_why(error), retry_at=None)


def _retry_at(row: HandOverRow) -> datetime | None:
    """Time of the next attempt to publish a scheduled draft; None after the last one."""
    assert row.publish_at is not None
    last = row.publish_at.replace(tzinfo=UTC) + RETRY_FOR
    if now() >= last:
        return None
    pause = min(_LONGEST_PAUSE, _FIRST_PAUSE * 2.0 ** min(row.attempts, 16))
    return min(now() + pause, last)


def schedule(store: Store, hand_over_id: str, at: datetime | None) -> HandOverRow:
    """Have a draft published at a time, or not by itself (None). A time that has passed is a slip:
    what is published at once is asked about first."""
    row = store.hand_over(hand_over_id)
    if row.state not in DRAFTS:
        raise BadInput("Only a draft that has arrived can be published.")
    fresh = {"attempts": 0, "retry_at": None, "error": None}
    if at is None:
        return store.note_hand_over(row.id, state="draft", publish_at=None, **fresh)
    if at <= now():
        raise BadInput("That time has passed. Choose a later one, or publish it now.")
    if at > now() + _LONGEST_WAIT:
        raise BadInput("That is more than ten years from now. Choose an earlier time.")
    return store.note_hand_over(row.id, state="scheduled", publish_at=at.astimezone(UTC), **fresh)


def due(store: Store) -> list[HandOverRow]:
    """Scheduled drafts to publish now. A draft of an episode in the bin is not published: it is
    overdue, and the host decides after restoring the episode."""
    ready = []
    for row, in_bin in store.due(now()):
        if in_bin:
            error = "The episode was in the bin at that time, so it was not published."
            store.note_hand_over(row.id, state="overdue", error=error, retry_at=None)
        else:
            ready.append(row)
    return ready


def _why(error: BaseException) -> str:
    return str(error) if isinstance(error, AirTrimError) else "It was stopped."


def _sent(door: Door, file: File, progress: Progress) -> Arrived:
    total = max(1, file.size)
    arrived = door.send(file, lambda done: progress(0.8 * done / total, "Sending"))
    found, read = hashlib.sha256(), 0
    for piece in door.read_back(file, arrived):
        found.update(piece)
        read += len(piece)
        progress(0.8 + 0.2 * min(1.0, read / total), "Comparing what arrived")
    if found.hexdigest() != file.sha256:
        raise HandOverError(
            "What arrived there is not what was sent. Nothing was published; hand it over again."
        )
    return arrived


def _patiently(
    store: Store,
    row: HandOverRow,
    patience: Patience,
    progress: Progress,
    do: Callable[[Door], Arrived],
) -> Arrived:
    """Do something on a connection, again where it breaks off."""
    destination = store.destination(row.destination_id)
    way = way_named(destination.way)
    address = Address.model_validate_json(destination.address)
    secret = Secrets(store.files.root).of(secret_key(destination.id))
    wait_s = patience.first_wait_s
    for attempt in range(1, patience.attempts + 1):
        try:
            with way.open(address, secret) as door:
                return do(door)
        except Interrupted:
            if attempt == patience.attempts:
                raise
        until = time.monotonic() + wait_s
        while time.monotonic() < until:
            progress(0.0, f"It broke off. Attempt {attempt + 1} of {patience.attempts} follows")
            time.sleep(min(0.25, wait_s))
        wait_s *= 2
    raise AssertionError("no attempt was made")


def _file(store: Store, row: HandOverRow) -> File:
    path = _made(store, row.export_id, row.file)
    episode, show = store.episode(row.episode_id)
    timeline = store.timeline(row.episode_id, row.revision)
    tags = timeline.tags
    cues = said_in(store, timeline)
    chapters = chapters_of(timeline)
    extras = {}
    if cues:
        extras["transcript.vtt"] = written(cues, "vtt").encode()
    if chapters:
        extras["chapters.json"] = as_json(chapters).encode()
    about = {
        "duration_s": timeline.frames / FRAME_RATE,
        "season": tags.season,
        "episode": tags.episode,
        "episode_type": tags.episode_type,
        "explicit": tags.explicit,
        "people": [person.model_dump() for person in tags.people],
        "show": tags.show or show.name,
        "author": tags.album_artist or tags.artist,
        "language": tags.language,
    }
    params = json.loads(store.job(row.export_id).params)
    with path.open("rb") as file:
        sha256 = hashlib.file_digest(file, "sha256").hexdigest()
    return File(
        path=path,
        name=f"{params['file_name']}{path.suffix}",
        sha256=sha256,
        media_type=_MEDIA.get(path.suffix, "application/octet-stream"),
        guid=f"airtrim-{show.id}-{episode.id}-{episode.created_at:%Y%m%d%H%M%S}",
        title=tags.title or episode.title,
        description=tags.description,
        about=about,
        extras=extras,
        cover=store.files.artwork(timeline.artwork).read_bytes() if timeline.artwork else None,
    )


def _made(store: Store, export_id: str, file: int) -> Path:
    """A finished file. Raises NotFound where there is none, or none any more."""
    files = json.loads(store.job(export_id).params).get("files", [])
    if not 0 <= file < len(files):
        raise NotFound("There is no such file.")
    path: Path = store.files.export(export_id) / files[file]["name"]
    if not path.exists():
        raise file_gone()
    return path


def secret_key(destination_id: int | None) -> str:
    """Key of the secret of a destination in ``Secrets``."""
    return f"destination-{destination_id}"
