"""Filters and compressor against the designs they are published as."""

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy import signal

from airtrim.core.sound.compressor import CompressorRun, curve_db
from airtrim.core.sound.filters import (
    HUM_Q,
    Filters,
    band_row,
    hum_rows,
    linear_rows,
    low_cut_rows,
    response_db,
)
from airtrim.core.timeline.chain import Band, Chain, Compressor, Hum, LowCut
from tests.reference import RATE

HERTZ = np.geomspace(25.0, 20_000.0, 200)


def heard_db(rows: NDArray[np.float64], blocks: int = 1000) -> NDArray[np.float64]:
    """What the kernel does to an impulse, streamed in blocks, at ``HERTZ``."""
    sound = np.zeros((4 * RATE, 1), np.float32)
    sound[0] = 1.0
    run = Filters(rows, 1)
    for at in range(0, len(sound), blocks):
        run.process(sound[at : at + blocks])
    _, response = signal.freqz(sound[:, 0].astype(np.float64), worN=HERTZ, fs=RATE)
    return np.asarray(20 * np.log10(np.maximum(np.abs(response), 1e-6)))


def prototype_db(band: Band) -> NDArray[np.float64]:
    """The analogue prototypes of the cookbook for shelves, peaks and notches (R. Bristow-Johnson,
    from memory), at the frequencies to which the bilinear transform brings them."""
    s = 1j * np.tan(np.pi * HERTZ / RATE) / np.tan(np.pi * band.hz / RATE)
    a, q = 10 ** (band.gain_db / 40), band.q
    if band.kind == "peak":
        h = (s**2 + s * a / q + 1) / (s**2 + s / (a * q) + 1)
    elif band.kind == "notch":
        h = (s**2 + 1) / (s**2 + s / q + 1)
    elif band.kind == "low_shelf":
        h = a * (s**2 + np.sqrt(a) / q * s + a) / (a * s**2 + np.sqrt(a) / q * s + 1)
    else:
        h = a * (a * s**2 + np.sqrt(a) / q * s + 1) / (s**2 + np.sqrt(a) / q * s + a)
    return np.asarray(20 * np.log10(np.maximum(np.abs(h), 1e-6)))


@pytest.mark.parametrize(
    "band",
    [
        Band("peak", 1000.0, 6.0, 1.0),
        Band("peak", 3800.0, -9.0, 4.0),
        Band("low_shelf", 120.0, 4.0, 0.7),
        Band("low_shelf", 200.0, -12.0, 0.7),
        Band("high_shelf", 6000.0, 3.0, 0.7),
        Band("high_shelf", 9000.0, -6.0, 0.5),
        Band("notch", 2300.0, q=30.0),
    ],
)
def test_a_band_is_the_published_one_within_a_tenth_of_a_decibel(band: Band) -> None:
    wanted = prototype_db(band)
    clear = wanted > -40  # in the middle of a notch it is a matter of rounding
    assert heard_db(band_row(band))[clear] == pytest.approx(wanted[clear], abs=0.1)


def test_the_low_cut_is_scipys_butterworth() -> None:
    sos = signal.butter(4, 80.0, "highpass", fs=RATE, output="sos")
    _, response = signal.sosfreqz(sos, HERTZ, fs=RATE)
    wanted = 20 * np.log10(np.abs(response))
    assert heard_db(low_cut_rows(LowCut(True, 80.0))) == pytest.approx(wanted, abs=0.1)


def test_hum_is_notched_as_narrowly_as_scipys_notch_on_every_harmonic() -> None:
    rows = hum_rows(Hum(True, 50.0, 4))
    wanted = np.zeros(len(HERTZ))
    for n in range(1, 5):
        b, a = signal.iirnotch(50.0 * n, HUM_Q * n, fs=RATE)
        _, response = signal.freqz(b, a, worN=HERTZ, fs=RATE)
        wanted += 20 * np.log10(np.abs(response))
    assert heard_db(rows) == pytest.approx(wanted, abs=0.1)


def test_the_drawn_curve_is_what_is_heard() -> None:
    chain = Chain(
        hum=Hum(True, 60.0, 3),
        low_cut=LowCut(True, 90.0),
        bands=(Band("peak", 400.0, -3.0, 1.0), Band("high_shelf", 7000.0, 2.0)),
    )
    rows = linear_rows(chain)
    drawn = response_db(rows, HERTZ)
    clear = drawn > -60
    assert heard_db(rows, 777)[clear] == pytest.approx(drawn[clear], abs=0.1)


# --- the compressor: Giannoulis, Massberg, Reiss 2012 ---


def settled_db(settings: Compressor, level_db: float) -> float:
    """Level that comes out of a sine, once attack and release are over."""
    time = np.arange(2 * RATE) / RATE
    sound = (10 ** (level_db / 20) * np.sin(2 * np.pi * 997 * time)).astype(np.float32)[:, None]
    CompressorRun(settings).process(sound)
    return float(20 * np.log10(np.abs(sound[RATE:]).max()))


@pytest.mark.parametrize("ratio", [1.5, 3.0, 10.0])
@pytest.mark.parametrize("knee", [0.0, 6.0, 18.0])
def test_the_static_curve_holds_within_a_tenth_of_a_decibel(ratio: float, knee: float) -> None:
    settings = Compressor(True, -20.0, ratio, knee, 5.0, 80.0)
    for level in (-40.0, -26.0, -22.0, -20.0, -17.0, -10.0, -3.0):
        over = level + 20.0
        # Equation 4 of the paper.
        if 2 * over < -knee:
            wanted = level
        elif knee and 2 * abs(over) <= knee:
            wanted = level + (1 / ratio - 1) * (over + knee / 2) ** 2 / (2 * knee)
        else:
            wanted = -20.0 + over / ratio
        assert float(curve_db(settings, np.array([level]))[0]) == pytest.approx(wanted, abs=1e-9)
        assert settled_db(settings, level) == pytest.approx(wanted, abs=0.1)


def crossing_ms(reduction: NDArray[np.float32], level: float, falling: bool) -> float:
    reached = reduction <= level if falling else reduction >= level
    return float(np.argmax(reached)) * 1000 / RATE


@pytest.mark.parametrize(("attack", "release"), [(5.0, 60.0), (20.0, 150.0), (80.0, 600.0)])
def test_attack_and_release_are_the_times_of_63_percent(attack: float, release: float) -> None:
    settings = Compressor(True, -30.0, 4.0, 0.0, attack, release)
    # A constant is at its level from the first sample, where a sine has to rise first.
    sound = np.full((6 * RATE, 1), 10 ** (-40 / 20), np.float32)
    sound[RATE : 3 * RATE] = 10 ** (-10 / 20)
    told = np.zeros(len(sound), np.float32)
    CompressorRun(settings).process(sound, told)
    full = -15.0
    assert told[3 * RATE - 1] == pytest.approx(full, abs=0.05)
    up = crossing_ms(told[RATE:], full * (1 - np.exp(-1)), falling=True)
    assert up == pytest.approx(attack, rel=0.1)
    # The level is held for 5 ms, which is not the release.
    down = crossing_ms(told[3 * RATE + 240 :], full * np.exp(-1), falling=False)
    assert down == pytest.approx(release, rel=0.1)


def test_both_channels_are_held_down_alike() -> None:
    sound = np.zeros((RATE, 2), np.float32)
    sound[:, 0] = 0.9
    sound[:, 1] = 0.01
    CompressorRun(Compressor(True, -20.0, 4.0)).process(sound)
    left, right = sound[-1] / np.array([0.9, 0.01])
    assert left == pytest.approx(right, rel=1e-4)
    assert left < 0.4
