"""Starting Air Trim, with or without the demo, and telling what its API is like."""

import json
import os
import sys
from pathlib import Path
from typing import Annotated

import typer

from airtrim.cli.base import app, errors, errors_reported, settings_with


@app.command()
def serve(
    port: Annotated[int | None, typer.Option(help="Port, 8765 if not given.")] = None,
    data: Annotated[Path | None, typer.Option(help="Folder of data.")] = None,
    host: Annotated[
        str | None, typer.Option(help="Address; others than 127.0.0.1 need a token.")
    ] = None,
) -> None:
    """Start Air Trim and its worker."""
    from airtrim.api.serving import serve as serve_until_stopped
    from airtrim.logs import set_up

    settings = settings_with(port=port, data_dir=data, host=host)
    set_up(settings.log_format, settings.log_level)
    with errors_reported():
        serve_until_stopped(settings, lambda address: errors.print(f"Air Trim is at {address}"))


@app.command()
def demo(
    port: Annotated[int | None, typer.Option(help="Port, 8765 if not given.")] = None,
    data: Annotated[Path, typer.Option(help="Folder of data.")] = Path(".demo"),
    fill_only: Annotated[bool, typer.Option(help="Lay out the data and stop.")] = False,
) -> None:
    """Start Air Trim with the demo episode, and the stand-in host to release it on."""
    from airtrim.cli.standins import known_to_demo, running_host
    from airtrim.demo import fill, source

    with errors_reported():
        fill(data, source())
        if fill_only:
            return
        with running_host(data.with_name(f"{data.name}-host")) as opened:
            if opened:
                known_to_demo(data)
            else:
                errors.print("The ports of the stand-in host are in use; it was not started.")
            os.environ.setdefault("AIRTRIM_SIMULATED_MICROPHONES", "1")
            serve(port=port, data=data)


@app.command(hidden=True)
def openapi() -> None:
    """Print the description of the API that the interface's client is made from."""
    import tempfile

    from airtrim.api.app import create_app
    from airtrim.settings import Settings

    with tempfile.TemporaryDirectory() as folder:
        json.dump(create_app(Settings(data_dir=Path(folder)), worker=False).openapi(), sys.stdout)
