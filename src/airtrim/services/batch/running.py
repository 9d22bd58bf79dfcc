"""A batch, made by processes beside each other.

What was made is noted after each file, so a batch that ended early goes on where it was, and a
second one makes what is new or changed. One bad file never stops the rest; one that ends its
process twice is set aside.
"""

import os
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, wait
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from airtrim.compute.cluster import compute_at
from airtrim.compute.here import Here, room_here
from airtrim.compute.inline import INLINE
from airtrim.core.release.produce import Request, Treatment, run
from airtrim.core.release.tags import artwork_if_shown
from airtrim.errors import AirTrimError, EndedWorker
from airtrim.services.batch.planning import Item, Recipe
from airtrim.services.batch.report import Entry, is_made, made_before, made_of, write_reports
from airtrim.settings import Settings

_WORKER_BYTES = 1_500_000_000
"""What a worker needs at most: recogniser, aligners, and a stretch of sound."""
PACE = 0.15
"""Seconds of work for a second of sound where no batch has told it yet."""
_USUAL_KBITS = 128

Make = Callable[[Item, Recipe], dict[str, Any]]
Told = Callable[[Entry, float, float | None], None]
"""Called after each file with how much is done (0–1) and the seconds that are left."""


@dataclass(frozen=True, slots=True)
class Estimate:
    """What a batch will take: how many files are left to make, their seconds of sound, the seconds
    of work with some workers, and the bytes that come out."""

    files: int
    sound_s: float
    work_s: float
    bytes: int


def estimated(items: Sequence[Item], recipe: Recipe, folder: Path, workers: int) -> Estimate:
    """By what earlier batches took here, where there were any."""
    before = made_before(folder)
    left = [i for i in items if not i.refused and not is_made(i, recipe, before)]
    sound = sum(item.seconds or 0.0 for item in left)
    known = [e for e in before.values() if e.state in ("made", "as before") and e.seconds]
    heard = sum(e.seconds or 0.0 for e in known)
    pace = sum(e.took_s for e in known) / heard if heard else PACE
    kbits = recipe.kbits or _USUAL_KBITS
    return Estimate(len(left), sound, sound * pace / max(1, workers), round(sound * kbits * 125))


def workers_here() -> int:
    """As many as this machine has cores and memory for."""
    return room_here(_WORKER_BYTES)


def make(item: Item, recipe: Recipe) -> dict[str, Any]:
    """Make one file, in a worker. What is heavy is done in that very process, or by other machines
    where the settings name them, which do first what is not of a batch."""
    address = Settings().compute
    compute = compute_at(address, urgent=False) if address else INLINE
    treatment = {name: getattr(recipe, name) for name in Treatment.model_fields}
    if not (recipe.tidy or recipe.level or recipe.transcripts):
        treatment["model_folder"] = None
    request = Request(
        **treatment,
        files=(item.source,),
        output=item.output,
        tags=item.tags,
        artwork=recipe.artwork.read_bytes() if recipe.artwork else artwork_if_shown(item.source),
        transcript=item.output.with_suffix(".vtt") if recipe.transcripts else None,
    )
    made = run(request, compute=compute)
    alone = f"{compute.alone.capitalize()}." if compute.alone else ""
    return {**made, "warnings": [*made["warnings"], *filter(None, [alone])]}


def run_batch(
    items: Sequence[Item],
    recipe: Recipe,
    folder: Path,
    *,
    workers: int,
    told: Told = lambda _entry, _done, _left: None,
    make: Make = make,
) -> list[Entry]:
    """Make what is not made yet, and note each file in the folder's reports as it is done; returns
    what became of all, in order."""
    before = made_before(folder)
    found: dict[str, Entry] = {}
    length = {str(item.source): item.seconds or 1.0 for item in items}
    whole, begun, fresh = sum(length.values()) or 1.0, time.monotonic(), 0.0

    def note(entry: Entry) -> None:
        nonlocal fresh
        found[entry.source] = entry
        fresh += length[entry.source]
        write_reports([found[s] for s in length if s in found], folder)
        tell(entry)

    def tell(entry: Entry) -> None:
        done = sum(length[source] for source in found)
        took = time.monotonic() - begun
        left = (whole - done) * took / fresh if fresh else None
        told(entry, done / whole, left)

    waiting = []
    for item in items:
        if item.refused:
            known = _failed(item, item.refused)
        elif is_made(item, recipe, before):
            known = before[str(item.source)].model_copy(update={"state": "as before"})
        else:
            waiting.append(item)
            continue
        found[known.source] = known
        tell(known)
    write_reports(list(found.values()), folder)
    for item, answer in _done(waiting, recipe, make, workers):
        note(_entry(item, recipe, answer))
    return [found[source] for source in length]


def _done(
    items: Sequence[Item], recipe: Recipe, make: Make, workers: int
) -> Iterator[tuple[Item, dict[str, Any] | Exception]]:
    """Each item with what was made of it, or why it was not, as soon as it is known."""
    # Of what is ended in the middle of its work something is always left for the tracker to free.
    os.environ.setdefault("PYTHONWARNINGS", "ignore::UserWarning:multiprocessing.resource_tracker")
    compute = Here(workers)
    begun = {compute.submit(_timed, make, item, recipe): item for item in items}
    try:
        while begun:
            ended, _ = wait(begun, return_when=FIRST_COMPLETED)
            all_ends = None
            for one in ended:
                item, error = begun.pop(one), one.exception()
                if error is None:
                    yield item, one.result()
                elif isinstance(error, Exception):
                    yield item, error
                else:
                    all_ends = error
            if all_ends is not None:  # once what was made beside it is noted
                raise all_ends
    finally:
        for one in begun:
            one.cancel()
        compute.end()


def _timed(make: Make, item: Item, recipe: Recipe) -> dict[str, Any]:
    begun = time.monotonic()
    return {**make(item, recipe), "took_s": time.monotonic() - begun}


def _entry(item: Item, recipe: Recipe, answer: dict[str, Any] | Exception) -> Entry:
    if isinstance(answer, EndedWorker):
        return _failed(item, str(answer)).model_copy(update={"state": "set aside"})
    if isinstance(answer, Exception):
        if isinstance(answer, (AirTrimError, OSError, ValidationError)):
            return _failed(item, str(answer))
        return _failed(item, f"It failed inside Air Trim ({type(answer).__name__}).")
    measured = answer["measured"]
    return Entry(
        source=str(item.source),
        output=str(item.output),
        state="made",
        made_of=made_of(item, recipe),
        seconds=answer["raw_s"],
        took_s=round(answer["took_s"], 2),
        bytes=answer["bytes"],
        loudness_lufs=measured["integrated_lufs"],
        true_peak_dbtp=measured["true_peak_dbtp"],
        trimmed_s=round(answer["trimmed_s"], 2),
        strip_lufs=answer["loudness_lufs"],
        warnings=(*answer["warnings"], *filter(None, [answer["not_levelled"]])),
    )


def _failed(item: Item, sentence: str) -> Entry:
    return Entry(
        source=str(item.source), output=str(item.output), state="failed", sentence=sentence
    )
