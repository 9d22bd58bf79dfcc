"""Many files, or the episodes of a show, through one recipe."""

from collections import Counter
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from airtrim.cli.base import (
    Ceiling,
    Clean,
    Data,
    Echo,
    Json,
    Level,
    Target,
    Tidy,
    app,
    bar_on_errors,
    check,
    errors,
    errors_reported,
    fail,
    opened,
    print_report,
    settings_of_data,
)

if TYPE_CHECKING:
    from airtrim.services.batch.report import Entry

_OF_FILES = "is for files that stay files; leave it out, or --in."


@app.command()
def batch(
    output: Annotated[Path, typer.Option("-o", "--output", help="Folder for what is made.")],
    places: Annotated[
        list[Path] | None, typer.Argument(help="Sound files, and folders of them.")
    ] = None,
    within: Annotated[
        str, typer.Option("--in", help="A show on the shelf: its episodes, or files become some.")
    ] = "",
    setup: Annotated[
        str, typer.Option(help="With --in: the setup of the show that files begin from.")
    ] = "",
    ending: Annotated[str | None, typer.Option("--to", help="Format, by its ending.")] = None,
    kbits: Annotated[int | None, typer.Option(help="Rate; the usual one if not given.")] = None,
    target: Target = None,
    ceiling: Ceiling = -1.0,
    tidy: Tidy = None,
    clean: Clean = None,
    echo: Echo = False,
    level: Level = False,
    transcripts: Annotated[bool, typer.Option(help="Write what is said beside each.")] = True,
    tags: Annotated[
        Path | None, typer.Option(help="CSV: a column file, and title, episode, artist…")
    ] = None,
    show: Annotated[str, typer.Option(help="A tag of all.")] = "",
    artist: Annotated[str, typer.Option(help="A tag of all.")] = "",
    artwork: Annotated[Path | None, typer.Option(help="JPEG or PNG, square, for all.")] = None,
    workers: Annotated[
        int | None, typer.Option(help="At once; as many as fit if not given.", min=1, max=64)
    ] = None,
    dry_run: Annotated[
        bool, typer.Option("--dry-run", help="Only tell what would be made, and how long.")
    ] = False,
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Make a folder of files, or the episodes of a show, into finished files. What was made before
    is left as it is."""
    if within:
        for given, name in (
            (tags, "--tags"),
            (show, "--show"),
            (artist, "--artist"),
            (artwork, "--artwork"),
            (workers, "--workers"),
            (ceiling != -1.0, "--ceiling"),
        ):
            if given:
                fail(f"{name} {_OF_FILES}")
        _batch_in_show(
            within,
            setup,
            places,
            output,
            recipe={
                "tidy": tidy,
                "clean": clean,
                "echo": echo,
                "level": level,
                "target_lufs": target,
            },
            file={k: v for k, v in (("format", ending), ("kbits", kbits)) if v},
            transcripts=transcripts,
            dry_run=dry_run,
            data=data,
            as_json=as_json,
        )
        return
    if setup:
        fail("A setup belongs to a show: name it with --in.")
    if not places:
        fail("Name files or folders, or a show with --in.")
    from airtrim.core.release.artwork import check_artwork
    from airtrim.core.timeline.tags import Tags
    from airtrim.services.batch.planning import Recipe, planned, sources_in, tags_in
    from airtrim.services.batch.running import estimated, run_batch, workers_here
    from airtrim.settings import Settings

    for file in (tags, artwork):
        if file:
            check(file)
    with errors_reported():
        if artwork:
            check_artwork(artwork.read_bytes())
        recipe = Recipe(
            ending=ending or "mp3",
            kbits=kbits,
            target_lufs=target,
            ceiling_dbtp=ceiling,
            tidy=tidy,
            clean=clean,
            echo=echo,
            level=level,
            transcripts=transcripts,
            artwork=artwork,
            model_folder=Settings().model_folder,
            speech_language=Settings().speech_language,
        )
        table = tags_in(tags) if tags else {}
        common = Tags(show=show, artist=artist)
        items = planned(sources_in(places), output, recipe, common, table)
        at_once = min(workers or workers_here(), max(1, len(items)))
        if dry_run:
            told = estimated(items, recipe, output, at_once)
            refused = {item.source.name: item.refused for item in items if item.refused}
            print_report(
                {
                    "files": len(items),
                    "to_make": told.files,
                    "sound_minutes": round(told.sound_s / 60, 1),
                    "about_minutes": round(told.work_s / 60, 1),
                    "about_megabytes": round(told.bytes / 1e6, 1),
                    "workers": at_once,
                    "refused": refused,
                },
                as_json,
            )
            return
        output.mkdir(parents=True, exist_ok=True)
        with bar_on_errors() as bar:
            task = bar.add_task(f"0 of {len(items)}", total=1.0)
            done = 0

            def told_one(entry: "Entry", fraction: float, left_s: float | None) -> None:
                nonlocal done
                done += 1
                left = f", about {left_s / 60:.0f} min left" if left_s and left_s > 90 else ""
                bar.update(task, completed=fraction, description=f"{done} of {len(items)}{left}")
                _tell_why(entry)

            entries = run_batch(items, recipe, output, workers=at_once, told=told_one)
    _end(entries, output, as_json)


def _batch_in_show(
    show: str,
    setup: str,
    places: list[Path] | None,
    output: Path,
    *,
    recipe: dict[str, object],
    file: dict[str, object],
    transcripts: bool,
    dry_run: bool,
    data: Path | None,
    as_json: bool,
) -> None:
    from airtrim.core.release.export import ExportSettings
    from airtrim.core.release.formats.base import format_named
    from airtrim.jobs.shelfbatch import (
        Asked,
        left_of,
        made_one_by_one,
        pace_here,
        setup_named,
        show_named,
        sources_of,
    )
    from airtrim.services.batch.episodes import EpisodeRecipe
    from airtrim.services.batch.planning import sources_in
    from airtrim.services.batch.running import PACE
    from airtrim.services.setups import format_of_setup

    settings = settings_of_data(data)
    with opened(settings) as store:
        show_id = show_named(store, show)
        setup_id = setup_named(store, show_id, setup) if setup else None
        usual = format_of_setup(store, setup_id) if setup_id else None
        if usual and not file:
            file = usual.model_dump()
        asked_file = ExportSettings.model_validate(file)
        format_named(asked_file.format).check_kbits(asked_file.kbits)
        asked = Asked(
            show_id,
            setup_id,
            EpisodeRecipe.model_validate({**recipe, "file": asked_file}),
            transcripts,
        )
        sources = sources_of(store, asked, sources_in(places) if places else None)
        left = left_of(sources, asked, output)
        sound_s = sum(one.seconds or 0.0 for one in left)
        pace = pace_here(store, asked) or PACE
        if dry_run:
            print_report(
                {
                    "files": len(sources),
                    "to_make": len(left),
                    "sound_minutes": round(sound_s / 60, 1),
                    "about_minutes": round(sound_s * pace / 60, 1),
                    "refused": {Path(o.name).name: o.refused for o in sources if o.refused},
                },
                as_json,
            )
            return
        output.mkdir(parents=True, exist_ok=True)
        entries = []
        with bar_on_errors() as bar:
            task = bar.add_task(f"0 of {len(sources)}", total=len(sources) or 1)
            for entry in made_one_by_one(store, settings, asked, sources, left, output):
                entries.append(entry)
                _tell_why(entry)
                done = len(entries)
                minutes = sum(o.seconds or 0.0 for o in sources[done:] if o in left) * pace / 60
                still = f", about {minutes:.0f} min left" if minutes > 1.5 else ""
                bar.update(task, completed=done, description=f"{done} of {len(sources)}{still}")
    _end(entries, output, as_json)


def _tell_why(entry: "Entry") -> None:
    if entry.sentence:
        errors.print(f"{Path(entry.source).name}: {entry.sentence}", markup=False)


def _end(entries: "Iterable[Entry]", output: Path, as_json: bool) -> None:
    counts = Counter[str](entry.state for entry in entries)
    print_report({**counts, "report": str(output / "report.html")}, as_json)
    if counts.keys() & {"failed", "set aside"}:
        raise typer.Exit(1)
