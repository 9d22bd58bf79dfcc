"""What a batch is to make: a recipe, files, and the tags of each."""

import csv
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from pydantic import ConfigDict, ValidationError

from airtrim.core.media.decode import probe
from airtrim.core.release.catalogue import Published, published
from airtrim.core.release.export import FormatName
from airtrim.core.release.produce import Treatment
from airtrim.core.release.tags import own_tags
from airtrim.core.timeline.tags import Tags
from airtrim.core.travel.places import plain_cell, text_in_cell
from airtrim.errors import AirTrimError, BadInput, first_fault


class Recipe(Treatment):
    """What is done to each file."""

    model_config = ConfigDict(extra="forbid")

    ending: FormatName = "mp3"
    transcripts: bool = True
    artwork: Path | None = None


@dataclass(frozen=True, slots=True)
class Item:
    """A file to be made of another; ``seconds``: how long that is, where its header says."""

    source: Path
    output: Path
    tags: Tags
    seconds: float | None
    refused: str = ""
    """Why nothing can be made of it, if so."""


def sources_in(places: Sequence[Path]) -> list[Path]:
    """The files named, and all in the folders named, in order of their names. Raises BadInput
    where one is not there."""
    found: dict[Path, None] = {}
    for place in places:
        if place.is_dir():
            inside = (path for path in place.iterdir() if path.is_file())
            found.update(dict.fromkeys(sorted(p for p in inside if not p.name.startswith("."))))
        elif place.is_file():
            found[place] = None
        else:
            raise BadInput(f"“{place.name}” is not there.")
    return list(found)


def tags_from_name(stem: str) -> Tags:
    """The number and title that the name of a file tells.

    >>> found = tags_from_name("012_the_night_boat")
    >>> found.episode, found.title
    (12, 'the night boat')
    >>> tags_from_name("The night boat").episode is None
    True
    """
    words = stem.replace("_", " ").replace("-", " ").split()
    number = words[0].lstrip("#eE") if words else ""
    if len(words) > 1 and number.isdecimal() and len(number) < 5:
        return Tags(episode=int(number), title=" ".join(words[1:]))
    return Tags(title=" ".join(words))


def laid_over(under: Tags, *over: Tags) -> Tags:
    """Tags with what others say, one after another, in their place.

    >>> laid_over(Tags(title="a", season=1), Tags(title="b")).season
    1
    """
    for one in over:
        under = under.model_copy(update=one.model_dump(exclude_defaults=True))
    return under


def tags_in(table: Path) -> dict[str, Tags]:
    """Tags by file name, from a CSV with a column ``file`` and one for each tag. Raises BadInput
    where it is none, or a value is not what its tag can be."""
    try:
        with table.open(encoding="utf-8-sig", newline="") as file:
            rows = list(csv.DictReader(file))
    except (OSError, UnicodeDecodeError, csv.Error) as error:
        raise BadInput(f"“{table.name}” cannot be read as a CSV.") from error
    out = {}
    for number, row in enumerate(rows, 2):
        name = (row.pop("file", None) or "").strip()
        if not name:
            raise BadInput(f"“{table.name}”, line {number}: the column “file” says for which file.")
        try:
            told = {
                # What lies beyond the columns comes as a list, and is refused as such.
                key: text_in_cell(value) if isinstance(value, str) else value
                for key, value in row.items()
                if value
            }
            out[name] = Tags.model_validate(told)
        except ValidationError as error:
            said = first_fault(error)
            raise BadInput(f"“{table.name}”, line {number}, {said}") from error
    return out


def planned(
    sources: Sequence[Path],
    folder: Path,
    recipe: Recipe,
    common: Tags,
    tags: Mapping[str, Tags] | None = None,
) -> list[Item]:
    """What is to be made of each file, into ``folder``. Tags are what its name tells, over that
    what it says of itself, those that all have in ``common``, and the table. Raises BadInput where
    the table names a file that is not there, or two files would be made under one name."""
    tags = tags or {}
    missing = set(tags) - {source.name for source in sources}
    if missing:
        raise BadInput(f"The table names “{min(missing)}”, which is not there.")
    out: list[Item] = []
    taken: dict[Path, Path] = {}
    for source in sources:
        output = folder / f"{source.stem}.{recipe.ending}"
        if output in taken:
            raise BadInput(
                f"“{source.name}” and “{taken[output].name}” would both become “{output.name}”. "
                "Give one of them another name."
            )
        taken[output] = source
        whole = tags_from_name(source.stem)
        try:
            seconds = probe(source).duration_s
            whole = laid_over(whole, own_tags(source), common, tags.get(source.name, Tags()))
            item = Item(source, output, whole, seconds)
        except (AirTrimError, OSError) as error:
            item = Item(source, output, whole, None, refused=str(error))
        out.append(item)
    return out


def looked_over(source: Path) -> Published | str:
    """A finished file, or why it is none; see ``published``."""
    try:
        return published(source)
    except (AirTrimError, OSError) as error:
        return f"{source.name}: {error}"


def write_table(files: Sequence[Published], table: Path) -> None:
    """The tags of finished files as ``tags_in`` reads them, to be looked through and completed."""
    names = ("title", "show", "artist", "season", "episode", "year", "genre", "description")
    with table.open("w", encoding="utf-8-sig", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(("file", *names))
        for one in files:
            said = (getattr(one.tags, name) for name in names)
            cells = ("" if value is None else plain_cell(str(value)) for value in said)
            writer.writerow((one.file, *cells))
