"""Make the three sounds that come with Air Trim: an opening, a bed and a sting.

All is worked out here, note by note; nobody else's music is in it. ``python demo/make_sounds.py``
writes them to ``src/airtrim/shipped/``.
"""

from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

Sound = NDArray[np.float64]

RATE = 48_000
OUT = Path("src/airtrim/shipped")
D, E, FIS, A, B = 293.66, 329.63, 369.99, 440.0, 493.88
"""Of a scale of five notes, in Hz: whatever sounds together fits."""


def time_of(seconds: float) -> Sound:
    return np.arange(round(seconds * RATE)) / RATE


def plucked(hertz: float, seconds: float) -> Sound:
    """A string: each partial dies the sooner the higher it is."""
    t = time_of(seconds)
    partials = (
        np.sin(2 * np.pi * hertz * n * t) * np.exp(-t * (1.6 + 0.9 * n)) / n**1.5
        for n in range(1, 8)
    )
    return np.asarray(sum(partials) * np.minimum(1.0, t / 0.004))


def held(hertz: float, seconds: float, swell: float) -> Sound:
    """A soft reed: two voices a little apart, rising and dying slowly."""
    t = time_of(seconds)
    voices = sum(
        np.sin(2 * np.pi * hertz * detune * n * t) / n**2
        for detune in (0.9985, 1.0015)
        for n in (1, 2, 3)
    )
    ends = np.minimum(1.0, np.minimum(t, t[::-1]) / swell)
    return np.asarray(voices * np.sin(0.5 * np.pi * ends) ** 2)


def bell(hertz: float, seconds: float) -> Sound:
    """A buoy: partials that are no whole multiples."""
    t = time_of(seconds)
    parts = ((1.0, 1.0, 1.1), (2.76, 0.45, 2.2), (5.4, 0.2, 4.0), (0.5, 0.3, 0.8))
    return np.asarray(
        sum(a * np.sin(2 * np.pi * hertz * m * t) * np.exp(-d * t) for m, a, d in parts)
        * np.minimum(1.0, t / 0.002)
    )


def laid(seconds: float, notes: list[tuple[float, Sound]]) -> Sound:
    out = np.zeros(round(seconds * RATE))
    for at, note in notes:
        start = round(at * RATE)
        part = note[: len(out) - start]
        out[start : start + len(part)] += part
    return out


def opening() -> Sound:
    """Sixteen seconds of plucked strings over two held notes."""
    tune = [D, A, FIS, B, A, E, FIS, A] * 4
    notes = [(0.5 * i, plucked(n * (2 if i % 8 == 7 else 1), 2.5)) for i, n in enumerate(tune)]
    ground = [(0.0, 0.25 * held(D / 2, 8.5, 1.5)), (7.5, 0.25 * held(A / 2, 8.5, 1.5))]
    return laid(17.5, [*notes, *ground])


def bed() -> Sound:
    """Twenty-four seconds of held notes that end as they begin, with a second of themselves before
    and after, so that they can be crossed over where they begin again."""
    chords = [(D / 2, A / 2, FIS), (E / 2, B / 2, FIS), (FIS / 2, A / 2, E), (D / 2, B / 2, A)]
    notes = [
        (6.0 * i, held(n, 7.5, 1.5) / (1 + j))
        for i, c in enumerate(chords)
        for j, n in enumerate(c)
    ]
    whole = laid(25.5, notes)
    # What sounds on over the end begins it.
    tail = whole[24 * RATE :]
    whole[: len(tail)] += tail
    once = whole[: 24 * RATE]
    return np.concatenate((once[-RATE:], once, once[:RATE]))


def sting() -> Sound:
    return laid(3.5, [(0.0, bell(A, 3.5)), (0.35, 0.6 * bell(D * 2, 3.1))])


def write(name: str, sound: Sound) -> None:
    noise = np.random.default_rng(1).triangular(-1, 0, 1, len(sound)) / 2**15
    whole = sound / np.abs(sound).max() * 10 ** (-3 / 20) + noise
    soundfile.write(OUT / name, whole, RATE, subtype="PCM_16")


if __name__ == "__main__":
    OUT.mkdir(parents=True, exist_ok=True)
    write("slipway.flac", opening())
    write("low-tide.flac", bed())
    write("buoy.flac", sting())
