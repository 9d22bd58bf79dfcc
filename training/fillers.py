"""The small network that hears fillers in the recogniser's encoder: its speech, and its training.

    python -m training.fillers say FOLDER PART OF   # speech, with what training/neural.py needs
    python -m training.fillers train FOLDER OUT     # needs scikit-learn
    python -m training.fillers join OUT OTHER       # into the weights that ship

Two networks are heard together: one that was trained before there were readings (48 units, on
twelve sentences of each voice; 2026-11-29), which leaves out fewest hesitations, and one that was
trained with them, which takes fewest ends of words for one.

Twenty-eight neural voices say sentences with hesitations (``training/sentences.py``); four of them
and a quarter of the texts are kept for tuning. Plainer voices (``training/plain.py``) say those
texts with fillers spliced in, and read licences without any: what a voice that is put together does
to the end of a word is like a hesitation. No voice and no text of them is heard by ``bench/``.
"""

import json
import sys
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

import numpy as np
import soundfile
import soxr
from bench.fillers import spliced
from bench.readings import RATE as SPLICED_RATE
from bench.readings import room_tail
from numpy.typing import NDArray
from scipy.signal import butter, fftconvolve, sosfilt

from airtrim.core.speech import HOP, MODEL_RATE
from airtrim.core.speech.fillers import FRAME_S, WEIGHTS, beside, encoded
from training import plain
from training.neural import RATE, NeuralVoices
from training.sentences import FOR_TRAINING, dictionary, sentence

KEPT = ("af_sarah", "am_michael", "bf_emma", "bm_lewis")
_SPLICED = 3
_READ = 5
"""Blocks by each plainer voice: with fillers, and reading without any."""
_NO_SPEECH = 3
_SENTENCES = 16
_FIRST_PLAIN = 8
"""From this sentence of a voice on every second one has no filler."""
_NEAR_S = 0.2
_BLOCK_S = 27.0
_PASSES = 6
"""How often each sentence is heard, each time in another block and under other conditions."""
_LEAST_S = 0.12
"""What is shorter cannot be told from "a"."""
_HIDDEN = 96
_OTHERS = 0.5
_EPOCHS = 8
_HALVED = 6
"""How often the steps of learning are halved in all."""

Sound = NDArray[np.float32]


def say(folder: Path, part: int, of: int) -> None:
    """Every voice says its sentences; what lies there already is left."""
    voices = NeuralVoices(folder)
    known = dictionary()
    out = folder / "fillers"
    out.mkdir(exist_ok=True)
    jobs = [(number, voice) for number in range(_SENTENCES) for voice in voices.names]
    for place, (number, voice) in enumerate(jobs):
        name = out / f"{voice}_{number}"
        if place % of != part or name.with_suffix(".json").exists():
            continue
        rng = np.random.default_rng([number, voices.names.index(voice)])
        plain = number >= _FIRST_PLAIN and number % 2 == 1
        told = sentence(rng, voice, voices, known, kept=voice in KEPT, plain=plain)
        sound, spans = voices.say(told.parts, voice, float(rng.uniform(0.85, 1.2)))
        sound = soxr.resample(sound, RATE, MODEL_RATE)
        soundfile.write(name.with_suffix(".flac"), 0.5 * sound / np.abs(sound).max(), MODEL_RATE)
        fillers = [(*spans[index], kind) for index, kind in told.fillers.items()]
        name.with_suffix(".json").write_text(json.dumps(fillers))


@dataclass
class Block:
    """Up to half a minute of speech, and where its fillers are, in seconds, with their kind."""

    sound: Sound
    fillers: list[tuple[float, float, str]] = field(default_factory=list)

    @property
    def labels(self) -> NDArray[np.int8]:
        """For each frame: none (0), an open filler as uh (1), one that ends with closed lips as um
        (2), or not to be judged (-1): edges, and what is too short."""
        out = np.zeros(len(self.sound) // round(FRAME_S * MODEL_RATE), np.int8)
        for start, end, kind in self.fillers:
            low, high = round(start / FRAME_S), round(end / FRAME_S)
            out[max(0, low - 1) : high + 1] = -1
            if end - start >= _LEAST_S:
                out[low + 1 : high - 1] = 2 if kind.startswith(("um", "hmm")) else 1
        return out


def blocks(folder: Path, rng: np.random.Generator, *, kept: bool) -> Iterator[Block]:
    """All sentences, drawn by lot into blocks, as they come over a line, from a room, in noise."""
    paths = sorted((folder / "fillers").glob("*.json"))
    paths = [path for path in paths if (path.stem.rsplit("_", 1)[0] in KEPT) == kept]
    rng.shuffle(paths)
    while paths:
        parts: list[Sound] = []
        fillers: list[tuple[float, float, str]] = []
        parts.append(np.zeros(round(max(0.0, rng.uniform(-0.5, 1.5)) * MODEL_RATE), np.float32))
        at = len(parts[0]) / MODEL_RATE
        while paths:
            sound, told = _with_pauses(paths[-1], rng)
            # At another pitch and speed it is another voice.
            speed = float(rng.uniform(0.88, 1.14))
            sound = soxr.resample(sound, MODEL_RATE * speed, MODEL_RATE)
            if at + len(sound) / MODEL_RATE > _BLOCK_S and len(parts) > 1:
                break
            paths.pop()
            fillers += [(at + start / speed, at + end / speed, kind) for start, end, kind in told]
            level = 10 ** (rng.uniform(-6, 0) / 20)
            pause_s = rng.choice([rng.uniform(0, 0.8), rng.uniform(1, 5)], p=[0.85, 0.15])
            quiet = np.zeros(round(pause_s * MODEL_RATE), np.float32)
            parts += [sound * level, quiet]
            at += (len(sound) + len(quiet)) / MODEL_RATE
        yield Block(_as_it_comes(np.concatenate(parts), rng), fillers)
    for _ in range(0 if kept else _NO_SPEECH):
        yield Block(_no_speech(rng))
    for voice in () if kept else plain.VOICES:
        for _ in range(_SPLICED):
            sound, put = spliced(partial(plain.said, voice), FOR_TRAINING, 4, rng)
            fillers = [(start, end, f"{name}, {place}") for start, end, place, name in put]
            sound = soxr.resample(sound, SPLICED_RATE, MODEL_RATE)
            yield Block(_as_it_comes(sound, rng), fillers)
        for _ in range(_READ):
            yield Block(_as_it_comes(_reading(voice, rng), rng))


def _reading(voice: str, rng: np.random.Generator) -> Sound:
    """A plainer voice reading some of a licence, at a pitch and speed of its own."""
    parts = []
    while sum(map(len, parts)) < _BLOCK_S * MODEL_RATE:
        text = str(rng.choice(plain.readings()))
        # As slow as one of a few, so that what was said once is said.
        slow = float(rng.choice([0.85, 1.0, 1.2]))
        pause = round(rng.uniform(0.05, 0.8) * MODEL_RATE)
        speed = float(rng.uniform(0.88, 1.14))
        sound = soxr.resample(plain.said(voice, text, slow), SPLICED_RATE, MODEL_RATE * speed)
        parts.append(np.pad(sound, (0, pause)))
    return np.concatenate(parts)[: round(_BLOCK_S * MODEL_RATE)]


def _no_speech(rng: np.random.Generator) -> Sound:
    """Tones and chords that are held, come and go: what is steady and no voice."""
    time = np.arange(round(_BLOCK_S * MODEL_RATE)) / MODEL_RATE
    out = np.zeros(len(time))
    for _ in range(int(rng.integers(3, 30))):
        hertz = float(np.exp(rng.uniform(np.log(80), np.log(2000))))
        length = round(rng.uniform(0.1, 6.0) * MODEL_RATE)
        at = int(rng.integers(0, len(time) - length))
        part = time[:length]
        falling = rng.uniform(0.5, 2.0)
        tone = sum(np.sin(2 * np.pi * hertz * n * part) / n**falling for n in range(1, 9))
        out[at : at + length] += tone * rng.uniform(0.02, 0.2) * np.hanning(length) ** 0.2
    return _as_it_comes(out / max(1.0, np.abs(out).max()), rng)


def _with_pauses(
    path: Path, rng: np.random.Generator
) -> tuple[Sound, list[tuple[float, float, str]]]:
    """A sentence in which most pauses beside its fillers are longer, by silence put in where it is
    quietest."""
    sound, _ = soundfile.read(path.with_suffix(".flac"), dtype="float32")
    told = json.loads(path.read_text())
    at: list[float] = []
    for start, end, kind in told:
        if "alone" in kind or "after a pause" in kind:
            at.append(_quietest(sound, start - _NEAR_S, start))
        if "alone" in kind or "before a pause" in kind:
            at.append(_quietest(sound, end, end + _NEAR_S))
    places = np.sort([place for place in at if rng.random() < 0.7])
    lengths = rng.uniform(0.1, 0.6, len(places))
    parts = np.split(sound, np.round(places * MODEL_RATE).astype(int))
    for number, length in enumerate(lengths):
        parts[number] = np.pad(parts[number], (0, round(length * MODEL_RATE)))
    moved = [float(lengths[places < (start + end) / 2].sum()) for start, end, _ in told]
    fillers = [(a + by, b + by, kind) for (a, b, kind), by in zip(told, moved, strict=True)]
    return np.concatenate(parts), fillers


def _quietest(sound: Sound, start_s: float, end_s: float) -> float:
    """The quietest 10 ms of a span, in seconds."""
    first = max(0, round(start_s * MODEL_RATE))
    near = sound[first : round(end_s * MODEL_RATE)]
    hops = near[: len(near) // HOP * HOP].reshape(-1, HOP)
    quietest = int(np.square(hops).sum(axis=1).argmin()) if len(hops) else 0
    return (first + (quietest + 0.5) * HOP) / MODEL_RATE


def _as_it_comes(sound: Sound, rng: np.random.Generator) -> Sound:
    """Under conditions drawn by lot, in time to the sample."""
    if rng.random() < 0.4:  # a room
        decay_s = rng.uniform(0.15, 0.7)
        tail = room_tail(decay_s, rng.uniform(2, 15), MODEL_RATE, rng)
        sound = fftconvolve(sound, tail)[: len(sound)]
    if rng.random() < 0.25:  # a telephone, or a microphone without depth or height
        edges = [rng.uniform(80, 350), rng.uniform(3000, 7000)]
        sound = sosfilt(butter(3, edges, "band", fs=MODEL_RATE, output="sos"), sound)
    noise = rng.standard_normal(len(sound))
    if rng.random() < 0.7:
        corner = float(np.exp(rng.uniform(np.log(150), np.log(4000))))
        noise = sosfilt(butter(1, corner, fs=MODEL_RATE, output="sos"), noise)
    speech = np.sqrt(np.mean(np.square(sound[np.abs(sound) > 0.02]))) or 0.1
    below_db = rng.choice([60, 45, 35, 28, 20, 14], p=[0.25, 0.2, 0.2, 0.15, 0.13, 0.07])
    sound = sound + noise / noise.std() * speech * 10 ** (-below_db / 20)
    # Breaths and bursts that stand by themselves, where it is quiet or not.
    for _ in range(int(rng.integers(0, 4))):
        length = round(rng.uniform(0.1, 0.5) * MODEL_RATE)
        at = int(rng.integers(0, max(1, len(sound) - length)))
        band = [rng.uniform(200, 1500), rng.uniform(2500, 7000)]
        burst = sosfilt(
            butter(2, band, "band", fs=MODEL_RATE, output="sos"), rng.standard_normal(length)
        )
        burst *= np.hanning(length) * speech * 10 ** (-rng.uniform(8, 25) / 20) / burst.std()
        sound[at : at + length] += burst
    return (sound * 10 ** (rng.uniform(-18, 0) / 20)).astype(np.float32)


def _heard(folder: Path) -> Iterator[tuple[NDArray[np.float16], NDArray[np.int8]]]:
    """Every block of every pass: its frames as the encoder hears them, and their labels."""
    for number in range(_PASSES):
        for block in blocks(folder, np.random.default_rng([1, number]), kept=False):
            labels = block.labels
            frames = encoded(block.sound)[: len(labels)].astype(np.float16)
            yield frames, labels[: len(frames)]


def train(folder: Path, to: Path) -> None:
    """Train a network and write its weights."""
    from sklearn.neural_network import MLPClassifier

    rng = np.random.default_rng(5)
    inputs, wanted = [], []
    for frames, labels in _heard(folder):
        # Most frames are no filler: half of those are enough.
        used = (labels > 0) | ((labels == 0) & (rng.random(len(labels)) < _OTHERS))
        inputs.append(beside(frames)[used])
        wanted.append(labels[used])
    x, y = np.concatenate(inputs), np.concatenate(wanted)
    del inputs
    mean, spread = x[::7].astype(np.float32).mean(0), x[::7].astype(np.float32).std(0) + 1e-3
    x -= mean.astype(np.float16)
    x /= spread.astype(np.float16)
    network = MLPClassifier((_HIDDEN,), alpha=1e-2, batch_size=256, random_state=0)
    for epoch in range(_EPOCHS):
        if epoch:
            # Smaller steps at the end: one that learns by large ones to the last hears less well.
            network._optimizer.learning_rate_init = 1e-3 * 2 ** (-_HALVED * epoch / _EPOCHS)
        order = rng.permutation(len(y))
        for part in np.array_split(order, len(y) // 4096 + 1):
            network.partial_fit(x[part].astype(np.float32), y[part], classes=[0, 1, 2])
        print(f"{len(y)} frames, {int((y > 0).sum())} of fillers, loss {network.loss_:.4f}")
    (first, second), (bias, last) = network.coefs_, network.intercepts_
    # The frames' own mean and spread are put into the first layer.
    np.savez_compressed(
        to,
        hidden=(first / spread[:, None]).astype(np.float16),
        hidden_bias=(bias - (mean / spread) @ first).astype(np.float32),
        out=second.astype(np.float16),
        out_bias=last.astype(np.float32),
    )


def join(one: Path, other: Path) -> None:
    """Write two networks as one, which is as sure as both are in the mean of their logits."""
    with np.load(one) as a, np.load(other) as b:
        np.savez_compressed(
            WEIGHTS,
            hidden=np.concatenate([a["hidden"], b["hidden"]], axis=1),
            hidden_bias=np.concatenate([a["hidden_bias"], b["hidden_bias"]]),
            out=np.concatenate([a["out"], b["out"]]) / np.float16(2),
            out_bias=(a["out_bias"] + b["out_bias"]) / 2,
        )


def main(do: str, first: str, *told: str) -> None:
    if do == "say":
        part, of = map(int, told)
        say(Path(first), part, of)
    else:
        {"train": train, "join": join}[do](Path(first), Path(told[0]))


if __name__ == "__main__":
    main(*sys.argv[1:])
