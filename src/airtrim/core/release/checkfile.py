"""Looking a finished file over, whoever made it."""

from pathlib import Path

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.meter import measure
from airtrim.core.media.decode import probe
from airtrim.core.release.artwork import ARTWORK_LEAST_PX
from airtrim.core.release.checks import Line, State
from airtrim.core.release.tags import read_chapters, read_tags

_TARGETS = {1: -19.0, 2: -16.0}
"""In LUFS, by channels (common practice)."""
_OFF_LU = 1.0
_CEILING_DBTP = -1.0
_ASKED = ("title", "show", "artist", "description")


def check_file(path: Path) -> list[Line]:
    """Every line for a sound file. Raises BadInput where it cannot be read."""
    info = probe(path)
    found = measure(meter_file(path))
    tags = read_tags(path)
    target = _TARGETS.get(info.channels, -16.0)
    loud, peak = found.integrated_lufs, found.true_peak_dbtp
    lines = []
    if loud is None:
        lines.append(Line("loudness", "Loudness", "stop", "There is nothing to hear in it."))
    else:
        said = f"{loud:.1f} LUFS; {target:.0f} is usual for {info.channels} channel(s)."
        near = abs(loud - target) <= _OFF_LU
        state: State = "good" if near else "look"
        lines.append(Line("loudness", "Loudness", state, said.replace("-", "−")))
    if peak is not None:
        state = "good" if peak <= _CEILING_DBTP + 0.05 else "look"
        said = f"{peak:.1f} dBTP; at most {_CEILING_DBTP:.0f} is usual."
        lines.append(Line("peaks", "Loudest moments", state, said.replace("-", "−")))
    missing = [name for name in _ASKED if not tags.get(name)]
    if "title" in missing:
        lines.append(Line("tags", "Tags", "stop", "It has no title."))
    elif missing:
        lines.append(Line("tags", "Tags", "look", f"Missing: {', '.join(missing)}."))
    else:
        lines.append(Line("tags", "Tags", "good", f"“{tags['title']}”, {tags['show']}."))
    lines.append(_artwork(tags.get("artwork")))
    lines.append(_chapters(read_chapters(path)))
    return lines


def _artwork(size: str | None) -> Line:
    if size is None:
        return Line("artwork", "Artwork", "look", "There is none in the file.")
    width, height = (int(part) for part in size.split(" × "))
    if width != height or width < ARTWORK_LEAST_PX:
        said = f"{size} pixels; apps want a square of {ARTWORK_LEAST_PX} or more."
        return Line("artwork", "Artwork", "look", said)
    return Line("artwork", "Artwork", "good", f"{size} pixels.")


def _chapters(found: list[tuple[int, int, str]]) -> Line:
    if not found:
        return Line("chapters", "Chapters", "good", "None.")
    if found[0][0] > 0:
        said = f"The first begins at {found[0][0] / 1000:.1f} s; players want one at 0:00."
        return Line("chapters", "Chapters", "look", said)
    return Line("chapters", "Chapters", "good", f"{len(found)}.")
