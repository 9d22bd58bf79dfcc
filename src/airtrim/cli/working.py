"""Doing heavy work for an Air Trim on another machine."""

from functools import partial
from typing import Annotated

import typer

from airtrim.cli.base import app, errors, errors_reported


@app.command()
def worker(
    scheduler: Annotated[str, typer.Argument(help="Its address, as tcp://HOST:8786.")],
    processes: Annotated[
        int | None, typer.Option(help="At once; as many as fit if not given.", min=1, max=256)
    ] = None,
) -> None:
    """Recognise and clean for the Air Trim whose AIRTRIM_COMPUTE names the same scheduler."""
    from airtrim.compute.here import room_here
    from airtrim.compute.working import work_for
    from airtrim.services.computing import begin, recognisers_here
    from airtrim.settings import Settings

    def ready(count: int) -> None:
        many = "process is" if count == 1 else "processes are"
        errors.print(f"{count} {many} ready for {scheduler}. Ctrl+C ends this.", markup=False)

    with errors_reported():
        weights = recognisers_here(Settings())
        work_for(
            scheduler,
            processes or room_here(),
            frozenset(one.mark for one in weights),
            partial(begin, weights),
            ready,
        )
