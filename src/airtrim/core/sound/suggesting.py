"""The least that would help a voice, from what it measures. Every suggestion says why, and only
says: nothing is done by itself.

A new one: a function from a study and a chain, and its place in ``_IN_ORDER``.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from airtrim.core.sound.choosing import chosen
from airtrim.core.sound.denoise import FLOOR_DB
from airtrim.core.sound.spectra import GRAPH_HZ
from airtrim.core.sound.study import Study
from airtrim.core.timeline.chain import Band, Chain, Compressor, DeEss, Echo, Hum, LowCut, Noise

Step = Literal["echo", "hum", "noise", "low_cut", "whistle", "eq", "de_ess", "compressor"]


@dataclass(frozen=True, slots=True)
class Suggestion:
    """One step that would help, why in words, and the chain with it taken."""

    step: Step
    title: str
    reason: str
    chain: Chain


@dataclass(frozen=True, slots=True)
class SuggestionLimits:
    """From where on a step would help. Common practice, and set on made-up voices
    (``bench/sound``)."""

    room_unheard_db: float = 45.0
    """A room this far under the voice is not noticed."""
    moments_unheard_db: float = 30.0
    """Nor are moments in its pauses that are this far under it: most of them are breaths."""
    echo_heard_db: float = -13.0
    """An echo from here on beside all that is said is heard: −21 to −31 dB of dry voices, −11 of a
    room that dies away in 0.2 s, −9 in 0.4 s, a metre from the microphone (``bench/echo``)."""
    rumble_unheard_db: float = 32.0
    same_whistle_octaves: float = 0.06
    sharp_db: float = -3.0
    """An s from here on stands out of the voice."""
    crest_db: float = 11.0
    """Peaks from here on over the voice's level are uneven."""
    off_average_db: float = 5.0
    """More than this than speech has on average is a colour."""
    dull_db: float = -8.0
    most_tone_db: float = 4.0
    """A suggestion changes the tone by no more."""


LIMITS = SuggestionLimits()

_LTASS_HZ = (100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150,
             4000, 5000, 6300, 8000, 10000)  # fmt: skip
_LTASS_DB = (54.4, 57.7, 56.8, 60.2, 60.3, 59.0, 62.1, 62.1, 60.5, 56.8, 53.7, 53.0, 52.0, 48.7,
             48.1, 46.8, 45.6, 44.5, 44.3, 43.7, 43.4)  # fmt: skip
"""Long-term average speech spectrum in third octaves (Byrne and others, J. Acoust. Soc. Am. 96,
1994, women and men together; from memory)."""


def suggestions(found: Study, chain: Chain) -> tuple[Suggestion, ...]:
    """What would help the voice of a study; ``chain`` is what is set now, on which each builds."""
    return tuple(one for suggest in _IN_ORDER for one in suggest(found, chain))


def first_compressor(peaks_dbfs: float | None) -> Compressor:
    """A first setting from the voice itself: 3:1 (common practice), the threshold where the loudest
    moments lose 4 dB, made up for by half of that."""
    if peaks_dbfs is None:
        return Compressor(on=True)
    threshold = round(min(max(peaks_dbfs - 4.0 * 3.0 / 2.0, -60.0), 0.0), 1)
    return Compressor(on=True, threshold_db=threshold, make_up_db=2.0)


def _hum(found: Study, chain: Chain) -> Iterable[Suggestion]:
    if found.hum is None or chain.hum.on:
        return
    hum = Hum(True, found.hum.hz, max(1, found.hum.highest))
    yield Suggestion(
        "hum",
        f"Take out the hum at {hum.hz:.0f} Hz",
        f"A mains hum at {hum.hz:.1f} Hz, {_text(found.hum.dbfs)} dBFS, with harmonics up to "
        f"{hum.hz * hum.highest:.0f} Hz, hums on in every pause.",
        replace(chain, hum=hum),
    )


def _echo(found: Study, chain: Chain) -> Iterable[Suggestion]:
    heard = found.noise.echo_db if found.noise else None
    if heard is None or heard < LIMITS.echo_heard_db or chain.echo.on:
        return
    yield Suggestion(
        "echo",
        "Lower the echo",
        f"What the room throws back is only {-heard:.0f} dB under what is said; from about "
        f"{-LIMITS.echo_heard_db:.0f} dB on a voice sounds close.",
        replace(chain, echo=Echo(True)),
    )


def noise_heard(found: Study) -> bool:
    """Whether there is anything in the pauses of a voice that a listener would notice."""
    if found.voice_dbfs is None or found.room_dbfs is None:
        return False
    restless = found.restless_dbfs if found.restless_dbfs is not None else found.room_dbfs
    return (
        found.voice_dbfs - found.room_dbfs < LIMITS.room_unheard_db
        or found.voice_dbfs - restless < LIMITS.moments_unheard_db
    )


def _noise(found: Study, chain: Chain) -> Iterable[Suggestion]:
    if found.voice_dbfs is None or found.room_dbfs is None or chain.noise.on:
        return
    if not noise_heard(found):
        return
    apart = found.voice_dbfs - found.room_dbfs
    if found.noise and found.noise.under_db is not None:
        apart = min(apart, found.noise.under_db)
    if apart >= LIMITS.room_unheard_db:
        return
    strength = round(min(max((LIMITS.room_unheard_db - apart) / -FLOOR_DB, 0.2), 0.7), 2)
    choice = chosen(found.noise) if found.noise else None
    yield Suggestion(
        "noise",
        "Lower the noise",
        f"What is heard between the words is only {apart:.0f} dB under the voice; from about "
        f"{LIMITS.room_unheard_db:.0f} dB on nobody notices it. This lowers it by "
        f"{-FLOOR_DB * strength:.0f} dB." + (f" {choice.reason}" if choice else ""),
        replace(chain, noise=Noise(True, strength, choice.method if choice else "steady")),
    )


def _low_cut(found: Study, chain: Chain) -> Iterable[Suggestion]:
    if found.voice_dbfs is None or chain.low_cut.on:
        return
    under_db = found.voice_dbfs - found.rumble_dbfs
    if under_db >= LIMITS.rumble_unheard_db:
        return
    yield Suggestion(
        "low_cut",
        "Cut the rumble",
        f"Under 65 Hz, where no voice is, there is {_text(found.rumble_dbfs)} dBFS of rumble, "
        f"{under_db:.0f} dB under the voice.",
        replace(chain, low_cut=LowCut(True, 80.0)),
    )


def _whistles(found: Study, chain: Chain) -> Iterable[Suggestion]:
    if found.voice_dbfs is None:
        return
    notched = [band for band in chain.bands if band.kind == "notch"]
    for one in found.whistles:
        if any(abs(np.log2(band.hz / one.hz)) < LIMITS.same_whistle_octaves for band in notched):
            continue
        band = Band("notch", one.hz, q=30.0)
        yield Suggestion(
            "whistle",
            f"Take out the whistle at {one.hz:.0f} Hz",
            f"A narrow tone at {one.hz:.0f} Hz stands {one.over_db:.0f} dB out of the room.",
            replace(chain, bands=(*chain.bands, band)),
        )


def _tone(found: Study, chain: Chain) -> Iterable[Suggestion]:
    """Broad regions that lie well off speech's long-term average, brought a little nearer."""
    if found.voice_dbfs is None or any(band.kind != "notch" for band in chain.bands):
        return
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
        if over > LIMITS.off_average_db:
            gain_db = -round(min(over / 2.0, LIMITS.most_tone_db), 1)
            band = Band(kind, hz, gain_db, q)  # type: ignore[arg-type]
            yield Suggestion(
                "eq",
                f"Less around {hz:.0f} Hz",
                f"{words}: {over:.0f} dB more around {hz:.0f} Hz than speech has on average.",
                replace(chain, bands=(*chain.bands, band)),
            )
    air = float(np.mean(off[(hertz >= 5000)]))
    if air < LIMITS.dull_db:
        gain_db = round(min(-air / 3.0, LIMITS.most_tone_db), 1)
        yield Suggestion(
            "eq",
            "A little more above 6 kHz",
            f"It sounds dull: {-air:.0f} dB less above 5 kHz than speech has on average.",
            replace(chain, bands=(*chain.bands, Band("high_shelf", 6000.0, gain_db, 0.7))),
        )


def _de_ess(found: Study, chain: Chain) -> Iterable[Suggestion]:
    sharp = found.sharpness_db
    if found.voice_dbfs is None or sharp is None or sharp <= LIMITS.sharp_db or chain.de_ess.on:
        return
    yield Suggestion(
        "de_ess",
        "Soften the s",
        f"At its sharpest moments the voice is {_text(sharp)} dB around 6.5 kHz against all of "
        "it: an s that stands out.",
        replace(chain, de_ess=DeEss(True)),
    )


def _compressor(found: Study, chain: Chain) -> Iterable[Suggestion]:
    if found.crest_db is None or found.crest_db <= LIMITS.crest_db or chain.compressor.on:
        return
    compressor = first_compressor(found.peaks_dbfs)
    yield Suggestion(
        "compressor",
        "Hold the loud moments down",
        f"Its peaks stand {found.crest_db:.0f} dB above its level. From "
        f"{_text(compressor.threshold_db)} dBFS on, 3:1 takes about 4 dB off the loudest.",
        replace(chain, compressor=compressor),
    )


_IN_ORDER: tuple[Callable[[Study, Chain], Iterable[Suggestion]], ...] = (
    *(_echo, _hum, _noise, _low_cut, _whistles, _tone, _de_ess, _compressor),
)


def _text(db: float) -> str:
    return f"{db:.0f}".replace("-", "−")
