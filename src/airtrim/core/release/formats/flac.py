"""FLAC at 24 bits: lossless in about half the room of WAV."""

from collections.abc import Iterator, Sequence
from pathlib import Path

import soundfile
from mutagen.flac import FLAC

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.ahead import ahead
from airtrim.core.release.chapters import Chapter
from airtrim.core.release.formats.base import Format, Sound
from airtrim.core.release.labels import Labels
from airtrim.core.release.vorbis import write_comments
from airtrim.core.timeline.model import Layout


class Flac(Format):
    """Lossless, with room for tags however long it is."""

    name = "flac"
    title = "FLAC, 24 bit"
    to_keep = True

    def words(self, layout: Layout, kbits: int | None) -> str:
        return "FLAC to keep"

    def size_bytes(self, *, frames: int, channels: int, kbits: int | None) -> int:
        """Speech takes about two thirds of what it is made of."""
        return frames * channels * 2

    def write(
        self,
        blocks: Iterator[Sound],
        path: Path,
        *,
        frames: int,
        channels: int,
        kbits: int | None = None,
        chapters: Sequence[Chapter] = (),
    ) -> None:
        with soundfile.SoundFile(
            str(path), "w", FRAME_RATE, channels, format="FLAC", subtype="PCM_24"
        ) as file:
            for block in ahead(blocks):
                file.write(block)

    def label_file(self, path: Path, labels: Labels) -> None:
        write_comments(FLAC(path), labels)
