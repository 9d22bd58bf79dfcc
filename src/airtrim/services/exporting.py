"""Writing an episode out."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from airtrim.core.progress import Progress
from airtrim.core.release.export import (
    ExportReport,
    ExportSettings,
    Source,
    export,
    export_all,
)
from airtrim.core.release.transcript import Cue, cues_of
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.parts import only
from airtrim.core.timeline.words import words_on
from airtrim.services.cleaning import clean_missing
from airtrim.services.measuring import mix_profile
from airtrim.services.mending import check_takes
from airtrim.services.travelling import plain_name
from airtrim.store.files import settle
from airtrim.store.store import Store


def source_of(store: Store, timeline: Timeline) -> Source:
    """A document to be written out, with its sound and its pictures."""
    files = store.files
    names = {marker.artwork for marker in timeline.markers if marker.artwork}
    pictures = {name: files.artwork(name).read_bytes() for name in names}
    artwork = files.artwork(timeline.artwork).read_bytes() if timeline.artwork else None
    return Source(timeline, store.reader, store.words(timeline), artwork, pictures)


def said_in(store: Store, timeline: Timeline) -> list[Cue]:
    """What is said in a document, by whom and when, as far as it is written down."""
    names = {track.id: track.name for track in timeline.tracks}
    return cues_of(words_on(timeline, store.words(timeline)), names)


def called(store: Store, episode_id: int, timeline: Timeline) -> str:
    """What a file of a document is called when it is downloaded, without its ending."""
    episode, show = store.episode(episode_id)
    title = timeline.tags.title or episode.title
    return plain_name(f"{show.name} - {title}")


def export_parts(
    store: Store,
    episode_id: int,
    revision: int,
    settings: ExportSettings,
    folder: Path,
    progress: Progress,
) -> list[str]:
    """Write each part of a revision as a file of its own, numbered, on the episode's target; their
    names. Raises BadInput where a part has no sound, Damaged where a recording is damaged."""
    timeline = store.timeline(episode_id, revision)
    store.files.need(timeline.frames * timeline.loudness.channels * 3)
    check_takes(store, timeline, progress)
    clean_missing(store, timeline, progress)
    count = len(timeline.sections)
    names = []
    for number, section in enumerate(timeline.sections, 1):

        def telling(done: float, doing: str, number: int = number) -> None:
            progress((number - 1 + done) / count, f"Part {number} of {count}: {doing.lower()}")

        part = only(timeline, number - 1)
        title = f"{timeline.tags.title or section.name} ({number} of {count}): {section.name}"
        part = replace(part, tags=part.tags.model_copy(update={"title": title[:500]}))
        name = f"{number:02} {plain_name(section.name)}.{settings.format}"
        export(source_of(store, part), folder / name, settings, progress=telling)
        names.append(name)
    return names


def export_episode(
    store: Store,
    episode_id: int,
    revision: int,
    files: Sequence[tuple[str, ExportSettings]],
    export_id: str,
    progress: Progress,
    *,
    despite_damage: bool = False,
) -> tuple[ExportReport, ...]:
    """Write a revision to the folder of ``export_id``, as each of ``files``, and read them back;
    all or nothing is there.

    Raises Damaged where a recording that sounds is damaged and cannot be made anew, unless it is to
    be written ``despite_damage``.
    """
    timeline = store.timeline(episode_id, revision)
    store.files.need(len(files) * timeline.frames * timeline.loudness.channels * 3)
    if not despite_damage:
        check_takes(store, timeline, progress)
    store.cleaned.drop_broken(timeline)
    clean_missing(store, timeline, progress)
    with store.files.beside() as folder:
        out = folder / "out"
        out.mkdir()
        source = replace(source_of(store, timeline), profile=mix_profile(store, timeline))
        written = export_all(
            source, [(out / name, settings) for name, settings in files], progress=progress
        )
        settle(out, store.files.export(export_id))
    return written
