"""What a voice and its room measure, and the least that would help.

Every suggestion says why. Nothing here changes a sound.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.sound.denoise import FLOOR_DB
from airtrim.core.timeline.chain import Band, Chain, Compressor, DeEss, Hum, LowCut, Noise

Mono = NDArray[np.float32]
Step = Literal["hum", "noise", "low_cut", "whistle", "eq", "de_ess", "compressor"]

GRAPH_HZ = np.geomspace(20.0, 20_000.0, 145)
"""Where spectra and curves are told: 14.4 points a decade."""

_SIZE = 1 << 14
_WINDOW_S = _SIZE / FRAME_RATE
_FRAME = FRAME_RATE // 100
_ROOM_UNHEARD_DB = 45.0
"""A room this far under the voice is not noticed (common practice)."""
_HUM_DB = 10.0
_WHISTLE_DB = 12.0
_MOST_WHISTLES = 3

_LTASS_HZ = (100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150,
             4000, 5000, 6300, 8000, 10000)  # fmt: skip
_LTASS_DB = (54.4, 57.7, 56.8, 60.2, 60.3, 59.0, 62.1, 62.1, 60.5, 56.8, 53.7, 53.0, 52.0, 48.7,
             48.1, 46.8, 45.6, 44.5, 44.3, 43.7, 43.4)  # fmt: skip
"""Long-term average speech spectrum in third octaves (Byrne and others, J. Acoust. Soc. Am. 96,
1994, women and men together; from memory)."""


@dataclass(frozen=True, slots=True)
class Whistle:
    """A narrow resonance: where it is, and how far it stands out of what is beside it."""

    hz: float
    over_db: float


@dataclass(frozen=True, slots=True)
class Suggestion:
    """One step that would help, why in words, and the chain with it taken."""

    step: Step
    title: str
    reason: str
    chain: Chain


@dataclass(frozen=True, slots=True)
class Study:
    """Figures of one track, untreated. Levels in dBFS (RMS), None where there is nothing of the
    kind. ``voice_db`` and ``room_db``: power in third octaves at ``GRAPH_HZ``; ``peaks_dbfs``:
    where the peaks of speech lie (95th percentile); ``crest_db``: those over its RMS;
    ``harmonics``: the highest of the hum that stands out; ``notes``: what stands in the way of a
    good judgement."""

    voice_dbfs: float | None
    room_dbfs: float | None
    peaks_dbfs: float | None
    crest_db: float | None
    hum_hz: float | None
    hum_dbfs: float | None
    harmonics: int
    whistles: tuple[Whistle, ...]
    voice_db: tuple[float, ...]
    room_db: tuple[float, ...]
    notes: tuple[str, ...]
    suggestions: tuple[Suggestion, ...]


def study(speech: Mono, pauses: Sequence[Mono], chain: Chain) -> Study:
    """Judge a voice by some of its ``speech``, shape ``(n,)``, and of its ``pauses``, each of which
    is one; ``chain`` is what is set now, on which each suggestion builds."""
    notes = []
    voice = _power(speech)
    quiet = _quieter_half(pauses)
    room = _power(quiet)
    voice_dbfs, room_dbfs = _level(speech), _level(quiet)
    if voice_dbfs is None:
        notes.append("No speech is known on this track, so there is nothing to judge it by.")
    if room_dbfs is None:
        notes.append("There is no pause without sound or words in it, so the room is not known.")
    peaks = crest = None
    if voice_dbfs is not None:
        tops = _tops(speech)
        peaks = float(_db(np.percentile(tops[tops > 10 ** (voice_dbfs / 20) / 4], 95) ** 2))
        crest = peaks - voice_dbfs
        if abs(float(speech.mean())) > 10 ** ((voice_dbfs - 30) / 20):
            notes.append("The sound is off centre (DC offset); a low cut takes that away.")
        if int((np.abs(speech) >= 0.999).sum()) >= 8:
            notes.append("It clips in places, which no setting here repairs.")
    hum_hz, hum_dbfs, harmonics = _mains(pauses)
    whistles = _whistles(room, hum_hz)
    found = Study(
        voice_dbfs, room_dbfs, peaks, crest, hum_hz, hum_dbfs, harmonics, whistles,
        _third_octaves(voice), _third_octaves(room), tuple(notes), (),
    )  # fmt: skip
    return replace(found, suggestions=tuple(_suggestions(found, voice, speech, chain)))


def _db(power: float | NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(10.0 * np.log10(np.maximum(power, 1e-13)))


def _said(db: float, decimals: int = 0) -> str:
    return f"{db:.{decimals}f}".replace("-", "−")


def _level(sound: Mono) -> float | None:
    if len(sound) < FRAME_RATE // 4:
        return None
    power = float(np.mean(np.square(sound, dtype=np.float64)))
    return float(_db(power)) if power > 1e-11 else None


def _tops(sound: Mono) -> NDArray[np.float64]:
    """Peak of every 10 ms."""
    whole = len(sound) // _FRAME
    return np.asarray(np.abs(sound[: whole * _FRAME]).reshape(whole, _FRAME).max(axis=1), float)


def _power(sound: Mono) -> NDArray[np.float64]:
    """Power of each bin of a third of a second, averaged (Welch 1967); its sum is the power.

    >>> time_s = np.arange(FRAME_RATE) / FRAME_RATE
    >>> sine = 0.5 * np.sin(2 * np.pi * 1000 * time_s).astype(np.float32)
    >>> round(float(_db(_power(sine).sum())), 1)
    -9.0
    """
    from scipy.signal import welch  # slow to import, and seldom needed

    if len(sound) < _SIZE:
        sound = np.pad(sound, (0, _SIZE - len(sound)))
    _, density = welch(sound, FRAME_RATE, nperseg=_SIZE, detrend=False)
    return np.asarray(density, float) / _WINDOW_S


def _band(power: NDArray[np.float64], low: float, high: float) -> float:
    first = max(1, round(low * _WINDOW_S))
    return float(power[first : max(first + 1, round(high * _WINDOW_S))].sum())


def _third_octaves(power: NDArray[np.float64]) -> tuple[float, ...]:
    side = 2.0 ** (1.0 / 6.0)
    return tuple(round(float(_db(_band(power, hz / side, hz * side))), 2) for hz in GRAPH_HZ)


def _quieter_half(pauses: Sequence[Mono]) -> Mono:
    """The quieter half of the pauses, a third of a second at a time: no breath, no knock."""
    windows = [
        pause[at : at + _SIZE] for pause in pauses for at in range(0, len(pause) - _SIZE + 1, _SIZE)
    ]
    if not windows:
        return np.concatenate([np.zeros(0, np.float32), *pauses])
    windows.sort(key=lambda sound: float(np.mean(np.square(sound))))
    return np.concatenate(windows[: max(1, (len(windows) + 1) // 2)])


def _mains(pauses: Sequence[Mono]) -> tuple[float | None, float | None, int]:
    """Mains hum in pauses: its exact frequency, its level, and its highest strong harmonic."""
    from scipy.signal import periodogram

    size = 1 << 17  # 0.37 Hz
    pieces = [pause[: 2 * FRAME_RATE] for pause in pauses if len(pause) >= FRAME_RATE // 2][:20]
    spectra = [
        periodogram(piece, FRAME_RATE, "hann", nfft=size, detrend=False, scaling="spectrum")[1]
        for piece in pieces
    ]
    if not spectra or np.max(spectra) <= 0.0:
        return None, None, 0
    level = _db(np.mean(spectra, axis=0, dtype=np.float64))
    per_hz = size / FRAME_RATE

    def line(hertz: float) -> tuple[int, float]:
        """Where the line near a frequency peaks, and how far it stands out (dB)."""
        centre = round(hertz * per_hz)
        reach = max(4, round(0.01 * centre))
        peak = centre - reach + int(np.argmax(level[centre - reach : centre + reach + 1]))
        near, far = round(8 * per_hz), round(20 * per_hz)
        beside = np.concatenate([level[peak - far : peak - near], level[peak + near : peak + far]])
        return peak, float(level[peak] - np.median(beside))

    lines = {hz: [line(hz * n) for n in range(1, 13)] for hz in (50.0, 60.0)}
    hertz = max(lines, key=lambda hz: sum(max(0.0, over - 6.0) for _, over in lines[hz][:6]))
    clear = [n for n, (_, over) in enumerate(lines[hertz], 1) if over > _HUM_DB]
    if not clear or (len(clear) < 2 and lines[hertz][0][1] < 1.5 * _HUM_DB):
        return None, None, 0
    exact = []
    for n in clear:
        peak = lines[hertz][n - 1][0]
        a, b, c = level[peak - 1 : peak + 2]
        exact.append((peak + 0.5 * (a - c) / (a - 2 * b + c)) / per_hz / n)
    found = min(max(float(np.average(exact, weights=clear)), 45.0), 65.0)
    loudest = max(float(level[peak]) for peak, _ in (lines[hertz][n - 1] for n in clear))
    return round(found, 2), round(loudest, 1), clear[-1]


def _whistles(room: NDArray[np.float64], hum_hz: float | None) -> tuple[Whistle, ...]:
    """The strongest narrow resonances of a room, lines of mains hum left out."""
    from scipy.signal import find_peaks

    level = _db(room)
    if level.max() < -100.0:
        return ()
    found = []
    first, last = round(150 * _WINDOW_S), round(14_000 * _WINDOW_S)
    peaks, _ = find_peaks(level[:last], height=-95.0, distance=3)
    for k in (int(peak) for peak in peaks if peak >= first):
        reach = max(12, k // 12)
        beside = float(np.median(level[max(1, k - reach) : k + reach + 1]))
        over = float(level[k]) - beside
        hz = k / _WINDOW_S
        harmonic = hum_hz and abs(hz / hum_hz - round(hz / hum_hz)) * hum_hz < 5.0 and hz < 1300
        if over > _WHISTLE_DB and not harmonic:
            found.append(Whistle(round(hz, 1), round(over, 1)))
    found.sort(key=lambda one: -one.over_db)
    out: list[Whistle] = []
    for one in found:
        if all(abs(np.log2(one.hz / other.hz)) > 0.08 for other in out):
            out.append(one)
    return tuple(out[:_MOST_WHISTLES])


def _suggestions(
    found: Study, power: NDArray[np.float64], speech: Mono, chain: Chain
) -> Iterable[Suggestion]:
    voice, room = found.voice_dbfs, found.room_dbfs
    if found.hum_hz is not None and not chain.hum.on:
        hum = Hum(True, found.hum_hz, max(1, found.harmonics))
        yield Suggestion(
            "hum",
            f"Take out the hum at {found.hum_hz:.0f} Hz",
            f"A mains hum at {found.hum_hz:.1f} Hz, {_said(found.hum_dbfs or 0.0)} dBFS, with "
            f"harmonics up to {found.hum_hz * hum.highest:.0f} Hz, hums on in every pause.",
            replace(chain, hum=hum),
        )
    if voice is None:
        return
    if room is not None and voice - room < _ROOM_UNHEARD_DB and not chain.noise.on:
        apart = voice - room
        strength = round(min(max((_ROOM_UNHEARD_DB - apart) / -FLOOR_DB, 0.2), 0.7), 2)
        yield Suggestion(
            "noise",
            "Lower the room",
            f"The room is only {apart:.0f} dB under the voice; from about "
            f"{_ROOM_UNHEARD_DB:.0f} dB on nobody notices it. This lowers it by "
            f"{-FLOOR_DB * strength:.0f} dB.",
            replace(chain, noise=Noise(True, strength)),
        )
    rumble = _band(power, 15.0, 65.0)
    if not chain.low_cut.on and float(_db(rumble)) > voice - 32.0:
        yield Suggestion(
            "low_cut",
            "Cut the rumble",
            f"Under 65 Hz, where no voice is, there is {_said(float(_db(rumble)))} dBFS of rumble, "
            f"{voice - float(_db(rumble)):.0f} dB under the voice.",
            replace(chain, low_cut=LowCut(True, 80.0)),
        )
    notched = [band for band in chain.bands if band.kind == "notch"]
    for one in found.whistles:
        if any(abs(np.log2(band.hz / one.hz)) < 0.06 for band in notched):
            continue
        band = Band("notch", one.hz, q=30.0)
        yield Suggestion(
            "whistle",
            f"Take out the whistle at {one.hz:.0f} Hz",
            f"A narrow tone at {one.hz:.0f} Hz stands {one.over_db:.0f} dB out of the room.",
            replace(chain, bands=(*chain.bands, band)),
        )
    if not any(band.kind != "notch" for band in chain.bands):
        yield from _tone(found, chain)
    sharp = _sharpness(speech)
    if sharp is not None and sharp > -3.0 and not chain.de_ess.on:
        yield Suggestion(
            "de_ess",
            "Soften the s",
            f"At its sharpest moments the voice is {_said(sharp)} dB around 6.5 kHz against "
            "all of it: an s that stands out.",
            replace(chain, de_ess=DeEss(True)),
        )
    if found.crest_db is not None and found.crest_db > 11.0 and not chain.compressor.on:
        set_up = first_compressor(found)
        yield Suggestion(
            "compressor",
            "Hold the loud moments down",
            f"Its peaks stand {found.crest_db:.0f} dB above its level. From "
            f"{_said(set_up.threshold_db)} dBFS on, 3:1 takes about 4 dB off the loudest.",
            replace(chain, compressor=set_up),
        )


def first_compressor(found: Study) -> Compressor:
    """A first setting from the voice itself: 3:1 (common practice), the threshold where the loudest
    moments lose 4 dB, made up for by half of that."""
    if found.peaks_dbfs is None:
        return Compressor(on=True)
    threshold = round(min(max(found.peaks_dbfs - 4.0 * 3.0 / 2.0, -60.0), 0.0), 1)
    return Compressor(on=True, threshold_db=threshold, make_up_db=2.0)


def _tone(found: Study, chain: Chain) -> Iterable[Suggestion]:
    """Broad regions that lie well off speech's long-term average, brought a little nearer."""
    at = np.array([int(np.argmin(np.abs(GRAPH_HZ - hz))) for hz in _LTASS_HZ])
    off = np.array(found.voice_db)[at] - np.array(_LTASS_DB)
    hertz = np.array(_LTASS_HZ)
    # Against what lies in the middle, which carries most of the power.
    off = off - np.median(off[(hertz >= 250) & (hertz <= 2000)])
    regions = (
        ("It sounds thick", "low_shelf", 0.7, 100, 200, 160.0),
        ("It sounds boxed in", "peak", 1.0, 315, 500, 400.0),
        ("It sounds harsh", "peak", 1.0, 3150, 5000, 3800.0),
    )
    for words, kind, q, low, high, hz in regions:
        over = float(np.mean(off[(hertz >= low) & (hertz <= high)]))
        if over > 5.0:
            band = Band(kind, hz, -round(min(over / 2.0, 4.0), 1), q)  # type: ignore[arg-type]
            yield Suggestion(
                "eq",
                f"Less around {hz:.0f} Hz",
                f"{words}: {over:.0f} dB more around {hz:.0f} Hz than speech has on average.",
                replace(chain, bands=(*chain.bands, band)),
            )
    air = float(np.mean(off[(hertz >= 5000)]))
    if air < -8.0:
        band = Band("high_shelf", 6000.0, round(min(-air / 3.0, 4.0), 1), 0.7)
        yield Suggestion(
            "eq",
            "A little more above 6 kHz",
            f"It sounds dull: {-air:.0f} dB less above 5 kHz than speech has on average.",
            replace(chain, bands=(*chain.bands, band)),
        )


def _sharpness(speech: Mono) -> float | None:
    """How strong the sharpest moments are between 5 and 9 kHz against the voice's own level."""
    size = 1024
    if len(speech) < 20 * size:
        return None
    frames = np.lib.stride_tricks.sliding_window_view(speech, size)[:: size // 2]
    spectrum = np.abs(np.fft.rfft(frames * np.hanning(size), axis=1)) ** 2
    low, high = round(5000 * size / FRAME_RATE), round(9000 * size / FRAME_RATE)
    band, whole = spectrum[:, low:high].sum(axis=1), spectrum[:, 1:].sum(axis=1)
    loud = whole > 0.05 * whole.mean()
    if not loud.any():
        return None
    return float(_db(np.percentile(band[loud], 97) / whole[loud].mean()))
