"""FLAC at 24 bits: lossless in about half the room of WAV."""

from pathlib import Path

from mutagen.flac import FLAC

from airtrim.core.release.formats.lossless import Lossless
from airtrim.core.release.labels import Labels
from airtrim.core.release.vorbis import write_comments
from airtrim.core.timeline.model import Layout


class Flac(Lossless):
    """Lossless, with room for tags however long it is."""

    name = "flac"
    title = "FLAC, 24 bit"

    def words(self, layout: Layout, kbits: int | None) -> str:
        return "FLAC to keep"

    def size_bytes(self, *, frames: int, channels: int, kbits: int | None) -> int:
        """Speech takes about two thirds of what it is made of."""
        return frames * channels * 2

    def container(self, frames: int, channels: int) -> str:
        return "FLAC"

    def label_file(self, path: Path, labels: Labels) -> None:
        write_comments(FLAC(path), labels)
