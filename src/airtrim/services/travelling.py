"""What travels from an episode into other tools, as files."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from airtrim.core.progress import Progress
from airtrim.core.timeline.model import Timeline
from airtrim.core.travel.cutlist import cut_list
from airtrim.core.travel.places import chapters_vtt, places_csv
from airtrim.core.travel.tracks import TrackForm, write_track
from airtrim.errors import empty_episode
from airtrim.services.cleaning import clean_missing
from airtrim.store.store import Store

ListForm = Literal["otio", "vtt", "csv"]

_WAV_BYTES = 4


@dataclass(frozen=True, slots=True)
class TrackFile:
    """A track that was written, and its peak in dBFS."""

    track: str
    file: str
    peak_dbfs: float


def write_tracks(
    store: Store,
    episode_id: int,
    revision: int | None,
    folder: Path,
    form: TrackForm,
    progress: Progress,
    *,
    with_sound: bool,
) -> list[TrackFile]:
    """Write every track that has sound into ``folder``, numbered and all equally long.

    Raises BadInput where there is nothing in the episode, StoreFull where there is no room.
    """
    timeline = _timeline(store, episode_id, revision)
    tracks = [track for track in timeline.tracks if len(track.clips)]
    if not tracks:
        raise empty_episode("there are no tracks to write")
    one = timeline.frames * timeline.loudness.channels * _WAV_BYTES
    store.files.need(one * len(tracks))
    if with_sound:
        clean_missing(store, timeline, progress)
    folder.mkdir(parents=True, exist_ok=True)
    words = store.words(timeline)
    out = []
    for number, track in enumerate(tracks):
        name = f"{number + 1:02} {plain_name(track.name)}.{form}"

        def telling(done: float, number: int = number, name: str = track.name) -> None:
            progress((number + done) / len(tracks), f"Writing {name}")

        with store.files.told_when_full():
            peak = write_track(
                timeline,
                track,
                store.reader,
                words,
                folder / name,
                form,
                with_sound=with_sound,
                progress=telling,
            )
        out.append(TrackFile(track.name, name, round(peak, 2)))
    return out


def listed(store: Store, episode_id: int, revision: int | None, form: ListForm) -> str:
    """The cut list, the chapters, or parts and markers, as the text of a file."""
    timeline = _timeline(store, episode_id, revision)
    episode, _ = store.episode(episode_id)
    files = {take.id: take.name for take in store.takes(episode_id)}
    made: dict[ListForm, Callable[[], str]] = {
        "otio": lambda: cut_list(timeline, episode.title, files),
        "vtt": lambda: chapters_vtt(timeline),
        "csv": lambda: places_csv(timeline),
    }
    return made[form]()


def plain_name(title: str) -> str:
    """A name of a file that any system takes."""
    plain = re.sub(r'[\x00-\x1f\x7f-\x9f/\\:*?"<>|]+', " ", title)
    return re.sub(r" +", " ", plain).strip(" .")[:120] or "Episode"


def _timeline(store: Store, episode_id: int, revision: int | None) -> Timeline:
    return store.current(episode_id) if revision is None else store.timeline(episode_id, revision)
