"""WAV at 24 bits, and RF64 where it is longer than WAV can tell."""

from pathlib import Path

from mutagen.wave import WAVE

from airtrim.core.release.formats.lossless import Lossless
from airtrim.core.release.id3 import write_id3
from airtrim.core.release.labels import Labels
from airtrim.core.timeline.model import Layout

_MOST_WAV_BYTES = 0xFFFF_0000
_HEADER_BYTES = 44


class Wav(Lossless):
    """Lossless, as archives and other programs take it."""

    name = "wav"
    title = "WAV, 24 bit"

    def size_bytes(self, *, frames: int, channels: int, kbits: int | None) -> int:
        return _HEADER_BYTES + frames * channels * 3

    def container(self, frames: int, channels: int) -> str:
        return "RF64" if _needs_rf64(frames, channels) else "WAV"

    def label_file(self, path: Path, labels: Labels) -> None:
        write_id3(WAVE(path), labels)

    def words(self, layout: Layout, kbits: int | None) -> str:
        return "WAV to keep"

    def why_untagged(self, frames: int, channels: int) -> str | None:
        if _needs_rf64(frames, channels):
            return "A WAV over 4 GB (RF64) holds no tags; an MP3 does."
        return None


def _needs_rf64(frames: int, channels: int) -> bool:
    """Whether a 24-bit file is longer than the 32 bits of a WAV header can tell (EBU Tech 3306)."""
    return frames * channels * 3 > _MOST_WAV_BYTES
