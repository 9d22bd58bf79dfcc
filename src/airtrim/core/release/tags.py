"""The tags and chapters of a finished file as another parser reads them."""

import re
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

import av
from av.container import InputContainer
from pydantic import ValidationError

from airtrim.core.media.opening import opened
from airtrim.core.release.artwork import MOST_PIXELS, check_artwork
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput

NO_PICTURE = "There is no picture in the file."
_NUMBERS = ("season", "episode", "year")

_FFMPEG_NAMES = {
    "title": ("title", "TIT2"),
    "show": ("album", "TALB"),
    "artist": ("artist", "TPE1"),
    "album_artist": ("album_artist", "TPE2"),
    "season": ("disc", "TPOS"),
    "episode": ("track", "TRCK"),
    "year": ("date", "TYER", "TDRC"),
    "genre": ("genre", "TCON"),
    "description": ("comment", "description"),
    "language": ("language", "TLAN"),
    "copyright": ("copyright", "TCOP"),
    "link": ("link",),
}


def read_tags(path: Path) -> dict[str, str]:
    """The tags of a file as FFmpeg reads them (not the parser that wrote them), by our names.

    ``artwork`` is there, as ``"1400 × 1400"``, when a picture can be decoded from the file.
    """
    with opened(path) as container:
        sound = container.streams.audio[0].metadata  # where Ogg keeps them
        found = {key.lower(): value for key, value in (sound | container.metadata).items()}
        out = {}
        for name, keys in _FFMPEG_NAMES.items():
            value = next((found[key.lower()] for key in keys if key.lower() in found), None)
            if value:
                out[name] = value
        if "tlen" in found:
            out["length_ms"] = found["tlen"]
        if size := _picture_size(container):
            out["artwork"] = size
    return out


def _picture_size(container: InputContainer) -> str:
    """Width and height of the picture in a file; empty where there is none that can be decoded. A
    picture that says it is huge is not decoded."""
    for stream in container.streams.video[:1]:
        if stream.width * stream.height <= MOST_PIXELS:
            with suppress(av.FFmpegError, StopIteration):
                picture = next(container.decode(stream))
                return f"{picture.width} × {picture.height}"
    return ""


def own_tags(path: Path) -> Tags:
    """What a file says of itself, as far as it is what our tags can be."""
    return tags_of(read_tags(path))


def tags_of(found: Mapping[str, str]) -> Tags:
    """What was read from a file, as far as it is what our tags can be.

    >>> tags_of({"title": "The ramp", "episode": "3/10", "year": "soon"}).episode
    3
    """
    kept: dict[str, str] = {}
    for name, value in found.items():
        if name not in Tags.model_fields:
            continue
        # "3/10" is the third of ten; "2026-11-28" is a day of that year.
        said = re.split(r"[/-]", value)[0] if name in _NUMBERS else value
        try:
            Tags.model_validate({name: said})
        except ValidationError:
            continue
        kept[name] = said
    return Tags.model_validate(kept)


def shown_artwork(path: Path) -> bytes:
    """The picture in a file. Raises BadInput where there is none, or apps would not show it."""
    found = read_artwork(path)
    if found is None:
        raise BadInput(NO_PICTURE)
    check_artwork(found)
    return found


def artwork_if_shown(path: Path) -> bytes | None:
    """The picture in a file, if there is one that apps will show."""
    try:
        return shown_artwork(path)
    except (BadInput, OSError):
        return None


def read_artwork(path: Path) -> bytes | None:
    """The picture in a file, as it lies there."""
    with opened(path) as container:
        if not container.streams.video:
            return None
        packet = next(container.demux(container.streams.video[0]), None)
        return bytes(packet) if packet is not None and packet.size else None


def read_chapters(path: Path) -> list[tuple[int, int, str]]:
    """The chapters of a file as FFmpeg reads them: first and last millisecond, and title; in order
    of time, which the frames of an ID3 tag need not be in."""
    with opened(path) as container:
        return sorted(
            (
                round(one["start"] * (one["time_base"] or 1) * 1000),
                round(one["end"] * (one["time_base"] or 1) * 1000),
                one["metadata"].get("title", ""),
            )
            for one in container.chapters()
        )
