"""Files that were joined of several, and files with damage anywhere: all of their sound is read, or
a sentence says why not. The truth is what libsndfile wrote (an independent encoder)."""

import contextlib
import io
import random
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PIL import Image

from airtrim.core.media.decode import decode, probe
from airtrim.core.release.artwork import fitted_artwork
from airtrim.core.release.tags import artwork_if_shown, own_tags, read_chapters
from airtrim.core.timeline.tags import Tags
from airtrim.errors import AirTrimError
from airtrim.services.batch.planning import Recipe, looked_over, planned

PARTS_S = 3.0


def encoded(rate: int, channels: int, form: str, subtype: str, hz: float) -> bytes:
    at = np.arange(int(rate * PARTS_S)) / rate
    sound = np.repeat(0.3 * np.sin(2 * np.pi * hz * at)[:, None], channels, axis=1)
    buffer = io.BytesIO()
    soundfile.write(buffer, sound, rate, format=form, subtype=subtype)
    return buffer.getvalue()


def pitch(sound: np.ndarray, rate: int) -> float:
    spectrum = np.abs(np.fft.rfft(sound * np.hanning(len(sound))))
    return float(np.argmax(spectrum)) * rate / len(sound)


@pytest.mark.parametrize(
    ("form", "subtype", "first", "second"),
    [
        ("OGG", "VORBIS", (48_000, 1), (48_000, 1)),
        ("OGG", "VORBIS", (48_000, 1), (32_000, 1)),
        ("OGG", "VORBIS", (44_100, 2), (48_000, 1)),
        ("OGG", "OPUS", (48_000, 1), (48_000, 2)),
        ("FLAC", "PCM_16", (48_000, 1), (44_100, 1)),
        ("MP3", "MPEG_LAYER_III", (44_100, 2), (48_000, 1)),
        ("MP3", "MPEG_LAYER_III", (44_100, 1), (44_100, 2)),
    ],
)
def test_both_halves_of_a_joined_file_are_read(
    tmp_path: Path, form: str, subtype: str, first: tuple[int, int], second: tuple[int, int]
) -> None:
    """The second with another rate and other channels: at its own pitch, and as long."""
    path = tmp_path / "joined"
    path.write_bytes(encoded(*first, form, subtype, 440.0) + encoded(*second, form, subtype, 880.0))
    info = probe(path)
    assert (info.sample_rate, info.channels) == first
    sound = np.concatenate(list(decode(path)))
    assert sound.shape[1] == first[1]
    assert len(sound) / first[0] == pytest.approx(2 * PARTS_S, abs=0.12)
    if form == "OGG":
        assert info.duration_s == pytest.approx(2 * PARTS_S, abs=0.05)
    for start_s, hz in ((1.0, 440.0), (4.3, 880.0)):
        part = sound[int(start_s * first[0]) :][: first[0]]
        assert pitch(part[:, 0], first[0]) == pytest.approx(hz, abs=3.0)


@pytest.mark.parametrize("subtype", ["IMA_ADPCM", "MS_ADPCM", "GSM610", "ULAW"])
def test_a_compressed_wav_is_as_long_as_it_says(tmp_path: Path, subtype: str) -> None:
    """So that no notice says that some of it is missing."""
    path = tmp_path / "a.wav"
    path.write_bytes(encoded(16_000, 1, "WAV", subtype, 440.0))
    frames = sum(len(block) for block in decode(path))
    assert probe(path).duration_s == pytest.approx(frames / 16_000, abs=0.1)


def with_cover(folder: Path, cover: bytes) -> Path:
    from mutagen.id3 import APIC, ID3, TIT2

    path = folder / "a.mp3"
    path.write_bytes(encoded(44_100, 1, "MP3", "MPEG_LAYER_III", 440.0))
    tags = ID3()
    tags.add(TIT2(encoding=3, text="Fog"))
    tags.add(APIC(encoding=3, mime="image/png", type=3, desc="", data=cover))
    tags.save(path)
    return path


def png(side: int, color: str = "1") -> bytes:
    buffer = io.BytesIO()
    Image.new(color, (side, side)).save(buffer, "PNG")
    return buffer.getvalue()


COVERS = {
    "empty": b"",
    "no picture": b"not a picture at all",
    "cut off": png(1400)[:-200],
    "a bomb": png(20_000),
    "9 MB": b"\x89PNG\r\n\x1a\n" + bytes(9_000_000),
}


@pytest.mark.parametrize("name", COVERS)
def test_a_cover_that_cannot_be_shown_ends_no_batch_and_no_catalogue(
    tmp_path: Path, name: str
) -> None:
    path = with_cover(tmp_path, COVERS[name])
    (item,) = planned([path], tmp_path / "out", Recipe(), Tags())
    assert item.refused == ""
    assert item.tags.title == "Fog"
    assert artwork_if_shown(path) is None
    assert not isinstance(looked_over(path), str)
    with pytest.raises(AirTrimError):
        fitted_artwork(COVERS[name])


def test_damage_anywhere_in_a_file_is_a_sentence_or_is_read_over(tmp_path: Path) -> None:
    """300 files with bytes changed, cut out or doubled: no library's error comes through."""
    wholes = [
        with_cover(tmp_path, png(1400)).read_bytes(),
        encoded(48_000, 1, "OGG", "VORBIS", 440.0) + encoded(32_000, 2, "OGG", "VORBIS", 880.0),
        encoded(44_100, 2, "FLAC", "PCM_16", 440.0),
        encoded(16_000, 1, "WAV", "IMA_ADPCM", 440.0),
    ]
    for seed in range(300):
        chance = random.Random(seed)
        data = bytearray(wholes[seed % len(wholes)])
        for _ in range(chance.randint(1, 12)):
            at = int(len(data) * chance.random() ** 3)  # mostly in the header
            match chance.randrange(3):
                case 0:
                    data[at : at + 1] = bytes([chance.randrange(256)])
                case 1:
                    del data[at : at + chance.randint(1, 300)]
                case _:
                    data[at:at] = data[max(0, at - 200) : at]
        path = tmp_path / f"{seed}.bin"
        path.write_bytes(bytes(data))
        planned([path], tmp_path / "out", Recipe(), Tags())
        looked_over(path)
        for read in (probe, own_tags, read_chapters, lambda p: list(decode(p))):
            with contextlib.suppress(AirTrimError):
                read(path)
        path.unlink()
