"""Noise reduction: the room taken out from under a voice.

A short-time spectrum is weighed bin by bin with the log-spectral amplitude estimator (Ephraim and
Malah, IEEE Trans. ASSP 33, 1985) under uncertainty whether there is speech (Cohen and Berdugo,
Signal Processing 81, 2001). What a bin holds of speech is judged by the decision-directed method
(Ephraim and Malah, IEEE Trans. ASSP 32, 1984), run forwards and backwards, of which the larger
counts: the whole recording is there, so the beginnings of words need not be swallowed. How likely
speech is there is judged over half a kilohertz and a tenth of a second, so that no single bin
twitters.

The result is as clean as is safe. How much of it is wanted is a matter of mixing: one cleaned take,
made once, serves every strength (``Cleaned``).
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numba import njit
from numpy.typing import NDArray

from airtrim.compute.inline import INLINE
from airtrim.compute.order import Compute
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.reading import Readable, Sound
from airtrim.core.sound.stretches import Stretches, in_stretches

SIZE = 2048
"""43 ms."""
HOP = SIZE // 4
BINS = SIZE // 2 + 1
FLOOR_DB = -28.0
"""How far the room alone is lowered at full strength. Lower sounded, and measured, worse."""

_TABLE_FROM, _TABLE_STEP, _TABLE_SIZE = -9.0, 0.01, 1200


@dataclass(frozen=True, slots=True)
class DenoiseLimits:
    """Of the estimator and of how a take is gone through. Bins are 23 Hz, frames of spectrum 11 ms
    apart. Tuned in ``bench/sound`` on rooms and voices, judged on others."""

    kept: float = 0.92
    """Weight of the frame before in the decision-directed estimate."""
    least_snr: float = 10.0 ** (-22.0 / 10.0)
    least_absent: float = 0.3
    most_absent: float = 0.95
    """How likely it is at least, and at most, that a bin holds no speech."""
    local_bins: int = 31
    local_frames: int = 5
    around_frames: int = 9
    """Neighbourhood by which that is judged, and by which it is judged whether anybody speaks."""
    voice_hz: tuple[float, float] = (150.0, 6000.0)
    stretch_frames: int = 10 * FRAME_RATE // HOP
    """Worked on at a time, between ``context_frames`` more on either side."""
    context_frames: int = FRAME_RATE // HOP
    silence: float = 1e-9
    probes: int = 60
    probe_sound_frames: int = 2 * FRAME_RATE
    """Where no room tone is known: places listened to, and how long each."""


LIMITS = DenoiseLimits()


@lru_cache(maxsize=1)
def _window() -> NDArray[np.float32]:
    return np.asarray(np.sqrt(np.hanning(SIZE + 1)[:-1]), np.float32)


@lru_cache(maxsize=1)
def _table() -> NDArray[np.float32]:
    """exp(E1(v) / 2) of the estimator, over the logarithm of v."""
    from scipy.special import exp1  # slow to import, and seldom needed

    v = np.exp(_TABLE_FROM + _TABLE_STEP * np.arange(_TABLE_SIZE))
    return np.asarray(np.exp(0.5 * exp1(v)), np.float32)


def _spectrum(sound: NDArray[np.float32]) -> NDArray[np.complex64]:
    """Short-time spectrum of ``(n,)``, whole windows only, shape ``(frames, BINS)``."""
    from scipy.fft import rfft

    windows = np.lib.stride_tricks.sliding_window_view(sound, SIZE)[::HOP]
    return np.asarray(rfft(windows * _window(), axis=1))


def _power(spectrum: NDArray[np.complex64]) -> NDArray[np.float32]:
    return np.asarray(spectrum.real**2 + spectrum.imag**2)


def learn(room_tone: Sound) -> NDArray[np.float32]:
    """The power spectrum of a room from its tone, ``(frames, channels)``, half a second or more;
    shape ``(channels, BINS)``.

    >>> learn(np.zeros((FRAME_RATE, 2), np.float32)).shape == (2, BINS)
    True
    """
    channels = np.ascontiguousarray(room_tone.T)
    power = [_power(_spectrum(one)).mean(axis=0) for one in channels]
    return np.stack(power) + np.float32(LIMITS.silence)


def guess(take: Readable) -> NDArray[np.float32]:
    """The same where no room tone is known: what each bin seldom falls under, over up to two
    minutes from all of the take. It errs towards too little, so that speech is kept."""
    step = max(LIMITS.probe_sound_frames, take.frames // LIMITS.probes)
    starts = range(0, max(1, take.frames - SIZE), step)
    parts = [
        take.read(at, min(LIMITS.probe_sound_frames, max(SIZE, take.frames - at))) for at in starts
    ]
    out = []
    for channel in range(take.channels):
        powers = np.concatenate([_power(_spectrum(p[:, channel].copy())) for p in parts])
        # Digital silence is no room.
        sounding = powers[powers.mean(axis=1) > 100 * LIMITS.silence]
        # A tenth of all frames lies within the lowest third of the pauses; of noise that third lies
        # under 0.4 of its mean (exponential distribution).
        out.append(np.percentile(sounding, 10, axis=0) / 0.4 if len(sounding) else np.zeros(BINS))
    return np.stack(out).astype(np.float32) + np.float32(LIMITS.silence)


@njit(cache=True, nogil=True, fastmath=True)
def _snr(
    power: NDArray[np.float32],
    room: NDArray[np.float32],
    kept: float,
    least: float,
    out: NDArray[np.float32],
) -> None:
    """A priori signal-to-noise ratio of every bin, by the decision-directed method both ways in
    time, the larger of the two."""
    frames, bins = power.shape
    for k in range(bins):
        out[0, k] = 0.0
    before = np.zeros(bins, np.float32)
    a, b, low = np.float32(kept), np.float32(1.0 - kept), np.float32(least)
    one = np.float32(1.0)
    for way in range(2):
        before[:] = 0.0
        for i in range(frames):
            t = i if way == 0 else frames - 1 - i
            for k in range(bins):
                posterior = power[t, k] / room[k]
                value = max(a * before[k] + b * max(posterior - one, np.float32(0.0)), low)
                wiener = value / (one + value)
                before[k] = wiener * wiener * posterior
                if way == 0 or value > out[t, k]:
                    out[t, k] = value


def _weights(
    power: NDArray[np.float32], room: NDArray[np.float32], snr: NDArray[np.float32]
) -> NDArray[np.float32]:
    """Gain of every bin: the estimator's where speech is there, the floor where it is not, and
    between them by how likely that is."""
    wiener = snr / (1.0 + snr)
    v = np.minimum(wiener * power / room, np.float32(60.0))
    place = (np.log(np.maximum(v, np.float32(1e-4))) - np.float32(_TABLE_FROM)) / _TABLE_STEP
    place = np.clip(place, 0, _TABLE_SIZE - 1).astype(np.int16)
    gain = np.minimum(wiener * _table().take(place), np.float32(1.0))
    odds = _absence(snr)
    odds /= 1.0 - odds
    present = 1.0 / (1.0 + odds * (1.0 + snr) * np.exp(-v))
    log_floor = np.float32(FLOOR_DB / 20.0 * np.log(10.0))
    return np.asarray(np.exp(log_floor + present * (np.log(gain) - log_floor)), np.float32)


def _absence(snr: NDArray[np.float32]) -> NDArray[np.float32]:
    """How likely it is, before a bin is looked at, that there is no speech in it: by its
    neighbourhood in frequency and time, and by all the voice's range around that moment."""
    beside = LIMITS.local_bins // 2
    total = np.cumsum(np.pad(snr, ((0, 0), (beside + 1, beside)), mode="edge"), 1, np.float64)
    near = (total[:, LIMITS.local_bins :] - total[:, : -LIMITS.local_bins]).astype(np.float32)
    before = LIMITS.local_frames // 2
    rows = np.pad(near, ((before, before), (0, 0)), mode="edge")
    near = rows[: len(near)].copy()
    for later in range(1, LIMITS.local_frames):
        near += rows[later : later + len(near)]
    near /= LIMITS.local_bins * LIMITS.local_frames
    local = np.clip(np.log10(np.maximum(near, np.float32(1e-12))) + np.float32(1.0), 0.0, 1.0)
    low, high = (round(hz * SIZE / FRAME_RATE) for hz in LIMITS.voice_hz)
    voice = np.log10(snr[:, low:high].mean(axis=1)) * 10.0
    half = LIMITS.around_frames // 2
    sounding = np.pad(np.clip((voice + 5.0) / 8.0, 0.0, 1.0), half, mode="edge")
    whole = np.lib.stride_tricks.sliding_window_view(sounding, LIMITS.around_frames).max(axis=1)
    around = (0.2 + 0.8 * whole[:, None]).astype(np.float32)
    present = local * (np.float32(0.3) + np.float32(0.7) * local) * around
    absent = np.clip(np.float32(1.0) - present, LIMITS.least_absent, LIMITS.most_absent)
    return np.asarray(absent, np.float32)


def _cleaned(sound: NDArray[np.float32], room: NDArray[np.float32]) -> NDArray[np.float32]:
    """One channel; as long as the whole windows in it reach."""
    from scipy.fft import irfft

    spectrum = _spectrum(sound)
    power = _power(spectrum)
    snr = np.empty_like(power)
    _snr(power, room, LIMITS.kept, LIMITS.least_snr, snr)
    frames = irfft(spectrum * _weights(power, room, snr), SIZE, axis=1) * _window()
    out = np.zeros((len(frames) + 3, HOP), np.float32)
    for part in range(4):
        out[part : part + len(frames)] += frames[:, part * HOP : (part + 1) * HOP]
    return np.asarray(out.ravel() * np.float32(0.5))


def clean(
    take: Readable,
    room: NDArray[np.float32],
    progress: Callable[[float], None] = lambda _: None,
    compute: Compute = INLINE,
) -> Iterator[Sound]:
    """A take with its room taken out as far as is safe, in blocks of ``(n, channels)``.

    ``room``: from ``learn`` or ``guess``. ``progress`` gets fractions 0 to 1. Constant memory.
    """
    edge = LIMITS.context_frames * HOP + SIZE
    by = Stretches(before=edge, after=edge)
    yield from in_stretches(take, cleaned, room, by=by, progress=progress, compute=compute)


def cleaned(take: Readable, start: int, stop: int, room: NDArray[np.float32]) -> Sound:
    """A stretch of a take with its room taken out, which begins where a step of it does."""
    out = np.empty((stop - start, take.channels), np.float32)
    edge = LIMITS.context_frames * HOP
    for at in range(start, stop, LIMITS.stretch_frames * HOP):
        count = min(LIMITS.stretch_frames * HOP, stop - at)
        # Two windows of silence before and after let the first and last frames be whole.
        whole = np.ascontiguousarray(take.read(at - edge - SIZE, count + 2 * (edge + SIZE)).T)
        for channel in range(take.channels):
            done = _cleaned(whole[channel], room[channel])
            out[at - start : at - start + count, channel] = done[edge + SIZE : edge + SIZE + count]
    return out


class Cleaned:
    """A take with some of its room taken out: ``share`` of the cleaned sound, the rest untouched.

    ``share`` 1 is all that is safe. What is taken out is what a share less leaves in.
    """

    def __init__(self, take: Readable, cleaned: Readable, share: float) -> None:
        self._take, self._cleaned = take, cleaned
        self._share = np.float32(share)
        self.frames, self.channels = take.frames, take.channels

    def read(self, start: int, frames: int) -> Sound:
        """Sound of shape ``(frames, channels)``, silence outside the take."""
        untouched = self._take.read(start, frames)
        return np.asarray(
            untouched + self._share * (self._cleaned.read(start, frames) - untouched), np.float32
        )


def share_of(strength: float) -> float:
    """The share of the cleaned sound that a strength of 0 to 1 asks for: equal steps of strength
    lower the room by equal steps in dB.

    >>> share_of(0.0), share_of(1.0)
    (0.0, 1.0)
    """
    floor = 10.0 ** (FLOOR_DB / 20.0)
    return float((1.0 - floor**strength) / (1.0 - floor))
