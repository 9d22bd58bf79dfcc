"""The meter against ITU-R BS.1770-5, EBU Tech 3341 and Tech 3342, FFmpeg and pyloudnorm.

The cases and tolerances of the EBU documents are written down from memory.
"""

import numpy as np
import pytest
from scipy.signal import freqz_sos

from airtrim.core.loudness.meter import (
    Measurement,
    Meter,
    Profile,
    k_weighting,
    loudness_range,
    measure,
    momentary_lufs,
    short_term_lufs,
)
from tests.reference import RATE, Sound, ffmpeg_loudness, programme, pyloudnorm_loudness


def sine(level_dbfs: float, seconds: float, hz: float = 1000.0, channels: int = 2) -> Sound:
    wave = 10 ** (level_dbfs / 20) * np.sin(
        2 * np.pi * hz * np.arange(round(seconds * RATE)) / RATE
    )
    return np.repeat(wave.astype(np.float32)[:, None], channels, axis=1)


def tones(*parts: tuple[float, float]) -> Sound:
    return np.concatenate([sine(level, seconds) for level, seconds in parts])


def metered(sound: Sound, block: int = 7919) -> tuple[Measurement, Profile]:
    """Fed in blocks that fit no window, as it comes in practice."""
    meter = Meter(sound.shape[1])
    for at in range(0, len(sound), block):
        meter.push(sound[at : at + block])
    return measure(meter), meter.profile()


def test_full_scale_997_hz_sine_in_one_channel_reads_minus_3_01() -> None:
    """BS.1770-5: a 997 Hz sine at 0 dBFS in one of L, R reads −3.01 LKFS."""
    sound = sine(0.0, 10, 997.0)
    sound[:, 1] = 0.0
    assert metered(sound)[0].integrated_lufs == pytest.approx(-3.01, abs=0.01)


@pytest.mark.parametrize("level", [-23.0, -33.0])
def test_tech_3341_cases_1_and_2_steady_sine(level: float) -> None:
    figures, profile = metered(sine(level, 20))
    assert figures.integrated_lufs == pytest.approx(level, abs=0.1)
    assert momentary_lufs(profile.energy) == pytest.approx(level, abs=0.1)
    assert short_term_lufs(profile.energy) == pytest.approx(level, abs=0.1)


@pytest.mark.parametrize(
    "parts",
    [
        [(-36, 10), (-23, 60), (-36, 10)],
        [(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)],
        [(-26, 20), (-20, 20.1), (-26, 20)],
    ],
)
def test_tech_3341_cases_3_to_5_gating(parts: list[tuple[float, float]]) -> None:
    assert metered(tones(*parts))[0].integrated_lufs == pytest.approx(-23.0, abs=0.1)


def test_tech_3341_case_9_short_term() -> None:
    _, profile = metered(tones(*[(-20, 1.34), (-30, 1.66)] * 5))
    assert short_term_lufs(profile.energy) == pytest.approx(-23.0, abs=0.1)


def test_tech_3341_case_12_momentary() -> None:
    _, profile = metered(tones(*[(-20, 0.18), (-30, 0.22)] * 25))
    from_1_s_on = momentary_lufs(profile.energy)[6:]
    assert from_1_s_on == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize(
    ("amplitude", "phase", "expected"),
    [(0.5, 0, -6.0), (0.5, 45, -6.0), (0.5, 60, -6.0), (0.5, 67.5, -6.0), (1.41, 45, 3.0)],
)
def test_tech_3341_cases_15_to_19_true_peak(
    amplitude: float, phase: float, expected: float
) -> None:
    n = np.arange(RATE)
    fade = np.minimum(1.0, np.minimum(n, n[::-1]) / 480)  # no edge of its own
    wave = amplitude * fade * np.sin(np.pi / 2 * n + np.deg2rad(phase))
    peak = metered(np.repeat(wave.astype(np.float32)[:, None], 2, axis=1))[0].true_peak_dbtp
    assert peak is not None
    assert expected - 0.4 <= peak <= expected + 0.2


@pytest.mark.parametrize(
    ("levels", "expected"),
    [
        ([-20, -30], 10),
        ([-20, -15], 5),
        ([-40, -20], 20),
        ([-50, -35, -20, -35, -50], 15),
    ],
)
def test_tech_3342_loudness_range(levels: list[float], expected: float) -> None:
    _, profile = metered(tones(*[(level, 20) for level in levels]))
    assert loudness_range(profile.energy) == pytest.approx(expected, abs=1.0)


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_random_programme_agrees_with_ffmpeg_and_pyloudnorm(channels: int, seed: int) -> None:
    sound = programme(40, channels, seed)
    ours, _ = metered(sound)
    theirs = ffmpeg_loudness(sound)
    assert ours.integrated_lufs == pytest.approx(theirs["integrated"], abs=0.1)
    assert ours.integrated_lufs == pytest.approx(pyloudnorm_loudness(sound), abs=0.05)
    assert ours.loudness_range_lu == pytest.approx(theirs["range"], abs=0.5)
    assert ours.true_peak_dbtp == pytest.approx(theirs["true_peak"], abs=0.2)


@pytest.mark.parametrize("rate", [44_100, 96_000])
def test_k_weighting_at_other_rates_is_the_same_filter(rate: int) -> None:
    """Re-derived, not reused: the responses agree in the band that both rates hold."""
    hz = np.geomspace(20, 10_000, 60)
    here = np.abs(freqz_sos(k_weighting(rate), hz, fs=rate)[1])
    there = np.abs(freqz_sos(k_weighting(RATE), hz, fs=RATE)[1])
    assert 20 * np.log10(here / there) == pytest.approx(0, abs=0.15)


@pytest.mark.parametrize("seconds", [0.3, 5.0])
def test_silence_has_no_loudness(seconds: float) -> None:
    figures, _ = metered(np.zeros((round(seconds * RATE), 1), np.float32))
    assert figures.integrated_lufs is None
    assert figures.true_peak_dbtp is None
    assert figures.duration_s == pytest.approx(seconds)


def test_a_profile_taken_midway_does_not_disturb_the_meter() -> None:
    sound = programme(10, 1, 5)
    whole = metered(sound)[0]
    meter = Meter(1)
    meter.push(sound[:100_001])
    meter.profile()
    meter.push(sound[100_001:])
    assert measure(meter) == whole


def test_a_profile_taken_on_the_way_stays_as_it_is() -> None:
    """It shares its memory with the meter, which goes on."""
    rng = np.random.default_rng(3)
    sound = rng.standard_normal((7 * 48_000, 1)).astype(np.float32) * 0.1
    meter, whole = Meter(1), Meter(1)
    taken = []
    for at in range(0, len(sound), 50_001):
        meter.push(sound[at : at + 50_001])
        found = meter.profile()
        taken.append((found, found.energy.copy(), found.peak.copy()))
    whole.push(sound)
    for found, energy, peak in taken:
        assert np.array_equal(found.energy, energy)
        assert np.array_equal(found.peak, peak)
    assert np.allclose(meter.profile().energy, whole.profile().energy, rtol=1e-5)
    assert meter.profile().peak.max() == whole.profile().peak.max()
