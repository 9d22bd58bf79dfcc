"""The shelf of sounds of a show: what comes to stand on it, and what an episode takes from it."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from pathlib import Path
from typing import Literal, get_args
from uuid import uuid4

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.take import TakeInfo, TakeReader, store_take
from airtrim.core.progress import Progress
from airtrim.core.render.solo import loudness_between
from airtrim.core.timeline.clips import Clip, Clips
from airtrim.core.timeline.edits.placing import PlayedIn
from airtrim.core.timeline.model import Loudness, Timeline, Track
from airtrim.errors import BadInput, file_gone
from airtrim.services.importing import stored_upload
from airtrim.store.files import settle
from airtrim.store.recordings import Recording, Recordings
from airtrim.store.store import Store
from airtrim.store.tables import SoundRow, TakeRow
from airtrim.store.uploads import Uploads

SoundKind = Literal["opening", "closing", "bed", "sting", "notice", "other"]
"""What a sound is for: music before and after the talk, music under it, a short one between two
parts, words that stand in every episode, and anything else."""

KINDS: tuple[SoundKind, ...] = get_args(SoundKind)
MOST_SOUNDS = 500
_SHIPPED = Path(__file__).parents[1] / "shipped"
OWN_CREDIT = "Made for Air Trim"


@dataclass(frozen=True, slots=True)
class Shipped:
    """A sound that comes with the application; ``spare`` frames at either end are there to be
    crossed over where it begins again."""

    file: str
    name: str
    kind: SoundKind
    spare: int = 0


SHIPPED = (
    Shipped("slipway.flac", "Slipway", "opening"),
    Shipped("low-tide.flac", "Low tide", "bed", FRAME_RATE),
    Shipped("buoy.flac", "Buoy", "sting"),
)


def shelve_upload(
    store: Store,
    show_id: int,
    sound_id: str,
    upload_id: str,
    name: str,
    kind: SoundKind,
    progress: Progress,
) -> None:
    """Put a whole upload on the shelf of a show; doing so twice is the same as once."""
    if any(sound.id == sound_id for sound in store.sounds(show_id)):
        return
    _need_room(store, show_id, 1)
    info = stored_upload(store, upload_id, sound_id, name, progress)
    _shelve(store, show_id, sound_id, Path(name).stem, kind, info)
    Uploads(store.files).remove(upload_id)


def shelve_selection(
    store: Store,
    episode_id: int,
    revision: int,
    track_id: str,
    span: tuple[int, int],
    name: str,
    kind: SoundKind,
) -> SoundRow:
    """Put what sounds on a track from a frame to a frame on the shelf of its show, as it was
    recorded. Raises BadInput where that is not of one recording without a break."""
    _, show = store.episode(episode_id)
    track = store.timeline(episode_id, revision).track(track_id)
    start, end = span
    clips = list(track.clips.between(start, end))
    goes_on = all(left.continues_into(right) for left, right in pairwise(clips))
    if not clips or clips[0].at > start or clips[-1].end < end or not goes_on:
        raise BadInput(
            "Select sound of one recording, without a cut in it, on the track that is pointed at. "
            "Nothing was kept."
        )
    _need_room(store, show.id or 0, 1)
    sound_id = uuid4().hex
    take = store.take(clips[0].take)
    store.copy_files(take.id, sound_id)
    info = TakeInfo(take.frames, take.channels, take.sha256, None)
    first = clips[0].start + start - clips[0].at
    used = first, first + end - start
    return _shelve(store, show.id or 0, sound_id, name, kind, info, span=used)


def shelve_shipped(store: Store, show_id: int) -> None:
    """Put the sounds that come with the application on a shelf, those that are not there yet."""
    known = {sound.sha256 for sound in store.sounds(show_id)}
    _need_room(store, show_id, len(SHIPPED))
    for one in SHIPPED:
        source = _SHIPPED / one.file
        sound_id = uuid4().hex
        with store.files.beside() as folder:
            take = folder / "take"
            take.mkdir()
            info = store_take(source, take / "sound", take / "peaks", name=one.name)
            if info.sha256 in known:
                continue
            settle(take, store.files.take(sound_id))
        span = one.spare, info.frames - one.spare
        _shelve(
            store,
            show_id,
            sound_id,
            one.name,
            one.kind,
            info,
            span=span,
            credit=OWN_CREDIT,
            licence="CC0 1.0",
        )


def change_sound(store: Store, sound_id: str, **values: object) -> SoundRow:
    """Set its name, kind, credit, licence, or the frames between which it is used."""
    row = store.sound(sound_id)
    start, end = values.get("start", row.start), values.get("end", row.end)
    if not (isinstance(start, int) and isinstance(end, int) and 0 <= start < end <= row.frames):
        raise BadInput("It has to begin before it ends, and both within the sound.")
    if (start, end) != (row.start, row.end):
        values["lufs"] = _lufs(store, sound_id, start, end, row.channels)
    return store.change_sound(sound_id, **values)


def use_sound(store: Store, episode_id: int, sound_id: str) -> TakeRow:
    """The sound as a recording of an episode, which has a copy of its own: what becomes of the
    shelf later changes no episode."""
    sound = store.sound(sound_id)
    store.episode(episode_id)
    known = store.take_like(episode_id, sound)
    if known is not None:
        return known
    take_id = uuid4().hex
    store.copy_files(sound_id, take_id)
    info = TakeInfo(sound.frames, sound.channels, sound.sha256, None)
    return store.add_take(take_id, episode_id, sound.name, info)


def shelve_file(
    store: Store,
    show_id: int,
    sound_id: str,
    source: Path,
    name: str,
    kind: SoundKind,
    progress: Progress,
) -> None:
    """Put a file of ours, such as an export, on the shelf of a show; doing so twice is the same as
    once. Raises NotFound where the file is gone."""
    if any(sound.id == sound_id for sound in store.sounds(show_id)):
        return
    if not source.exists():
        raise file_gone()
    _need_room(store, show_id, 1)
    store.files.need(source.stat().st_size * 12)
    with store.files.beside() as folder:
        take = folder / "take"
        take.mkdir()
        info = store_take(
            source,
            take / "sound",
            take / "peaks",
            name=name,
            progress=lambda done: progress(done, "Putting it on the shelf"),
        )
        settle(take, store.files.take(sound_id))
    _shelve(store, show_id, sound_id, name, kind, info)


def shelve_take(store: Store, show_id: int, take_id: str, span: tuple[int, int]) -> SoundRow:
    """The sound of a show's shelf that is the same as a recording; put there where it is not yet,
    used from a frame to a frame."""
    take = store.take(take_id)
    for sound in store.sounds(show_id):
        if sound.sha256 == take.sha256:
            return sound
    _need_room(store, show_id, 1)
    sound_id = uuid4().hex
    store.copy_files(take.id, sound_id)
    info = TakeInfo(take.frames, take.channels, take.sha256, None)
    return _shelve(store, show_id, sound_id, take.name, "other", info, span=span)


def note_played(
    store: Store, recording_id: str, at: int, sound_id: str, frames: int, gain_db: float
) -> Recording:
    """Note a sound that was played into a recording from frame ``at`` on. The episode has it from
    now on, whatever becomes of the shelf."""
    recordings = Recordings(store)
    episode_id = recordings.get(recording_id).episode_id
    sound = store.sound(sound_id)
    take = use_sound(store, episode_id, sound_id)
    played = PlayedIn(
        take=take.id,
        take_frames=take.frames,
        start=sound.start,
        frames=min(frames, sound.end - sound.start),
        at=at,
        gain_db=gain_db,
    )
    return recordings.play_in(recording_id, played)


def free_key(taken: Sequence[int | None]) -> int | None:
    """The first key, 1 to 9, that plays no sound yet."""
    return next((key for key in range(1, 10) if key not in taken), None)


def _need_room(store: Store, show_id: int, more: int) -> None:
    if len(store.sounds(show_id)) + more > MOST_SOUNDS:
        raise BadInput(f"A shelf holds {MOST_SOUNDS} sounds at most. Nothing was added.")


def _shelve(
    store: Store,
    show_id: int,
    sound_id: str,
    name: str,
    kind: SoundKind,
    info: TakeInfo,
    *,
    span: tuple[int, int] | None = None,
    credit: str = "",
    licence: str = "",
) -> SoundRow:
    start, end = span or (0, info.frames)
    row = SoundRow(
        id=sound_id,
        show_id=show_id,
        name=name.strip()[:120] or "Sound",
        kind=kind,
        frames=info.frames,
        channels=info.channels,
        sha256=info.sha256,
        start=start,
        end=end,
        lufs=_lufs(store, sound_id, start, end, info.channels),
        credit=credit,
        licence=licence,
        at_key=free_key([sound.at_key for sound in store.sounds(show_id)]),
    )
    return store.add_sound(row)


def _lufs(store: Store, sound_id: str, start: int, end: int, channels: int) -> float | None:
    """How loud it is, in as many channels as it has."""
    clips = Clips([Clip(sound_id, start, end - start, 0)])
    alone = Timeline(
        tracks=(Track("sound", "Sound", "music", clips),),
        loudness=Loudness(layout="mono" if channels == 1 else "stereo"),
    )
    reader = cache(lambda take: TakeReader(store.files.take(take) / "sound"))
    return loudness_between(alone, reader, 0, end - start)
