"""The chain of a track: hum and low cut, equaliser, de-essing, compressor, in that order.

Noise reduction is not here: it takes place before, on the whole recording.
"""

from airtrim.core.sound.compressor import HOLD_FRAMES, CompressorRun, Sound
from airtrim.core.sound.deess import DeEssRun
from airtrim.core.sound.filters import Filters, linear_rows, settling_frames
from airtrim.core.timeline.chain import Chain


class Treatment:
    """Sound streams through, block by block, without delay.

    Begun at ``begin(start)`` it gives from ``start`` on, to below −80 dB, what it would have given
    from the beginning.
    """

    def __init__(self, chain: Chain, channels: int) -> None:
        rows = linear_rows(chain)
        self._filters = Filters(rows, channels)
        self._de_ess = DeEssRun(chain.de_ess, channels) if chain.de_ess.on else None
        self._compressor = CompressorRun(chain.compressor) if chain.compressor.on else None
        self._settling_frames = settling_frames(rows)
        if self._de_ess:
            self._settling_frames += self._de_ess.settling_frames
        if self._compressor:
            self._settling_frames += self._compressor.settling_frames

    def begin(self, start: int) -> int:
        """The frame to begin at for sound from ``start`` on."""
        return max(0, start - self._settling_frames) // HOLD_FRAMES * HOLD_FRAMES

    def process(self, block: Sound, reduction_db: "Sound | None" = None) -> None:
        """Treat ``(frames, channels)`` in place; ``reduction_db``, shape ``(frames,)``, gets what
        the compressor takes away, where there is one."""
        self._filters.process(block)
        if self._de_ess:
            self._de_ess.process(block)
        if self._compressor:
            self._compressor.process(block, reduction_db)
