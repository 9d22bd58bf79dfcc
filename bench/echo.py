"""Echo lowered, on rooms simulated by ``pyroomacoustics`` (image sources), beside the learnt mask.

    python -m bench.echo

Three voices and a real conversation; three rooms, decay times of 0.4 and 0.8 s, a metre and
more from the microphone, noise 50 dB under the voice. What is wanted is the voice with its first
30 ms of reflections; *over the echo*: how far that stands over all else. And each voice dry.
Needs the ``demo`` and ``bench`` extras, and flite from Debian.
"""

import time

import numpy as np
import pyroomacoustics as rooms
from scipy.signal import fftconvolve

from airtrim.core.sound import echo, learnt
from bench.noise import Mono, figures, in_memory, joined, speech_of
from bench.readings import RATE
from bench.voices import real_talk

VOICES = ("joe", "slt", "rms", "a conversation")
ROOMS = (
    ((5.2, 4.1, 2.7), (1.6, 2.0, 1.4), (2.7, 2.3, 1.3)),
    ((6.8, 3.3, 2.5), (2.1, 1.2, 1.5), (3.8, 1.9, 1.2)),
    ((4.0, 3.6, 2.9), (1.1, 1.4, 1.6), (2.6, 2.5, 1.3)),
)
"""Size, and where voice and microphone are, in metres."""
DECAYS_S = (0.4, 0.8)
_EARLY = round(0.03 * RATE)
_NOISE_DB = 50.0


def answers(number: int, decay_s: float) -> tuple[Mono, Mono]:
    """What a room makes of a click, whole and its first part only."""
    size, voice, microphone = ROOMS[number]
    absorbed, order = rooms.inverse_sabine(decay_s, size)
    room = rooms.ShoeBox(
        size, fs=RATE, materials=rooms.Material(absorbed), max_order=min(order, 40)
    )
    room.add_source(list(voice))
    room.add_microphone(list(microphone))
    room.compute_rir()
    whole = np.asarray(room.rir[0][0])
    whole = whole / np.abs(whole).max()
    early = whole.copy()
    early[int(np.abs(whole).argmax()) + _EARLY :] = 0.0
    return whole, early


def voice_of(name: str) -> Mono:
    """Twenty seconds: readings of real people in packages are too short for a filter to settle."""
    if name in VOICES[:3]:
        return speech_of(name)[: 20 * RATE]
    take, _ = real_talk()
    sound = take.read(0, min(take.frames, 20 * RATE))[:, 0].astype(float)
    return np.asarray(0.5 * sound / np.abs(sound).max())


def over_db(wanted: Mono, heard: Mono) -> float:
    return float(10 * np.log10(np.square(wanted).sum() / np.square(heard - wanted).sum()))


def systems(heard: Mono) -> dict[str, Mono]:
    sound = heard.astype(np.float32)
    return {
        "as it came": heard,
        "Air Trim": joined(echo.clean(in_memory(sound))),
        "learnt mask": joined(learnt.clean(in_memory(sound))),
    }


def main() -> None:
    """Print the table."""
    print("| room | | over the echo | STOI | PESQ | DNSMOS |\n|---|---|---|---|---|---|")
    spent = said = 0.0
    for decay_s in DECAYS_S:
        found: dict[str, list[tuple[float, float, float, float]]] = {}
        for voice in VOICES:
            speech = voice_of(voice)
            for number in range(len(ROOMS)):
                whole, early = answers(number, decay_s)
                wanted = fftconvolve(speech, early)[: len(speech)]
                heard = fftconvolve(speech, whole)[: len(speech)]
                noise = np.random.default_rng(number).normal(0, 1, len(heard))
                heard += noise * np.sqrt(np.mean(wanted**2)) * 10 ** (-_NOISE_DB / 20)
                scale = 0.5 / np.abs(heard).max()
                for name, out in systems(heard * scale).items():
                    figure = (over_db(wanted * scale, out), *figures(wanted * scale, out))
                    found.setdefault(name, []).append(figure)
        for name, all_of in found.items():
            over, intelligible, good, liked = np.mean(all_of, axis=0)
            print(
                f"| {decay_s} s | {name} | {over:.1f} dB | {intelligible:.3f} | {good:.2f} | "
                f"{liked:.2f} |",
                flush=True,
            )
    print("\n| dry voice | taken out | STOI | echo heard | in 0.4 s |\n|---|---|---|---|---|")
    for voice in VOICES:
        speech = voice_of(voice)
        begun = time.perf_counter()
        out = joined(echo.clean(in_memory(speech.astype(np.float32))))
        spent += time.perf_counter() - begun
        said += len(speech) / RATE
        roomy = fftconvolve(speech, answers(0, 0.4)[0])[: len(speech)]
        told = [echo.heard_db(one.astype(np.float32)) or 0.0 for one in (speech, roomy)]
        print(
            f"| {voice} | {-over_db(speech, out):.1f} dB | {figures(speech, out)[0]:.3f} | "
            f"{told[0]:.1f} dB | {told[1]:.1f} dB |",
            flush=True,
        )
    print(f"\n{said / spent:.1f} times real time.")


if __name__ == "__main__":
    main()
