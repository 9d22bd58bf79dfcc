"""The test recording's advice, on ten situations made from a known voice, room, hum and gain."""

import numpy as np
import pytest

from airtrim.core.sound.checkup import check_microphone
from airtrim.standins.microphone import simulated
from tests.reference import RATE, Sound

SECONDS = 5


def situation(
    gain_db: float = 0.0, room_db: float | None = None, hum: tuple[int, float] | None = None
) -> Sound:
    """Five seconds of the voice at a gain, in a room of noise (dBFS RMS), with a hum (Hz, dBFS)."""
    sound = simulated()[RATE : (1 + SECONDS) * RATE].astype(np.float64) * 10 ** (gain_db / 20)
    if room_db is not None:
        noise = np.random.default_rng(1).standard_normal(sound.shape)
        sound += noise * 10 ** (room_db / 20)
    if hum is not None:
        time = np.arange(len(sound))[:, None] / RATE
        sound += 10 ** (hum[1] / 20) * np.sin(2 * np.pi * hum[0] * time)
    return np.clip(sound, -1, 1).astype(np.float32)


@pytest.mark.parametrize(
    ("sound", "words"),
    [
        (situation(-5), "That is good"),
        (situation(-22), "Move closer"),
        (situation(-35), "Move closer"),
        (situation(4), "Turn it down"),
        (situation(20), "It clips"),
        (situation(-5, room_db=-44), "Noise floor −44 dBFS"),
        (situation(-5, room_db=-38), "Noise floor −38 dBFS"),
        (situation(-5, hum=(50, -48)), "A hum at 50 Hz, −48 dBFS"),
        (situation(-5, hum=(60, -52)), "A hum at 60 Hz, −52 dBFS"),
        (np.zeros((SECONDS * RATE, 1), np.float32), "Nothing was heard"),
    ],
    ids=["good", "low", "whisper", "hot", "clips", "fan", "traffic", "hum50", "hum60", "off"],
)
def test_the_advice_fits_the_situation(sound: Sound, words: str) -> None:
    found = check_microphone(sound)
    assert found.advice[0].startswith(words)
    assert found.good == words.startswith("That is good")
    assert len(found.advice) == 1


def test_two_faults_are_both_told() -> None:
    found = check_microphone(situation(-25, hum=(50, -50)))
    assert [sentence[:12] for sentence in found.advice] == ["Move closer ", "A hum at 50 "]


def test_a_room_without_speech_is_told_as_that() -> None:
    noise = np.random.default_rng(2).standard_normal((SECONDS * RATE, 1)) * 10 ** (-55 / 20)
    found = check_microphone(noise.astype(np.float32))
    assert found.speech_dbfs is None
    assert "only the room at −55 dBFS" in found.advice[0]


@pytest.mark.parametrize("frames", [1, 100, RATE // 2])
def test_a_moment_is_judged_without_error(frames: int) -> None:
    check_microphone(simulated()[:frames])
