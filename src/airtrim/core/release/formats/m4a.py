"""M4A: AAC in an MP4 container, by FFmpeg's encoder."""

from pathlib import Path
from typing import Any

from mutagen.mp4 import MP4, MP4Cover, MP4FreeForm

from airtrim.core.release.artwork import picture_type
from airtrim.core.release.formats.encoded import Encoded
from airtrim.core.release.labels import Labels
from airtrim.core.timeline.model import Layout

_FREE = "----:com.apple.iTunes:"
"""Where names that the container has no place for are kept (common practice)."""


class M4a(Encoded):
    """Smaller than MP3 for the same sound; chapters are in the container itself."""

    name = "m4a"
    title = "M4A (AAC)"
    codec = "aac"
    container = "ipod"
    kbits = (64, 96, 128, 192)
    holds_chapters = True

    def usual_kbits(self, layout: Layout) -> int:
        """As MP3's (common practice): FFmpeg's own AAC encoder is no better at these rates."""
        return 96 if layout == "mono" else 128

    def label_file(self, path: Path, labels: Labels) -> None:
        tags = labels.tags
        file: Any = MP4(path)  # mutagen sets its tags when it reads, which its types do not say
        if file.tags is None:
            file.add_tags()
        file.tags.clear()
        told = {
            "\xa9nam": tags.title,
            "\xa9alb": tags.show,
            "\xa9ART": tags.artist,
            "aART": tags.album_artist,
            "\xa9day": tags.year,
            "\xa9gen": tags.genre,
            "\xa9cmt": tags.description,
            "desc": tags.description[:255],
            "ldes": tags.description,
            "cprt": tags.copyright,
        }
        for name, value in told.items():
            if value not in (None, ""):
                file[name] = str(value)
        if tags.season is not None:
            file["disk"] = [(tags.season, 0)]
        if tags.episode is not None:
            # Two bytes hold it, and 0 means none.
            file["trkn"] = [(min(tags.episode, 0xFFFF), 0)]
        for name, text in (("LANGUAGE", tags.language), ("link", tags.link)):
            if text:
                file[_FREE + name] = [MP4FreeForm(text.encode())]
        if labels.artwork is not None:
            kind = picture_type(labels.artwork)
            form = MP4Cover.FORMAT_PNG if kind == "image/png" else MP4Cover.FORMAT_JPEG
            file["covr"] = [MP4Cover(labels.artwork, form)]
        file.save()
