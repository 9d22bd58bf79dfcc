"""Parts and markers as files that other tools read: WebVTT chapters, and CSV."""

import csv
import io

from airtrim.core.media import FRAME_RATE
from airtrim.core.release.transcript import clock, escaped, in_one_line
from airtrim.core.timeline.model import Timeline


def chapters_vtt(timeline: Timeline) -> str:
    """The parts as chapters (W3C WebVTT, section 1.4: each cue's text is a chapter's title)."""
    out = ["WEBVTT", ""]
    for section, end in timeline.parts:
        if end > section.at:
            title = escaped(in_one_line(section.name))
            out += [f"{clock(section.at)} --> {clock(end)}", title, ""]
    return "\n".join(out)


def places_csv(timeline: Timeline) -> str:
    """Parts and markers in order, a row each: what it is, name, start, end and length in seconds
    (RFC 4180). A marker has no end."""
    rows: list[tuple[int, str, str, int | None]] = [
        (section.at, "part", section.name, end) for section, end in timeline.parts
    ]
    rows += [(marker.at, marker.kind, marker.name, None) for marker in timeline.markers]
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["kind", "name", "start_s", "end_s", "duration_s"])
    for at, kind, name, end in sorted(rows, key=lambda row: row[0]):
        tail = ("", "") if end is None else (_seconds(end), _seconds(end - at))
        table.writerow([kind, plain_cell(name), _seconds(at), *tail])
    return out.getvalue()


def _seconds(frames: int) -> str:
    return f"{frames / FRAME_RATE:.6f}"


_FORMULA = ("=", "+", "-", "@")


def plain_cell(text: str) -> str:
    """A text in one line that no spreadsheet takes for a formula (OWASP, CSV injection)."""
    line = in_one_line(text)
    return f"'{line}" if line.startswith(_FORMULA) else line


def text_in_cell(cell: str) -> str:
    """The text of which ``plain_cell`` made a cell.

    >>> text_in_cell(plain_cell("-5 degrees")), text_in_cell("'tis the season")
    ('-5 degrees', "'tis the season")
    """
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(_FORMULA) else cell
