"""Setups: one made of an episode, an episode begun from one, one opened from a file."""

import json
import shutil
from collections.abc import Container
from dataclasses import dataclass
from pathlib import Path

from airtrim.core.timeline.edits.setups import StartFrom
from airtrim.core.timeline.setup import Common, Setup, setup_of
from airtrim.core.timeline.waiting import FileFormat, RowSound, WaitingRow, WaitingSound
from airtrim.services.shelving import KINDS, free_key, shelve_take, use_sound
from airtrim.store.setupfile import read_setup
from airtrim.store.store import Store
from airtrim.store.tables import EpisodeRow, SetupRow, now


@dataclass(frozen=True, slots=True)
class Kept:
    """A setup that was made, and how many of the episode's sounds stay out of it: those that hold
    to a time."""

    row: SetupRow
    left_out: int


@dataclass(frozen=True, slots=True)
class Begun:
    """An episode that was begun from a setup, and the names of sounds that are gone from the shelf,
    so that it is without them."""

    episode: EpisodeRow
    missing: tuple[str, ...]


def keep_setup(store: Store, episode_id: int, revision: int, name: str) -> Kept:
    """Make a setup of an episode for its show; one of that name is replaced. Its sounds come to
    stand on the shelf where they do not yet."""
    timeline = store.timeline(episode_id, revision)
    _, show = store.episode(episode_id)
    show_id = show.id or 0
    sha256: dict[str, str] = {}
    for one in timeline.placed:
        if one.take not in sha256 and one.hold.kind != "time":
            span = one.start, one.start + one.frames
            sha256[one.take] = shelve_take(store, show_id, one.take, span).sha256
    setup, left_out = setup_of(timeline, sha256, _format_of(store, episode_id))
    return Kept(store.keep_setup(show_id, name, setup), left_out)


def _format_of(store: Store, episode_id: int) -> FileFormat | None:
    """What an episode was last exported as, or is usually."""
    for job in reversed(store.jobs(episode_id, ("done",))):
        if job.kind == "export":
            settings = json.loads(job.params)["files"][0]["settings"]
            return FileFormat(format=settings["format"], kbits=settings["kbits"])
    return store.current(episode_id).file_format


def format_of_setup(store: Store, setup_id: int) -> FileFormat | None:
    """What its episodes are usually written as."""
    return Setup.model_validate_json(store.setup(setup_id).setup).file_format


def missing_sounds(setup: Setup, known: Container[str]) -> tuple[str, ...]:
    """The names of sounds of a setup that are not among those of a shelf, ``known`` by their
    SHA-256."""
    names = [one.name for row in setup.rows for one in row.sounds if one.sound not in known]
    return tuple(dict.fromkeys(names))


def begin_from(store: Store, setup_id: int, title: str) -> Begun:
    """A new episode of the setup's show, with the next number. What becomes of the setup or of the
    shelf later changes nothing in it."""
    row = store.setup(setup_id)
    setup = Setup.model_validate_json(row.setup)
    shelf = {sound.sha256: sound for sound in store.sounds(row.show_id)}
    missing = missing_sounds(setup, shelf)
    number = store.next_number(row.show_id, setup.tags.season)
    title = title.strip() or f"Episode {number}"
    episode = store.add_episode(row.show_id, title)
    episode_id = episode.id or 0
    try:
        takes = {}
        for one in (one for part in setup.rows for one in part.sounds if one.sound in shelf):
            if one.sound not in takes:
                takes[one.sound] = use_sound(store, episode_id, shelf[one.sound].id)
        rows = tuple(
            WaitingRow(
                id=f"r{place}",
                name=part.name,
                sounds=tuple(
                    WaitingSound(
                        **{name: getattr(one, name) for name in RowSound.model_fields},
                        take=takes[one.sound].id,
                        take_frames=takes[one.sound].frames,
                    )
                    for one in part.sounds
                    if one.sound in takes and one.start + one.frames <= takes[one.sound].frames
                ),
            )
            for place, part in enumerate(setup.rows)
        )
        own = {"title": title[:500], "episode": number, "year": now().year}
        common = {name: getattr(setup, name) for name in Common.model_fields}
        common["tags"] = setup.tags.model_copy(update=own)
        with store.changing(episode_id, None) as change:
            change(StartFrom(name=row.name, common=Common(**common), rows=rows))
    except BaseException:
        store.change_episode(episode_id, deleted=True)
        raise
    store.change_setup(setup_id, used=True)
    return Begun(store.episode(episode_id)[0], missing)


def open_setup(store: Store, show_id: int, source: Path) -> SetupRow:
    """Keep a setup that came as a file, its sounds on the shelf of the show; one of its name that
    is there already stays, and this one gets another. Raises BadInput where it is broken."""
    known = {sound.sha256 for sound in store.sounds(show_id)}
    names = {setup.name for setup in store.setups(show_id)}
    told, sounds = read_setup(store, source)
    for sound in sounds:
        if sound.sha256 in known:
            shutil.rmtree(store.files.take(sound.id), ignore_errors=True)
            continue
        sound.show_id = show_id
        sound.at_key = free_key([one.at_key for one in store.sounds(show_id)])
        sound.kind = sound.kind if sound.kind in KINDS else "other"
        store.add_sound(sound)
    free = (told.name, *(f"{told.name[:110]} {number}" for number in range(2, len(names) + 3)))
    return store.keep_setup(show_id, next(n for n in free if n not in names), told.setup)
