"""Fillers on voices and texts that training and tuning never met, by where they stand.

    python -m bench.fillers
    python -m bench.fillers reading

Three voices (piper's joe; flite's slt and rms) say 300 sentences with a filler or two in each:
alone, after or before a pause, between two words that it laps over, drawn out, cut off, with a
breath or laughter beside; clean, in noise, in a room, over a telephone, as MP3 at 64 kbit/s. Then,
or by itself, the same voices reading for ten minutes each without any, from a licence that comes
with Debian. Needs the ``demo`` extra, and flite from Debian.
"""

import re
import sys
import tempfile
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, fftconvolve, sosfilt

from airtrim.core.media.reading import InMemory
from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.release.formats.mp3 import Mp3
from airtrim.core.speech.models import packaged_model
from airtrim.core.speech.recognise import transcribe
from airtrim.core.timeline.words import Word
from bench.noise import TEXTS
from bench.readings import RATE, VOICES, Line, read_aloud, room_tail, said

CLAUSES = """
the choir begins at half past eight
my neighbour keeps his ladder in the hall
we waited for the second act in the rain
a carpenter looked at the floor and sighed
the recipe calls for two kinds of vinegar
she played the organ at every wedding
the tailor measured him with a piece of string
nobody had counted the steps before
the bakery closes when the bread is gone
our bus turned around at the quarry
I found the photograph behind the mirror
the orchestra was one trumpet short
the children had hidden all the spoons
it smelled of oranges and floor wax
the judge read the letter twice
they planted a hedge instead of a wall
the telescope stands in a former stable
he answers every question with a proverb
the ink had faded but the stamp had not
my sister translates for the fishermen
a storm had bent the iron gate
the last tram leaves without a bell
you have to knock before you whisper
the accountant danced until the morning
our map was older than the road
the potter signs her work under the handle
an owl lives above the post office
the curtain got stuck in the third scene
I borrowed the drum and never returned it
the well is deeper than the tower is high
""".strip().splitlines()

PLACES = (
    "alone", "after a pause", "before a pause", "between", "drawn out", "cut off",
    "breath beside", "laughter beside",
)  # fmt: skip
TOUCHING = ("after a pause", "before a pause", "between", "drawn out", "cut off")
CONDITIONS = ("clean", "30 dB", "20 dB", "room", "telephone", "MP3 at 64")
_PER_TALK = 17
_LAP = RATE // 40
_LEVEL = 0.1
LICENCE = Path("/usr/share/common-licenses/GPL-3")
_LEAST_WORDS = 5


Say = Callable[..., NDArray[np.float64]]
Placed = tuple[float, float, str, str]
"""Where a filler is, in seconds, at which kind of place, and which it is."""


@dataclass
class Talk:
    """Sentences said by a voice, and its fillers."""

    name: str
    sound: NDArray[np.float32]
    fillers: list[Placed] = field(default_factory=list)


def talk(voice: str, condition: str, number: int) -> Talk:
    """Sentences under a condition, two clauses each."""
    rng = np.random.default_rng([number, CONDITIONS.index(condition)])
    sound, fillers = spliced(partial(said, voice), CLAUSES, _PER_TALK, rng)
    return Talk(f"{voice}, {condition}", _as_it_comes(sound, condition, rng), fillers)


def spliced(
    say: Say, clauses: list[str], sentences: int, rng: np.random.Generator
) -> tuple[NDArray[np.float64], list[Placed]]:
    """Sentences of two clauses each, with a filler or two spliced in; and where those are. ``say``
    gives a text as ``bench.readings.said`` does, at a slowness."""
    line = Line()
    fillers: list[Placed] = []
    line.wait(1.0)
    for number in range(sentences):
        first, second = rng.choice(len(clauses), 2, replace=False)
        words = f"{clauses[first]} and {clauses[second]}".split()
        count = 1 + number % 2
        places = sorted(rng.choice(np.arange(2, len(words) - 2), count, replace=False))
        if count == 2 and places[1] - places[0] < 3:
            places = places[:1]
        joined = False
        for low, high in zip([0, *places], [*places, len(words)], strict=True):
            line.put(say(" ".join(words[low:high])), _LAP if joined else 0)
            if high == len(words):
                break
            kind = str(rng.choice(PLACES, p=[0.2, 0.1, 0.1, 0.25, 0.15, 0.08, 0.06, 0.06]))
            joined = _hesitate(line, fillers, say, kind, rng)
        line.wait(rng.uniform(0.4, 0.8))
    return np.concatenate(line.parts), fillers


def _hesitate(
    line: Line,
    fillers: list[Placed],
    say: Say,
    kind: str,
    rng: np.random.Generator,
) -> bool:
    """A filler at a kind of place; whether what comes next touches it."""
    slow = float(rng.choice([2.2, 2.8]) if kind == "drawn out" else rng.choice([1.2, 1.5, 1.8]))
    name = str(rng.choice(["um", "uh"]))
    sound = 0.85 * say(name, slow)
    if kind == "cut off":
        sound = sound[: int(0.65 * len(sound))].copy()
        sound[-480:] *= np.linspace(1, 0, 480)
    before = kind in ("before a pause", "between", "drawn out", "cut off")
    after = kind in ("after a pause", "between", "drawn out", "cut off")
    if not before:
        line.wait(rng.uniform(0.25, 0.5))
    if kind == "breath beside":
        breath = sosfilt(butter(2, [500, 6000], "band", fs=RATE, output="sos"),
                         rng.standard_normal(RATE // 3))  # fmt: skip
        line.put(breath / breath.std() * np.hanning(len(breath)) * _LEVEL * 0.1)
        line.wait(0.05)
    start = line.frames - (_LAP // 2 if before else 0)
    line.put(sound, _LAP if before else 0)
    end = line.frames - (_LAP // 2 if after else 0)
    if kind == "laughter beside":
        line.wait(0.05)
        line.put(0.6 * say("ha ha ha"))
    if not after:
        line.wait(rng.uniform(0.25, 0.5))
    fillers.append((start / RATE, end / RATE, kind, name))
    return after


def _as_it_comes(
    sound: NDArray[np.float64], condition: str, rng: np.random.Generator
) -> NDArray[np.float32]:
    """Speech as it is under a condition, in time to the sample."""
    below = {"30 dB": 30.0, "20 dB": 20.0}.get(condition, 60.0)
    noise = sosfilt(butter(1, 1200, fs=RATE, output="sos"), rng.standard_normal(len(sound)))
    if condition == "room":  # decays by 60 dB in half a second, direct sound 6 dB over it
        sound = fftconvolve(sound, room_tail(0.5, 6.0, RATE, rng))[: len(sound)]
    if condition == "telephone":
        sound = sosfilt(butter(4, [300, 3400], "band", fs=RATE, output="sos"), sound)
    sound = sound + noise / noise.std() * _LEVEL * 10 ** (-below / 20)
    sound *= min(1.0, 0.9 / np.abs(sound).max())
    out = sound.astype(np.float32)
    return _through_mp3(out) if condition == "MP3 at 64" else out


def _through_mp3(sound: NDArray[np.float32]) -> NDArray[np.float32]:
    """As it is after MP3 at 64 kbit/s."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.mp3"
        Mp3().write(iter([sound[:, None]]), path, channels=1, kbits=64)
        stored = Path(folder) / "sound"
        store_take(path, stored, Path(folder) / "peaks", name="talk")
        return TakeReader(stored).read(0, len(sound))[:, 0]


@dataclass
class Score:
    """Fillers there and found by kind of place, false ones, and how far off edges are."""

    there: Counter[str] = field(default_factory=Counter)
    found: Counter[str] = field(default_factory=Counter)
    false: list[str] = field(default_factory=list)
    edges_ms: list[float] = field(default_factory=list)

    def add(self, one: Talk, spans: list[tuple[float, float]]) -> None:
        """Judge what was found of a talk: a filler is found where more than half of the shorter of
        the two lies in the other."""
        left = list(spans)
        for start, end, kind, _ in one.fillers:
            self.there[kind] += 1
            met = [
                (min(end, b) - max(start, a), (a, b))
                for a, b in left
                if min(end, b) - max(start, a) > 0.5 * min(end - start, b - a)
            ]
            if met:
                _, best = max(met)
                left.remove(best)
                self.found[kind] += 1
                self.edges_ms += [1000 * abs(best[0] - start), 1000 * abs(best[1] - end)]
        self.false += [f"{one.name} at {a:.1f} to {b:.2f} s" for a, b in left]

    def recall(self, kinds: tuple[str, ...]) -> str:
        found, there = (sum(count[kind] for kind in kinds) for count in (self.found, self.there))
        return f"{found} of {there} ({found / max(1, there):.2f})"


def spans_of(sound: NDArray[np.float32]) -> list[tuple[float, float]]:
    """Where Air Trim finds fillers, in seconds."""
    take = InMemory(sound[:, None])
    words: list[Word] = list(transcribe(take.read, take.frames, packaged_model()))
    return [(w.start / RATE, w.end / RATE) for w in words if w.kind == "filler"]


def sentences_of(prose: str) -> list[str]:
    """What can be read aloud of a text as it stands."""
    found = []
    for paragraph in prose.split("\n\n"):
        for sentence in re.split(r"(?<=[.;:]) ", " ".join(paragraph.split())):
            plain = re.sub(r"^(\(?[a-z]\)|\d+\.) ?", "", sentence).strip(" .;:")
            if re.fullmatch(r"[A-Za-z ,'-]+", plain) and len(plain.split()) >= _LEAST_WORDS:
                found.append(plain)
    return found


def clean_reading(voice: str, minutes: float) -> NDArray[np.float32]:
    """Clauses and a licence without a filler, in a room's noise."""
    rng = np.random.default_rng(3)
    parts = [read_aloud(voice, text.rstrip(". ")) for text in TEXTS]
    for sentence in [*CLAUSES, *sentences_of(LICENCE.read_text())]:
        if sum(map(len, parts)) >= minutes * 60 * RATE:
            break
        parts.append(np.pad(said(voice, sentence), (RATE // 4, RATE // 4)))
    sound = np.concatenate(parts)
    return (sound + rng.normal(0, 1e-4, len(sound))).astype(np.float32)


def false_of(minutes: float = 10.0) -> str:
    """How many fillers are found where there are none."""
    whole, where = 0.0, []
    for voice in VOICES:
        sound = clean_reading(voice, minutes)
        spans = spans_of(sound)
        whole += len(sound) / RATE / 60
        where += [f"{voice} at {start:.1f} to {end:.2f} s" for start, end in spans]
    told = f"{len(where)} false in {whole:.1f} minutes of reading without any"
    return f"{told}: {'; '.join(where)}." if where else f"{told}."


def main() -> None:
    """Print the tables."""
    whole = Score()
    print("| sound | touching | alone | right of those found |")
    print("|---|---|---|---|")
    lone = tuple(kind for kind in PLACES if kind not in TOUCHING)
    for condition in CONDITIONS:
        score = Score()
        for number, voice in enumerate(VOICES):
            one = talk(voice, condition, number)
            spans = spans_of(one.sound)
            score.add(one, spans)
            whole.add(one, spans)
        right = sum(score.found.values())
        print(
            f"| {condition} | {score.recall(TOUCHING)} | {score.recall(lone)} | "
            f"{right} of {right + len(score.false)} |",
            flush=True,
        )
    print("\n| place | found |\n|---|---|")
    for kind in PLACES:
        print(f"| {kind} | {whole.recall((kind,))} |")
    right = sum(whole.found.values())
    print(
        f"\nTouching {whole.recall(TOUCHING)}, alone {whole.recall(lone)}; right "
        f"{right / (right + len(whole.false)):.2f}; edges {np.median(whole.edges_ms):.0f} / "
        f"{np.percentile(whole.edges_ms, 90):.0f} ms."
    )
    print("False:", "; ".join(whole.false))
    print(f"\n{false_of()}")


if __name__ == "__main__":
    if sys.argv[1:] == ["reading"]:
        print(false_of())
    else:
        main()
