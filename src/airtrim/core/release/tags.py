"""Tags of a released file: ID3v2.3 (read everywhere) or ID3v2.4 (current), and their artwork."""

import io
from pathlib import Path
from typing import Any, Literal

from mutagen import id3
from mutagen.mp3 import MP3
from mutagen.wave import WAVE
from PIL import Image

from airtrim.core.media.opening import opened
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput

Id3Version = Literal["2.3", "2.4"]

ARTWORK_LEAST_PX, ARTWORK_MOST_PX = 1400, 3000
_ARTWORK_BYTES = 8_000_000


def check_artwork(data: bytes) -> str:
    """The MIME type of a cover: square, JPEG or PNG, 1400 to 3000 pixels (common practice).

    Raises BadInput with what is wrong and what to do.
    """
    if len(data) > _ARTWORK_BYTES:
        raise BadInput("The artwork is over 8 MB. Save it smaller, as JPEG for instance.")
    try:
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "GIF", "WEBP", "BMP")) as image:
            kind, size = image.format, image.size
    except Exception as error:
        raise BadInput(
            "The artwork is not a picture Air Trim can read. Use JPEG or PNG."
        ) from error
    if kind not in ("JPEG", "PNG"):
        raise BadInput(f"The artwork is {kind}; podcast apps read JPEG and PNG only.")
    if size[0] != size[1]:
        raise BadInput(f"The artwork is {size[0]} × {size[1]} pixels; it has to be square.")
    if not ARTWORK_LEAST_PX <= size[0] <= ARTWORK_MOST_PX:
        raise BadInput(
            f"The artwork is {size[0]} pixels wide; "
            f"it has to be {ARTWORK_LEAST_PX} to {ARTWORK_MOST_PX}."
        )
    try:
        # All of it, now that it is known to be small: what cannot be shown whole is not taken.
        with Image.open(io.BytesIO(data)) as image:
            image.load()
    except Exception as error:
        raise BadInput(
            "The artwork is damaged: not all of the picture is there. Save it anew."
        ) from error
    return f"image/{kind.lower()}"


def write_id3(
    file: MP3 | WAVE,
    tags: Tags,
    *,
    artwork: bytes | None = None,
    version: Id3Version = "2.3",
    duration_s: float | None = None,
) -> None:
    """Write ``tags`` into an opened MP3 or WAV file (frames: ID3v2.3/2.4; season in TPOS and the
    link in WOAF and TXXX, common practice). Raises BadInput for bad artwork."""
    old = version == "2.3"
    encoding = id3.Encoding.UTF16 if old else id3.Encoding.UTF8
    language = tags.language or "eng"
    frames: list[id3.Frame] = []

    def text(frame: type[id3.Frame], value: str | int | None) -> None:
        if value not in (None, ""):
            frames.append(frame(encoding=encoding, text=[str(value)]))

    text(id3.TIT2, tags.title)
    text(id3.TALB, tags.show)
    text(id3.TPE1, tags.artist)
    text(id3.TPE2, tags.album_artist)
    text(id3.TPOS, tags.season)
    text(id3.TRCK, tags.episode)
    text(id3.TYER if old else id3.TDRC, tags.year)
    text(id3.TCON, tags.genre)
    text(id3.TLAN, tags.language)
    text(id3.TCOP, tags.copyright)
    if duration_s is not None:
        text(id3.TLEN, round(duration_s * 1000))
    if tags.description:
        frames.append(id3.COMM(encoding=encoding, lang=language, desc="", text=[tags.description]))
    if tags.link:
        frames.append(id3.WOAF(url=tags.link))
        frames.append(id3.TXXX(encoding=encoding, desc="link", text=[tags.link]))
    if artwork is not None:
        mime = check_artwork(artwork)
        frames.append(id3.APIC(encoding=encoding, mime=mime, type=3, desc="Cover", data=artwork))

    opened: Any = file  # mutagen sets its tags when it reads, which its types do not say
    if opened.tags is None:
        opened.add_tags()
    opened.tags.clear()
    for frame in frames:
        opened.tags.add(frame)
    file.save(v2_version=3 if old else 4)


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
        found = {key.lower(): value for key, value in container.metadata.items()}
        out = {}
        for name, keys in _FFMPEG_NAMES.items():
            value = next((found[key.lower()] for key in keys if key.lower() in found), None)
            if value:
                out[name] = value
        if "tlen" in found:
            out["length_ms"] = found["tlen"]
        if container.streams.video:
            picture = next(container.decode(container.streams.video[0]))
            out["artwork"] = f"{picture.width} × {picture.height}"
    return out
