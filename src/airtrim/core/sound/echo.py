"""The echo of a room lowered: what a voice's own past explains of it is taken out.

Weighted prediction error (Nakatani and others, IEEE Trans. ASLP 18, 2010): in every bin of a
short-time spectrum a filter of some tenths of a second, beginning after the first reflections,
foretells the echo from what was heard before; each moment counts for less the louder it is, so that
the voice itself, which cannot be foretold, is left. The result lies in time with the take to the
sample.

Better than the learnt mask on simulated rooms, which takes the end of words for noise
(``bench/echo.py``).
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from airtrim.compute.inline import INLINE
from airtrim.compute.order import Compute
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.reading import Readable, Sound
from airtrim.core.sound.stretches import Stretches, in_stretches

Spectrum = NDArray[np.complex64]

SIZE = 1536
"""32 ms."""
HOP = SIZE // 4


@dataclass(frozen=True, slots=True)
class EchoLimits:
    """Of the filters and of how a take is gone through. Frames of spectrum are 8 ms apart."""

    delay: int = 3
    """What comes sooner is the voice itself and its first reflections, which carry it."""
    taps: int = 30
    taps_above: int = 12
    """Above ``high_hz``, where echo dies sooner."""
    high_hz: float = 4000.0
    rounds: int = 3
    """How often the voice is judged anew by what the round before left of it."""
    left_over: float = 0.25
    """How strong the echo that stays is beside what is taken out; tuned on rooms, voices and texts
    that ``bench/`` does not have."""
    faintest: float = 0.1
    """No moment gets fainter than this (power)."""
    stretch_s: int = 30
    """How long a filter holds; a filter needs some seconds of speech."""
    fade_s: int = 1
    bins_at_once: int = 64
    heard_hz: tuple[float, float] = (400.0, 4000.0)
    least_s: float = 2.0


LIMITS = EchoLimits()


@lru_cache(maxsize=1)
def _window() -> NDArray[np.float32]:
    return np.asarray(np.sqrt(np.hanning(SIZE + 1)[:-1]), np.float32)


def clean(
    take: Readable,
    progress: Callable[[float], None] = lambda _: None,
    compute: Compute = INLINE,
) -> Iterator[Sound]:
    """Yield a take with its echo lowered, in blocks, as long as the take and in time with it.
    ``progress`` gets fractions 0–1.

    >>> from airtrim.core.media.reading import InMemory
    >>> sum(len(block) for block in clean(InMemory(np.zeros((100_000, 1), np.float32))))
    100000
    """
    by = Stretches(LIMITS.stretch_s * FRAME_RATE, LIMITS.fade_s * FRAME_RATE)
    yield from in_stretches(take, dried, by=by, progress=progress, compute=compute)


def dried(take: Readable, start: int, stop: int) -> Sound:
    """Every channel of a stretch with its echo lowered."""
    sound = take.read(start, stop - start)
    return np.stack([lowered(sound[:, c]) for c in range(take.channels)], axis=1)


def lowered(sound: NDArray[np.float32]) -> NDArray[np.float32]:
    """Mono ``sound`` at 48 kHz, some seconds of one voice in one room, with its echo lowered."""
    bins = _bins(sound)
    split = round(LIMITS.high_hz * SIZE / FRAME_RATE)
    out = np.empty_like(bins)
    for first in range(0, len(bins), LIMITS.bins_at_once):
        part = slice(first, first + LIMITS.bins_at_once)
        taps = LIMITS.taps if first < split else LIMITS.taps_above
        out[part] = _fainter_in_echo(bins[part], _without_echo(bins[part], taps))
    pieces = np.asarray(np.fft.irfft(out.T, axis=1) * _window(), np.float32)
    whole = np.zeros(len(sound) + 2 * SIZE - HOP, np.float32)
    for number in range(4):
        own = pieces[number::4].reshape(-1)
        whole[number * HOP : number * HOP + len(own)] += own
    # Squared windows a quarter apart add up to two.
    return np.asarray(whole[SIZE - HOP :][: len(sound)] / 2, np.float32)


def heard_db(sound: NDArray[np.float32]) -> float | None:
    """How loud the echo in mono ``sound`` at 48 kHz is beside all of it, in dB, by what is taken
    out where voices are strongest; None of silence or of less than ``LIMITS.least_s``."""
    if len(sound) < LIMITS.least_s * FRAME_RATE or not sound.any():
        return None
    low, high = (round(hz * SIZE / FRAME_RATE) for hz in LIMITS.heard_hz)
    bins = _bins(sound)[low:high]
    left = _without_echo(bins, LIMITS.taps_above)
    return float(
        10 * np.log10(np.square(np.abs(bins - left)).sum() / np.square(np.abs(bins)).sum())
    )


def _bins(sound: NDArray[np.float32]) -> Spectrum:
    """Short-time spectrum of ``(n,)``, shape ``(bins, frames)``."""
    padded = np.pad(sound.astype(np.float32), (SIZE - HOP, SIZE))
    windows = np.lib.stride_tricks.sliding_window_view(padded, SIZE)[::HOP]
    return np.ascontiguousarray(np.fft.rfft(windows * _window(), axis=1).T.astype(np.complex64))


def _fainter_in_echo(bins: Spectrum, left: Spectrum) -> Spectrum:
    """What is ``left`` of bins, fainter where most was taken out: a filter foretells only part of
    an echo, and where it found much some still lies under the voice (a Wiener gain, common
    practice)."""
    power = left.real**2 + left.imag**2
    gone = bins - left
    echo = LIMITS.left_over * (gone.real**2 + gone.imag**2)
    gain = np.sqrt(np.maximum(power / (power + echo + 1e-20), LIMITS.faintest))
    return np.asarray(left * gain, np.complex64)


def _without_echo(bins: Spectrum, taps: int) -> Spectrum:
    """Bins of spectrum, shape ``(bins, frames)``, less what their past explains."""
    count, frames = bins.shape
    past = np.zeros((count, taps, frames), np.complex64)
    for tap in range(min(taps, frames - LIMITS.delay)):
        past[:, tap, LIMITS.delay + tap :] = bins[:, : frames - LIMITS.delay - tap]
    left = bins
    for _ in range(LIMITS.rounds):
        power = left.real**2 + left.imag**2
        power = (power + np.roll(power, 1, axis=1) + np.roll(power, -1, axis=1)) / 3
        power = np.maximum(power, 1e-6 * power.max(axis=1, keepdims=True) + 1e-12)
        weighed = past / power[:, None]
        like = weighed @ past.conj().transpose(0, 2, 1)
        # A little of the identity keeps silence, and bins without a voice, from running wild.
        ease = 1e-6 * np.trace(like, axis1=1, axis2=2).real / taps + 1e-10
        like += ease[:, None, None] * np.eye(taps, dtype=np.float32)
        here = weighed @ bins.conj()[:, :, None]
        filters = np.linalg.solve(like, here)
        left = bins - (filters.conj().transpose(0, 2, 1) @ past)[:, 0]
    return np.asarray(left, np.complex64)
