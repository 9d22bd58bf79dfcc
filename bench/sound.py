"""Quality and speed of what is done to sound, beside others, in one run: ``make bench-sound``.

Writes ``docs/sound-quality.md``. Voices are synthetic (piper and flite) and say texts that nothing
was tuned on; noises are made by script. Takes about forty minutes. With names of parts
(``python -m bench.sound noise evening limiter``) it runs those alone, and writes nothing.
"""

import re
import shutil
import sys
import tempfile
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray
from playwright.sync_api import sync_playwright
from tests.serving import Server
from tests.web.conftest import CHROMIUM

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.limiter import DELAY_FRAMES, Limiter
from airtrim.core.loudness.meter import Meter, section_loudness
from airtrim.core.loudness.riding import LIMITS, Riding, phrase_loudness, ride, spread_lu
from airtrim.core.media.take import TakeReader, store_computed, store_take
from airtrim.core.release.export import ExportSettings, Source, export, level
from airtrim.core.release.formats.mp3 import Mp3
from airtrim.core.release.produce import Request, run
from airtrim.core.render.graph import profile_mix, render
from airtrim.core.render.warm import warm_up
from airtrim.core.sound.denoise import Cleaned, clean, guess, share_of
from airtrim.core.timeline.chain import Band, Chain, Compressor, LowCut, Noise
from airtrim.core.timeline.cleaned import cleaned_of, is_cleaned
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.loudness import EvenOut
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.tracks import SetChain
from airtrim.core.timeline.model import Timeline
from airtrim.demo import fill
from bench.measuring import DEMO, RATE, ffmpeg, side_by_side, write_talk
from bench.noise import SYNTHETIC as VOICES
from bench.noise import TEXTS, noise_reduction, shaped, speed
from bench.readings import said

Mono = NDArray[np.float64]

# --- evening out ---

PLANTED_DB = (0.0, -11.0, -4.0, 5.0)


def evening() -> list[str]:
    """Sections planted apart, produced to MP3, measured by FFmpeg on what was decoded; and phrases
    planted apart, ridden."""
    sound, _ = soundfile.read(DEMO / "host-opening.flac", dtype="float32")
    size = 22 * RATE
    parts = [
        sound[RATE * 2 + n * size :][:size] * np.float32(10 ** (db / 20))
        for n, db in enumerate(PLANTED_DB)
    ]
    parts = [part * np.float32(0.4) for part in parts]
    starts = np.cumsum([0, *(len(part) for part in parts)])[:-1]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        soundfile.write(folder / "in.wav", np.concatenate(parts), RATE, subtype="PCM_24")
        request = Request(
            files=(folder / "in.wav",),
            output=folder / "out.mp3",
            section_starts_s=tuple(float(at) / RATE for at in starts),
        )
        run(request)
        told = ffmpeg("-i", str(folder / "out.mp3"), "-af", "ebur128=peak=true", "-f", "null", "-")
        whole = float(re.findall(r"I:\s+(-?[\d.]+) LUFS", told)[-1])
        peak = float(re.findall(r"Peak:\s+(-?[\d.]+) dBFS", told)[-1])
        levels = []
        for at, end in zip(starts, [*starts[1:], sum(map(len, parts))], strict=True):
            cut = f"atrim={at / RATE}:{end / RATE},ebur128"
            said_ = ffmpeg("-i", str(folder / "out.mp3"), "-af", cut, "-f", "null", "-")
            levels.append(float(re.findall(r"I:\s+(-?[\d.]+) LUFS", said_)[-1]))
    out = [
        f"- Sections planted {', '.join(f'{db:+.0f}' for db in PLANTED_DB)} dB: "
        f"{max(levels) - min(levels):.1f} LU apart in the decoded MP3 (0.5 wanted), the whole "
        f"{whole:.1f} LUFS for a target of -19.0 (0.1), true peak {peak:.1f} dBTP (at most -1.0); "
        "all by FFmpeg's ebur128."
    ]
    rng = np.random.default_rng(9)
    spread, lifted, fastest = [], 0.0, 0.0
    for voice in range(len(VOICES)):
        parts_, spans, at = [0.0005 * rng.standard_normal(RATE)], [], RATE
        for sentence in [*TEXTS[0].split(". "), *TEXTS[1].split(". ")]:
            spoken = said(VOICES[voice], sentence) * 10 ** (rng.uniform(-7, 7) / 20)
            spans.append((at, at + len(spoken)))
            parts_ += [spoken, np.zeros(round(0.7 * RATE))]
            at += len(spoken) + round(0.7 * RATE)
        talk = np.concatenate(parts_)
        talk += 0.0005 * rng.standard_normal(len(talk))
        energy = energy_of(talk)
        points = ride(energy, spans, [0], Riding())
        frames, db = (np.array(v, float) for v in zip(*points, strict=True))
        gain = np.interp(np.arange(len(talk)), frames, db)
        after = phrase_loudness(energy_of(talk * 10 ** (gain / 20)), spans)
        spread.append((spread_lu(phrase_loudness(energy, spans)), spread_lu(after)))
        pause = np.ones(len(talk), bool)
        for start, end in spans:
            pause[start:end] = False
        lifted = max(lifted, float(gain[pause].max()))
        fastest = max(fastest, float(np.abs(np.diff(db) / np.diff(frames)).max() * RATE))
    told_ = ", ".join(f"{a:.1f} to {b:.1f}" for a, b in spread)
    out.append(
        f"- Phrases planted up to 7 dB up or down, four voices: spread (10th to 90th percentile) "
        f"{told_} LU (half wanted); pauses raised by {lifted:.1f} dB at most (3; set to "
        f"{LIMITS.pause_lift_db}); fastest {fastest:.1f} dB a second (10 stated)."
    )
    return out


def energy_of(sound: Mono) -> NDArray[np.float32]:
    meter = Meter(1)
    meter.push(sound.astype(np.float32)[:, None])
    return meter.profile().energy


def limiter() -> list[str]:
    """Random programmes, up to 14 dB over, looked at eight times oversampled."""
    worst = -99.0
    over = 0
    for seed in range(1000):
        rng = np.random.default_rng(seed)
        frames = RATE // 2
        slope = rng.uniform(0.0, 1.2)
        sound = shaped(frames, rng, lambda f: (f < 20_000) / (1 + f / 200) ** slope)  # noqa: B023
        beat = np.abs(np.sin(2 * np.pi * rng.uniform(0.5, 8) * np.arange(frames) / RATE))
        sound *= beat ** rng.uniform(0, 3)
        sound *= 10 ** (rng.uniform(-3, 14) / 20) / np.abs(sound).max()
        run_ = Limiter(1, -1.0)
        padded = np.concatenate([sound, np.zeros(DELAY_FRAMES)]).astype(np.float32)[:, None]
        out = run_.process(padded)[DELAY_FRAMES:, 0]
        fine = soxr.resample(out.astype(np.float64), RATE, 8 * RATE, "VHQ")
        peak = 20 * np.log10(np.abs(fine[800:-800]).max())
        worst = max(worst, float(peak))
        over += peak > -1.0
    return [
        f"- Limiter at -1.0 dBTP, 1,000 random programmes, eight times oversampled: highest "
        f"{worst:.2f} dBTP; {over} over. (Sound up to 20 kHz; white noise up to 24 kHz is over by "
        "1 dB, as four-times oversampling does not see it.)"
    ]


# --- the full chain ---

FULL = Chain(
    noise=Noise(True, 0.7),
    low_cut=LowCut(True, 80.0),
    bands=(
        Band("low_shelf", 120.0, 2.0),
        Band("peak", 400.0, -3.0, 1.0),
        Band("peak", 2500.0, 2.0, 1.0),
        Band("peak", 4000.0, -2.0, 2.0),
        Band("high_shelf", 8000.0, 2.0),
    ),
    compressor=Compressor(True, -20.0, 3.0, 6.0, 8.0, 150.0, 2.0),
)
FFMPEG_CHAIN = (
    "afftdn=nr=12,highpass=f=80,bass=g=2:f=120,equalizer=f=400:t=q:w=1:g=-3,"
    "equalizer=f=2500:t=q:w=1:g=2,equalizer=f=4000:t=q:w=2:g=-2,treble=g=2:f=8000,"
    "acompressor=threshold=-20dB:ratio=3:attack=8:release=150,loudnorm=I=-19:TP=-1"
)


def full_chain() -> list[str]:
    warm_up()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        source = write_talk(folder / "ten.wav", 600)
        info = store_take(source, folder / "take", folder / "peaks", name="ten")
        take = TakeReader(folder / "take")
        store_computed(clean(take, guess(take)), folder / "clean", 1)
        cleaned = TakeReader(folder / "clean")

        def takes(wanted: str) -> TakeReader | Cleaned:
            if is_cleaned(wanted):
                return Cleaned(take, cleaned, share_of(cleaned_of(wanted)[1]))
            return take

        timeline = apply(Timeline(), Place(take="a", take_frames=info.frames))
        timeline = apply(timeline, SetChain(track=timeline.tracks[0].id, chain=FULL))
        settings = ExportSettings(format="mp3", kbits=96)

        def ours_() -> None:
            profile = profile_mix(timeline, takes)
            even = apply(timeline, level(timeline, {}, profile, sections=True))
            blocks = render(even, takes, {}, ceiling_dbtp=-1.5)
            Mp3().write(blocks, folder / "ours.mp3", channels=1, kbits=settings.kbits)

        def chain_of_ffmpeg() -> None:
            ffmpeg(
                "-i", str(source), "-af", FFMPEG_CHAIN, "-ar", "44100", *_MP3, str(folder / "f.mp3")
            )

        def bare() -> None:
            ffmpeg("-i", str(source), "-ar", "44100", *_MP3, str(folder / "b.mp3"))

        ours_()
        a, b = side_by_side(ours_, chain_of_ffmpeg, rounds=2)
        c, d = side_by_side(ours_, bare, rounds=3)
        whole = timeline
        even = apply(whole, EvenOut(section_gains_db=(3.0,), gain_db=0.0))
        blocks = np.concatenate(list(render(even, takes, {}, 0, 120 * RATE)))
        off = 0.0
        for start in (10 * RATE + 7, 45 * RATE, 99 * RATE + 4321):
            piece = np.concatenate(list(render(even, takes, {}, start, 2 * RATE)))
            off = max(off, float(np.abs(piece - blocks[start : start + len(piece)]).max()))
        report = export(Source(even, takes, {}), folder / "e.mp3", settings)
        loud = meter_file(folder / "e.mp3")
        sections = section_loudness(loud.profile().energy, [0])
    return [
        f"- Full chain (reduction warm, low cut, five bands, compressor, levelling, limiter, MP3) "
        f"on 10 minutes of mono: {a:.2f} s beside {b:.2f} s of FFmpeg's chain with loudnorm, "
        f"{a / b:.2f} × (0.5 wanted); {c:.2f} s beside {d:.2f} s of the bare MP3 encode, "
        f"{c / d:.2f} × (1.6 wanted). Reading the file back and trying out the codec not counted.",
        f"- A piece rendered alone against that piece of the whole, everything on: "
        f"{20 * np.log10(max(off, 1e-9)):.0f} dBFS at most (-80 wanted).",
        f"- The exported file with everything on: {sections[0]:.2f} LUFS, "
        f"{report.measured.true_peak_dbtp:.2f} dBTP.",
    ]


_MP3 = ("-c:a", "libmp3lame", "-b:a", "96k", "-ac", "1")


# --- heard ---


def heard() -> list[str]:
    """From the key that moves a control to the first sound of the change, in the browser."""
    with tempfile.TemporaryDirectory() as name:
        data = Path(name) / "data"
        fill(data, DEMO.parent)
        server = Server(data)
        try:
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(
                    executable_path=shutil.which("chromium"), args=CHROMIUM
                )
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.goto(f"{server.address}/episodes/1/sound")
                page.get_by_label("Low cut", exact=True).locator("..").click()
                page.get_by_label("Compressor", exact=True).locator("..").click()
                page.get_by_role("button", name="Keep as second").click()
                page.get_by_role("button", name="First setting").click()
                page.get_by_role("button", name="Hear this voice").click()
                page.wait_for_timeout(2500)
                page.get_by_role("slider", name="Below").focus()
                took = []
                for _ in range(12):
                    page.evaluate(_BEFORE)
                    page.keyboard.press("ArrowRight")
                    took.append(page.evaluate(_HEARD))
                    page.wait_for_timeout(300)
                browser.close()
        finally:
            server.stop()
    took.sort()
    return [
        f"- A moved control is heard after {took[len(took) // 2]:.0f} ms at the median, "
        f"{took[-1]:.0f} ms at worst of {len(took)} (300 wanted), while the loop goes on."
    ]


_BEFORE = """() => {
  window.before = performance.getEntriesByName("airtrim-first-sound").length;
  const note = () => { window.began = performance.now(); };
  addEventListener("keydown", note, { once: true, capture: true });
}"""
_HEARD = """async () => {
  for (;;) {
    const all = performance.getEntriesByName("airtrim-first-sound");
    if (all.length > window.before) {
      const last = all.at(-1);
      // A piece is scheduled 30 ms ahead.
      return last.startTime + last.duration + 30 - window.began;
    }
    if (performance.now() - window.began > 5000) return 5000;
    await new Promise((done) => setTimeout(done, 2));
  }
}"""

PARTS: dict[str, Callable[[], list[str]]] = {
    "noise": noise_reduction,
    "speed": speed,
    "evening": evening,
    "limiter": limiter,
    "chain": full_chain,
    "heard": heard,
}


def main() -> None:
    wanted = sys.argv[1:] or list(PARTS)
    found = {name: PARTS[name]() for name in wanted}
    for name, lines in found.items():
        print(f"## {name}", *lines, sep="\n")
    if sys.argv[1:]:
        return
    day = datetime.now(UTC).date()
    text = [
        "# Sound: quality and speed",
        "",
        "Written by `make bench-sound`: all beside others in the same run, on voices (piper, "
        "flite) and texts that nothing was tuned on, with noises made by script.",
        "",
        f"Run on {day}.",
        "",
        "## Noise reduction, at full strength",
        "",
        "STOI, PESQ (wide band) and DNSMOS overall, in the mean of 0, 5 and 15 dB and six voices, "
        "two of them of real people. *Air Trim* is what it chooses by itself; *steady* and "
        "noisereduce (as stationary) are given two seconds of the noise; *learnt* is "
        "DeepFilterNet3, whose own library agrees with it within −75 dBFS "
        "(`tests/core/test_learnt.py`), so it has no column.",
        "",
        *found["noise"],
        "",
        *found["speed"],
        "",
        "## Evening out, limiter, whole chain",
        "",
        *(line for part in ("evening", "limiter", "chain", "heard") for line in found[part]),
        "",
    ]
    Path("docs/sound-quality.md").write_text("\n".join(text).replace("| -", "| −").rstrip() + "\n")


if __name__ == "__main__":
    main()
