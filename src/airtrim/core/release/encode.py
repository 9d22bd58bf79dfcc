"""Write finished sound to MP3 or WAV, and measure what was written."""

import queue
import tempfile
import threading
from collections.abc import Callable, Iterator
from functools import lru_cache
from pathlib import Path
from typing import Literal

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from airtrim.core.loudness.meter import Measurement, Meter, measure
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.decode import at_frame_rate, decode, probe, resample
from airtrim.errors import BadInput

Sound = NDArray[np.float32]
FileFormat = Literal["mp3", "wav"]
MP3_RATE = 44_100
MP3_KBITS = (64, 80, 96, 112, 128, 160, 192)


def estimated_bytes(kind: FileFormat, frames: int, channels: int, kbits: int) -> int:
    """Size of the finished sound (tags and artwork not counted)."""
    seconds = frames / FRAME_RATE
    return round(seconds * kbits * 125) if kind == "mp3" else 44 + frames * channels * 3


def write_mp3(blocks: Iterator[Sound], path: Path, *, channels: int, kbits: int) -> None:
    """Encode 48 kHz ``blocks`` as constant-rate MP3 at 44.1 kHz (common practice for feeds).

    Rendering runs in this thread, encoding in another. Raises BadInput for a rate not offered.
    """
    if kbits not in MP3_KBITS:
        raise BadInput(f"MP3 is offered at {', '.join(map(str, MP3_KBITS))} kbit/s.")
    source = resample(blocks, FRAME_RATE, MP3_RATE, channels)
    _encode_mp3(source, str(path), channels, kbits, 1.0 / _encoder_gain(channels, kbits))


@lru_cache(maxsize=32)
def _encoder_gain(channels: int, kbits: int) -> float:
    """What the encoder multiplies sound by: LAME lowers it a little at the lower rates.

    Found by encoding and decoding a second of a 1 kHz tone, so that it holds for any build.
    """
    phase = 2.0 * np.pi * 1000.0 / MP3_RATE * np.arange(MP3_RATE)
    tone = np.repeat((0.25 * np.sin(phase)).astype(np.float32)[:, None], channels, axis=1)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "tone.mp3"
        _encode_mp3(iter([tone]), str(path), channels, kbits, 1.0)
        heard = np.concatenate(list(decode(path)))
    middle = heard[len(heard) // 4 : len(heard) * 3 // 4]
    return float(np.sqrt(np.mean(np.square(middle, dtype=np.float64))) / (0.25 / np.sqrt(2.0)))


def _encode_mp3(source: Iterator[Sound], path: str, channels: int, kbits: int, gain: float) -> None:
    layout = "mono" if channels == 1 else "stereo"
    options = {"id3v2_version": "0", "write_id3v1": "0"}
    with av.open(path, "w", format="mp3", options=options) as container:
        stream = container.add_stream("libmp3lame", rate=MP3_RATE, layout=layout)
        stream.bit_rate = kbits * 1000
        stream.codec_context.format = "fltp"

        written = 0

        def encode(block: Sound) -> None:
            nonlocal written
            planes = np.ascontiguousarray(block.T) * np.float32(gain)
            frame = av.AudioFrame.from_ndarray(planes, format="fltp", layout=layout)
            frame.sample_rate, frame.pts = MP3_RATE, written
            written += len(block)
            container.mux(stream.encode(frame))

        _in_other_thread(source, encode)
        container.mux(stream.encode(None))


def _in_other_thread(source: Iterator[Sound], sink: Callable[[Sound], None]) -> None:
    """Pull from ``source`` here, push into ``sink`` there; the first error of either is raised."""
    line: queue.Queue[Sound | None] = queue.Queue(maxsize=8)
    failed: list[BaseException] = []

    def work() -> None:
        while (block := line.get()) is not None:
            if not failed:
                try:
                    sink(block)
                except BaseException as error:
                    failed.append(error)

    thread = threading.Thread(target=work, name="encode")
    thread.start()
    try:
        for block in source:
            if failed:
                break
            line.put(block)
    finally:
        line.put(None)
        thread.join()
    if failed:
        raise failed[0]


def write_wav(blocks: Iterator[Sound], path: Path, *, channels: int) -> None:
    """Write 48 kHz ``blocks`` as 24-bit WAV (RF64 where it grows over 4 GB)."""
    with soundfile.SoundFile(
        str(path), "w", FRAME_RATE, channels, format="WAV", subtype="PCM_24"
    ) as file:
        for block in blocks:
            file.write(block)


def measure_file(
    path: Path, name: str | None = None, progress: Callable[[float], None] = lambda _: None
) -> Measurement:
    """Decode any sound file and measure it. Raises BadInput where it cannot be read."""
    info = probe(path, name)
    meter = Meter(info.channels)
    seconds = 0.0
    for block in at_frame_rate(decode(path, name), info.sample_rate, info.channels):
        meter.push(block)
        seconds += len(block) / FRAME_RATE
        if info.duration_s:
            progress(min(1.0, seconds / info.duration_s))
    return measure(meter)
