"""The measured delay against delays that were put in: room, noise and a quiet loudspeaker too."""

import numpy as np
import pytest
from scipy.signal import fftconvolve

from airtrim.core.sound.delay import find_delay, probe
from airtrim.errors import BadInput
from tests.reference import RATE, Sound


def heard(delay: int, gain_db: float = -20.0, noise_db: float = -60.0, echo: bool = False) -> Sound:
    sound = np.concatenate([np.zeros(delay), probe()[:, 0], np.zeros(RATE)])
    rng = np.random.default_rng(1)
    if echo:
        tail = rng.standard_normal(RATE // 5) * np.exp(-np.arange(RATE // 5) / (RATE / 30)) * 0.15
        tail[0] = 1.0
        sound = fftconvolve(sound, tail)
    sound = sound * 10 ** (gain_db / 20)
    sound = sound + rng.standard_normal(len(sound)) * 10 ** (noise_db / 20)
    return sound[: round(2.5 * RATE), None].astype(np.float32)


@pytest.mark.parametrize("delay", [0, 480, 2_117, 12_345, 23_000])
@pytest.mark.parametrize("how", [{}, {"noise_db": -45.0}, {"echo": True}, {"gain_db": -40.0}])
def test_the_delay_is_found_within_a_millisecond(delay: int, how: dict) -> None:
    assert find_delay(heard(delay, **how)).frames == pytest.approx(delay, abs=48)


def test_what_was_not_heard_is_told_in_a_sentence() -> None:
    with pytest.raises(BadInput, match="not heard"):
        find_delay(heard(1000, gain_db=-120.0, noise_db=-50.0))
    with pytest.raises(BadInput, match="not heard"):
        find_delay(np.zeros((3 * RATE, 1), np.float32))
    with pytest.raises(BadInput, match="too short"):
        find_delay(np.zeros((RATE, 1), np.float32))
