"""Looking over what goes out: an episode, or a finished file."""

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from airtrim.cli.base import (
    Data,
    Json,
    app,
    errors_reported,
    opened,
    print_report,
    settings_of_data,
)
from airtrim.cli.base import check as check_there

if TYPE_CHECKING:
    from airtrim.core.release.checks import Line

_SIGNS = {"good": "ok  ", "look": "look", "stop": "STOP"}


@app.command()
def check(
    what: Annotated[str, typer.Argument(help="An episode's number, or a sound file.")],
    data: Data = None,
    as_json: Json = False,
) -> None:
    """Check an episode or a file before it goes out. Ends with 1 where it ought not to."""
    from airtrim.core.release.checks import word_for

    with errors_reported():
        lines = _of_episode(int(what), data) if what.isdigit() else _of_file(Path(what))
    word = word_for(lines)
    ready = not any(line.state == "stop" for line in lines)
    if as_json:
        print_report({"word": word, "ready": ready, "lines": [asdict(one) for one in lines]}, True)
    else:
        for line in lines:
            print(f"{_SIGNS[line.state]}  {line.title}: {line.reason}")
        print(word)
    if not ready:
        raise typer.Exit(1)


def _of_file(path: Path) -> "list[Line]":
    from airtrim.core.release.checkfile import check_file

    check_there(path)
    return check_file(path)


def _of_episode(episode_id: int, data: Path | None) -> "list[Line]":
    from airtrim.services.checking import check_episode

    with opened(settings_of_data(data)) as store:
        episode, _ = store.episode(episode_id)
        return check_episode(store, episode_id, episode.head_id or 0)
