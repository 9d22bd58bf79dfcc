"""What all commands share: options, a bar, and errors that end in a sentence."""

import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, Literal, NoReturn

import typer
from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from airtrim.errors import AirTrimError, first_fault

if TYPE_CHECKING:
    from airtrim.settings import Settings
    from airtrim.store.store import Store

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Air Trim, for scripts.")

Json = Annotated[bool, typer.Option("--json", help="Print JSON on standard output.")]
Sound = Annotated[Path, typer.Argument(help="A sound file.", dir_okay=False)]
Data = Annotated[Path | None, typer.Option("--data", help="Folder of data.")]
Target = Annotated[float | None, typer.Option(help="LUFS; by layout if not given.")]
Ceiling = Annotated[float, typer.Option(help="Highest true peak, dBTP.")]
Tidy = Annotated[
    Literal["gentle", "close"] | None, typer.Option(help="Settle snags: gentle or close.")
]
Clean = Annotated[float | None, typer.Option(help="Lower the room, 0 to 1.", min=0.0, max=1.0)]
Echo = Annotated[bool, typer.Option("--echo", help="Lower the echo of the room.")]
Level = Annotated[bool, typer.Option("--level", help="Bring phrases nearer first.")]
errors = Console(stderr=True)


def fail(sentence: str) -> NoReturn:
    errors.print(sentence, style="red", markup=False)
    raise typer.Exit(1)


def check(path: Path) -> None:
    if not path.is_file():
        fail(f"“{path.name}” is not there.")


def check_wav(output: Path) -> None:
    if output.suffix.lower() != ".wav":
        fail(f"“{output.name}”: the output has to end in .wav.")


def bar_on_errors() -> Progress:
    return Progress(
        TextColumn("{task.description}"), BarColumn(), TimeElapsedColumn(), console=errors
    )


def print_report(value: dict[str, Any], as_json: bool) -> None:
    if as_json:
        print(json.dumps(value, ensure_ascii=False, indent=2))
        return
    for key, item in value.items():
        print(f"{key}: {round(item, 2) if isinstance(item, float) else item}")


@contextmanager
def errors_reported() -> Iterator[None]:
    """An error ends in its sentence."""
    from pydantic import ValidationError

    try:
        yield
    except ValidationError as error:
        fail(first_fault(error))
    except AirTrimError as error:
        fail(str(error))
    except OSError as error:
        fail(f"“{error.filename}”: {error.strerror}.")


@contextmanager
def opened(settings: "Settings") -> Iterator["Store"]:
    """What is kept in a folder of data, for one command; an error ends in its sentence."""
    from airtrim.compute.cluster import compute_at
    from airtrim.store.store import Store

    with errors_reported():
        store = Store(settings.data_dir, settings.keep_free_bytes)
        store.compute = compute_at(settings.compute)
        try:
            yield store
        finally:
            store.close()


def filling(bar: Progress, doing: str) -> Callable[[float, str], None]:
    task = bar.add_task(doing, total=1.0)
    return lambda fraction, now: bar.update(task, completed=fraction, description=now)


def seconds(text: str, separator: str) -> tuple[float, ...]:
    try:
        return tuple(float(part) for part in text.split(separator))
    except ValueError:
        fail(f"“{text}” is not a list of seconds.")


def span_of(text: str) -> tuple[float, float]:
    parts = seconds(text, "-")
    if len(parts) != 2 or parts[0] >= parts[1]:
        fail(f"“{text}” is not a span: write START-END in seconds, like 12.5-13.1.")
    return parts[0], parts[1]


def settings_of_data(data: Path | None) -> "Settings":
    """Settings with a folder of data that is there."""
    settings = settings_with(data_dir=data)
    if not (settings.data_dir / "airtrim.db").exists():
        fail(f"There are no data of Air Trim in “{settings.data_dir}”.")
    return settings


def settings_with(**given: Any) -> "Settings":
    """Settings from the environment, with what was given on the command line over them."""
    from pydantic import ValidationError

    from airtrim.settings import Settings

    try:
        found = Settings()
    except ValidationError as error:
        first = error.errors()[0]
        fail(f"AIRTRIM_{str(first['loc'][0]).upper()}: {first['msg']}.")
    return found.model_copy(update={k: v for k, v in given.items() if v is not None})
