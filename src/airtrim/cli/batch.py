"""Many files through one recipe."""

from collections import Counter
from pathlib import Path
from typing import Annotated

import typer

from airtrim.cli.base import (
    Ceiling,
    Clean,
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
    print_report,
)


@app.command()
def batch(
    places: Annotated[list[Path], typer.Argument(help="Sound files, and folders of them.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="Folder for what is made.")],
    ending: Annotated[str, typer.Option("--to", help="Format, by its ending.")] = "mp3",
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
    as_json: Json = False,
) -> None:
    """Make a folder of files into finished ones. What was made before is left as it is."""
    from airtrim.core.release.artwork import check_artwork
    from airtrim.core.timeline.tags import Tags
    from airtrim.services.batch.planning import Recipe, planned, sources_in, tags_in
    from airtrim.services.batch.report import Entry
    from airtrim.services.batch.running import estimated, run_batch, workers_here
    from airtrim.settings import Settings

    for file in (tags, artwork):
        if file:
            check(file)
    with errors_reported():
        if artwork:
            check_artwork(artwork.read_bytes())
        recipe = Recipe(
            ending=ending,
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

            def told_one(entry: Entry, fraction: float, left_s: float | None) -> None:
                nonlocal done
                done += 1
                left = f", about {left_s / 60:.0f} min left" if left_s and left_s > 90 else ""
                bar.update(task, completed=fraction, description=f"{done} of {len(items)}{left}")
                if entry.sentence:
                    errors.print(f"{Path(entry.source).name}: {entry.sentence}", markup=False)

            entries = run_batch(items, recipe, output, workers=at_once, told=told_one)
    counts = Counter[str](entry.state for entry in entries)
    print_report({**counts, "report": str(output / "report.html")}, as_json)
    if counts.keys() & {"failed", "set aside"}:
        raise typer.Exit(1)
