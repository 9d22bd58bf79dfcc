"""Any sound file FFmpeg reads, as blocks of float32 at its own rate or at 48 kHz."""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import av
import numpy as np
import soxr
from av.container import InputContainer
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.ogg import links
from airtrim.core.media.opening import Unreadable, opened
from airtrim.errors import BadInput, TooLarge

Block = NDArray[np.float32]
"""Sound of shape ``(frames, channels)``, full scale ±1.0."""

BLOCK_FRAMES = 1 << 16
LEAST_RATE, MOST_RATE = 4000, 384_000
LONGEST_S = 12 * 3600.0
LOUDEST = 64.0
"""36 dB over full scale, more than any decoder overshoots by: beyond it is no sound."""
_LEAST_BYTES_A_SECOND = 500.0
_MOST_CHUNKS = 1000
_UNCOMPRESSED = (1, 3, 0xFFFE)
"""PCM, float, and either of them with an extended header (RFC 2361, and Microsoft's mmreg.h)."""
_INTEGER_BITS = {"s16": 16, "s32": 24}


@dataclass(frozen=True, slots=True)
class MediaInfo:
    """What a sound file says of itself. ``duration_s`` is None where the header does not say;
    ``bits`` is the integer word length (16 or 24), or None for float and lossy codecs."""

    codec: str
    sample_rate: int
    channels: int
    duration_s: float | None
    bits: int | None


def probe(path: Path, name: str | None = None) -> MediaInfo:
    """Read the header of ``path``.

    Raises BadInput with a sentence naming ``name`` when there is no sound Air Trim can take.
    """
    name = name or path.name
    size = path.stat().st_size
    if size == 0:
        raise BadInput(f"“{name}” is empty (0 bytes), so there is nothing to add.")
    claimed_s = _claimed_by_wav(path, name)
    first, *more = links(path)
    try:
        with opened(path, first) as container:
            if not container.streams.audio:
                raise BadInput(f"“{name}” holds no sound.")
            stream = container.streams.audio[0]
            context = stream.codec_context
            if context is None:
                raise BadInput(f"“{name}” holds sound of a kind that Air Trim cannot read.")
            rate, channels = int(context.sample_rate or 0), int(context.channels or 0)
            duration = None
            if stream.duration and stream.time_base:
                duration = float(stream.duration * stream.time_base)
            elif container.duration:
                duration = container.duration / av.time_base
            duration = claimed_s or duration
            codec = str(context.name)
            lossless = codec.startswith("pcm_") or codec in ("flac", "alac")
            sample_format = context.format.name.rstrip("p") if context.format else ""
            bits = _INTEGER_BITS.get(sample_format) if lossless else None
            if sample_format == "s32" and codec.startswith("pcm_s32"):
                bits = None  # 32-bit words do not fit a 24-bit take: kept as float instead
    except Unreadable as error:
        raise BadInput(
            f"“{name}” is not a sound file Air Trim can read. "
            "WAV, FLAC, MP3, M4A, OGG, Opus, AIFF and WebM work."
        ) from error
    if channels > 2:
        raise BadInput(
            f"“{name}” has {channels} channels; Air Trim takes one or two. "
            "Save it as mono or stereo and add it again."
        )
    if rate < 1 or channels < 1:
        raise BadInput(f"“{name}” does not say what its sound is (no rate or no channels).")
    if not LEAST_RATE <= rate <= MOST_RATE:
        raise BadInput(
            f"“{name}” has {rate} samples a second; Air Trim takes {LEAST_RATE} to {MOST_RATE}. "
            "Save it at 48000 and add it again."
        )
    if duration is not None and more:
        duration = sum((_link_s(path, one) for one in more), duration)
    if duration is not None and duration > LONGEST_S:
        raise TooLarge(f"“{name}” is longer than 12 hours. Split it and add the parts.")
    return MediaInfo(codec, rate, channels, duration, bits)


def _link_s(path: Path, span: tuple[int, int]) -> float:
    """The length in seconds of a further stream of an Ogg file."""
    try:
        with opened(path, span) as container:
            for stream in container.streams.audio[:1]:
                if stream.duration and stream.time_base:
                    return float(stream.duration * stream.time_base)
    except Unreadable:
        pass
    return 0.0


def longest_s(size: int) -> float:
    """How long sound in a file of ``size`` bytes can be, in seconds: there is no recording of which
    a second takes less than 500 bytes (4 kbit/s; the least of any speech codec here is 6).

    >>> longest_s(1_000_000)
    2060.0
    """
    return min(LONGEST_S, 60.0 + size / _LEAST_BYTES_A_SECOND)


def _claimed_by_wav(path: Path, name: str) -> float | None:
    """The length in seconds that a WAV header claims. FFmpeg goes by the size of the file, and so
    would not notice that a copy was cut off. None for other files, and where nothing is claimed
    (recorders that were stopped leave 0 or all ones)."""
    with path.open("rb") as file:
        if file.read(4) != b"RIFF":
            return None
        file.seek(12)
        bytes_a_second = rate = 0
        for _ in range(_MOST_CHUNKS):
            head = file.read(8)
            if len(head) < 8:
                return None
            size = int.from_bytes(head[4:], "little")
            if head[:4] == b"fmt " and len(body := file.read(16)) == 16:
                if int.from_bytes(body[:2], "little") in _UNCOMPRESSED:
                    bytes_a_second = int.from_bytes(body[8:12], "little")
                else:
                    rate = int.from_bytes(body[4:8], "little")
                size -= 16
            elif head[:4] == b"fact" and rate and len(body := file.read(4)) == 4:
                # Of a compressed file the rate of its bytes is a round number; this is exact.
                return int.from_bytes(body, "little") / rate or None
            elif head[:4] == b"data":
                known = bytes_a_second > 0 and 0 < size < 0xFFFFFF00
                return size / bytes_a_second if known else None
            file.seek(size + size % 2, 1)
    raise BadInput(f"“{name}” is no recording: it consists of parts without sound.")


def decode(path: Path, name: str | None = None) -> Iterator[Block]:
    """Yield the sound of ``path`` at its own rate, in blocks of about ``BLOCK_FRAMES``.

    A damaged tail ends the sound there; damage before the first frame raises BadInput.
    """
    gathered: list[NDArray[Any]] = []
    held = 0
    started = False
    to_float: _ToFloat | None = None
    for span in links(path):
        with opened(path, span) as container:
            if not container.streams.audio:
                continue
            stream = container.streams.audio[0]
            stream.codec_context.thread_type = "AUTO"
            context = stream.codec_context
            to_float = to_float or _ToFloat(context.sample_rate, context.channels)
            for part in _frames(container, stream, to_float):
                gathered.append(_samples(part, to_float.channels))
                held += part.samples
                started = started or part.samples > 0
                if held >= BLOCK_FRAMES:
                    yield _as_float(gathered)
                    gathered, held = [], 0
    if not started:
        raise BadInput(f"“{name or path.name}” holds no sound that can be decoded.")
    if gathered:
        yield _as_float(gathered)


def _frames(
    container: InputContainer, stream: av.AudioStream, to_float: "_ToFloat"
) -> Iterator[av.AudioFrame]:
    try:
        for packet in container.demux(stream):
            try:
                frames = packet.decode()
            except av.error.InvalidDataError:
                if packet.size:
                    continue
                raise
            for frame in frames:
                yield from to_float.take(frame)
    except av.FFmpegError:
        pass  # the tail is damaged: what came before it stands
    yield from to_float.rest()


_PLAIN: dict[str, np.dtype[Any]] = {
    "flt": np.dtype(np.float32),
    "s16": np.dtype(np.int16),
    "s32": np.dtype(np.int32),
}


class _ToFloat:
    """Frames in the rate and the channels that a file begins with. Files that were joined change
    both midway; each change gets a converter of its own."""

    def __init__(self, rate: int, channels: int) -> None:
        self._rate, self.channels = rate, channels
        self._kind: tuple[str, str, int] | None = None
        self._converter: av.AudioResampler | None = None

    def take(self, frame: av.AudioFrame) -> list[av.AudioFrame]:
        """The frames that ``frame`` completes."""
        kind = (frame.format.name, frame.layout.name, frame.sample_rate)
        same_shape = (frame.layout.nb_channels, frame.sample_rate) == (self.channels, self._rate)
        if same_shape and frame.format.name.rstrip("p") in _PLAIN:
            return [*self.rest(), frame]
        before = self.rest() if kind != self._kind else []
        if self._converter is None:
            layout = "mono" if self.channels == 1 else "stereo"
            self._converter = av.AudioResampler("flt", layout, self._rate)
            self._kind = kind
        return [*before, *self._converter.resample(frame)]

    def rest(self) -> list[av.AudioFrame]:
        """What a converter still holds; it ends with that."""
        if self._converter is None:
            return []
        rest = self._converter.resample(None)
        self._converter = self._kind = None
        return list(rest)


def _samples(frame: av.AudioFrame, channels: int) -> NDArray[Any]:
    """The samples of a frame as they are, straight from its planes: frames are small, and the
    general way costs more than the decoding."""
    kind = _PLAIN[frame.format.name.rstrip("p")]
    planes = [np.frombuffer(memoryview(plane), kind) for plane in frame.planes]
    if len(planes) == 1:
        return planes[0][: frame.samples * channels].reshape(-1, channels)
    return np.stack([plane[: frame.samples] for plane in planes], axis=1)


def _as_float(parts: list[NDArray[Any]]) -> Block:
    block = np.concatenate(parts)
    match block.dtype.name:
        case "int16":
            return block.astype(np.float32) * np.float32(2.0**-15)
        case "int32":
            return np.asarray(block * 2.0**-31).astype(np.float32)
        case _:
            block = block.astype(np.float32, copy=False)
            loudest = np.abs(block).max(initial=0.0)
            if loudest <= LOUDEST:  # as always: also not where it is no number
                return block
            held: Block = np.clip(np.nan_to_num(block, posinf=LOUDEST), -LOUDEST, LOUDEST)
            return held


def at_frame_rate(blocks: Iterator[Block], sample_rate: int, channels: int) -> Iterator[Block]:
    """Resample ``blocks`` from ``sample_rate`` (Hz) to 48 kHz (soxr, HQ); a no-op at 48 kHz."""
    return resample(blocks, sample_rate, FRAME_RATE, channels)


def resample(
    blocks: Iterator[Block], from_rate: int, to_rate: int, channels: int
) -> Iterator[Block]:
    """Resample a stream of blocks between two rates in Hz (soxr, HQ), constant memory.

    >>> blocks = resample(iter([np.zeros((44_100, 1), np.float32)]), 44_100, 48_000, 1)
    >>> sum(len(block) for block in blocks)
    48000
    """
    if from_rate == to_rate:
        yield from blocks
        return
    stream = soxr.ResampleStream(from_rate, to_rate, channels, dtype="float32", quality="HQ")
    for block in blocks:
        out = stream.resample_chunk(block)
        if len(out):
            yield out.reshape(-1, channels)
    tail = stream.resample_chunk(np.zeros((0, channels), np.float32), last=True)
    if len(tail):
        yield tail.reshape(-1, channels)
