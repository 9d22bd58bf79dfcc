"""Room tone in takes whose quietest stretch is known, since it was put there."""

import json
from pathlib import Path

import numpy as np
import pytest

from airtrim.core.media.peaks import Peaks, PeakWriter
from airtrim.core.media.take import TakeReader
from airtrim.core.sound.roomtone import RoomTone, find_room_tone, level_of
from airtrim.core.timeline.words import Word
from tests.reference import RATE, Sound


def room(seconds: float, dbfs: float, seed: int = 1) -> Sound:
    noise = np.random.default_rng(seed).standard_normal((round(seconds * RATE), 1))
    return (noise * 10 ** (dbfs / 20)).astype(np.float32)


def found_in(tmp_path: Path, sound: Sound, *words: tuple[float, float]) -> RoomTone | None:
    writer = PeakWriter()
    writer.push(sound)
    writer.write(tmp_path / "peaks")
    spoken = tuple(Word("word", round(a * RATE), round(b * RATE), "word", 0.9) for a, b in words)
    return find_room_tone(Peaks(tmp_path / "peaks", len(sound)), len(sound), spoken)


def test_the_quietest_stretch_without_words_is_found(tmp_path: Path) -> None:
    sound = np.concatenate(
        [room(3, -30), room(0.9, -50), room(3, -30), room(1.4, -58), room(2, -30)]
    )
    tone = found_in(tmp_path, sound, (0, 3), (3.9, 6.9), (8.3, 10.3))
    assert tone is not None
    assert tone.start / RATE >= 6.9
    assert (tone.start + tone.frames) / RATE <= 8.3
    assert tone.frames >= RATE
    assert tone.level_dbfs == pytest.approx(-58, abs=0.5)


def test_a_quiet_stretch_with_a_knock_in_it_does_not_win(tmp_path: Path) -> None:
    quiet = room(0.9, -60)
    quiet[RATE // 2 : RATE // 2 + 400] += 0.2
    sound = np.concatenate([room(2, -30), quiet, room(2, -30), room(0.9, -52), room(2, -30)])
    tone = found_in(tmp_path, sound, (0, 2), (2.9, 4.9), (5.8, 7.8))
    assert tone is not None
    assert 4.9 <= tone.start / RATE <= 5.8


def test_quiet_words_are_not_room_and_digital_silence_is_none(tmp_path: Path) -> None:
    sound = np.concatenate([room(2, -70), np.zeros((2 * RATE, 1), np.float32), room(2, -50)])
    tone = found_in(tmp_path, sound, (0, 2))
    assert tone is not None
    assert tone.start / RATE >= 4.0 - 0.02


def test_less_than_half_a_second_is_no_room_tone(tmp_path: Path) -> None:
    sound = np.concatenate([room(2, -30), room(0.4, -60), room(2, -30)])
    assert found_in(tmp_path, sound, (0, 2.05), (2.35, 4.4)) is None
    assert found_in(tmp_path, room(0.3, -60)) is None


def test_in_the_demos_recording_it_holds_no_speech(
    tmp_path: Path, host_take: TakeReader, demo: Path
) -> None:
    """By the words as they were written into the demo, and by level: below the speech by 20 dB."""
    words = json.loads((demo / "words" / "host-opening.json").read_text())
    sound = host_take.read(0, host_take.frames)
    tone = found_in(tmp_path, sound, *((w["start"] / RATE, w["end"] / RATE) for w in words))
    assert tone is not None
    assert tone.frames >= RATE // 2
    for word in words:
        assert word["end"] <= tone.start or word["start"] >= tone.start + tone.frames
    speech = 20 * np.log10(np.sqrt(np.mean(sound**2)))
    assert tone.level_dbfs < speech - 20
    peaks = Peaks(tmp_path / "peaks", len(sound))
    assert level_of(peaks, tone.start, tone.frames) == pytest.approx(tone.level_dbfs, abs=0.5)
