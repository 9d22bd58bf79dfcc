"""The tags and chapters of a finished file as another parser reads them."""

from pathlib import Path

from airtrim.core.media.opening import opened

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
        if container.streams.video:
            picture = next(container.decode(container.streams.video[0]))
            out["artwork"] = f"{picture.width} × {picture.height}"
    return out


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
