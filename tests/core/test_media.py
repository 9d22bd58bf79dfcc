"""Files in: every format, rate and layout that is promised, and what is refused."""

import hashlib
import struct
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
import soxr

from airtrim.core.media.decode import probe
from airtrim.core.media.take import TakeReader, checksum, make_peaks, store_take
from airtrim.errors import BadInput, TooLarge
from tests.reference import RATE, Sound, programme, write

_STORED = {"PCM_16": "int16", "PCM_24": "int32", "FLOAT": "float32"}


def stored(source: Path, name: str | None = None) -> tuple[TakeReader, str | None]:
    folder = source.parent
    info = store_take(source, folder / "sound", folder / "peaks", name=name or source.name)
    reader = TakeReader(folder / "sound")
    assert (reader.frames, reader.channels) == (info.frames, info.channels)
    subtype = soundfile.info(folder / "sound").subtype
    kept, _ = soundfile.read(folder / "sound", dtype=_STORED[subtype], always_2d=True)
    assert hashlib.sha256(kept.tobytes()).hexdigest() == info.sha256
    return reader, info.notice


def tone(seconds: float, rate: int, channels: int = 1, hz: float = 440.0) -> Sound:
    wave = 0.25 * np.sin(2 * np.pi * hz * np.arange(round(seconds * rate)) / rate)
    return np.repeat(wave.astype(np.float32)[:, None], channels, axis=1)


def encode(path: Path, codec: str, sound: Sound, rate: int) -> Path:
    if codec == "libvorbis":  # not in the FFmpeg that PyAV carries
        return write(path, sound, rate, format="OGG", subtype="VORBIS")
    layout = "mono" if sound.shape[1] == 1 else "stereo"
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=rate, layout=layout)
        resampler = av.AudioResampler(stream.codec_context.format, layout, rate)
        frame = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(sound.reshape(1, -1)), format="flt", layout=layout
        )
        frame.sample_rate, frame.pts, frame.time_base = rate, 0, Fraction(1, rate)
        for part in [*resampler.resample(frame), *resampler.resample(None)]:
            container.mux(stream.encode(part))
        container.mux(stream.encode(None))
    return path


@pytest.mark.parametrize(
    ("name", "codec", "rate"),
    [
        ("a.wav", "pcm_s16le", 44_100),
        ("a.wav", "pcm_f32le", 22_050),
        ("a.flac", "flac", 96_000),
        ("a.mp3", "libmp3lame", 44_100),
        ("a.m4a", "aac", 44_100),
        ("a.aac", "aac", 48_000),
        ("a.ogg", "libvorbis", 44_100),
        ("a.opus", "libopus", 48_000),
        ("a.aiff", "pcm_s16be", 32_000),
        ("a.wav", "pcm_s16le", 8_000),
        ("a.wav", "pcm_s24le", 192_000),
    ],
)
@pytest.mark.parametrize("channels", [1, 2])
def test_every_format_becomes_a_take_at_its_pitch_and_level(
    tmp_path: Path, name: str, codec: str, rate: int, channels: int
) -> None:
    reader, notice = stored(encode(tmp_path / name, codec, tone(3, rate, channels), rate))
    assert notice is None
    assert reader.channels == channels
    assert reader.frames == pytest.approx(3 * RATE, abs=0.1 * RATE)
    middle = reader.read(RATE, RATE)
    spectrum = np.abs(np.fft.rfft(middle, axis=0))
    assert (spectrum.argmax(axis=0) == 440).all()
    assert np.abs(middle).max() == pytest.approx(0.25, rel=0.1)


@pytest.mark.parametrize("subtype", ["PCM_16", "PCM_24", "FLOAT"])
def test_a_take_at_48_khz_is_bit_for_bit_the_recording(tmp_path: Path, subtype: str) -> None:
    scale = {"PCM_16": 2**15, "PCM_24": 2**23, "FLOAT": 2**20}[subtype]
    sound = np.round(programme(2, 2, 1) * scale) / scale
    sound[0], sound[1] = -1.0, 1.0 - 1.0 / scale
    source = tmp_path / "a.wav"
    whole = (sound * 2**31).astype(np.int64).clip(-(2**31), 2**31 - 1).astype(np.int32)
    soundfile.write(source, sound if subtype == "FLOAT" else whole, RATE, subtype=subtype)
    reader, _ = stored(source)
    assert np.array_equal(reader.read(0, reader.frames), sound.astype(np.float32))


def test_sound_over_full_scale_is_kept(tmp_path: Path) -> None:
    reader, _ = stored(write(tmp_path / "a.wav", tone(1, RATE) * 8, RATE, subtype="FLOAT"))
    assert np.abs(reader.read(0, RATE)).max() == pytest.approx(2.0, rel=1e-4)


@pytest.mark.parametrize(("peak", "share"), [(0.5, 8), (7.0, 8), (20.0, 64)])
def test_what_is_resampled_is_kept_small_and_never_clipped(
    tmp_path: Path, peak: float, share: int
) -> None:
    """Held against the same resampled by soxr alone, without a file between."""
    sound = programme(3, 2, 1).astype(np.float32)
    sound *= np.float32(peak) / np.abs(sound).max()
    source = write(tmp_path / "a.wav", sound, 44_100, subtype="FLOAT")
    store_take(source, tmp_path / "sound", tmp_path / "peaks", name="a")
    reader = TakeReader(tmp_path / "sound")
    wanted = soxr.resample(sound, 44_100, RATE, quality="HQ")
    off = np.abs(reader.read(0, len(wanted)) - wanted).max()
    assert off <= share * 2.0**-23
    assert soundfile.info(tmp_path / "sound").format == "FLAC"
    make_peaks(tmp_path / "sound", tmp_path / "anew")
    # Without the checksum at their end.
    anew, first = (np.fromfile(tmp_path / name, np.int16)[:-4] for name in ("anew", "peaks"))
    assert np.abs(anew.astype(int) - first).max() <= 1


@pytest.mark.parametrize(
    ("name", "codec", "rate"), [("a.mp3", "libmp3lame", 44_100), ("a.opus", "libopus", 48_000)]
)
def test_a_small_file_stays_small(tmp_path: Path, name: str, codec: str, rate: int) -> None:
    """Talk at the usual rates of FFmpeg's encoders, which come to about 64 kbit/s a channel."""
    talk = soxr.resample(programme(20, 1, 1), RATE, rate)
    source = encode(tmp_path / name, codec, talk, rate)
    info = store_take(source, tmp_path / "sound", tmp_path / "peaks", name=name)
    assert (tmp_path / "sound").stat().st_size < 2.2 * info.frames  # bytes; floats have 4
    assert checksum(tmp_path / "sound") == info.sha256


def test_reads_beyond_a_take_are_silent(tmp_path: Path) -> None:
    reader, _ = stored(write(tmp_path / "a.wav", tone(1, RATE)))
    out = reader.read(-100, RATE + 200)
    assert not out[:100].any()
    assert not out[-100:].any()
    assert np.array_equal(out[100:-100], reader.read(0, RATE))


def test_a_dead_channel_is_told(tmp_path: Path) -> None:
    both = np.repeat(tone(1, RATE), 2, axis=1)
    both[:, 0] = 0.0
    _, notice = stored(write(tmp_path / "a.wav", both), "call.wav")
    assert notice is not None
    assert notice.startswith("Only the right channel of “call.wav” has sound")
    _, notice = stored(write(tmp_path / "b.wav", np.repeat(tone(1, RATE), 2, axis=1)), "b.wav")
    assert notice is None


def test_a_name_full_of_slashes_and_quotes_is_only_a_name(tmp_path: Path) -> None:
    source = write(tmp_path / "a.wav", np.zeros((RATE, 1), np.float32))
    _, notice = stored(source, '../../etc/"x"; rm -rf \'/.wav')
    assert notice is not None
    assert "silent" in notice


def test_a_wrong_extension_is_no_obstacle(tmp_path: Path) -> None:
    encode(tmp_path / "a.flac", "flac", tone(1, RATE), RATE).rename(tmp_path / "a.mp3")
    assert stored(tmp_path / "a.mp3")[0].frames == RATE


def six_channels(path: Path) -> Path:
    soundfile.write(path, np.zeros((RATE, 6), np.float32), RATE)
    return path


def junk(path: Path) -> Path:
    path.write_bytes(np.random.default_rng(1).bytes(50_000))
    return path


def nothing(path: Path) -> Path:
    path.write_bytes(b"")
    return path


def page_of_text(path: Path) -> Path:
    path.write_text("<html>not a recording</html>\n" * 500)
    return path


def blink(path: Path) -> Path:
    return write(path, tone(0.1, RATE))


def header_only(path: Path) -> Path:
    write(path, tone(1, RATE))
    path.write_bytes(path.read_bytes()[:44])
    return path


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (nothing, "empty"),
        (junk, "not a sound file|holds no sound"),
        (page_of_text, "not a sound file|holds no sound"),
        (six_channels, "6 channels"),
        (blink, "only 0.10 s"),
        (header_only, "no sound|only 0.00"),
    ],
)
def test_what_is_no_recording_is_refused_with_a_sentence(tmp_path: Path, make, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        stored(make(tmp_path / "a.wav"))


def test_a_truncated_file_keeps_what_is_there_and_says_so(tmp_path: Path) -> None:
    source = write(tmp_path / "a.wav", tone(10, RATE))
    source.write_bytes(source.read_bytes()[: 4 * RATE * 2 + 44])
    reader, notice = stored(source)
    assert reader.frames == 4 * RATE
    assert notice is not None
    assert "10.0 s" in notice
    assert "4.0 s" in notice


def test_a_header_that_lies_about_10_gb_is_found_out(tmp_path: Path) -> None:
    source = write(tmp_path / "a.wav", tone(2, RATE))
    data = bytearray(source.read_bytes())
    at = data.index(b"data") + 4
    data[at : at + 4] = struct.pack("<I", 0xFFFFFFF0)  # the most that a WAV header can claim
    data[4:8] = struct.pack("<I", 0xFFFFFFF8)
    source.write_bytes(data)
    reader, notice = stored(source)
    assert reader.frames == 2 * RATE
    assert notice is None or "only 2.0 s" in notice


def test_what_is_too_long_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for module in ("take", "decode"):
        monkeypatch.setattr(f"airtrim.core.media.{module}.LONGEST_S", 1.0)
    with pytest.raises(TooLarge, match="longer than"):
        stored(write(tmp_path / "a.wav", tone(3, RATE)))


def test_probe_tells_what_a_file_is(tmp_path: Path) -> None:
    info = probe(encode(tmp_path / "a.opus", "libopus", tone(1, RATE, 2), RATE))
    assert (info.codec, info.sample_rate, info.channels) == ("libopus", RATE, 2) or (
        info.codec,
        info.sample_rate,
        info.channels,
    ) == ("opus", RATE, 2)
