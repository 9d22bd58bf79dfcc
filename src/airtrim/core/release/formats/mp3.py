"""MP3 files: LAME's encoder at a constant rate, and the header frame that tells players its length.

The header frame (“Info”, after Xing's and LAME's published descriptions of it, from memory) holds
the number of frames, a table for seeking, and how many samples the encoder put before and after
the sound, so that players show the true length and start on the first sample.
"""

import struct
from collections.abc import Iterator, Sequence
from functools import lru_cache
from io import BytesIO
from pathlib import Path
from typing import BinaryIO

import av
import lameenc
import numpy as np
from mutagen.id3 import ID3
from mutagen.mp3 import MP3

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.ahead import ahead
from airtrim.core.media.decode import resample
from airtrim.core.release.chapters import Chapter
from airtrim.core.release.formats.base import Format, Sound
from airtrim.core.release.id3 import write_id3
from airtrim.core.release.labels import Labels
from airtrim.core.timeline.model import Layout

MP3_RATE = 44_100

_QUALITY = 3
"""How carefully LAME works, 0 most; 3 is its own default, and costs no more than 5."""
_RATES = (0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320)
"""kbit/s by their index in a frame's header (MPEG-1 layer III)."""
_FRAME_SAMPLES = 1152
_ENCODER_DELAY = 576


_WORDS: dict[tuple[Layout, int | None], str] = {
    ("mono", 64): "Talk, small",
    ("mono", 96): "Talk",
    ("stereo", 128): "Talk and music",
    ("stereo", 192): "Best MP3",
}


class Mp3(Format):
    """What feeds carry: constant rate, 44.1 kHz (common practice)."""

    name = "mp3"
    title = "MP3"
    usual = True
    kbits = (64, 80, 96, 112, 128, 160, 192)
    overshoots = True

    def usual_kbits(self, layout: Layout) -> int:
        """96 kbit/s mono, 128 stereo (common practice)."""
        return 96 if layout == "mono" else 128

    def write(
        self,
        blocks: Iterator[Sound],
        path: Path,
        *,
        frames: int = 0,
        channels: int,
        kbits: int | None,
        chapters: Sequence[Chapter] = (),
    ) -> None:
        """Rendering runs in another thread. Raises BadInput for a rate that is not offered."""
        self.check_kbits(kbits)
        kbits = kbits or self.usual_kbits("mono" if channels == 1 else "stereo")
        source = ahead(resample(blocks, FRAME_RATE, MP3_RATE, channels))
        with path.open("wb+") as file:
            _encode(source, file, channels, kbits, 1.0 / _encoder_gain(channels, kbits))

    def label_file(self, path: Path, labels: Labels) -> None:
        write_id3(MP3(path, ID3=ID3), labels)

    def words(self, layout: Layout, kbits: int | None) -> str:
        return _WORDS.get((layout, kbits), "")


@lru_cache(maxsize=32)
def _encoder_gain(channels: int, kbits: int) -> float:
    """What the encoder multiplies sound by: LAME lowers it a little at the lower rates.

    Found by encoding and decoding a second of a 1 kHz tone, so that it holds for any build.
    """
    phase = 2.0 * np.pi * 1000.0 / MP3_RATE * np.arange(MP3_RATE)
    tone = np.repeat((0.25 * np.sin(phase)).astype(np.float32)[:, None], channels, axis=1)
    file = BytesIO()
    _encode(iter([tone]), file, channels, kbits, 1.0)
    file.seek(0)
    with av.open(file, mode="r") as container:
        decoded = np.concatenate([f.to_ndarray()[0] for f in container.decode(audio=0)])
    middle = decoded[len(decoded) // 4 : len(decoded) * 3 // 4]
    return float(np.sqrt(np.mean(np.square(middle, dtype=np.float64))) / (0.25 / np.sqrt(2.0)))


def _encode(
    source: Iterator[Sound], file: BinaryIO, channels: int, kbits: int, gain: float
) -> None:
    encoder = lameenc.Encoder()
    encoder.set_bit_rate(kbits)
    encoder.set_in_sample_rate(MP3_RATE)
    encoder.set_out_sample_rate(MP3_RATE)
    encoder.set_channels(channels)
    encoder.set_quality(_QUALITY)
    encoder.silence()
    room = _frame_bytes(kbits, padded=False)
    file.write(bytes(room))
    samples = 0
    for block in source:
        scaled = np.clip(np.round(block * np.float32(32768.0 * gain)), -32768, 32767)
        file.write(encoder.encode(scaled.astype("<i2").tobytes()))
        samples += len(block)
    file.write(encoder.flush())
    size = file.tell()
    frames = _count_frames(file, room, size)
    file.seek(0)
    file.write(_info_frame(channels, kbits, frames, size, samples))


def _frame_bytes(kbits: int, *, padded: bool) -> int:
    return 144_000 * kbits // MP3_RATE + padded


def _count_frames(file: BinaryIO, at: int, size: int) -> int:
    """Frames from ``at``, hopping from header to header in pieces of a megabyte."""
    frames = 0
    while at + 4 <= size:
        file.seek(at)
        piece = file.read(1 << 20)
        inside = 0
        while inside + 4 <= len(piece):
            kbits, padded = _RATES[piece[inside + 2] >> 4], bool(piece[inside + 2] & 2)
            inside += _frame_bytes(kbits, padded=padded)
            frames += 1
        at += inside
    return frames


def _info_frame(channels: int, kbits: int, frames: int, size: int, samples: int) -> bytes:
    """A silent frame with the Info tag. ``size``: bytes of the file, this frame included."""
    mode = 0xC4 if channels == 1 else 0x44
    head = bytes([0xFF, 0xFB, _RATES.index(kbits) << 4, mode])
    side_information = bytes(17 if channels == 1 else 32)
    seek_table = bytes(i * 256 // 100 for i in range(100))
    after = min(4095, max(0, frames * _FRAME_SAMPLES - _ENCODER_DELAY - samples))
    tag = b"Info" + struct.pack(">III", 0x0F, frames, size) + seek_table + struct.pack(">I", 50)
    lame = b"LAME3.100" + bytes([0x01, 0]) + bytes(8) + bytes([0, kbits])
    lame += (_ENCODER_DELAY << 12 | after).to_bytes(3, "big") + bytes(4)
    lame += struct.pack(">IH", size, 0)
    frame = head + side_information + tag + lame
    frame += _crc16(frame).to_bytes(2, "big")
    return frame.ljust(_frame_bytes(kbits, padded=False), b"\0")


def _crc16(data: bytes) -> int:
    """CRC-16 with the polynomial 0x8005, bits reflected, as the tag's last field wants it."""
    crc = 0
    for byte in data:
        crc ^= byte
        for _ in range(8):
            crc = crc >> 1 ^ (0xA001 if crc & 1 else 0)
    return crc
