"""Episodes that travel from one machine to another."""

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from airtrim.cli.base import (
    Data,
    Json,
    app,
    bar_on_errors,
    filling,
    opened,
    print_report,
    settings_of_data,
    settings_with,
)


@app.command()
def pack(
    episode: Annotated[int, typer.Argument(help="The number in its address.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="NAME.airtrim.zip")],
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Write an episode as one file: recordings, document, its whole history."""
    from airtrim.store.packing import pack as write

    with opened(settings_of_data(data)) as store, bar_on_errors() as bar:
        done = write(store, episode, output, filling(bar, "Packing"))
    print_report({"file": str(output), **asdict(done)}, as_json)


@app.command()
def unpack(
    file: Annotated[Path, typer.Argument(help="NAME.airtrim.zip")],
    show: Annotated[
        int | None, typer.Option(help="The number of the show it goes to; else by its name.")
    ] = None,
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Open an episode that was packed, as a new one on the shelf; also while Air Trim runs."""
    from airtrim.store.unpacking import unpack as open_pack

    with opened(settings_with(data_dir=data)) as store, bar_on_errors() as bar:
        done = open_pack(store, file, show, filling(bar, "Opening"))
    print_report(asdict(done), as_json)


@app.command()
def tracks(
    episode: Annotated[int, typer.Argument(help="The number in its address.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="A folder.")],
    with_sound: Annotated[
        bool, typer.Option("--with-sound", help="With what is done to their sound and level.")
    ] = False,
    wav: Annotated[bool, typer.Option("--wav", help="WAV with floats instead of FLAC.")] = False,
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Write each track as a file of its own, all as long as the episode; and beside them the cut
    list (OpenTimelineIO), the chapters (WebVTT), and parts and markers (CSV)."""
    from airtrim.services.travelling import ListForm, listed, write_tracks

    lists: dict[ListForm, str] = {
        "otio": "cut list.otio",
        "vtt": "chapters.vtt",
        "csv": "places.csv",
    }
    with opened(settings_of_data(data)) as store, bar_on_errors() as bar:
        done = write_tracks(
            store,
            episode,
            None,
            output,
            "wav" if wav else "flac",
            filling(bar, "Writing"),
            with_sound=with_sound,
        )
        for form, name in lists.items():
            (output / name).write_text(listed(store, episode, None, form))
    print_report({"tracks": [asdict(one) for one in done], "lists": [*lists.values()]}, as_json)
