"""All finished files of a show side by side."""

from pathlib import Path
from typing import Annotated

import typer

from airtrim.cli.base import Json, app, bar_on_errors, errors, errors_reported, print_report


@app.command()
def catalogue(
    places: Annotated[list[Path], typer.Argument(help="Finished files, and folders of them.")],
    table: Annotated[
        Path | None,
        typer.Option(help="CSV to write, with what each file says of itself, for `batch --tags`."),
    ] = None,
    as_json: Json = False,
) -> None:
    """Which episodes of a show are not like the others: loudness, peaks, tags, numbers, artwork."""
    from airtrim.compute.here import here
    from airtrim.compute.order import in_order
    from airtrim.core.release.catalogue import Published, findings, usual_lufs
    from airtrim.services.batch.planning import looked_over, sources_in, write_table

    with errors_reported():
        sources = sources_in(places)
        files: list[Published] = []
        with bar_on_errors() as bar:
            task = bar.add_task("Listening", total=max(1, len(sources)))
            for found in in_order(here(), looked_over, [(source,) for source in sources]):
                bar.advance(task)
                if isinstance(found, str):
                    errors.print(found, markup=False)
                else:
                    files.append(found)
        if table:
            write_table(files, table)
    out = findings(files)
    if as_json:
        report = {
            "usual_lufs": usual_lufs(files),
            "files": [one.model_dump(mode="json") for one in files],
            "findings": [one.model_dump() for one in out],
        }
        print_report(report, True)
    else:
        for one in out:
            print(f"{one.file}: {one.sentence} {one.remedy}")
        print(f"{len(files)} files, {len({one.file for one in out})} with something to mend.")
    if out:
        raise typer.Exit(1)
