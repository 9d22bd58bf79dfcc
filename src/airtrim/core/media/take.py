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
    LOUDEST,
    Block,
    MediaInfo,
    at_frame_rate,
    decode,
    longest_s,
    probe,
)
from airtrim.core.media.peaks import PeakWriter
from airtrim.errors import BadInput, Damaged, TooLarge

SHORTEST_S = 0.2
_SOUNDING = 1e-4

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
    source: Path,
    sound: Path,
    peaks: Path,
    *,
    name: str,
    as_float: bool = False,
    progress: Progress = lambda _: None,
) -> TakeInfo:
    """Decode ``source`` to a lossless 48 kHz ``sound`` file and its ``peaks`` pyramid.

    Integer sources at 48 kHz are kept bit for bit as FLAC, and float ones as RF64. What had to be
    resampled, or comes from a lossy file, has no bits to keep: it becomes 24-bit FLAC at an eighth
    of its level (quantisation noise at -131 dBFS), so that no overshoot is clipped and a small file
    stays small; where even that would clip, at a 64th. ``as_float`` keeps it as floats. Constant
    memory.

    Raises BadInput for what is not one or two channels of sound of at least 0.2 s, TooLarge
    beyond 12 hours, and whatever ``progress`` raises.
    """
    info = probe(source, name)
    most_s = longest_s(source.stat().st_size)
    expected = (info.duration_s or 0.0) * FRAME_RATE

    def keep(form: _Form) -> TakeInfo:
        blocks = at_frame_rate(decode(source, name), info.sample_rate, info.channels)
        blocks = _no_longer(blocks, most_s, name)
        return _store(blocks, sound, peaks, info.channels, form, name, expected, progress)

    try:
        stored = keep(_FLOAT if as_float else _form_of(info))
    except _TooLoud:
        stored = keep(_FAINT)
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
    return _store(blocks, sound, peaks, 1, _FLOAT, name, frames, progress)


@dataclass(frozen=True, slots=True)
class _Form:
    """How samples lie in a file: 16 or 24 bits, or None for floats, at a share of their level."""

    bits: int | None
    level: float = 1.0

    def __call__(self, block: Block) -> NDArray[Any]:
        """A block as it is stored."""
        if self.bits is None:
            return np.ascontiguousarray(block)
        # Float32 holds whole numbers of 24 bits exactly.
        scale = np.float32(self.level * 2.0 ** (self.bits - 1))
        whole: NDArray[Any] = np.rint(block * scale)
        if self.bits == 16:
            return whole.astype(np.int16)
        if self.level != 1.0 and np.abs(whole).max(initial=0.0) >= _FULL_SCALE:
            if self.level > _LEAST_LEVEL:
                raise _TooLoud
            whole = np.clip(whole, 1 - _FULL_SCALE, _FULL_SCALE - 1)
        return np.asarray(whole.astype(np.int32) << 8)

    def open(self, sound: Path, channels: int) -> soundfile.SoundFile:
        """A file to write to; what level it is at, it says itself."""
        form, kind = ("FLAC", f"PCM_{self.bits}") if self.bits else ("RF64", "FLOAT")
        file = soundfile.SoundFile(str(sound), "w", FRAME_RATE, channels, kind, format=form)
        if self.level != 1.0:
            file.comment = f"{_LEVEL_IS}{self.level}"
        return file


_LEAST_LEVEL = 1.0 / LOUDEST
_FLOAT, _QUIET, _FAINT = _Form(None), _Form(24, 0.125), _Form(24, _LEAST_LEVEL)
_FULL_SCALE = 2**23
_LEVEL_IS = "level="


class _TooLoud(Exception):
    """Sound that is over full scale even at the level of ``_QUIET``."""


def _form_of(info: MediaInfo) -> _Form:
    if info.sample_rate != FRAME_RATE:
        return _QUIET
    if info.bits:
        return _Form(info.bits)
    return _FLOAT if info.codec.startswith("pcm_") else _QUIET


def _store(
    blocks: Iterator[Block],
    sound: Path,
    peaks: Path,
    channels: int,
    form: _Form,
    name: str,
    expected: float,
    progress: Progress,
) -> TakeInfo:
    """Write a take and its peaks. ``expected``: frames that may come, for progress.

    Three threads share the work: making blocks, looking at them, writing them.
    """
    pyramid = PeakWriter()
    digest = hashlib.sha256()
    loudest = np.zeros(channels)

    def seen() -> Iterator[NDArray[Any]]:
        nonlocal loudest
        for block in ahead(blocks):
            stored = form(block)
            digest.update(stored.data)
            pyramid.push(block)
            loudest = np.maximum(loudest, np.abs(block).max(axis=0, initial=0.0))
            yield stored

    frames = 0
    with form.open(sound, channels) as out:
        for stored in ahead(seen()):
            out.write(stored)
            frames += len(stored)
            progress(min(0.99, frames / expected) if expected else 0.0)
    if frames < SHORTEST_S * FRAME_RATE:
        raise BadInput(
            f"“{name}” is only {frames / FRAME_RATE:.2f} s long; a recording needs 0.2 s or more."
        )
    pyramid.write(peaks)
    sounding = loudest >= _SOUNDING
    notice = None
    if not sounding.any():
        notice = f"“{name}” is silent from end to end."
    elif not sounding.all():
        side = "left" if sounding[0] else "right"
        notice = (
            f"Only the {side} channel of “{name}” has sound; the other is silent. In a mono "
            "episode it comes out 6 dB quieter, which evening out makes good."
        )
    return TakeInfo(frames, channels, digest.hexdigest(), notice)


def store_computed(blocks: Iterator[Block], sound: Path, channels: int) -> None:
    """Write sound that was computed from a take and is made anew where it is lost: without peaks
    and checksum, held at 18 dB over full scale."""
    most = np.float32(1.0 / _QUIET.level - 2.0**-20)
    with _QUIET.open(sound, channels) as out:
        for block in ahead(blocks):
            out.write(_QUIET(np.clip(block, -most, most)))


class TakeReader:
    """Random access to a stored take, safe to share between threads, at the level that it was
    recorded at, however it lies in its file. What cannot be read of a damaged file is silence, and
    ``damaged`` says so from then on."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._file = self._open()
        self._gain = _gain_of(self._file)
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
            if self._gain != 1.0:
                out *= self._gain
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


def _gain_of(file: soundfile.SoundFile) -> np.float32:
    if file.format != "FLAC":
        return np.float32(1.0)
    _, _, level = (file.comment or "").partition(_LEVEL_IS)
    return np.float32(1.0 / float(level) if level else 1.0)


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
    take = TakeReader(sound)
    for at in range(0, take.frames, BLOCK_FRAMES):
        pyramid.push(take.read(at, min(BLOCK_FRAMES, take.frames - at)))
    take.close()
    pyramid.write(peaks)
