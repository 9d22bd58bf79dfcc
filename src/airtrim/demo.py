"""Lay the demo episode out in a folder of data, from the files in ``demo/``."""

import json
import shutil
from dataclasses import replace
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.take import store_take
from airtrim.core.timeline.edits.loudness import SetLoudness
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.sounds import HoldOn, PlaceSound
from airtrim.core.timeline.setup import Setup, setup_of
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.words import Word
from airtrim.errors import BadInput
from airtrim.services.editing import make_edit
from airtrim.services.finding import snags
from airtrim.services.shelving import shelve_shipped, use_sound
from airtrim.settings import Settings
from airtrim.store.files import settle
from airtrim.store.store import Store
from airtrim.store.tables import TakeRow

_WORDS = TypeAdapter(tuple[Word, ...])


PACKAGED = Path(__file__).parent / "demo_data"
"""Where ``make wheel`` puts what is in the project's folder ``demo``."""


def source() -> Path:
    """The demo's files: those of the package, else those of the project's folder."""
    return PACKAGED if PACKAGED.exists() else Path("demo")


def fill(data: Path, source: Path) -> None:
    """Make the demo show and episode in ``data``, unless something is there already."""
    if not (source / "episode.json").exists():
        raise BadInput("The demo’s files are not here. Run this from the project’s folder.")
    store = Store(data, Settings().keep_free_bytes)
    if store.shows():
        store.close()
        return
    plan = json.loads((source / "episode.json").read_text())
    show = store.add_show(plan["show"])
    episode = store.add_episode(show.id or 0, plan["title"])
    sha256 = store.files.keep_artwork((source / plan["artwork"]).read_bytes())
    placed = []
    for part in plan["takes"]:
        take_id = Path(part["file"]).stem
        with store.files.beside() as folder:
            take = folder / "take"
            take.mkdir()
            original = source / part["file"]
            info = store_take(original, take / "sound", take / "peaks", name=original.name)
            shutil.copyfile(original, take / "original")
            settle(take, store.files.take(take_id))
        words = _WORDS.validate_json((source / part["words"]).read_text())
        placed.append((part, take_id, info, words))
    with store.changing(episode.id or 0, None) as change:
        for part, take_id, info, words in placed:
            change.session.add(
                TakeRow(
                    id=take_id,
                    episode_id=episode.id or 0,
                    name=part["name"],
                    frames=info.frames,
                    channels=info.channels,
                    sha256=info.sha256,
                    notice=info.notice,
                    words=_WORDS.dump_json(words).decode(),
                )
            )
            change.session.flush()
            change(
                Place(
                    take=take_id,
                    take_frames=info.frames,
                    track_name=part["track"],
                    track_kind=part["kind"],
                    at=part["at"],
                ),
                f"Added “{part['name']}”",
            )
        change(
            SetSections(
                sections=tuple(SectionStart(at=s["at"], name=s["name"]) for s in plan["sections"])
            )
        )
        change(SetLoudness(layout=plan["layout"]))
        change(SetTags(tags=Tags.model_validate(plan["tags"]), artwork=sha256))
    _place_sounds(store, episode.id or 0)
    _keep_setup(store, episode.id or 0, plan["setup"])
    snags(
        store, episode.id or 0, store.episode(episode.id or 0)[0].head_id or 0
    )  # so that its takes have been listened to
    store.close()


def _keep_setup(store: Store, episode_id: int, plan: dict[str, Any]) -> None:
    """What the show's episodes have in common, from what this one has and the plan of its parts."""
    _, show = store.episode(episode_id)
    shelf = {sound.name: sound for sound in store.sounds(show.id or 0)}
    rows = [
        {
            "name": row["name"],
            "sounds": [
                {
                    "sound": shelf[one["name"]].sha256,
                    "start": shelf[one["name"]].start,
                    "frames": shelf[one["name"]].end - shelf[one["name"]].start,
                    **one,
                }
                for one in row["sounds"]
            ],
        }
        for row in plan["rows"]
    ]
    setup, _ = setup_of(replace(store.current(episode_id), placed=()), {}, None)
    told = {**setup.model_dump(mode="json"), "rows": rows}
    store.keep_setup(show.id or 0, plan["name"], Setup.model_validate(told))


def _place_sounds(store: Store, episode_id: int) -> None:
    """The shelf of the show with what comes with Air Trim, and a bed under the last words."""
    _, show = store.episode(episode_id)
    shelve_shipped(store, show.id or 0)
    bed = next(sound for sound in store.sounds(show.id or 0) if sound.kind == "bed")
    take = use_sound(store, episode_id, bed.id)
    revision = store.episode(episode_id)[0].head_id or 0
    close = next(s for s in store.timeline(episode_id, revision).sections if s.name == "Close")
    place = PlaceSound(
        take=take.id,
        take_frames=take.frames,
        name=bed.name,
        start=bed.start,
        frames=bed.end - bed.start,
        hold=HoldOn(kind="under", part=close.id),
        level_lu=-18.0,
        fade_in=2 * FRAME_RATE,
        fade_out=3 * FRAME_RATE,
    )
    make_edit(store, episode_id, revision, place, snap=False)
