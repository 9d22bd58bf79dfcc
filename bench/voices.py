"""Who speaks on one track: made talks of two and three voices, and a real conversation.

    python -m bench.voices

The voices (piper's joe; flite's slt, rms, awb and kal) and texts are none that limits were set by.
The real conversation is the one inside the wheel of ``pyannote-audio``, used from there.
Diarisation error by ``pyannote-metrics``, collar 0.25 s, from the words that the recogniser gives.
Needs the ``demo`` and ``bench`` extras, and flite from Debian.
"""

import random
import time
import zipfile
from itertools import combinations

import numpy as np
import soundfile
import soxr
from pyannote.core import Annotation, Segment
from pyannote.metrics.diarization import DiarizationErrorRate

from airtrim.compute.here import here
from airtrim.core.media.reading import InMemory
from airtrim.core.speech.models import packaged_model
from airtrim.core.speech.recognise import recognised, transcribe
from airtrim.core.speech.voices import with_voices
from airtrim.core.timeline.words import Word
from bench.fetching import fetched
from bench.noise import TEXTS
from bench.readings import RATE, said

VOICES = ("joe", "slt", "rms", "awb", "kal")
REAL = ("pyannote-audio", "4.0.7")
_JOINED_S = 0.5
_TURNS = 12


def sentences() -> list[str]:
    """What is said, a sentence each."""
    return [one.strip(". ") for text in TEXTS for one in text.split(". ")]


def talk(voices: tuple[str, ...], seed: int) -> tuple[InMemory, Annotation]:
    """Voices in turns of one or two sentences, each at a level of its own, and who speaks when."""
    draw = random.Random(seed)
    level = {voice: 10 ** (-draw.uniform(0, 12) / 20) for voice in voices}
    texts = {voice: draw.sample(sentences(), len(sentences())) for voice in voices}
    truth, parts, at, last = Annotation(), [], 0, ""
    for turn in range(_TURNS * len(voices) // 2 if len(voices) > 1 else _TURNS // 2):
        last = draw.choice([voice for voice in voices if voice != last] or list(voices))
        for _ in range(draw.choice((1, 2))):
            text = texts[last].pop(0)
            texts[last].append(text)
            sound = said(last, text) * level[last]
            truth[Segment(at / RATE, (at + len(sound)) / RATE), f"{turn} {at}"] = last
            pause = round(draw.uniform(0.15, 0.7) * RATE)
            parts += [sound, np.zeros(pause)]
            at += len(sound) + pause
    noise = np.random.default_rng(seed).normal(0, 10 ** (-60 / 20), at)
    return InMemory((np.concatenate(parts) + noise).astype(np.float32)[:, None]), truth


def real_talk() -> tuple[InMemory, Annotation]:
    """Two women on the telephone, half a minute."""
    packed = fetched(*REAL)
    with zipfile.ZipFile(packed) as wheel:
        wheel.extractall(packed.parent)
    files = packed.parent / "pyannote" / "audio" / "sample"
    sound, rate = soundfile.read(files / "sample.wav", dtype="float32")
    truth = Annotation()
    for number, line in enumerate((files / "sample.rttm").read_text().splitlines()):
        told = line.split()
        start = float(told[3])
        truth[Segment(start, start + float(told[4])), number] = told[7]
    return InMemory(soxr.resample(sound, rate, RATE)[:, None]), truth


def as_told(words: tuple[Word, ...]) -> Annotation:
    """Who speaks when, by words; short pauses are part of what is said."""
    spans: list[tuple[int, int, str]] = []
    for word in words:
        if spans and spans[-1][2] == word.voice and word.start - spans[-1][1] < _JOINED_S * RATE:
            spans[-1] = spans[-1][0], word.end, word.voice
        else:
            spans.append((word.start, word.end, word.voice))
    told = Annotation()
    for number, (start, end, voice) in enumerate(spans):
        told[Segment(start / RATE, end / RATE), number] = voice or "1"
    return told


def judged(name: str, take: InMemory, truth: Annotation) -> tuple[str, float, bool]:
    """A row of the table, the error, and whether as many voices were found as there are."""
    words = tuple(transcribe(take.read, take.frames, packaged_model()))
    begun = time.process_time()
    found = with_voices(take, words)
    took = time.process_time() - begun
    error = DiarizationErrorRate(collar=0.25)(truth, as_told(found))
    count, there = len({word.voice for word in found}), len(truth.labels())
    times = take.frames / RATE / took
    row = f"| {name} | {take.frames / RATE:.0f} s | {there} | {count} | {error:.3f} | {times:.0f} |"
    return row, float(error), count == there


def pipeline() -> str:
    """The whole of it beside the bare recogniser, in one run."""
    take, _ = talk(VOICES[:2], 1)
    start = InMemory(take.read(0, 60 * RATE))  # in which processes start, and load what they need
    with_voices(
        start, tuple(transcribe(start.read, start.frames, packaged_model(), compute=here()))
    )
    begun = time.perf_counter()
    bare = list(recognised(take.read, take.frames, packaged_model()))
    middle = time.perf_counter()
    words = tuple(transcribe(take.read, take.frames, packaged_model(), compute=here()))
    with_voices(take, words, compute=here())
    whole = time.perf_counter() - middle
    ratio = whole / (middle - begun)
    return (
        f"Words, edges and voices take {ratio:.2f} times the bare recogniser ({len(bare)} words)."
    )


def main() -> None:
    """Print the table."""
    print("| talk | length | voices | found | diarisation error | times real time |")
    print("|---|---|---|---|---|---|")
    print(judged("real, two women on the telephone", *real_talk())[0], flush=True)
    for count in (1, 2, 3):
        errors, right = [], 0
        for number, voices in enumerate(combinations(VOICES, count)):
            row, error, exact = judged(", ".join(voices), *talk(voices, 10 * count + number))
            errors.append(error)
            right += exact
            print(row, flush=True)
        mean, worst = np.mean(errors), max(errors)
        print(
            f"| **mean of {len(errors)}, {count} voices** | | | right {right} | "
            f"**{mean:.3f}**, highest {worst:.3f} | |"
        )
    print()
    print(pipeline())


if __name__ == "__main__":
    main()
