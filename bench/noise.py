"""Noise reduction beside others: eight noises at three levels under six voices, two of them of real
people, in one run. A part of ``make bench-sound``, or by itself: ``python -m bench.noise``.

Noises are made by script: four steady, four that change. Four voices are synthetic (piper, flite);
the readings of real people are taken from a source package of the registry (``praatio``), not kept.
"""

import os
import sys
import tarfile
import time
import warnings
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import noisereduce
import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray
from pesq import pesq
from pystoi import stoi
from scipy.signal import correlate

from airtrim.core.media.reading import InMemory
from airtrim.core.sound import denoise, learnt
from airtrim.core.sound.choosing import chosen, heard_in
from bench.fetching import fetched
from bench.measuring import RATE
from bench.readings import read_aloud

Mono = NDArray[np.float64]

TEXTS = (
    "The lighthouse keeper wrote down every ship that passed. Most of them never knew. "
    "He kept the books in a dry cupboard, and they are still there.",
    "On the last day of the season we carry the chairs inside. Somebody always forgets one. "
    "In spring it stands on the quay and has turned grey.",
)
SYNTHETIC = ("joe", "slt", "rms", "awb")
REAL = ("mary", "bobby")
VOICES = (*SYNTHETIC, *REAL)
STEADY = ("fan", "hiss", "hum", "engine")
CHANGING = ("keys", "dishes", "traffic", "talk")
RATIOS_DB = (0, 5, 15)
SOURCES = ("praatio", "6.2.2")


@dataclass
class Case:
    """Speech, a clip of a noise, and the speech in that noise."""

    voice: str
    noise: str
    ratio_db: int
    speech: Mono
    clip: Mono
    mix: Mono


def shaped(frames: int, rng: np.random.Generator, weight: Callable[[Mono], Mono]) -> Mono:
    hertz = np.fft.rfftfreq(frames, 1 / RATE)
    return np.fft.irfft(np.fft.rfft(rng.standard_normal(frames)) * weight(hertz), frames)


def lines(time_s: Mono, hertz: float, count: int, falling: float) -> Mono:
    """Harmonics, each at a phase of its own."""
    total = np.zeros(len(time_s))
    for n in range(1, count + 1):
        total += np.sin(2 * np.pi * hertz * n * time_s + n * n) / n**falling
    return total


def burst(rng: np.random.Generator, low: float, high: float, decay_s: float) -> Mono:
    count = round(RATE * decay_s * 6)
    sound = shaped(count, rng, lambda f: ((f > low) & (f < high)) * 1.0)
    return sound * np.exp(-np.arange(count) / RATE / decay_s)


def scattered(
    frames: int, rng: np.random.Generator, one: Callable[[], Mono], gaps_s: tuple[float, float]
) -> Mono:
    """A sound again and again, over a little of a room."""
    out = 0.01 * shaped(frames, rng, lambda f: 1 / (1 + f / 500))
    at = 0
    while at < frames:
        sound = one()[: frames - at]
        out[at : at + len(sound)] += rng.uniform(0.4, 1.2) * sound
        at += round(RATE * rng.uniform(*gaps_s))
    return out


def dish(rng: np.random.Generator) -> Mono:
    """A ring of partials after a knock."""
    time_s = np.arange(round(0.9 * RATE)) / RATE
    lowest = rng.uniform(1200, 3500)
    out = np.zeros(len(time_s))
    for part in (1, 1.53, 2.21, 2.93, 3.7):
        ring = np.sin(2 * np.pi * lowest * part * time_s + rng.uniform(0, 6))
        out += ring * np.exp(-time_s * rng.uniform(8, 25) * part**0.5) / part**0.5
    knock = 1.5 * burst(rng, 800, 12_000, 0.01)
    out[: len(knock)] += knock
    return out


def noise(kind: str, frames: int, rng: np.random.Generator, beside: Mono) -> Mono:
    """Noise of power one. ``beside`` is what is said in the other room."""
    time_s = np.arange(frames) / RATE
    if kind == "hiss":
        out = shaped(frames, rng, lambda f: np.minimum(1.0, f / 300 + 0.2))
    elif kind == "fan":
        out = shaped(frames, rng, lambda f: 1 / (1 + (f / 400) ** 1.2))
        out += 0.18 * out.std() * lines(time_s, 118, 3, 1.0)
    elif kind == "hum":
        out = lines(time_s, 50, 12, 0.8) + 0.12 * rng.standard_normal(frames)
    elif kind == "engine":
        out = shaped(frames, rng, lambda f: 1 / (1 + (f / 150) ** 1.5))
        out += 0.25 * out.std() * lines(time_s, 37, 19, 0.7)
    elif kind == "keys":
        out = scattered(frames, rng, lambda: burst(rng, 1500, 9000, 0.008), (0.09, 0.35))
    elif kind == "dishes":
        out = scattered(frames, rng, lambda: dish(rng), (0.15, 0.9))
    elif kind == "traffic":
        out = shaped(frames, rng, lambda f: 1 / np.sqrt(1 + (f / 80) ** 2))
        slow = shaped(frames, rng, lambda f: (f < 0.4) * 1.0)
        out = out / out.std() * 10 ** (2.5 * slow / slow.std() / 20)
        for at in np.arange(0.5, frames / RATE, 2.5) + rng.uniform(-0.5, 0.5):
            car = shaped(frames, rng, lambda f: np.exp(-(((np.log((f + 1) / 700)) / 0.9) ** 2)))
            out += 1.5 * car / car.std() * np.exp(-(((time_s - at) / 0.7) ** 2))
    else:
        tail = rng.standard_normal(RATE // 2) * np.exp(-np.arange(RATE // 2) / RATE / 0.09)
        said_there = np.resize(beside, frames)
        spectrum = np.fft.rfft(said_there, 2 * frames) * np.fft.rfft(tail, 2 * frames)
        hertz = np.fft.rfftfreq(2 * frames, 1 / RATE)
        out = np.fft.irfft(spectrum / (1 + (hertz / 900) ** 2))[:frames]
    return out / out.std()


@lru_cache
def readings() -> Path:
    """Where a source package with readings was unpacked."""
    name, version = SOURCES
    packed = fetched(name, version, source=True)
    with tarfile.open(packed) as archive:
        archive.extractall(packed.parent, filter="data")
    return packed.parent / f"{name}-{version}" / "examples" / "files"


@lru_cache
def speech_of(voice: str) -> Mono:
    """Some sentences by a voice, its peaks at half of full scale."""
    if voice in REAL:
        sound, rate = soundfile.read(readings() / f"{voice}.wav")
        out = soxr.resample(sound if sound.ndim == 1 else sound.mean(axis=1), rate, RATE)
    else:
        out = read_aloud(voice, TEXTS[SYNTHETIC.index(voice) % 2])
    return np.asarray(0.5 * out / np.abs(out).max())


def cases(wanted: tuple[str, ...] = VOICES) -> Iterator[Case]:
    for number, voice in enumerate(wanted):
        speech = speech_of(voice)
        power = np.mean(speech[np.abs(speech) > 0.02] ** 2)
        beside = speech_of("rms" if voice != "rms" else "slt")
        for kind in (*STEADY, *CHANGING):
            for ratio in RATIOS_DB:
                rng = np.random.default_rng([number, len(kind), ratio])
                sound = noise(kind, len(speech) + 2 * RATE, rng, beside)
                sound *= np.sqrt(power / 10 ** (ratio / 10))
                clip, rest = sound[: 2 * RATE], sound[2 * RATE :]
                yield Case(voice, kind, ratio, speech, clip, speech + rest)


# --- the systems ---


def in_memory(sound: Mono) -> InMemory:
    return InMemory(sound.astype(np.float32)[:, None])


def joined(blocks: Iterator[NDArray[np.float32]]) -> Mono:
    return np.concatenate(list(blocks))[:, 0].astype(np.float64)


def steadily(mix: Mono, clip: Mono) -> Mono:
    room = denoise.learn(clip.astype(np.float32)[:, None])
    return joined(denoise.clean(in_memory(mix), room))


def by_network(mix: Mono, _clip: Mono) -> Mono:
    return joined(learnt.clean(in_memory(mix)))


def by_itself(mix: Mono, clip: Mono) -> Mono:
    """As the application chooses."""
    method = chosen(heard_in(in_memory(mix))).method
    return (by_network if method == "learnt" else steadily)(mix, clip)


def by_noisereduce(mix: Mono, clip: Mono) -> Mono:
    return np.asarray(noisereduce.reduce_noise(y=mix, sr=RATE, y_noise=clip, stationary=True))


def by_rnnoise(mix: Mono, _clip: Mono) -> Mono:
    """Its delay taken out."""
    from pyrnnoise import RNNoise

    whole = (np.clip(mix, -1, 1) * 32767).astype(np.int16)
    frames = [one.ravel() for _, one in RNNoise(sample_rate=RATE).denoise_chunk(whole[None])]
    out = np.concatenate([*frames, np.zeros(RATE)]).astype(np.float64) / 32767
    lag = int(np.argmax(correlate(out[: len(mix) + 4000], mix, "valid")))
    return out[lag : lag + len(mix)]


SYSTEMS: dict[str, Callable[[Mono, Mono], Mono]] = {
    "untouched": lambda mix, _clip: mix,
    "Air Trim": by_itself,
    "steady": steadily,
    "learnt": by_network,
    "noisereduce": by_noisereduce,
    "RNNoise": by_rnnoise,
}
OTHERS = ("noisereduce", "RNNoise")


def dnsmos(at16: Mono) -> float:
    """What listeners would say, overall, 1 to 5 (DNSMOS P.835, by ``speechmos``)."""
    from speechmos import dnsmos as judge

    sound = (at16 / max(1.0, np.abs(at16).max())).astype(np.float32)
    return float(judge.run(sound, sr=16_000)["ovrl_mos"])


def figures(speech: Mono, out: Mono) -> tuple[float, float, float]:
    """STOI, PESQ (wide band), DNSMOS overall."""
    a, b = (soxr.resample(one, RATE, 16_000) for one in (speech, out))
    return float(stoi(a, b, 16_000)), float(pesq(16_000, a, b, "wb")), dnsmos(b)


Found = dict[tuple[str, str, int], dict[str, tuple[float, float, float]]]


def judged(case: Case) -> tuple[tuple[str, str, int], dict[str, tuple[float, float, float]]]:
    warnings.filterwarnings("ignore")
    out = {name: figures(case.speech, run(case.mix, case.clip)) for name, run in SYSTEMS.items()}
    return (case.voice, case.noise, case.ratio_db), out


def noise_reduction(wanted: tuple[str, ...] = VOICES) -> list[str]:
    with ProcessPoolExecutor(2) as pool:
        found: Found = dict(pool.map(judged, cases(wanted)))
    out = [
        "| | " + " | ".join(SYSTEMS) + " |",
        "|---|" + "---|" * len(SYSTEMS),
    ]
    behind = []
    for kind in (*STEADY, *CHANGING):
        means = {
            name: np.mean([one[name] for key, one in found.items() if key[1] == kind], axis=0)
            for name in SYSTEMS
        }
        told = (f"{stoi_:.3f}, {pesq_:.2f}, {mos:.2f}" for stoi_, pesq_, mos in means.values())
        out.append(f"| {kind} | " + " | ".join(told) + " |")
        for index, measure in enumerate(("STOI", "PESQ", "DNSMOS")):
            best = max(OTHERS, key=lambda name: means[name][index])
            lost = means["Air Trim"][index] - means[best][index]
            if lost < 0:
                behind.append(f"{kind}: {measure} {lost:+.3f} beside {best}")
    below = [
        (one["Air Trim"][0] - one["untouched"][0], f"{noise_} {ratio} dB, {voice}")
        for (voice, noise_, ratio), one in found.items()
    ]
    least, where = min(below)
    out += [
        "",
        "Means of a kind that are behind the better of the two others: "
        + ("; ".join(behind) or "none")
        + ".",
        f"Of {len(found)} cases the one that lost most STOI against the untouched sound: "
        f"{least:+.3f} ({where}); {sum(lost < -0.005 for lost, _ in below)} lose more than 0.005.",
        "",
        clean_in(wanted),
    ]
    return out


def clean_in(wanted: tuple[str, ...]) -> str:
    """What becomes of voices that are clean already."""
    kept, mos = [], []
    for voice in wanted:
        speech = speech_of(voice)
        before = figures(speech, speech)
        after = figures(speech, by_network(speech, speech))
        kept.append(after[0])
        mos.append(after[2] - before[2])
    return (
        f"Clean voices in, learnt: STOI {min(kept):.4f} at least (0.995 wanted), DNSMOS "
        f"{min(mos):+.2f} at worst (no lower by 0.02)."
    )


def speed() -> list[str]:
    """First-time noise reduction on one core, in a process that may use only one."""
    case = next(cases(("slt",)))
    mix = np.tile(case.mix, 8)
    allowed = os.sched_getaffinity(0)
    os.sched_setaffinity(0, {min(allowed)})
    out = []
    try:
        for name, run in (("steady", steadily), ("learnt", by_network)):
            run(mix[: 5 * RATE], case.clip)
            began = time.process_time()
            run(mix, case.clip)
            out.append(f"{name} {len(mix) / RATE / (time.process_time() - began):.0f}")
    finally:
        os.sched_setaffinity(0, allowed)
    return [
        f"First-time noise reduction, times real time on one core: {', '.join(out)} (60 and 20 "
        "wanted)."
    ]


if __name__ == "__main__":
    print(*noise_reduction(tuple(sys.argv[1:]) or VOICES), *speed(), sep="\n")
