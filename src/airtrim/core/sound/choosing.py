"""Which noise reduction a recording calls for, from what the noise in it is like."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.reading import InMemory, Readable
from airtrim.core.sound import echo, learnt
from airtrim.core.sound.spectra import Mono, moments
from airtrim.core.timeline.chain import NoiseMethod

AskedMethod = Literal["auto", "steady", "learnt"]

_PROBES = 4
_PROBE_FRAMES = 4 * FRAME_RATE
_QUIET_DB = 25.0
"""Where what the network leaves lies this far under the voice, nobody speaks."""
_LEAST_WINDOWS = 10
STEADY_DB = 3.0
"""Up to here the loud moments of a noise stand over its middle, where it is steady: 0.2 to 2.5 dB
of fans, hiss, hum and engines, 4 to 36 of traffic, talk, keys and dishes (``bench/noise``)."""
LOW_DB = 20.0
"""From here on under the voice a noise is low enough for the gentler method. At 15 dB the learnt
one is ahead by PESQ and DNSMOS still, and behind by up to 0.01 STOI (``bench/noise``)."""


@dataclass(frozen=True, slots=True)
class Heard:
    """The room in a take. Its noise: how far it lies ``under_db`` the voice, and how far its loud
    moments ``change_db`` stand above its middle; None where nobody pauses, or nothing is heard. And
    how loud its echo is, ``echo_db`` beside all that is said."""

    under_db: float | None
    change_db: float | None
    echo_db: float | None


NOTHING = Heard(None, None, None)


@dataclass(frozen=True, slots=True)
class Choice:
    """A method, and why, in words."""

    method: NoiseMethod
    reason: str


def chosen(heard: Heard) -> Choice:
    """The method that a noise calls for: the gentler one where it is steady and low.

    >>> chosen(Heard(30.0, 0.4, None)).method, chosen(Heard(30.0, 20.0, None)).method
    ('steady', 'learnt')
    """
    if heard.under_db is None or heard.change_db is None:
        return Choice("learnt", "There is no pause in which the noise is heard by itself.")
    if heard.change_db > STEADY_DB:
        said = f"The noise changes: its loud moments stand {heard.change_db:.0f} dB above the rest."
        return Choice("learnt", said)
    if heard.under_db < LOW_DB:
        return Choice("learnt", f"The noise is only {heard.under_db:.0f} dB under the voice.")
    said = f"The noise is steady, and {heard.under_db:.0f} dB under the voice."
    return Choice("steady", said)


def settled(asked: AskedMethod, takes: Iterable[Readable]) -> Choice:
    """The method for several takes: the one that was asked for, or the one that the most restless
    of them calls for."""
    if asked != "auto":
        return Choice(asked, "It was asked for.")
    return chosen(most_restless(map(heard_in, takes)) or NOTHING)


def most_restless(heard: Iterable[Heard]) -> Heard | None:
    """Of several noises the one that changes most; None of none."""
    return max(heard, key=lambda one: one.change_db or 0.0, default=None)


def heard_in(take: Readable) -> Heard:
    """What the room in a take is like: its noise, by what the learnt method takes out of four
    places of it while nobody speaks, and its echo, by what their past explains of them."""
    if not take.frames:
        return NOTHING
    count = min(_PROBE_FRAMES, take.frames)
    starts = np.linspace(0, take.frames - count, _PROBES).astype(int)
    voices, rests, sounds = [], [], []
    for start in dict.fromkeys(starts.tolist()):
        sound = take.read(start, count)[:, :1]
        sounds.append(sound[:, 0])
        left = np.concatenate(list(learnt.clean(InMemory(sound))))
        voices.append(_levels(left[:, 0]))
        rests.append(_levels((sound - left)[:, 0]))
    voice, rest = np.concatenate(voices), np.concatenate(rests)
    if not len(voice) or voice.max() < -70.0:
        return NOTHING
    echo_db = echo.heard_db(np.concatenate(sounds))
    spoken = 10.0 * np.log10(np.mean(10.0 ** (voice[voice > voice.max() - _QUIET_DB] / 10.0)))
    quiet = rest[voice < spoken - _QUIET_DB]
    if len(quiet) < _LEAST_WINDOWS:
        return Heard(None, None, echo_db)
    middle, loud = np.percentile(quiet, [50, 95])
    power = 10.0 * np.log10(np.mean(10.0 ** (quiet / 10.0)))
    return Heard(float(spoken - power), float(loud - middle), echo_db)


def _levels(sound: Mono) -> NDArray[np.float64]:
    """RMS in dBFS of every moment."""
    return np.asarray(10.0 * np.log10(moments(sound) + 1e-12))
