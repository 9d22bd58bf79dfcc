"""Files of 24 bits that keep every sample, as libsndfile writes them."""

from abc import abstractmethod
from collections.abc import Iterator, Sequence
from pathlib import Path

import soundfile

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.ahead import ahead
from airtrim.core.release.chapters import Chapter
from airtrim.core.release.formats.base import Format, Sound


class Lossless(Format):
    """A format that keeps every sample; what differs is its container."""

    to_keep = True

    @abstractmethod
    def container(self, frames: int, channels: int) -> str:
        """Its name for a file of that length."""

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
        form = self.container(frames, channels)
        with soundfile.SoundFile(
            str(path), "w", FRAME_RATE, channels, format=form, subtype="PCM_24"
        ) as file:
            for block in ahead(blocks):
                file.write(block)
