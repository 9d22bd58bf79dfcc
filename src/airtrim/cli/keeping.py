"""Backups, and looking through all data."""

from contextlib import ExitStack
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from airtrim.cli.base import (
    Data,
    Json,
    app,
    bar_on_errors,
    errors_reported,
    filling,
    print_report,
    settings_of_data,
    settings_with,
)


@app.command()
def backup(
    target: Annotated[Path, typer.Argument(help="A folder of backups, or a file: NAME.zip.")],
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Back up all data, also while Air Trim runs. A folder takes in what is new only."""
    from airtrim.store.backup import back_up

    root = settings_with(data_dir=data).data_dir
    with errors_reported(), bar_on_errors() as bar:
        done = back_up(root, target, filling(bar, "Backing up"))
    print_report({**asdict(done), "made_at": done.made_at.isoformat()}, as_json)


@app.command()
def restore(
    source: Annotated[Path, typer.Argument(help="A folder of backups, or a zip of one.")],
    data: Data = None,
    replace: Annotated[
        bool, typer.Option("--replace", help="Move aside what is in the folder of data.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Put the newest backup into the folder of data; every file is held against its checksum."""
    from airtrim.store.backup import restore as put_back

    root = settings_with(data_dir=data).data_dir
    with errors_reported(), bar_on_errors() as bar:
        files = put_back(source, root, replace=replace, progress=filling(bar, "Restoring"))
    print_report({"restored": str(root), "files": files}, as_json)


@app.command("check-data")
def check_all(
    data: Data = None,
    repair: Annotated[
        bool,
        typer.Option("--repair", help="Repair what can be computed again. Stop Air Trim first."),
    ] = False,
    restore_files: Annotated[
        bool,
        typer.Option("--restore-files", help="Move files from quarantine back to their places."),
    ] = False,
    adopt: Annotated[
        bool,
        typer.Option("--adopt", help="Accept a database that does not belong to the recordings."),
    ] = False,
    as_json: Json = False,
) -> None:
    """Check all data: checksums, rows, files and histories. Exit code 1 if anything is wrong."""
    from airtrim.store.checking import check_data
    from airtrim.store.lock import FolderLock
    from airtrim.store.store import Store

    settings = settings_with(data_dir=data) if adopt else settings_of_data(data)
    root = settings.data_dir
    with errors_reported(), bar_on_errors() as bar, ExitStack() as stack:
        if repair or restore_files or adopt:
            stack.callback(FolderLock(root).release)
        store = Store(root, settings.keep_free_bytes, adopt=adopt)
        stack.callback(store.close)
        found = check_data(
            store,
            repair=repair,
            restore_files=restore_files,
            progress=filling(bar, "Checking"),
        )
    if as_json:
        print_report({"sound": found.sound, **asdict(found)}, True)
    else:
        for finding in found.findings:
            print(f"{finding.what}{' It was made anew.' if finding.repaired else ''}")
        for note in found.notes:
            print(note)
        counted = f"{found.episodes} episodes, {found.edits} changes, {found.takes} recordings"
        print(f"Checked {counted}: {'all is well.' if found.sound else 'see above.'}")
    if not found.sound:
        raise typer.Exit(1)
