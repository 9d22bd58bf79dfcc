"""What the formats of FFmpeg's encoders have in common."""

from abc import abstractmethod
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import ClassVar

from airtrim.core.media.ahead import ahead
from airtrim.core.release.chapters import Chapter
from airtrim.core.release.encoding import encode
from airtrim.core.release.formats.base import Format, Sound
from airtrim.core.timeline.model import Layout


class Encoded(Format):
    """One ``codec`` in one ``container``, at a rate; called by its title at the usual one.
    ``holds_chapters``: they are written with the sound."""

    codec: ClassVar[str]
    container: ClassVar[str]
    holds_chapters: ClassVar[bool] = False
    overshoots = True

    @abstractmethod
    def usual_kbits(self, layout: Layout) -> int:
        """The rate for speech."""

    def words(self, layout: Layout, kbits: int | None) -> str:
        return self.title if kbits == self.usual_kbits(layout) else ""

    def write(
        self,
        blocks: Iterator[Sound],
        path: Path,
        *,
        frames: int,
        channels: int,
        kbits: int | None,
        chapters: Sequence[Chapter] = (),
    ) -> None:
        """Rendering runs in another thread. Raises BadInput for a rate that is not offered."""
        self.check_kbits(kbits)
        encode(
            ahead(blocks),
            path,
            codec=self.codec,
            container=self.container,
            channels=channels,
            kbits=kbits or self.usual_kbits("mono" if channels == 1 else "stereo"),
            chapters=chapters if self.holds_chapters else (),
        )
