"""Writing an episode out."""

from dataclasses import replace
from pathlib import Path

from airtrim.core.progress import Progress
from airtrim.core.release.export import ExportReport, ExportSettings, export
from airtrim.core.timeline.parts import only
from airtrim.services.cleaning import clean_missing
from airtrim.services.measuring import mix_profile
from airtrim.services.mending import check_takes
from airtrim.services.travelling import plain_name
from airtrim.store.files import settle
from airtrim.store.store import Store


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
    artwork = store.files.artwork(timeline.artwork).read_bytes() if timeline.artwork else None
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
        words = store.words(part)
        export(
            part, store.reader, words, folder / name, settings, artwork=artwork, progress=telling
        )
        names.append(name)
    return names


def export_episode(
    store: Store,
    episode_id: int,
    revision: int,
    settings: ExportSettings,
    export_id: str,
    progress: Progress,
    *,
    despite_damage: bool = False,
) -> ExportReport:
    """Write a revision to the folder of ``export_id`` and read it back; all or nothing is there.

    Raises Damaged where a recording that sounds is damaged and cannot be made anew, unless it is to
    be written ``despite_damage``.
    """
    timeline = store.timeline(episode_id, revision)
    store.files.need(timeline.frames * timeline.loudness.channels * 3)
    artwork = store.files.artwork(timeline.artwork).read_bytes() if timeline.artwork else None
    if not despite_damage:
        check_takes(store, timeline, progress)
    store.cleaned.drop_broken(timeline)
    clean_missing(store, timeline, progress)
    with store.files.beside() as folder:
        out = folder / "out"
        out.mkdir()
        written = export(
            timeline,
            store.reader,
            store.words(timeline),
            out / f"file.{settings.format}",
            settings,
            artwork=artwork,
            profile=mix_profile(store, timeline),
            progress=progress,
        )
        settle(out, store.files.export(export_id))
    return written
