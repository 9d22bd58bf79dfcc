"""The released file, read by parsers that did not write it: FFmpeg, mutagen and Pillow.

Frames by ID3v2.3 and ID3v2.4 (from memory); targets are common practice.
"""

import io
from pathlib import Path

import av
import numpy as np
import pytest
from mutagen.id3 import ID3
from mutagen.mp3 import MP3, BitrateMode
from PIL import Image

from airtrim.core.media.take import TakeReader
from airtrim.core.release.artwork import check_artwork, fitted_artwork
from airtrim.core.release.formats.mp3 import Mp3
from airtrim.core.release.formats.wav import Wav
from airtrim.core.release.labels import Labels
from airtrim.core.release.tags import read_tags
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput
from tests.reference import RATE, decoded, programme, pyloudnorm_loudness

TAGS = Tags(
    title="Große Fähre – 大渡轮",
    show="Slow Crossing",
    artist="Tobin Hallam",
    album_artist="The Pier",
    season=2,
    episode=14,
    year=2026,
    genre="Podcast",
    description="A line.\nAnother, with “quotes” and / slashes.",
    language="eng",
    copyright="2026 The Pier",
    link="https://slowcrossing.example/14?a=b",
)


FOR_FEEDS = {"episode_type", "explicit", "licence", "people"}
"""No file format has a place for these that players look at."""
IN_FILES = {key: str(value) for key, value in TAGS.model_dump(exclude=FOR_FEEDS).items()}


def picture(
    size: tuple[int, int] = (1400, 1400), kind: str = "JPEG", mode: str = "RGB", frames: int = 1
) -> bytes:
    buffer = io.BytesIO()
    first, *more = [Image.new(mode, size, 40 * n) for n in range(1, frames + 1)]
    first.save(buffer, kind, **({"save_all": True, "append_images": more} if more else {}))
    return buffer.getvalue()


@pytest.fixture(scope="module")
def sound() -> np.ndarray:
    return programme(12, 1, 1) * np.float32(0.5)


def mp3(folder: Path, sound: np.ndarray, kbits: int = 96) -> Path:
    path = folder / "file.mp3"
    Mp3().write(iter([sound]), path, channels=sound.shape[1], kbits=kbits)
    return path


@pytest.mark.parametrize("version", ["2.3", "2.4"])
def test_every_tag_is_read_back_by_ffmpeg(tmp_path: Path, sound: np.ndarray, version: str) -> None:
    path = mp3(tmp_path, sound)
    Mp3().label_file(path, Labels(TAGS, picture(), (), 12 * RATE, version))
    found = read_tags(path)
    assert found.pop("artwork") == "1400 × 1400"
    assert found.pop("length_ms") == "12000"
    assert found == IN_FILES


@pytest.mark.parametrize(("version", "year_frame"), [("2.3", "TYER"), ("2.4", "TDRC")])
def test_frames_are_those_of_the_version(
    tmp_path: Path, sound: np.ndarray, version: str, year_frame: str
) -> None:
    path = mp3(tmp_path, sound)
    Mp3().label_file(path, Labels(TAGS, picture(kind="PNG"), id3_version=version))
    raw = ID3(path, translate=False)
    assert raw.version[:2] == tuple(int(n) for n in version.split("."))
    assert str(raw[year_frame]) == "2026"
    assert raw["WOAF"].url == TAGS.link
    assert raw.getall("APIC")[0].type == 3
    assert Image.open(io.BytesIO(raw.getall("APIC")[0].data)).format == "PNG"


def test_tagging_twice_leaves_one_set(tmp_path: Path, sound: np.ndarray) -> None:
    path = mp3(tmp_path, sound)
    Mp3().label_file(path, Labels(TAGS, picture()))
    Mp3().label_file(path, Labels(Tags(title="Second")))
    assert read_tags(path) == {"title": "Second"}


@pytest.mark.parametrize("kbits", Mp3.kbits)
def test_mp3_of_speech_is_constant_rate_at_its_level_and_length(
    tmp_path: Path, host_take: TakeReader, kbits: int
) -> None:
    sound = host_take.read(3 * RATE, 12 * RATE)
    path = mp3(tmp_path, sound, kbits)
    info = MP3(path).info
    assert info.bitrate_mode == BitrateMode.CBR
    assert info.bitrate == pytest.approx(kbits * 1000, abs=2)
    assert info.sample_rate == 44_100
    assert info.length == pytest.approx(12.0, abs=1e-4)
    back = decoded(path)
    assert len(back) == pytest.approx(len(sound), abs=2)
    assert pyloudnorm_loudness(back) == pytest.approx(pyloudnorm_loudness(sound), abs=0.05)
    estimate = Mp3().size_bytes(frames=len(sound), channels=1, kbits=kbits)
    assert path.stat().st_size == pytest.approx(estimate, rel=0.03)


@pytest.mark.parametrize("seconds", [0.2, 1.0, 7.3])
@pytest.mark.parametrize("channels", [1, 2])
def test_mp3_begins_on_the_first_sample_and_ends_on_the_last(
    tmp_path: Path, seconds: float, channels: int
) -> None:
    """FFmpeg goes by the header frame: nothing before the sound, nothing after, no shift."""
    sound = programme(seconds, channels, 4)
    back = decoded(mp3(tmp_path, sound, 128))
    assert len(back) == pytest.approx(len(sound), abs=2)
    padded = np.pad(back[:, 0], 100)
    agreement = [
        np.dot(padded[lag : lag + len(back) - 4], sound[: len(back) - 4, 0]) for lag in range(200)
    ]
    assert int(np.argmax(agreement)) == 100


def test_stereo_mp3_keeps_its_sides(tmp_path: Path) -> None:
    n = np.arange(3 * RATE) / RATE
    sides = np.stack([np.sin(2 * np.pi * 440 * n), np.sin(2 * np.pi * 880 * n)], axis=1)
    path = mp3(tmp_path, (0.3 * sides).astype(np.float32), 128)
    spectrum = np.abs(np.fft.rfft(decoded(path)[RATE : 2 * RATE], axis=0))
    assert spectrum[:, 0].argmax() == 440
    assert spectrum[:, 1].argmax() == 880


def test_wav_over_4_gb_is_rf64_and_all_of_it_is_read_back(
    tmp_path: Path, sound: np.ndarray, monkeypatch: pytest.MonkeyPatch
) -> None:
    """EBU Tech 3306: beyond what 32 bits can tell, the length stands in a ds64 chunk. (The limit is
    lowered here; ``bench/trust.py`` writes a real one.)"""
    monkeypatch.setattr("airtrim.core.release.formats.wav._MOST_WAV_BYTES", 1000)
    path = tmp_path / "file.wav"
    Wav().write(iter([sound]), path, frames=len(sound), channels=1)
    data = path.read_bytes()
    assert data[:4] == b"RF64"
    assert data[12:16] == b"ds64"
    assert int.from_bytes(data[28:36], "little") == len(sound) * 3
    assert len(decoded(path)) == len(sound)


def test_wav_is_24_bit_and_tagged(tmp_path: Path, sound: np.ndarray) -> None:
    path = tmp_path / "file.wav"
    Wav().write(iter([sound]), path, frames=len(sound), channels=1)
    Wav().label_file(path, Labels(TAGS, id3_version="2.4"))
    with av.open(str(path)) as container:
        assert container.streams.audio[0].codec_context.name == "pcm_s24le"
    assert np.abs(decoded(path) - sound).max() <= 2**-23
    assert read_tags(path)["title"] == TAGS.title


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"this is no picture", "not a picture"),
        (picture((1500, 1400)), "square"),
        (picture((1000, 1000)), "1400 to 3000"),
        (picture((3200, 3200)), "1400 to 3000"),
        (picture(kind="GIF"), "GIF"),
        (picture(mode="CMYK"), "CMYK"),
        (picture(kind="PNG", frames=3), "moves"),
        (picture()[:5000], "damaged"),
        (b"\xff\xd8\xff" + bytes(9_000_000), "8 MB"),
    ],
)
def test_artwork_that_apps_would_refuse_is_refused_with_a_reason(data: bytes, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        check_artwork(data)


@pytest.mark.parametrize(
    "data",
    [
        picture((1600, 1200)),
        picture((900, 1100)),
        picture((3600, 3200)),
        picture(kind="GIF"),
        picture(mode="CMYK"),
        picture(kind="PNG", frames=3),
    ],
)
def test_what_apps_would_refuse_is_made_to_fit_by_a_press(data: bytes) -> None:
    fitted = fitted_artwork(data)
    assert check_artwork(fitted) == "image/jpeg"


def test_a_cover_is_made_of_the_middle_the_right_way_up() -> None:
    """A camera lays a picture down on its side and says so in its EXIF data (orientation 6)."""
    lying = Image.new("RGB", (2400, 1600), "red")
    lying.paste("blue", (400, 0, 2000, 1600))
    lying.paste("white", (400, 0, 800, 1600))  # upright it is at the top
    said = Image.Exif()
    said[0x0112] = 6
    out = io.BytesIO()
    lying.save(out, "JPEG", exif=said, quality=95)
    with Image.open(io.BytesIO(fitted_artwork(out.getvalue()))) as cover:
        assert cover.size == (1600, 1600)
        top, middle = cover.getpixel((800, 100)), cover.getpixel((800, 1200))
    assert min(top) > 240  # type: ignore[type-var, arg-type]
    assert middle[2] > 200 > 60 > middle[0]  # type: ignore[index]


@pytest.mark.parametrize(
    ("data", "words"), [(b"no picture", "not a picture"), (picture((300, 2000)), "blur")]
)
def test_what_would_be_no_cover_is_not_made_one(data: bytes, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        fitted_artwork(data)
