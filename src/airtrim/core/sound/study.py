"""What a voice and its room measure. Nothing here changes a sound."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.sound.choosing import Heard
from airtrim.core.sound.disturbances import MainsHum, Whistle, mains_hum, whistles_in
from airtrim.core.sound.spectra import (
    SIZE,
    Mono,
    band_power,
    decibels,
    moments,
    power_of,
    sharpness,
    third_octaves,
)

_PEAK_FRAMES = FRAME_RATE // 100


@dataclass(frozen=True, slots=True)
class Study:
    """Figures of one track, untreated. Levels in dBFS (RMS), None where there is nothing of the
    kind. ``voice_db`` and ``room_db``: power in third octaves at ``GRAPH_HZ``; ``peaks_dbfs``:
    where the peaks of speech lie (95th percentile); ``crest_db``: those over its RMS;
    ``rumble_dbfs``: what of the speech lies between 15 and 65 Hz; ``sharpness_db``: its sharpest
    moments against its level; ``restless_dbfs``: the loud moments of its pauses (95th percentile
    of every 50 ms); ``noise``: what the noise in them is like, where it was listened to; ``notes``:
    what stands in the way of a good judgement."""

    voice_dbfs: float | None
    room_dbfs: float | None
    peaks_dbfs: float | None
    crest_db: float | None
    rumble_dbfs: float
    sharpness_db: float | None
    hum: MainsHum | None
    whistles: tuple[Whistle, ...]
    voice_db: tuple[float, ...]
    room_db: tuple[float, ...]
    notes: tuple[str, ...]
    restless_dbfs: float | None = None
    noise: Heard | None = None


def study(speech: Mono, pauses: Sequence[Mono]) -> Study:
    """Measure a voice by some of its ``speech``, shape ``(n,)`` at 48 kHz, and some of its
    ``pauses``, each of which is one.

    >>> sine = np.sin(2 * np.pi * 440 * np.arange(FRAME_RATE) / FRAME_RATE).astype(np.float32)
    >>> found = study(sine / 10, [])
    >>> round(found.voice_dbfs), round(found.crest_db), found.room_dbfs
    (-23, 3, None)
    """
    notes = []
    voice = power_of(speech)
    quiet = _quieter_half(pauses)
    room = power_of(quiet)
    voice_dbfs, room_dbfs = _level(speech), _level(quiet)
    peaks = peaks_of(speech)
    if voice_dbfs is None:
        notes.append("No speech is known on this track, so there is nothing to judge it by.")
    if room_dbfs is None:
        notes.append("There is no pause without sound or words in it, so the room is not known.")
    if voice_dbfs is not None:
        if abs(float(speech.mean())) > 10 ** ((voice_dbfs - 30) / 20):
            notes.append("The sound is off centre (DC offset); a low cut takes that away.")
        if int((np.abs(speech) >= 0.999).sum()) >= 8:
            notes.append("It clips in places, which no setting here repairs.")
    hum = mains_hum(pauses)
    return Study(
        voice_dbfs=voice_dbfs,
        room_dbfs=room_dbfs,
        peaks_dbfs=peaks.dbfs if peaks else None,
        crest_db=peaks.crest_db if peaks else None,
        rumble_dbfs=float(decibels(band_power(voice, 15.0, 65.0))),
        sharpness_db=sharpness(speech),
        hum=hum,
        whistles=whistles_in(room, hum.hz if hum else None),
        voice_db=third_octaves(voice),
        room_db=third_octaves(room),
        notes=tuple(notes),
        restless_dbfs=_restless(pauses),
    )


@dataclass(frozen=True, slots=True)
class Peaks:
    """Where the peaks of speech lie (95th percentile), and how far those stand over its level."""

    dbfs: float
    crest_db: float


def peaks_of(speech: Mono) -> Peaks | None:
    """The peaks of speech; None where there is none."""
    voice_dbfs = _level(speech)
    if voice_dbfs is None:
        return None
    tops = _tops(speech)
    dbfs = float(decibels(np.percentile(tops[tops > 10 ** (voice_dbfs / 20) / 4], 95) ** 2))
    return Peaks(dbfs, dbfs - voice_dbfs)


def _level(sound: Mono) -> float | None:
    if len(sound) < FRAME_RATE // 4:
        return None
    power = float(np.mean(np.square(sound, dtype=np.float64)))
    return float(decibels(power)) if power > 1e-11 else None


def _tops(sound: Mono) -> NDArray[np.float64]:
    """Peak of every 10 ms."""
    whole = len(sound) // _PEAK_FRAMES
    windows = np.abs(sound[: whole * _PEAK_FRAMES]).reshape(whole, _PEAK_FRAMES)
    return np.asarray(windows.max(axis=1), float)


def _restless(pauses: Sequence[Mono]) -> float | None:
    powers = np.concatenate([np.zeros(0), *map(moments, pauses)])
    return float(decibels(np.percentile(powers, 95))) if len(powers) else None


def _quieter_half(pauses: Sequence[Mono]) -> Mono:
    """The quieter half of the pauses, a third of a second at a time: no breath, no knock."""
    windows = [
        pause[at : at + SIZE] for pause in pauses for at in range(0, len(pause) - SIZE + 1, SIZE)
    ]
    if not windows:
        return np.concatenate([np.zeros(0, np.float32), *pauses])
    windows.sort(key=lambda sound: float(np.mean(np.square(sound))))
    return np.concatenate(windows[: max(1, (len(windows) + 1) // 2)])
