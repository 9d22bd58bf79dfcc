"""A retake beside what surrounds it, and the header frame of an MP3 byte by byte."""

import struct
from pathlib import Path

import numpy as np
import pytest

from airtrim.core.media.reading import InMemory
from airtrim.core.release.formats.mp3 import Mp3
from airtrim.core.render.match import MOST_GAIN_DB, matching_gain
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.loudness import SetLoudness
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.model import Timeline
from tests.reference import RATE, programme


@pytest.mark.parametrize("layout", ["mono", "stereo"])
@pytest.mark.parametrize("difference_db", [-6.0, 0.0, 4.0])
def test_the_gain_is_the_difference(layout: str, difference_db: float) -> None:
    voice = programme(30, 1, 1)
    takes = {
        "old": InMemory(voice),
        "new": InMemory(voice * np.float32(10 ** (difference_db / 20))),
    }
    timeline = apply(Timeline(), Place(take="old", take_frames=30 * RATE))
    timeline = apply(timeline, SetLoudness(layout=layout))
    gain = matching_gain(timeline, takes.__getitem__, 0, 30 * RATE, "new")
    assert gain == pytest.approx(-difference_db, abs=0.05)


def test_it_is_bounded_and_silence_is_left_alone() -> None:
    takes = {
        "old": InMemory(programme(20, 1, 1)),
        "faint": InMemory(programme(20, 1, 1) * np.float32(0.01)),
        "hush": InMemory(np.zeros((5 * RATE, 1), np.float32)),
    }
    timeline = apply(Timeline(), Place(take="old", take_frames=20 * RATE))
    span = (5 * RATE, RATE)
    assert matching_gain(timeline, takes.__getitem__, *span, "faint") == MOST_GAIN_DB
    assert matching_gain(timeline, takes.__getitem__, *span, "hush") == 0.0


def test_what_lies_far_away_does_not_count() -> None:
    rng = np.random.default_rng(2)
    sound = (0.05 * rng.standard_normal((60 * RATE, 1))).astype(np.float32)
    sound[: 30 * RATE] *= 0.1
    takes = {"old": InMemory(sound), "new": InMemory(sound[45 * RATE : 50 * RATE])}
    timeline = apply(Timeline(), Place(take="old", take_frames=60 * RATE))
    gain = matching_gain(timeline, takes.__getitem__, 47 * RATE, RATE, "new")
    assert gain == pytest.approx(0.0, abs=0.1)


@pytest.mark.parametrize(("channels", "side"), [(1, 17), (2, 32)])
def test_the_header_frame_counts_what_is_in_the_file(
    tmp_path: Path, channels: int, side: int
) -> None:
    """Field by field, after Xing's and LAME's descriptions (from memory)."""
    path = tmp_path / "a.mp3"
    Mp3().write(iter([programme(5, channels, 1)]), path, channels=channels, kbits=128)
    data = path.read_bytes()
    tag = data[4 + side :]
    assert tag[:4] == b"Info"
    flags, frames, size = struct.unpack(">III", tag[4:16])
    assert flags == 0x0F
    assert size == len(data)
    assert list(tag[16:116]) == [i * 256 // 100 for i in range(100)]
    assert tag[120:129] == b"LAME3.100"
    delay, padding = (int.from_bytes(tag[141:144], "big") >> s & 0xFFF for s in (12, 0))
    samples = 5 * 44_100
    assert abs(frames * 1152 - delay - padding - samples) <= 2
    found, at = 0, 0
    while at < len(data):  # every frame begins where the one before it ends
        assert data[at] == 0xFF
        assert data[at + 1] == 0xFB
        at += 144_000 * 128 // 44_100 + (data[at + 2] >> 1 & 1)
        found += 1
    assert found == frames + 1
