"""Ogg files that were joined: several streams one after another in one file (RFC 3533, section 4).

FFmpeg stops at a second stream that has another rate or other channels, so each is read by itself.
"""

from pathlib import Path
from typing import BinaryIO

_HEADER_BYTES = 27
_BEGINS, _MOST_LINKS = 0x02, 1000


def links(path: Path) -> list[tuple[int, int]]:
    """The byte ranges of the streams that follow each other in an Ogg file, as ``(start, end)``.
    One range for the whole file where there is one stream, or the file is no Ogg."""
    size = path.stat().st_size
    with path.open("rb") as file:
        starts = _starts(file, size)
    if len(starts) < 2:
        return [(0, size)]
    return list(zip(starts, [*starts[1:], size], strict=True))


def _starts(file: BinaryIO, size: int) -> list[int]:
    """Where a stream begins after pages of another; the first pages of streams that run side by
    side follow each other."""
    starts: list[int] = []
    at, beginning = 0, False
    while at + _HEADER_BYTES <= size and len(starts) < _MOST_LINKS:
        file.seek(at)
        header = file.read(_HEADER_BYTES)
        if header[:4] != b"OggS":
            break  # damaged, or no Ogg: the last range holds the rest
        begins = bool(header[5] & _BEGINS)
        if begins and not beginning:
            starts.append(at)
        beginning = begins
        at += _HEADER_BYTES + header[26] + sum(file.read(header[26]))
    return starts
