"""Media files and transcripts mutated at random: refused or kept, never at a high cost."""

import io
import os
import random
import resource
import subprocess
import sys
import tempfile
import time
import wave
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import av
import numpy as np
import soundfile

from airtrim.core.media.take import store_take
from airtrim.core.release.reading import read_transcript
from airtrim.errors import AirTrimError
from bench.measuring import RATE, Row, talk

_MOST_S, _MOST_MB, _MOST_TIMES = 10.0, 500.0, 10.0
_CODECS = {
    "mp3": ("libmp3lame", "mp3"),
    "m4a": ("aac", "ipod"),
    "opus": ("libopus", "ogg"),
    "ogg": ("flac", "ogg"),
    "aac": ("aac", "adts"),
    "webm": ("libopus", "webm"),
}


def seeds() -> dict[str, bytes]:
    """A few seconds of talk in every kind of file that is taken."""
    sound = talk(4)
    found: dict[str, bytes] = {}
    for suffix, form, kind in (
        ("wav", "WAV", "PCM_16"),
        ("float.wav", "WAV", "FLOAT"),
        ("rf64.wav", "RF64", "PCM_24"),
        ("flac", "FLAC", "PCM_16"),
        ("aiff", "AIFF", "PCM_16"),
        ("w64", "W64", "PCM_16"),
    ):
        buffer = io.BytesIO()
        buffer.name = f"a.{suffix.rsplit('.', 1)[-1]}"
        soundfile.write(buffer, sound, RATE, format=form, subtype=kind)
        found[suffix] = buffer.getvalue()
    for suffix, (codec, form) in _CODECS.items():
        out = io.BytesIO()
        with av.open(out, "w", format=form) as container:
            stream = container.add_stream(codec, rate=RATE, layout="mono")
            scaled = (np.clip(sound, -1, 1) * 32767).astype(np.int16)[None]
            for at in range(0, scaled.shape[1], 4800):
                frame = av.AudioFrame.from_ndarray(scaled[:, at : at + 4800], "s16", "mono")
                frame.sample_rate, frame.pts = RATE, at
                for packet in stream.encode(frame):
                    container.mux(packet)
            for packet in stream.encode(None):
                container.mux(packet)
        found[suffix] = out.getvalue()
    return found


def mutated(data: bytes, rng: random.Random) -> bytes:
    """Bits turned, stretches cut out or doubled, numbers made huge; mostly in the header."""
    out = bytearray(data)
    for _ in range(rng.choice([1, 1, 2, 4, 16])):
        if not out:
            break
        reach = len(out) if rng.random() < 0.4 else min(len(out), 200)
        at = rng.randrange(reach)
        match rng.randrange(6):
            case 0:
                out[at] ^= 1 << rng.randrange(8)
            case 1:
                out[at : at + 4] = rng.choice([b"\xff" * 4, bytes(4), b"\x7f\xff\xff\xff", b"\x80"])
            case 2:
                del out[at : at + rng.randint(1, 5000)]
            case 3:
                out[at:at] = out[at : at + rng.randint(1, 5000)]
            case 4:
                out[at : at + 8] = rng.randbytes(8)
            case 5:
                del out[rng.randrange(len(out)) :]
    return bytes(out)


def one_import(path: str) -> tuple[str, float, float, int]:
    """Bring one file in, in this process: how it ended, seconds, MB of memory, bytes written."""
    began = time.perf_counter()
    with tempfile.TemporaryDirectory() as folder:
        sound, peaks = Path(folder) / "sound", Path(folder) / "peaks"
        try:
            store_take(Path(path), sound, peaks, name="a file")
            how = "kept"
        except AirTrimError:
            how = "refused"
        except MemoryError:
            how = "wrong: out of memory"
        except Exception as error:
            how = f"wrong: {type(error).__name__}: {error}"[:120]
        size = sum(p.stat().st_size for p in (sound, peaks) if p.exists())
    took = time.perf_counter() - began
    return how, took, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000, size


def media(count: int) -> list[Row]:
    """``count`` mutated files; a process that dies of one is a fault."""
    rng = random.Random(5)
    kinds = list(seeds().items())
    ends: Counter[str] = Counter()
    slowest = largest = 0.0
    times = 0.0
    with tempfile.TemporaryDirectory() as folder:
        paths = []
        for number in range(count):
            suffix, data = kinds[number % len(kinds)]
            path = Path(folder) / f"{number}.{suffix}"
            path.write_bytes(mutated(data, rng))
            paths.append(str(path))
        # What the first import brings in, the modules, is no file's doing.
        with ProcessPoolExecutor(2, initializer=_warm) as pool:
            before = pool.submit(_warm).result()
            for path, (how, took, memory, size) in zip(
                paths, pool.map(one_import, paths, chunksize=16), strict=True
            ):
                ends[how] += 1
                slowest, largest = max(slowest, took), max(largest, memory - before)
                times = max(times, size / max(os.path.getsize(path), 44_000))
                if how.startswith("wrong") or took > _MOST_S:
                    print(path.rsplit(".", 1)[-1], how, f"{took:.1f} s")
    wrong = sum(n for how, n in ends.items() if how.startswith("wrong"))
    told = ", ".join(f"{n} {how}" for how, n in ends.most_common(6))
    return [
        Row(f"{count} mutated media files: crashes", told, "", str(wrong), "0", wrong == 0),
        _row("… longest", f"{slowest:.1f} s", f"{_MOST_S:.0f} s", slowest <= _MOST_S),
        _row("… memory over that of a good file", f"{largest:.0f} MB", "500 MB", largest <= 500),
        _row("… disk, times the file's", f"{times:.1f}", "10", times <= _MOST_TIMES),
    ]


def _row(what: str, found: str, wanted: str, holds: bool) -> Row:
    return Row(what, "", "", found, wanted, holds)


def _warm() -> float:
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        with wave.open(file.name, "wb") as out:
            out.setnchannels(1)
            out.setsampwidth(2)
            out.setframerate(44_100)
            out.writeframes(bytes(88_200))
        one_import(file.name)
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000


_SRT = "1\n00:00:01,000 --> 00:00:02,500\nTobin: We leave at six.\n\n2\n00:00:03,000 --> "
_SRT += "00:00:04,000\n- {\\an8}The boat <i>is</i> small.\n"
_VTT = (
    "WEBVTT\n\nNOTE x\n\nid\n00:01.000 --> 00:04.000 align:start\n<v Tobin>We leave &amp; go.\n\n"
)
_VTT += "00:00:05.000 --> 00:00:09.000\n<c.loud>Six</c> o'clock\n"
_JSON = '{"version":"1.0.0","segments":[{"speaker":"Tobin","startTime":1.5,"endTime":2.5,'
_JSON += '"body":"We leave at six."},{"startTime":3,"endTime":4,"body":"Yes."}]}'
_TEXTS = {"srt": _SRT, "vtt": _VTT, "json": _JSON, "txt": "We leave at six. The boat is small."}
_LONGEST_TEXT = 4_000_000
_PIECES = ["-->", "<", "<v ", "&", "{\\", "[", "]", '"', "\\ud800", "9" * 300, "\n\n", ":", " "]


def transcripts(count: int) -> list[Row]:
    """``count`` mutated transcripts, in a process of their own."""
    code = f"from bench.trust.hostile import _transcripts; _transcripts({count})"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    if done.returncode:
        return [Row(f"{count} mutated transcripts", "", "", done.stderr[-200:], "0", False)]
    read, refused, wrong, slowest, memory = done.stdout.split()
    return [
        Row(
            f"{count} mutated transcripts: crashes",
            f"{read} read, {refused} refused",
            "",
            wrong,
            "0",
            wrong == "0",
        ),
        _row("… longest", f"{float(slowest):.2f} s", "10 s", float(slowest) <= _MOST_S),
        _row("… memory of all of it", f"{float(memory):.0f} MB", "500 MB", float(memory) <= 500),
    ]


def _transcripts(count: int) -> None:
    rng = random.Random(6)
    read = refused = wrong = 0
    slowest = 0.0
    for number in range(count):
        form = list(_TEXTS)[number % 4]
        text = _TEXTS[form]
        for _ in range(rng.choice([1, 2, 5, 20])):
            if len(text) > _LONGEST_TEXT:
                break
            at = rng.randrange(len(text) + 1)
            match rng.randrange(4):
                case 0:
                    text = text[:at] + text[at + rng.randint(1, 20) :]
                case 1:
                    text = text[:at] + rng.choice(_PIECES) * rng.choice([1, 1, 3, 200]) + text[at:]
                case 2:
                    text = text[:at] + text[at // 2 : at] * 3 + text[at:]
                case 3:
                    text = text[:at] + chr(rng.randrange(1, 0xD7FF)) + text[at + 1 :]
        began = time.perf_counter()
        try:
            read_transcript(text.encode("utf-8", "surrogatepass"), f"a.{form}")
            read += 1
        except AirTrimError:
            refused += 1
        except Exception as error:
            wrong += 1
            print(repr(error), file=sys.stderr)
        slowest = max(slowest, time.perf_counter() - began)
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000
    print(read, refused, wrong, slowest, memory)
