"""What became of the files of a batch: read by the next one, and by people."""

import csv
import hashlib
import io
import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Literal, get_args

from jinja2 import Environment, PackageLoader, select_autoescape
from pydantic import BaseModel

from airtrim.services.batch.planning import Item, Recipe

REPORT = "report.json"
_PAGE = "batch.html"

State = Literal["made", "as before", "failed", "set aside"]
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
    entry = before.get(str(item.source))
    return (
        entry is not None
        and entry.state in ("made", "as before")
        and entry.made_of == made_of(item, recipe)
        and item.output.is_file()
        and item.output.stat().st_size == entry.bytes
    )


def write_reports(entries: Sequence[Entry], folder: Path) -> None:
    """The same as JSON, CSV and a page, each of them whole at any moment."""
    rows = [entry.model_dump(mode="json") for entry in entries]
    _write(folder / REPORT, json.dumps({"files": rows}, ensure_ascii=False, indent=1))
    columns = [name for name in Entry.model_fields if name not in ("strip_lufs", "made_of")]
    table = io.StringIO()
    writer = csv.DictWriter(table, columns, extrasaction="ignore")
    writer.writeheader()
    for row in rows:
        warnings = " ".join(row["warnings"])
        writer.writerow({k: _plain(v) for k, v in {**row, "warnings": warnings}.items()})
    _write(folder / "report.csv", table.getvalue())
    pages = Environment(
        loader=PackageLoader("airtrim.core.release", "pages"), autoescape=select_autoescape()
    )
    counts = {state: sum(e.state == state for e in entries) for state in STATES}
    text = pages.get_template(_PAGE).render(
        files=[{**row, "name": Path(row["source"]).name, "points": _points(row)} for row in rows],
        counts={state: count for state, count in counts.items() if count},
    )
    _write(folder / "report.html", text)


def _plain(value: object) -> object:
    """A cell that begins like a formula would be run by a spreadsheet."""
    return f"'{value}" if isinstance(value, str) and value[:1] in ("=", "+", "@") else value


def _points(row: Mapping[str, object]) -> str:
    """A file's loudness from beginning to end, as the points of a line in 200 by 24: the top is
    −10 LUFS, the bottom −40."""
    strip = row["strip_lufs"]
    assert isinstance(strip, list)
    step = 200 / max(1, len(strip) - 1)
    low = [-40.0 if value is None else min(-10.0, max(-40.0, value)) for value in strip]
    return " ".join(f"{i * step:.1f},{-(v + 10) * 0.8:.1f}" for i, v in enumerate(low))


def _write(path: Path, text: str) -> None:
    part = path.with_name(f".{path.name}.part")
    part.write_text(text, encoding="utf-8", newline="")
    part.replace(path)
