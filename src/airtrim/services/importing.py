"""Bringing a file into an episode."""

import shutil
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.take import TakeInfo, store_take
from airtrim.core.progress import Progress
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.model import Timeline, TrackKind
from airtrim.core.timeline.words import gap_near, words_on
from airtrim.errors import BadInput, NotFound
from airtrim.store.files import settle
from airtrim.store.store import Store
from airtrim.store.tables import TakeRow
from airtrim.store.uploads import Uploads


@dataclass(frozen=True, slots=True)
class Destination:
    """Where a file goes: the track of a name, or the first that waits for sound, after what is
    there unless ``at`` says where; ``as_part``: as a part named after the file."""

    track_name: str | None = None
    track_kind: TrackKind = "voice"
    at: int | None = None
    insert: bool = False
    as_part: bool = False


def import_upload(
    store: Store,
    episode_id: int,
    take_id: str,
    upload_id: str,
    name: str,
    to: Destination,
    progress: Progress,
    label: Callable[[Timeline], SetTags] | None = None,
) -> str | None:
    """Make a take of a whole upload and put it into its episode; doing so twice is the same as
    once. Returns a notice for the host, if there is something to say.

    ``label`` returns the tags that the episode takes over from the file. They are set together with
    the sound, in one transaction, and the episode is renamed to their title.

    Raises NotFound where the upload is gone, BadInput where it is no sound that can be used.
    """
    if any(take.id == take_id for take in store.takes(episode_id)):
        return None
    info = stored_upload(store, upload_id, take_id, name, progress)
    with store.changing(episode_id, None) as change:
        change.session.add(TakeRow.of(take_id, episode_id, name, info))
        change.session.flush()
        track_name = to.track_name or _waiting_track(change.timeline, to.track_kind)
        if to.as_part:
            to = _in_its_turn(store, episode_id, take_id, change.timeline, to)
        at = to.at
        if to.insert and not to.as_part:
            at = _between_words(store, change.timeline, to.at)
        place = Place(
            take=take_id,
            take_frames=info.frames,
            track_name=track_name,
            track_kind=to.track_kind,
            at=at,
            insert=to.insert,
            part=(Path(name).stem.strip()[:120] or name[:120]) if to.as_part else None,
        )
        edit_name = f"Added “{name}”"
        try:
            change(place, edit_name)
        except BadInput:
            # It does not fit where it was let go: a track of its own, nothing is lost.
            own = _unused(track_name, change.tracks)
            change(place.model_copy(update={"track_name": own}), edit_name)
        if label is not None:
            before, tags = change.timeline, label(change.timeline)
            if (tags.tags, tags.artwork) != (before.tags, before.artwork):
                change(tags, f"Labelled as “{name}” says")
            if tags.tags.title:
                change.episode.title = tags.tags.title[:200]
    Uploads(store.files).remove(upload_id)
    return info.notice


def stored_upload(
    store: Store, upload_id: str, take_id: str, name: str, progress: Progress
) -> TakeInfo:
    """A whole upload as the files of a recording, which no row names yet.

    Raises NotFound where the upload is gone, BadInput where it is no sound that can be used.
    """
    upload = store.files.upload(upload_id)
    if not upload.exists():
        raise NotFound(f"The upload of “{name}” is gone. Add the file again.")
    store.files.need(upload.stat().st_size * 3)
    Uploads(store.files).check(upload_id)

    def decoding(fraction: float) -> None:
        store.files.need(0)  # what unfolds while it is decoded may be more than was thought
        progress(fraction, "Bringing in the sound")

    with store.files.beside() as folder:
        take = folder / "take"
        take.mkdir()
        info = store_take(upload, take / "sound", take / "peaks", name=name, progress=decoding)
        _keep_original(upload, take / "original")
        progress(1.0, "Keeping it safe")
        settle(take, store.files.take(take_id))
    return info


def _in_its_turn(
    store: Store, episode_id: int, take_id: str, timeline: Timeline, to: Destination
) -> Destination:
    """Before the parts that came after it but were sooner done: a long file takes longer."""
    jobs = [job.id for job in store.jobs(episode_id)]
    later = set(jobs[jobs.index(take_id) + 1 :] if take_id in jobs else ())
    starts = {section.at for section in timeline.sections}
    came = [
        clip.at
        for track in timeline.tracks
        for clip in track.clips
        if clip.take in later and clip.start == 0 and clip.at in starts
    ]
    return replace(to, at=min(came), insert=True) if came else to


def _waiting_track(timeline: Timeline, kind: TrackKind) -> str:
    """The name of the first track of a kind that has no sound yet, as a setup leaves them."""
    empty = (t.name for t in timeline.tracks if t.kind == kind and not len(t.clips) and not t.held)
    return next(empty, "Voice")


def _between_words(store: Store, timeline: Timeline, at: int | None) -> int | None:
    """``at`` where nobody speaks there, or the middle of the nearest pause between words."""
    if at is None:
        return None
    near = words_on(timeline, store.words(timeline), max(0, at - 5 * FRAME_RATE), at + FRAME_RATE)
    start, end = gap_near(near, at, FRAME_RATE)
    return at if start <= at <= end else max(0, (start + end) // 2)


def _unused(name: str, taken: Sequence[str]) -> str:
    """``name`` with a number after it that no track has yet."""
    return next(
        candidate
        for number in range(2, len(taken) + 3)
        if (candidate := f"{name[:70]} {number}") not in taken
    )


def _keep_original(upload: Path, original: Path) -> None:
    try:
        original.hardlink_to(upload)
    except OSError:
        shutil.copyfile(upload, original)
