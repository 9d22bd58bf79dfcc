"""Episodes on the shelf through a recipe, and files that become some."""

import hashlib
import shutil
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from uuid import uuid4

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.decode import probe
from airtrim.core.release.transcript import written
from airtrim.errors import AirTrimError, BadInput
from airtrim.jobs.batches import do_one, of_batches, pace_of
from airtrim.jobs.kinds.batching import BatchParams
from airtrim.jobs.kinds.exporting import EXPORT
from airtrim.services.batch.episodes import EpisodeRecipe
from airtrim.services.batch.planning import tags_from_name
from airtrim.services.batch.report import Entry, made_before, stands, write_reports
from airtrim.services.exporting import said_in
from airtrim.services.setups import begin_from
from airtrim.services.travelling import plain_name
from airtrim.settings import Settings
from airtrim.store.store import Store
from airtrim.store.uploads import Uploads


@dataclass(frozen=True, slots=True)
class Asked:
    """What is asked of a show: ``setup`` is what new episodes begin from, by its number."""

    show_id: int
    setup: int | None
    recipe: EpisodeRecipe
    transcripts: bool


@dataclass(frozen=True, slots=True)
class Source:
    """An episode, or a file that is to become one; ``state`` changes with what it is."""

    name: str
    seconds: float | None
    state: str
    episode: int | None = None
    file: Path | None = None
    refused: str = ""


def show_named(store: Store, name: str) -> int:
    """The number of a show. Raises BadInput where none, or more than one, is called so."""
    found = [show.id or 0 for show, _ in store.shows() if show.name == name]
    if len(found) != 1:
        names = ", ".join(f"“{show.name}”" for show, _ in store.shows()) or "none"
        raise BadInput(f"There is no one show “{name[:80]}”; there are {names}.")
    return found[0]


def setup_named(store: Store, show_id: int, name: str) -> int:
    """The number of a show's setup. Raises BadInput."""
    kept = {row.name: row.id or 0 for row in store.setups(show_id)}
    if name not in kept:
        names = ", ".join(f"“{one}”" for one in kept) or "none"
        raise BadInput(f"The show has no setup “{name[:80]}”; it has {names}.")
    return kept[name]


def sources_of(store: Store, asked: Asked, files: Sequence[Path] | None) -> list[Source]:
    """The files, or where none are named all episodes of the show that have sound."""
    if files is not None:
        return [_from_file(path) for path in files]
    episodes = next(e for show, e in store.shows() if show.id == asked.show_id)
    return [
        # With its number, which tells it from another of that title.
        Source(
            name=f"{plain_name(one.title)} ({one.id})",
            seconds=one.frames / FRAME_RATE,
            state=str(one.head_id),
            episode=one.id,
        )
        for one in episodes
        if one.frames
    ]


def _from_file(path: Path) -> Source:
    told = path.stat()
    source = Source(str(path), None, f"{told.st_size} {told.st_mtime_ns}", file=path)
    try:
        return replace(source, seconds=probe(path).duration_s)
    except (AirTrimError, OSError) as error:
        return replace(source, refused=str(error))


def left_of(sources: Sequence[Source], asked: Asked, folder: Path) -> list[Source]:
    """Those of which nothing was made into the folder as it would be now."""
    before = made_before(folder)

    def is_made(source: Source) -> bool:
        entry = before.get(source.name)
        output = folder / (entry.output if entry else "")
        return stands(entry, _made_of(source.state, asked), output)

    return [source for source in sources if not source.refused and not is_made(source)]


def pace_here(store: Store, asked: Asked) -> float | None:
    """What earlier batches of the show took, in seconds for a second of sound."""
    return pace_of(of_batches(store, asked.show_id))


def made_one_by_one(
    store: Store,
    settings: Settings,
    asked: Asked,
    sources: Sequence[Source],
    left: Sequence[Source],
    folder: Path,
) -> Iterator[Entry]:
    """Make those that are ``left`` (see ``left_of``), and note each of all in the reports of the
    folder as it is done."""
    batch = uuid4().hex
    before = made_before(folder)
    told: list[Entry] = []
    for source in sources:
        if source.refused:
            entry = Entry(source=source.name, output="", state="failed", sentence=source.refused)
        elif source not in left:
            entry = before[source.name].model_copy(update={"state": "as before"})
        else:
            entry = _made(store, settings, asked, source, batch, folder)
        told.append(entry)
        write_reports(told, folder)
        yield entry


def _made(
    store: Store, settings: Settings, asked: Asked, source: Source, batch: str, folder: Path
) -> Entry:
    params = BatchParams(batch=batch, recipe=asked.recipe)
    try:
        episode = source.episode
        if episode is None:
            assert source.file is not None
            episode = _begun(store, asked, source.file)
            name = source.file.name
            # As a browser says it: whoever starts after a crash goes on with it.
            said = {"batch": batch, "recipe": asked.recipe.model_dump_json()}
            said |= {"filename": name, "episode": str(episode)}
            upload = Uploads(store.files).copy_in(source.file, said)
            params = params.model_copy(update={"upload": upload, "name": name})
        one = do_one(store, settings, asked.show_id, episode, params)
        entry = one.told().model_copy(update={"source": source.name})
        if one.made is None or one.export is None or entry.state != "made":
            return entry
        ending = asked.recipe.file.format
        output = f"{entry.output.removesuffix(f'.{ending}')} ({episode}).{ending}"
        written_out = EXPORT.params_of(one.export).file(0).name
        shutil.copyfile(store.files.export(one.export.id) / written_out, folder / output)
        if asked.transcripts:
            _write_transcript(store, episode, one.made.revision, folder / output)
    except (AirTrimError, OSError) as error:
        return Entry(source=source.name, output="", state="failed", sentence=str(error))
    state = source.state if source.file else str(one.made.revision)
    return entry.model_copy(update={"output": output, "made_of": _made_of(state, asked)})


def _begun(store: Store, asked: Asked, file: Path) -> int:
    """A new episode for a file, called as its name tells until it is labelled."""
    title = tags_from_name(file.stem).title
    if asked.setup is not None:
        return begin_from(store, asked.setup, title).episode.id or 0
    return store.add_episode(asked.show_id, title or file.name).id or 0


def _write_transcript(store: Store, episode: int, revision: int, output: Path) -> None:
    cues = said_in(store, store.timeline(episode, revision))
    if cues:
        output.with_suffix(".vtt").write_text(written(cues, "vtt"), encoding="utf-8")


def _made_of(state: str, asked: Asked) -> str:
    told = repr((state, asked.setup, asked.recipe.model_dump_json(), asked.transcripts))
    return hashlib.sha256(told.encode()).hexdigest()
