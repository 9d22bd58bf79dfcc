"""A take: one recording, stored lossless at 48 kHz, never changed after it is written."""

import hashlib
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.ahead import ahead
from airtrim.core.media.decode import (
    BLOCK_FRAMES,
    LONGEST_S,
    Block,
    at_frame_rate,
    decode,
    longest_s,
    probe,
)
from airtrim.core.media.peaks import PeakWriter
from airtrim.errors import BadInput, Damaged, TooLarge

SHORTEST_S = 0.2
_HEARD = 1e-4

Progress = Callable[[float], None]
"""Called with a fraction 0–1; may raise Cancelled."""


@dataclass(frozen=True, slots=True)
class TakeInfo:
    """What was stored: length, channels, SHA-256 of its samples (as stored, little-endian, channels
    side by side), and a notice for the host where the recording is not what it says it is."""

    frames: int
    channels: int
    sha256: str
    notice: str | None


def store_take(
    source: Path, sound: Path, peaks: Path, *, name: str, progress: Progress = lambda _: None
) -> TakeInfo:
    """Decode ``source`` to a lossless 48 kHz ``sound`` file and its ``peaks`` pyramid.

    Integer sources at 48 kHz are kept bit for bit as FLAC; all others as 32-bit float (RF64), so
    that neither resampling nor a decoder's overshoot is clipped. Constant memory.

    Raises BadInput for what is not one or two channels of sound of at least 0.2 s, TooLarge
    beyond 12 hours, and whatever ``progress`` raises.
    """
    info = probe(source, name)
    exact_bits = info.bits if info.sample_rate == FRAME_RATE else None
    most_s = longest_s(source.stat().st_size)
    blocks = at_frame_rate(decode(source, name), info.sample_rate, info.channels)
    expected = (info.duration_s or 0.0) * FRAME_RATE
    blocks = _no_longer(blocks, most_s, name)
    stored = _store(blocks, sound, peaks, info.channels, exact_bits, name, expected, progress)
    found_s = stored.frames / FRAME_RATE
    said_s = info.duration_s
    if said_s and said_s - found_s > max(1.0, 0.02 * said_s):
        notice = (
            f"“{name}” says it is {said_s:.1f} s long, but only {found_s:.1f} s of sound is in it. "
            "What was there is kept."
        )
        return replace(stored, notice=notice)
    return stored


def _no_longer(blocks: Iterator[Block], most_s: float, name: str) -> Iterator[Block]:
    """Blocks, as long as there are no more of them than a file can hold."""
    frames = 0
    for block in blocks:
        frames += len(block)
        if frames > most_s * FRAME_RATE:
            if most_s >= LONGEST_S:
                raise TooLarge(f"“{name}” is longer than 12 hours. Split it and add the parts.")
            raise TooLarge(
                f"“{name}” unfolds to more than {most_s / 60:.0f} minutes, which no recording of "
                "its size does. It was not added."
            )
        yield block


def store_recorded(
    blocks: Iterator[Block],
    sound: Path,
    peaks: Path,
    *,
    name: str,
    frames: int,
    progress: Progress = lambda _: None,
) -> TakeInfo:
    """The same for ``frames`` of float mono ``blocks`` at 48 kHz, kept sample for sample."""
    return _store(blocks, sound, peaks, 1, None, name, frames, progress)


def _store(
    blocks: Iterator[Block],
    sound: Path,
    peaks: Path,
    channels: int,
    exact_bits: int | None,
    name: str,
    expected: float,
    progress: Progress,
) -> TakeInfo:
    """Write a take and its peaks. ``exact_bits``: 16 or 24 for FLAC, None for float;
    ``expected``: frames that may come, for progress.

    Three threads share the work: making blocks, looking at them, writing them.
    """
    kind = (
        {"format": "FLAC", "subtype": f"PCM_{exact_bits}"}
        if exact_bits
        else {"format": "RF64", "subtype": "FLOAT"}
    )
    pyramid = PeakWriter()
    digest = hashlib.sha256()
    loudest = np.zeros(channels)

    def seen() -> Iterator[NDArray[Any]]:
        nonlocal loudest
        for block in ahead(blocks):
            stored = np.ascontiguousarray(_as_stored(block, exact_bits))
            digest.update(stored.data)
            pyramid.push(block)
            loudest = np.maximum(loudest, np.abs(block).max(axis=0, initial=0.0))
            yield stored

    frames = 0
    with soundfile.SoundFile(
        str(sound), "w", samplerate=FRAME_RATE, channels=channels, **kind
    ) as out:
        for stored in ahead(seen()):
            out.write(stored)
            frames += len(stored)
            progress(min(0.99, frames / expected) if expected else 0.0)
    if frames < SHORTEST_S * FRAME_RATE:
        raise BadInput(
            f"“{name}” is only {frames / FRAME_RATE:.2f} s long; a recording needs 0.2 s or more."
        )
    pyramid.write(peaks)
    heard = loudest >= _HEARD
    notice = None
    if not heard.any():
        notice = f"“{name}” is silent from end to end."
    elif not heard.all():
        side = "left" if heard[0] else "right"
        notice = (
            f"Only the {side} channel of “{name}” has sound; the other is silent. In a mono "
            "episode it comes out 6 dB quieter, which evening out makes good."
        )
    return TakeInfo(frames, channels, digest.hexdigest(), notice)


def _as_stored(block: Block, exact_bits: int | None) -> NDArray[Any]:
    if exact_bits == 16:
        return np.round(block * 32768.0).astype(np.int16)
    if exact_bits:
        return np.asarray(block.astype(np.float64) * 2.0**31).astype(np.int32)
    return block


class TakeReader:
    """Random access to a stored take, safe to share between threads. What cannot be read of a
    damaged file is silence, and ``damaged`` says so from then on."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._file = self._open()
        self._lock = threading.Lock()
        self.frames = int(self._file.frames)
        self.channels = int(self._file.channels)
        self.damaged = False

    def _open(self) -> soundfile.SoundFile:
        try:
            return soundfile.SoundFile(str(self._path))
        except soundfile.LibsndfileError as error:
            raise Damaged(
                "A recording is damaged on the disk: not even its beginning can be read."
            ) from error

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """Sound of shape ``(frames, channels)`` from frame ``start``; silence outside the take."""
        out = np.zeros((frames, self.channels), np.float32)
        first, last = max(0, start), min(self.frames, start + frames)
        if last > first:
            with self._lock:
                self._fill(out[first - start : last - start], first)
        return out

    def _fill(self, out: NDArray[np.float32], first: int) -> None:
        try:
            if self._file.tell() != first:
                self._file.seek(first)
            found = self._file.read(len(out), dtype="float32", always_2d=True, out=out)
            self.damaged = self.damaged or len(found) < len(out)
        except soundfile.LibsndfileError:
            self.damaged = True
            out[:] = 0.0
            self._file.close()
            self._file = self._open()  # it reads nothing after an error

    def close(self) -> None:
        """Let go of the file."""
        self._file.close()


_LAST_FRAMES = FRAME_RATE // 10


def looks_whole(sound: Path, frames: int, channels: int) -> bool:
    """Whether a stored take is as long as it was, and its end can be read: cheap, whatever its
    length. Damage within it is found by ``checksum`` only."""
    try:
        reader = TakeReader(sound)
    except Damaged:
        return False
    reader.read(max(0, frames - _LAST_FRAMES), _LAST_FRAMES)
    reader.close()
    return not reader.damaged and (reader.frames, reader.channels) == (frames, channels)


def checksum(sound: Path, progress: Progress = lambda _: None) -> str | None:
    """SHA-256 of the samples of a stored take, as it was told when it was stored (``TakeInfo``);
    None where not all of it can be read."""
    digest = hashlib.sha256()
    try:
        with soundfile.SoundFile(str(sound)) as file:
            kind = {"PCM_16": "int16", "PCM_24": "int32"}.get(file.subtype, "float32")
            for at in range(0, file.frames, BLOCK_FRAMES):
                block = file.read(BLOCK_FRAMES, dtype=kind, always_2d=True)
                if len(block) < min(BLOCK_FRAMES, file.frames - at):
                    return None
                digest.update(np.ascontiguousarray(block).data)
                progress(at / file.frames)
    except soundfile.LibsndfileError:
        return None
    return digest.hexdigest()


def make_peaks(sound: Path, peaks: Path) -> None:
    """The pyramid of a stored take, made anew."""
    pyramid = PeakWriter()
    with soundfile.SoundFile(str(sound)) as file:
        for block in file.blocks(BLOCK_FRAMES, dtype="float32", always_2d=True):
            pyramid.push(block)
    pyramid.write(peaks)


_FAINT = 0.5


def store_faint(blocks: Iterator[Block], sound: Path, channels: int) -> None:
    """Write sound that was computed, as 24-bit FLAC at half its level, so that what exceeds full
    scale is kept. ``FaintReader`` reads it."""
    with soundfile.SoundFile(
        str(sound), "w", samplerate=FRAME_RATE, channels=channels, format="FLAC", subtype="PCM_24"
    ) as out:
        for block in ahead(blocks):
            out.write(block * np.float32(_FAINT))


class FaintReader(TakeReader):
    """Reads what ``store_faint`` wrote, at its level."""

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """As of a take."""
        return np.asarray(super().read(start, frames) * np.float32(1.0 / _FAINT))
