"""The limiter: what it must never let through, and what it must leave alone (common practice)."""

import numpy as np
import pytest
import soxr

from airtrim.core.loudness.levelling import foresee
from airtrim.core.loudness.limiter import DELAY_FRAMES, Limiter
from airtrim.core.loudness.meter import Meter, integrated_loudness
from tests.reference import RATE, Sound, ffmpeg_loudness, programme


def limited(sound: Sound, ceiling_dbtp: float, block: int = 5000) -> Sound:
    limiter = Limiter(sound.shape[1], ceiling_dbtp)
    padded = np.concatenate([sound, np.zeros((DELAY_FRAMES, sound.shape[1]), np.float32)])
    parts = [limiter.process(padded[at : at + block]) for at in range(0, len(padded), block)]
    return np.concatenate(parts)[DELAY_FRAMES:]


@pytest.mark.parametrize("seed", [1, 2])
@pytest.mark.parametrize("gain_db", [16.0, 26.0])
def test_no_true_peak_over_the_ceiling_by_ffmpegs_measure(seed: int, gain_db: float) -> None:
    sound = programme(10, 2, seed) * np.float32(10 ** (gain_db / 20))
    assert ffmpeg_loudness(sound)["true_peak"] > 0
    assert ffmpeg_loudness(limited(sound, -1.0))["true_peak"] <= -0.9


def test_peaks_between_samples_are_caught() -> None:
    n = np.arange(RATE)
    wave = (0.99 * np.sin(np.pi / 2 * n + np.pi / 4)).astype(np.float32)[:, None]
    out = limited(wave, -3.0)
    fine = soxr.resample(out[1000:], RATE, 8 * RATE, "VHQ")
    assert 20 * np.log10(np.abs(fine[2000:-2000]).max()) <= -2.95


def test_sound_under_the_ceiling_passes_untouched() -> None:
    sound = programme(5, 1, 3) * np.float32(0.2)
    assert np.array_equal(limited(sound, -1.0), sound)


def test_it_does_not_matter_how_the_sound_is_cut_into_blocks() -> None:
    sound = programme(5, 1, 4) * np.float32(8.0)
    assert np.allclose(limited(sound, -1.0, 777), limited(sound, -1.0, 60_000), atol=1e-6)


def test_the_gain_has_no_corners() -> None:
    """A single click is turned down over the whole look-ahead, not at once."""
    sound = np.full((RATE, 1), 0.05, np.float32)
    sound[24_000] = 4.0
    gain = limited(sound, -1.0)[:, 0] / sound[:, 0]
    steps = np.abs(np.diff(np.delete(gain, 24_000)))
    assert gain.min() < 0.25
    assert steps.max() < 0.02


def test_its_effect_on_loudness_is_foreseen(monkeypatch: pytest.MonkeyPatch) -> None:
    """Foreseen on a value a millisecond, in stretches of any length; heard in the real thing."""
    sound = programme(20, 1, 6) * np.float32(10.0)
    meter = Meter(1, careful_above=0.02)
    meter.push(sound)
    profile = meter.profile()
    foreseen = foresee(profile, [0], [], [0.0], 0.0, -1.0)
    after = Meter(1)
    after.push(limited(sound, -1.0))
    assert foreseen.most_limiting_db > 3
    assert foreseen.after == pytest.approx(integrated_loudness(after.profile().energy), abs=0.1)
    monkeypatch.setattr("airtrim.core.loudness.levelling._STRETCH_CELLS", 777)
    again = foresee(profile, [0], [], [0.0], 0.0, -1.0)
    assert again.after == pytest.approx(foreseen.after, abs=1e-6)
    assert again.most_limiting_db == pytest.approx(foreseen.most_limiting_db)


def test_no_true_peak_is_over_on_random_programmes_eight_times_oversampled() -> None:
    """Two hundred here, a thousand in ``bench/sound.py``; sound up to 20 kHz."""
    frames = RATE // 2
    hertz = np.fft.rfftfreq(frames, 1 / RATE)
    highest = 0.0
    for seed in range(200):
        rng = np.random.default_rng(seed)
        weight = (hertz < 20_000) / (1 + hertz / 200) ** rng.uniform(0, 1.2)
        sound = np.fft.irfft(np.fft.rfft(rng.standard_normal(frames)) * weight, frames)
        beat = np.abs(np.sin(2 * np.pi * rng.uniform(0.5, 8) * np.arange(frames) / RATE))
        sound *= beat ** rng.uniform(0, 3)
        sound *= 10 ** (rng.uniform(-3, 14) / 20) / np.abs(sound).max()
        out = limited(sound.astype(np.float32)[:, None], -1.0)
        fine = soxr.resample(out[:, 0].astype(np.float64), RATE, 8 * RATE, "VHQ")
        highest = max(highest, float(np.abs(fine[800:-800]).max()))
    assert 20 * np.log10(highest) <= -1.0
