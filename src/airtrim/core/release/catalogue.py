"""The finished files of a show side by side: which of them are not like the others."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from statistics import median
from typing import Literal

from pydantic import BaseModel

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.meter import measure
from airtrim.core.media.decode import probe
from airtrim.core.release.tags import own_tags, shown_artwork
from airtrim.core.timeline.tags import Tags, lacking
from airtrim.errors import BadInput


@dataclass(frozen=True, slots=True)
class CatalogueLimits:
    """When a file stands out (common practice)."""

    off_lu: float = 1.5
    """From the median of all: what a listener reaches for the knob at."""
    ceiling_dbtp: float = -0.95
    """−1 dBTP, and what measuring it differs by."""


LIMITS = CatalogueLimits()

What = Literal["loudness", "peaks", "tags", "number", "artwork"]


class Published(BaseModel):
    """A finished file: how long and loud it is, and what it says of itself. ``artwork``: what is
    wrong with its picture, empty where nothing is."""

    file: str
    seconds: float
    channels: int
    loudness_lufs: float | None
    true_peak_dbtp: float | None
    tags: Tags
    artwork: str


class Finding(BaseModel):
    """What is not right with a file, and what would mend it."""

    file: str
    what: What
    sentence: str
    remedy: str


def published(path: Path) -> Published:
    """Look a finished file over. Raises BadInput where it cannot be read."""
    info = probe(path)
    found = measure(meter_file(path))
    wrong = ""
    try:
        shown_artwork(path)
    except BadInput as error:
        wrong = str(error)
    return Published(
        file=path.name,
        seconds=info.duration_s or 0.0,
        channels=info.channels,
        loudness_lufs=found.integrated_lufs,
        true_peak_dbtp=found.true_peak_dbtp,
        tags=own_tags(path),
        artwork=wrong,
    )


def usual_lufs(files: Sequence[Published]) -> dict[int, float]:
    """The median loudness of the files of each number of channels.

    Mono is held to another loudness than stereo by most platforms, so they are not compared.
    """
    loud: dict[int, list[float]] = {}
    for one in files:
        if one.loudness_lufs is not None:
            loud.setdefault(one.channels, []).append(one.loudness_lufs)
    return {channels: median(values) for channels, values in loud.items()}


def findings(files: Sequence[Published]) -> list[Finding]:
    """What stands out, file by file, in their order."""
    usual = usual_lufs(files)
    numbers: dict[tuple[int | None, int], list[str]] = {}
    for one in files:
        if one.tags.episode is not None:
            numbers.setdefault((one.tags.season, one.tags.episode), []).append(one.file)
    out: list[Finding] = []
    for one in files:
        out += _of_sound(one, usual)
        out += _of_labels(one)
        if one.tags.episode is not None:
            same = numbers[one.tags.season, one.tags.episode]
            if len(same) > 1:
                others = ", ".join(f"“{name}”" for name in same if name != one.file)
                sentence = f"Number {one.tags.episode} is also that of {others}."
                out.append(_finding(one, "number", sentence, "Give one of them another number."))
    return out


def _of_sound(one: Published, usual: dict[int, float]) -> list[Finding]:
    if one.loudness_lufs is None:
        return [_finding(one, "loudness", "There is nothing to hear in it.", "Make it anew.")]
    out = []
    middle = usual[one.channels]
    off = one.loudness_lufs - middle
    if abs(off) > LIMITS.off_lu:
        sentence = f"{abs(off):.1f} LU {'louder' if off > 0 else 'softer'} than the show’s median."
        out.append(_finding(one, "loudness", sentence, _lufs(f"Make it at {middle:.0f} LUFS.")))
    if one.true_peak_dbtp is not None and one.true_peak_dbtp > LIMITS.ceiling_dbtp:
        sentence = _lufs(f"Its loudest moment is {one.true_peak_dbtp:.1f} dBTP.")
        out.append(_finding(one, "peaks", sentence, "Make it anew, under −1 dBTP."))
    return out


def _of_labels(one: Published) -> list[Finding]:
    out = []
    missing = lacking(one.tags)
    if missing:
        sentence = f"Missing: {', '.join(missing)}."
        out.append(_finding(one, "tags", sentence, "Fill them in in the table."))
    if one.artwork:
        out.append(_finding(one, "artwork", one.artwork, "Make it with the show’s picture."))
    return out


def _finding(one: Published, what: What, sentence: str, remedy: str) -> Finding:
    return Finding(file=one.file, what=what, sentence=sentence, remedy=remedy)


def _lufs(text: str) -> str:
    return text.replace("-", "−")
