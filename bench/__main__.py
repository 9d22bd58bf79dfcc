"""All numbers, each beside its reference in the same run: ``make bench``.

Prints a table and writes it to ``docs/benchmarks.md``. Takes about twelve minutes. With names of
parts (``python -m bench meter importing``) it runs those alone and writes nothing.
"""

import json
import platform
import re
import shutil
import sys
import tempfile
import time
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pyloudnorm
import soundfile
import soxr
from playwright.sync_api import sync_playwright
from rich.console import Console
from rich.table import Table
from tests.serving import Server

from airtrim.api.app import create_app
from airtrim.api.episodes import edit as edit_endpoint
from airtrim.api.models.episode import EditRequest
from airtrim.api.state import State
from airtrim.compute.here import here
from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.meter import measure
from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.release.export import ExportSettings, Source, export, level
from airtrim.core.release.formats.mp3 import Mp3
from airtrim.core.render.graph import profile_mix, render
from airtrim.core.render.warm import warm_up
from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.models import load_model, packaged_model
from airtrim.core.speech.recognise import transcribe
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.model import Timeline
from airtrim.settings import Settings
from airtrim.store.tables import TakeRow
from bench.document import document as edits_on_document
from bench.measuring import RATE, Row, ffmpeg, peak_memory, side_by_side, talk, write_talk
from bench.packing import packing
from bench.page import page
from bench.releasing import releasing


@dataclass(frozen=True)
class Sizes:
    """How much of everything: as it is measured, or ``SMALL``, which only shows that it runs."""

    talk_s: float = 600.0
    words_s: float = 240.0
    import_s: float = 3600.0
    long_s: float = 3 * 3600.0
    splices: int = 2000
    edits: int = 200


FULL = Sizes()
SMALL = Sizes(talk_s=12.0, words_s=6.0, import_s=5.0, long_s=30.0, splices=20, edits=5)


def meter(folder: Path, sizes: Sizes = FULL) -> list[Row]:
    """Our meter against FFmpeg's ebur128, both from the same file, true peak included."""
    sound = talk(sizes.talk_s)
    path = folder / "ten.wav"
    soundfile.write(path, sound, RATE, subtype="FLOAT")
    said = ffmpeg("-i", str(path), "-af", "ebur128=peak=true", "-f", "null", "-")
    theirs = float(re.findall(r"I:\s+(-?[\d.]+) LUFS", said)[-1])
    ours = measure(meter_file(path)).integrated_lufs or 0.0
    loudnorm = pyloudnorm.Meter(RATE, filter_class="DeMan").integrated_loudness(
        sound.astype(np.float64)
    )
    mine, ff = side_by_side(
        lambda: measure(meter_file(path)),
        lambda: ffmpeg("-i", str(path), "-af", "ebur128=peak=true", "-f", "null", "-"),
    )
    return [
        ratio("Meter, 10 min mono, true peak too", mine, ff, "FFmpeg ebur128=peak=true", 0.5),
        Row(
            "Its integrated value",
            f"{ours:.2f} LUFS",
            f"{theirs:.1f} FFmpeg, {loudnorm:.2f} pyloudnorm",
            f"{abs(ours - theirs):.2f}, {abs(ours - loudnorm):.3f} LU off",
            "0.1, 0.05",
            abs(ours - theirs) <= 0.1 and abs(ours - loudnorm) <= 0.05,
        ),
    ]


def ratio(what: str, ours: float, theirs: float, reference: str, most: float) -> Row:
    """A line that compares two times."""
    return Row(
        what,
        f"{ours:.2f} s",
        f"{theirs:.2f} s, {reference}",
        f"{ours / theirs:.2f} ×",
        f"at most {most:g} ×",
        ours / theirs <= most,
    )


def exporting(folder: Path, sizes: Sizes = FULL) -> list[Row]:
    """Level, limiter and MP3 against FFmpeg's bare MP3 encode of the same sound."""
    path = write_talk(folder / "ten16.wav", sizes.talk_s)
    store_take(path, folder / "ten.sound", folder / "ten.peaks", name="ten")
    reader = TakeReader(folder / "ten.sound")
    timeline = apply(Timeline(), Place(take="ten", take_frames=reader.frames))
    takes = {"ten": reader}.__getitem__

    def written() -> None:
        profile = profile_mix(timeline, takes)
        levelled = apply(timeline, level(timeline, {}, profile, sections=True))
        blocks = render(levelled, takes, {}, ceiling_dbtp=-1.6)
        Mp3().write(blocks, folder / "ours.mp3", channels=1, kbits=96)

    def bare() -> None:
        out = str(folder / "bare.mp3")
        ffmpeg("-i", str(path), "-ar", "44100", "-c:a", "libmp3lame", "-b:a", "96k", out)

    def all_of_it() -> None:
        export(Source(timeline, takes, {}), folder / "all.mp3", ExportSettings(kbits=96))

    ours, theirs = side_by_side(written, bare)
    whole, again = side_by_side(all_of_it, bare)
    reference = "FFmpeg libmp3lame"
    return [
        ratio("Export 10 min: measure, level, limiter, MP3 96", ours, theirs, reference, 1.3),
        Row(
            "The same with trying out the codec, reading the file back, and tags",
            f"{whole:.2f} s",
            f"{again:.2f} s, {reference}",
            f"{whole / again:.2f} ×",
            "no bound is set",
            True,
        ),
    ]


def importing(folder: Path, sizes: Sizes = FULL) -> list[Row]:
    """A take and its peaks against FFmpeg's decode, resampling where there is some, and FLAC."""
    rows = []
    for rate in (48_000, 44_100):
        path = write_talk(folder / "hour.wav", sizes.import_s, rate)
        sound, peaks = folder / "hour.sound", folder / "hour.peaks"

        def ours(path: Path = path, sound: Path = sound, peaks: Path = peaks) -> None:
            store_take(path, sound, peaks, name="hour")

        # What had to be resampled is kept at 24 bits, which FFmpeg writes from 32.
        same = ["-ar", "48000", "-sample_fmt", "s32"] if rate != 48_000 else []
        beside = "FFmpeg decode, resampling and FLAC" if same else "FFmpeg decode and FLAC"

        def theirs(path: Path = path, same: list[str] = same) -> None:
            ffmpeg("-i", str(path), *same, "-c:a", "flac", str(folder / "hour.flac"))

        mine, ff = side_by_side(ours, theirs, 2)
        what = f"Import 1 h WAV at {rate / 1000:g} kHz"
        rows.append(ratio(what, mine, ff, beside, 1.5))
        for name in ("hour.wav", "hour.sound", "hour.flac"):
            (folder / name).unlink()
    return rows


IMPORT = """
from pathlib import Path
from airtrim.core.media.take import store_take
folder = Path({folder!r})
store_take(folder / "long.wav", folder / "long.sound", folder / "long.peaks", name="long")
"""
EXPORT = """
from pathlib import Path
from airtrim.core.media.take import TakeReader
from airtrim.core.release.export import ExportSettings, Source, export
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.model import Timeline
folder = Path({folder!r})
reader = TakeReader(folder / "long.sound")
timeline = apply(Timeline(), Place(take="long", take_frames=reader.frames))
source = Source(timeline, lambda _: reader, {{}})
export(source, folder / "long.mp3", ExportSettings(kbits=64))
"""


def memory(folder: Path, sizes: Sizes = FULL) -> list[Row]:
    """Peak memory of the import and the export of three hours."""
    write_talk(folder / "long.wav", sizes.long_s)
    rows = []
    for what, code in (("Import", IMPORT), ("Export", EXPORT)):
        found = peak_memory(code.format(folder=str(folder)))
        rows.append(
            Row(f"{what} 3 h: peak memory", f"{found:.0f} MB", "", "", "under 500 MB", found < 500)
        )
    return rows


def editing(folder: Path, sizes: Sizes = FULL) -> list[Row]:
    """Edits on three hours with 2,000 splices, and the time to first sound in a browser."""
    data = folder / "data"
    settings = Settings(data_dir=data, keep_free_bytes=0)
    state: State = create_app(settings, worker=False).state.airtrim
    store = state.store
    show = store.add_show("Bench")
    episode = store.add_episode(show.id or 0, "Three hours").id or 0
    take = store.files.take("long")
    take.mkdir()
    shutil.move(folder / "long.sound", take / "sound")
    shutil.move(folder / "long.peaks", take / "peaks")
    frames = TakeReader(take / "sound").frames
    rng = np.random.default_rng(1)
    with store.changing(episode, None) as change:
        change.session.add(
            TakeRow(
                id="long", episode_id=episode, name="long", frames=frames, channels=1, sha256=""
            )
        )
        change.session.flush()
        change(Place(take="long", take_frames=frames))
        for at in sorted(rng.integers(RATE, frames - RATE, sizes.splices), reverse=True):
            change(Cut(start=int(at), frames=4_800))
    revision = store.episode(episode)[0].head_id or 0
    times = []
    for at in rng.integers(RATE, frames // 2, sizes.edits):
        cut = Cut(start=int(at), frames=9_600)
        began = time.perf_counter()
        answer = edit_endpoint(state, episode, EditRequest(revision=revision, edit=cut))
        times.append(time.perf_counter() - began)
        revision = json.loads(answer.body)["revision"]
    edit_ms = float(np.percentile(times, 95)) * 1000
    store.close()
    heard_ms = first_sound_ms(data, episode)
    return [
        Row(
            f"Edit on 3 h with {sizes.splices:,} splices, p95 of {sizes.edits}, server side",
            f"{edit_ms:.1f} ms",
            "",
            "",
            "at most 20 ms",
            edit_ms <= 20,
        ),
        Row(
            "Space to first sound, same episode, worst of 8",
            f"{heard_ms:.0f} ms",
            "",
            "",
            "within 250 ms",
            heard_ms <= 250,
        ),
    ]


def first_sound_ms(data: Path, episode: int) -> float:
    """From the key to the moment that the first piece begins to sound, in Chromium."""
    server = Server(data)
    found = []
    with sync_playwright() as playwright:
        arguments = ["--no-sandbox", "--disable-gpu", "--autoplay-policy=no-user-gesture-required"]
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=arguments
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{server.address}/episodes/{episode}/edit")
        page.wait_for_selector("canvas")
        page.wait_for_timeout(3000)
        for number in range(8):
            page.get_by_label("Position").fill(f"{number * 19}:07")
            page.keyboard.press("Enter")
            page.wait_for_timeout(400)
            page.evaluate("document.activeElement.blur(); performance.clearMeasures()")
            page.keyboard.press("Space")
            page.wait_for_function(
                "() => performance.getEntriesByName('airtrim-first-sound').length > 0"
            )
            entry = "performance.getEntriesByName('airtrim-first-sound')[0].duration"
            found.append(float(page.evaluate(entry)) + 30)  # scheduled 30 ms ahead
            page.keyboard.press("Space")
        browser.close()
    server.stop()
    return max(found)


def recognising(folder: Path, sizes: Sizes = FULL) -> list[Row]:
    """The pipeline from a stored take against the bare recogniser on the same sound."""
    sound = talk(sizes.words_s)
    path = folder / "talk.wav"
    soundfile.write(path, sound, RATE)
    store_take(path, folder / "talk.sound", folder / "talk.peaks", name="talk")
    reader = TakeReader(folder / "talk.sound")
    mono = soxr.resample(sound, RATE, MODEL_RATE).astype(np.float32)
    model = load_model(str(packaged_model()))

    def bare() -> None:
        segments, _ = model.transcribe(mono, language="en", word_timestamps=True, beam_size=5)
        list(segments)

    def pipeline() -> None:
        list(transcribe(reader.read, reader.frames, packaged_model(), compute=here()))

    ours, theirs = side_by_side(pipeline, bare, 2)
    return [
        ratio("Words and fillers of 4 min", ours, theirs, "bare recogniser, same settings", 2.0)
    ]


def document(_: Path, sizes: Sizes = FULL) -> list[Row]:
    """Edits on a long document, without store and browser."""
    return edits_on_document() if sizes is FULL else edits_on_document(edits=20, splices=40)


def host(_: Path, sizes: Sizes = FULL) -> list[Row]:
    """From a recording to a draft, as somebody does it."""
    from bench.host import host as bring  # needs the voices of the demo extra

    return bring(60.0 if sizes is FULL else 1.0)


def main() -> None:
    """Run, print, write."""
    warm_up()
    rows: list[Row] = []
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        parts = (
            meter,
            exporting,
            recognising,
            importing,
            memory,
            editing,
            document,
            packing,
            page,
            releasing,
            host,
        )
        named = [part for part in parts if part.__name__ in sys.argv[1:]]
        for part in named or parts:
            for row in part(folder):
                Console().print(f"{row.what}: {row.ours} {row.found} ({row.wanted})", markup=False)
                rows.append(row)
    table = Table("What", "Ours", "Beside", "Found", "Wanted", "Holds")
    for row in rows:
        table.add_row(
            row.what, row.ours, row.reference, row.found, row.wanted, "yes" if row.holds else "NO"
        )
    Console().print(table)
    if not named:
        write(rows)


_NOTES = "\n## Notes\n"


def write(rows: list[Row]) -> None:
    """The table as a page of the documentation; the notes below it stay."""
    lines = [
        "# Benchmarks",
        "",
        "Written by `make bench`. Each number stands beside its reference from the same run, on "
        "sound made of the demo's voices; times are the best of two or three rounds run in turns.",
        "",
        f"Run on {datetime.now(UTC):%Y-%m-%d}, {platform.machine()}, two cores, "
        f"Python {platform.python_version()}, {ffmpeg_version()}.",
        "",
        "| what | ours | beside | found | wanted | holds |",
        "|---|---|---|---|---|---|",
    ]
    for r in rows:
        holds = "yes" if r.holds else "**no**"
        lines.append(f"| {r.what} | {r.ours} | {r.reference} | {r.found} | {r.wanted} | {holds} |")
    page = Path(__file__).parent.parent / "docs" / "benchmarks.md"
    _, heading, notes = page.read_text().partition(_NOTES)
    page.write_text("\n".join(lines) + "\n" + heading + notes)


def ffmpeg_version() -> str:
    """FFmpeg's own name for itself."""
    import subprocess

    said = subprocess.run(["ffmpeg", "-version"], capture_output=True, text=True, check=True)
    return " ".join(said.stdout.split()[:3])


if __name__ == "__main__":
    main()
