"""What a few seconds from a microphone say, and what to change before recording."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE

_WINDOW = FRAME_RATE // 20


@dataclass(frozen=True, slots=True)
class CheckupLimits:
    """What a microphone should give (common practice)."""

    quiet_dbfs: float = -18.0
    hot_dbfs: float = -6.0
    """Peaks of normal speech lie between."""
    noisy_dbfs: float = -50.0
    """A room louder than this is heard behind the voice."""
    clipped: float = 0.999
    over_room_db: float = 7.0
    """Somebody speaks where the voice's band is so far over its quietest tenth."""
    voice_hz: tuple[float, float] = (200.0, 4000.0)
    least_speech: float = 0.08
    """Share of the time; with less nobody spoke."""
    hum_stands_out_db: float = 12.0
    least_hum_dbfs: float = -60.0


LIMITS = CheckupLimits()


@dataclass(frozen=True, slots=True)
class Checkup:
    """Levels in dBFS, None where there was nothing of the kind; ``hum_hz`` 50, 60 or None.

    ``speech_dbfs``: where the peaks of speech lie (95th percentile of 50 ms peaks);
    ``noise_dbfs``: RMS of the room between words; ``advice``: what to change, in words, most
    important first; ``good``: nothing has to be changed.
    """

    speech_dbfs: float | None
    noise_dbfs: float | None
    hum_hz: int | None
    hum_dbfs: float | None
    clipped: bool
    good: bool
    advice: tuple[str, ...]


def check_microphone(sound: NDArray[np.float32]) -> Checkup:
    """Judge ``sound``, shape ``(frames, 1)`` at 48 kHz, some seconds of somebody speaking.

    Limits are common practice. A second at least is needed for hum.

    >>> check_microphone(np.zeros((FRAME_RATE, 1), np.float32)).advice
    ('Nothing was heard. Is the right microphone chosen, and is it switched on?',)
    """
    mono = sound[:, 0].astype(np.float64)
    if len(mono) < _WINDOW or np.abs(mono).max() < 1e-4:
        return Checkup(
            None, None, None, None, False, False,
            ("Nothing was heard. Is the right microphone chosen, and is it switched on?",),
        )  # fmt: skip
    level, peak = _levels(mono)
    noise = float(np.percentile(level, 10))
    voice, _ = _levels(_voice_band(mono))
    speaking = voice > np.percentile(voice, 10) + LIMITS.over_room_db
    clipped = int((np.abs(mono) >= LIMITS.clipped).sum()) >= 3
    hum_hz, hum = _hum(mono)
    speech = None
    gain_wanted = 0.0
    advice = []
    if speaking.mean() < LIMITS.least_speech:
        advice.append(f"No speech was heard, only the room at {_text(noise)}. Speak while it runs.")
    else:
        speech = float(np.percentile(peak[speaking], 95))
        gain_wanted = min(max(0.0, LIMITS.quiet_dbfs - speech), 20.0) - max(
            0.0, speech - LIMITS.hot_dbfs
        )
        if clipped:
            advice.append("It clips: turn the microphone down, by 10 dB or more.")
        elif speech > LIMITS.hot_dbfs:
            advice.append(f"Turn it down: speech at {_text(speech)} leaves no room for a laugh.")
        elif speech < LIMITS.quiet_dbfs:
            advice.append(f"Move closer or turn it up: speech at {_text(speech)}.")
    if hum_hz is not None:
        advice.append(
            f"A hum at {hum_hz} Hz, {_text(hum or 0.0)}: move the cable away from power supplies, "
            "or try another socket."
        )
    elif noise + gain_wanted > LIMITS.noisy_dbfs and not clipped:
        advice.append(f"Noise floor {_text(noise)}: is a fan on, or a window open?")
    good = not advice
    if good:
        speech_at = _text(speech or 0.0)
        advice.append(f"That is good: speech at {speech_at}, the room at {_text(noise)}.")
    return Checkup(speech, noise, hum_hz, hum, clipped, good, tuple(advice))


def _voice_band(mono: NDArray[np.float64]) -> NDArray[np.float64]:
    from scipy.signal import butter, sosfiltfilt  # slow to import, and seldom needed

    band = butter(2, LIMITS.voice_hz, "bandpass", fs=FRAME_RATE, output="sos")
    return np.asarray(sosfiltfilt(band, mono))


def _levels(mono: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """RMS and peak of every 50 ms, in dBFS."""
    whole = len(mono) // _WINDOW
    windows = mono[: whole * _WINDOW].reshape(whole, _WINDOW)
    return _db(np.sqrt(np.mean(windows**2, axis=1))), _db(np.abs(windows).max(axis=1))


def _hum(mono: NDArray[np.float64]) -> tuple[int | None, float | None]:
    """Mains hum: a line at 50 or 60 Hz that stands out of its neighbourhood all the time."""
    if len(mono) < FRAME_RATE:
        return None, None
    window = np.hanning(FRAME_RATE + 1)[:-1]
    starts = range(0, len(mono) - FRAME_RATE + 1, FRAME_RATE // 4)
    spectra = [np.abs(np.fft.rfft(mono[at : at + FRAME_RATE] * window))[:100] for at in starts]
    steady = np.percentile(spectra, 25, axis=0) * 2.0 / window.sum()
    for hertz in (50, 60):
        line = _db(steady[hertz - 1 : hertz + 2].max())
        beside = np.concatenate([steady[hertz - 8 : hertz - 3], steady[hertz + 4 : hertz + 9]])
        if (
            line > _db(np.median(beside)) + LIMITS.hum_stands_out_db
            and line > LIMITS.least_hum_dbfs
        ):
            return hertz, float(line)
    return None, None


def _db(value: NDArray[np.float64] | np.float64 | float) -> NDArray[np.float64]:
    return np.asarray(20.0 * np.log10(np.maximum(value, 1e-7)))


def _text(dbfs: float) -> str:
    return f"{dbfs:.0f} dBFS".replace("-", "−")
