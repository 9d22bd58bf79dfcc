"""Files made to do harm: small ones with huge costs, ones that lead elsewhere, endless patterns.

Costs are counted in processor time of this thread, so that a busy machine does not count."""

import struct
import time
import zlib
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PIL import Image

from airtrim.core.media.decode import probe
from airtrim.core.media.take import store_take
from airtrim.core.release.artwork import check_artwork
from airtrim.core.release.reading import read_transcript
from airtrim.core.speech.script import held_against
from airtrim.core.speech.spelling import spoken
from airtrim.core.timeline.words import PlacedWord
from airtrim.errors import BadInput, Cancelled, TooLarge
from tests.reference import RATE


def within(seconds: float, work: Callable[[], object]) -> None:
    begun = time.thread_time()
    with suppress(BadInput, TooLarge):
        work()
    assert time.thread_time() - begun < seconds


def wav_of(rate: int, data: bytes, bits: int = 16) -> bytes:
    per_second = rate * bits // 8
    head = struct.pack("<IHHIIHH", 16, 1, 1, rate, per_second, bits // 8, bits)
    body = b"WAVEfmt " + head + b"data" + struct.pack("<I", len(data)) + data
    return b"RIFF" + struct.pack("<I", len(body)) + body


@pytest.mark.parametrize("rate", [1, 100, 3999, 384_001, 4_000_000])
def test_a_rate_no_recorder_has_is_refused_from_the_header(tmp_path: Path, rate: int) -> None:
    path = tmp_path / "a.wav"
    path.write_bytes(wav_of(rate, bytes(40_000)))
    with pytest.raises(BadInput, match="samples a second"):
        probe(path)


def test_hours_of_nothing_in_a_small_file_are_refused_while_decoding(tmp_path: Path) -> None:
    path = tmp_path / "a.flac"
    with soundfile.SoundFile(str(path), "w", 44_100, 1, "PCM_16", format="FLAC") as file:
        for _ in range(1800):
            file.write(np.zeros(44_100, np.float32))
    assert path.stat().st_size < 400_000
    with pytest.raises(TooLarge, match="no recording of its size does"):
        store_take(path, tmp_path / "sound", tmp_path / "peaks", name="a")
    assert (tmp_path / "sound").stat().st_size < 200_000_000


def test_millions_of_empty_parts_are_refused_soon(tmp_path: Path) -> None:
    path = tmp_path / "a.wav"
    path.write_bytes(b"RIFF\xff\xff\xff\x7fWAVE" + (b"abcd" + bytes(4)) * 2_500_000)
    within(1.0, lambda: probe(path))
    with pytest.raises(BadInput):
        probe(path)


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("a.ffconcat", "ffconcat version 1.0\nfile b.wav\n"),
        ("a.m3u8", "#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:1,\nb.wav\n#EXT-X-ENDLIST\n"),
        ("a.sdp", "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nm=audio 9 RTP/AVP 0\n"),
        ("a.wav", "ffconcat version 1.0\nfile b.wav\n"),
        ("a.xml", '<MPD xmlns="urn:mpeg:dash:schema:mpd:2011"><Period/></MPD>'),
    ],
)
def test_files_that_lead_to_others_are_refused(tmp_path: Path, name: str, text: str) -> None:
    (tmp_path / "b.wav").write_bytes(wav_of(48_000, bytes(96_000)))
    (tmp_path / name).write_text(text)
    with pytest.raises(BadInput, match="not a sound file"):
        probe(tmp_path / name)


def cue(text: str) -> bytes:
    return f"WEBVTT\n\n00:01.000 --> 00:02.000\n{text}".encode()


def srt(text: str) -> bytes:
    return f"1\n00:00:01,000 --> 00:00:02,000\n{text}".encode()


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("a.srt", b"1" * 800),
        ("a.srt", b"1" * 5_000_000 + b"\n00:00:01,000 --> 00:00:02,000\nx"),
        ("a.srt", b"-->" * 2_000_000),
        ("a.srt", b"\n" * 5_000_000),
        ("a.srt", srt("{\\" * 2_000_000)),
        ("a.srt", srt("-" + " " * 5_000_000 + "x")),
        ("a.srt", srt("A" * 41 + " " * 5_000_000)),
        ("a.srt", b"99999999999999999:00:01,000 --> 00:00:02,000\nx"),
        ("a.vtt", cue("<" * 5_000_000)),
        ("a.vtt", cue("<v " * 1_500_000)),
        ("a.vtt", cue("<v." * 1_500_000)),
        ("a.vtt", cue("&" * 5_000_000)),
        ("a.vtt", b"WEBVTT\n\n" + b"NOTE\n\n" * 1_000_000),
        ("a.json", b"[" * 100_000),
        ("a.json", b'{"segments":[{"startTime":1e999,"endTime":2,"body":"x"}]}'),
        ("a.json", b'{"segments":[{"startTime":1,"endTime":1e300,"body":"x"}]}'),
        ("a.json", b'{"segments":' + b"[" * 50_000),
        ("a.json", b'{"segments":[{"startTime":' + b"9" * 400 + b',"endTime":2,"body":"x"}]}'),
        ("a.txt", b"word " * 2_000_000),
    ],
    ids=lambda value: value[:24] if isinstance(value, bytes) else value,
)
def test_transcripts_are_read_in_time_that_grows_with_their_length(name: str, data: bytes) -> None:
    within(10.0, lambda: read_transcript(data, name))


def test_twenty_thousand_cues_are_read_in_a_second_or_two() -> None:
    def at(second: int) -> str:
        return f"{second // 3600:02d}:{second // 60 % 60:02d}:{second % 60:02d}"

    cues = "".join(f"{n}\n{at(n)},000 --> {at(n)},900\nWords of it.\n\n" for n in range(1, 20_001))
    found = []
    within(3.0, lambda: found.extend(read_transcript(cues.encode(), "a.srt")))
    assert len(found) == 20_000


def test_half_a_surrogate_in_a_transcript_is_no_text() -> None:
    data = b'{"segments":[{"startTime":1,"endTime":2,"body":"a \\ud800 b","speaker":"\\udfff"}]}'
    (found,) = read_transcript(data, "a.json")
    assert found.text == "a ? b"
    assert found.speaker == "?"


def talk(texts: list[str]) -> list[PlacedWord]:
    one = PlacedWord("v", "t", 0, "", 0, 900, "word", 0.9, False)
    return [
        replace(one, word=i, text=text, start=i * RATE, end=i * RATE + 900)
        for i, text in enumerate(texts)
    ]


@pytest.mark.parametrize("few", [["a"], ["a", "b"], ["the", "boat", "leaves", "at", "six"]])
def test_a_script_of_the_same_few_words_is_held_in_bounded_time(few: list[str]) -> None:
    rng = np.random.default_rng(3)
    words = talk([few[i] for i in rng.integers(0, len(few), 30_000)])
    script = " ".join(few[i] for i in rng.integers(0, len(few), 60_000))
    within(20.0, lambda: held_against(script, words))


def test_a_script_as_one_word_is_held_in_bounded_time() -> None:
    within(10.0, lambda: held_against("x" * 300_000, talk(["y" * 3000] * 100)))


def test_holding_a_script_ends_when_it_is_not_wanted_any_more() -> None:
    rng = np.random.default_rng(4)
    texts = [f"w{i}" for i in rng.integers(0, 3000, 30_000)]

    def enough() -> None:
        raise Cancelled("not wanted")

    with pytest.raises(Cancelled):
        held_against(" ".join(texts), talk(texts), enough)


@pytest.mark.parametrize("text", ["9" * 5000 + "th", "1" * 300_000, "1,000" * 50_000, "$" * 9000])
def test_numbers_without_end_are_spoken_in_bounded_time(text: str) -> None:
    within(10.0, lambda: spoken(text))


def test_artwork_that_is_cut_off_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "a.jpg"
    noise = np.random.default_rng(1).integers(0, 255, (1400, 1400, 3), np.uint8)
    Image.fromarray(noise).save(path)
    data = path.read_bytes()
    assert check_artwork(data) == "image/jpeg"
    with pytest.raises(BadInput, match="damaged"):
        check_artwork(data[: len(data) // 2])


def test_artwork_that_unfolds_to_gigabytes_is_refused_by_its_header() -> None:
    """A PNG of 60,000 × 60,000 pixels in a few bytes (PNG specification, IHDR)."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    header = struct.pack(">IIBBBBB", 60_000, 60_000, 8, 2, 0, 0, 0)
    data = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(bytes(99)))
    with pytest.raises(BadInput):
        check_artwork(data)


def test_sound_that_is_no_number_is_silence_and_what_is_too_loud_is_held(tmp_path: Path) -> None:
    sound = np.zeros(48_000, "<f4")
    sound[100], sound[200], sound[300], sound[400] = np.nan, np.inf, -1e30, 3.0
    path = tmp_path / "a.wav"
    soundfile.write(path, sound, 48_000, subtype="FLOAT")
    store_take(path, tmp_path / "sound", tmp_path / "peaks", name="a")
    kept, _ = soundfile.read(tmp_path / "sound", dtype="float32")
    assert np.isfinite(kept).all()
    assert kept[[100, 400]].tolist() == [0.0, 3.0]
    assert np.abs(kept).max() == 64.0


@pytest.mark.parametrize("place", range(12, 60, 2))
def test_a_header_with_a_huge_number_anywhere_is_refused_or_kept(
    tmp_path: Path, place: int
) -> None:
    for suffix, form in (("wav", "WAV"), ("w64", "W64"), ("aiff", "AIFF"), ("flac", "FLAC")):
        path = tmp_path / f"a.{suffix}"
        soundfile.write(path, np.zeros(24_000), 48_000, format=form, subtype="PCM_16")
        data = bytearray(path.read_bytes())
        for filler in (b"\xff" * 4, b"\x7f\xff\xff\xff", bytes(4)):
            data[place : place + 4] = filler
            path.write_bytes(data)
            with suppress(BadInput, TooLarge):
                store_take(path, tmp_path / "sound", tmp_path / "peaks", name="a")
