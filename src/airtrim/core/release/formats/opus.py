"""Opus in Ogg: the smallest that sounds well, for players of today."""

from pathlib import Path

from mutagen.oggopus import OggOpus

from airtrim.core.release.formats.encoded import Encoded
from airtrim.core.release.labels import Labels
from airtrim.core.release.vorbis import write_comments
from airtrim.core.timeline.model import Layout


class Opus(Encoded):
    """Rates are an average: the encoder spends more where there is more to tell (RFC 6716)."""

    name = "opus"
    title = "Opus"
    codec = "libopus"
    container = "ogg"
    kbits = (48, 64, 96, 128)

    def usual_kbits(self, layout: Layout) -> int:
        """64 kbit/s mono, 96 stereo: below, speech comes out quieter than it went in (by 0.3 LU at
        48 kbit/s, measured)."""
        return 64 if layout == "mono" else 96

    def label_file(self, path: Path, labels: Labels) -> None:
        write_comments(OggOpus(path), labels)
