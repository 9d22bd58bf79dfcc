"""What became of the files of a batch: read by the next one, and by people."""

import csv
import hashlib
import io
import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Literal, get_args

from pydantic import BaseModel

from airtrim.core.release.webpages import PAGES, put
from airtrim.core.travel.places import plain_cell
from airtrim.services.batch.planning import Item, Recipe

REPORT = "report.json"
_PAGE = "batch.html"

State = Literal["made", "as before", "failed", "set aside", "under way", "cancelled"]
STATES: tuple[State, ...] = get_args(State)


class Entry(BaseModel):
    """What became of a file; ``made_of`` tells of what and how it was made."""

    source: str
    output: str
    state: State
    sentence: str = ""
    made_of: str = ""
    seconds: float | None = None
    took_s: float = 0.0
    bytes: int = 0
    loudness_lufs: float | None = None
    true_peak_dbtp: float | None = None
    trimmed_s: float = 0.0
    strip_lufs: tuple[float | None, ...] = ()
    warnings: tuple[str, ...] = ()


def made_of(item: Item, recipe: Recipe) -> str:
    """Of what and how a file is made: another source, recipe or tags tell another."""
    told = item.source.stat()
    picture = recipe.artwork.stat().st_mtime_ns if recipe.artwork else 0
    parts = [told.st_size, told.st_mtime_ns, picture, recipe.model_dump_json(), item.tags]
    return hashlib.sha256(repr(parts).encode()).hexdigest()


def made_before(folder: Path) -> dict[str, Entry]:
    """What earlier batches made into a folder, by source."""
    try:
        entries = json.loads((folder / REPORT).read_text())["files"]
        return {entry["source"]: Entry.model_validate(entry) for entry in entries}
    except (OSError, ValueError, KeyError, TypeError):
        return {}


def is_made(item: Item, recipe: Recipe, before: Mapping[str, Entry]) -> bool:
    """Whether a file was made already, as it would be made now, and is still there."""
    return stands(before.get(str(item.source)), made_of(item, recipe), item.output)


def stands(entry: Entry | None, of: str, output: Path) -> bool:
    """Whether an entry tells of a file that was made ``of`` this (see ``made_of``), and that file
    is still there, whole."""
    return (
        entry is not None
        and entry.state in ("made", "as before")
        and entry.made_of == of
        and output.is_file()
        and output.stat().st_size == entry.bytes
    )


def write_reports(entries: Sequence[Entry], folder: Path) -> None:
    """The same as JSON, CSV and a page, each of them whole at any moment."""
    texts = ((REPORT, as_json), ("report.csv", as_table), ("report.html", as_page))
    for name, text in texts:
        put(folder / name, text(entries).encode())


def as_json(entries: Sequence[Entry]) -> str:
    """All that is known."""
    rows = [entry.model_dump(mode="json") for entry in entries]
    return json.dumps({"files": rows}, ensure_ascii=False, indent=1)


def as_table(entries: Sequence[Entry]) -> str:
    """CSV, a row each, without their strips."""
    columns = [name for name in Entry.model_fields if name not in ("strip_lufs", "made_of")]
    table = io.StringIO()
    writer = csv.DictWriter(table, columns, extrasaction="ignore")
    writer.writeheader()
    for entry in entries:
        row = {**entry.model_dump(mode="json"), "warnings": " ".join(entry.warnings)}
        writer.writerow({k: plain_cell(v) if isinstance(v, str) else v for k, v in row.items()})
    return table.getvalue()


def as_page(entries: Sequence[Entry]) -> str:
    """HTML, with a strip of loudness each."""
    counts = {state: sum(e.state == state for e in entries) for state in STATES}
    return PAGES.get_template(_PAGE).render(
        files=[
            {
                **entry.model_dump(mode="json"),
                "name": Path(entry.source).name,
                "points": _points(entry.strip_lufs),
            }
            for entry in entries
        ],
        counts={state: count for state, count in counts.items() if count},
    )


def _points(strip_lufs: Sequence[float | None]) -> str:
    """A file's loudness from beginning to end, as the points of a line in 200 by 24: the top is
    −10 LUFS, the bottom −40."""
    step = 200 / max(1, len(strip_lufs) - 1)
    low = [-40.0 if value is None else min(-10.0, max(-40.0, value)) for value in strip_lufs]
    return " ".join(f"{i * step:.1f},{-(v + 10) * 0.8:.1f}" for i, v in enumerate(low))
