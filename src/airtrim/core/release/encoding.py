"""Encoding with FFmpeg's encoders, into containers that it writes."""

from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.release.chapters import Chapter

_SAMPLES = {"aac": "fltp", "libopus": "flt"}
"""How each encoder takes its samples."""
_OPTIONS = {"aac": {"aac_coder": "fast"}}
"""The fast coder takes a quarter of the time of the usual one, and voices come out nearer to what
they were: PESQ 4.57, 4.62, 4.64 for 4.46, 4.49, 4.58 at 64, 96 (mono) and 128 kbit/s (stereo)."""
_MILLISECOND = Fraction(1, 1000)


def encode(
    blocks: Iterator[NDArray[np.float32]],
    path: Path,
    *,
    codec: str,
    container: str,
    channels: int,
    kbits: int,
    chapters: Sequence[Chapter] = (),
) -> None:
    """Write 48 kHz ``blocks``, shape ``(n, channels)``, as ``codec`` into ``container``."""
    layout = "mono" if channels == 1 else "stereo"
    form = _SAMPLES[codec]
    with av.open(path, "w", format=container) as file:
        stream = file.add_stream(
            codec,
            rate=FRAME_RATE,
            layout=layout,
            bit_rate=kbits * 1000,
            options=_OPTIONS.get(codec, {}),
        )
        assert isinstance(stream, av.AudioStream)
        if chapters:
            file.set_chapters(
                [
                    {
                        "id": number,
                        "start": one.start_ms,
                        "end": one.end_ms,
                        "time_base": _MILLISECOND,
                        "metadata": {"title": one.title},
                    }
                    for number, one in enumerate(chapters)
                ]
            )
        at = 0
        for block in blocks:
            planes = block.T if form == "fltp" else block.reshape(1, -1)
            samples = np.ascontiguousarray(planes, np.float32)
            frame = av.AudioFrame.from_ndarray(samples, format=form, layout=layout)
            frame.sample_rate = FRAME_RATE
            frame.pts = at
            at += len(block)
            file.mux(stream.encode(frame))
        file.mux(stream.encode(None))
