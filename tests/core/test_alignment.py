"""Two machines' recordings brought into time, held against what their made-up clocks really did.

Sound cards differ by up to 100 ppm (common practice); readings err by some milliseconds, as a
message between threads of a browser does (measured here: under 5 ms).
"""

import numpy as np
import pytest
from scipy.signal import correlate

from airtrim.core.media.alignment import (
    Reading,
    Run,
    follow,
    holes,
    placed,
    plan,
    runs_of,
)
from tests.reference import RATE, Sound

PIECE = 12_032
HOUR_S = 3600.0


def readings(
    seconds: float,
    *,
    begin_s: float = 1000.0,
    ppm: float = 0.0,
    jitter_s: float = 0.004,
    run: int = 0,
    first_frame: int = 0,
    seed: int = 1,
) -> list[Reading]:
    """What a browser tells whose sound card runs ``ppm`` fast, some of it very late."""
    rng = np.random.default_rng(seed)
    rate = RATE * (1 + ppm * 1e-6)
    frames = np.arange(0, int(seconds * rate), PIECE)
    late = rng.uniform(0, jitter_s, len(frames))
    late[rng.random(len(frames)) < 0.02] += 0.3
    return [
        Reading(first_frame + int(f), begin_s + f / rate + lag, run)
        for f, lag in zip(frames, late, strict=True)
    ]


def true_frame(moment_s: float, begin_s: float, ppm: float) -> float:
    return (moment_s - begin_s) * RATE * (1 + ppm * 1e-6)


@pytest.mark.parametrize(("host_ppm", "guest_ppm"), [(0, 0), (40, -60), (-100, 100)])
def test_after_an_hour_tracks_line_up_within_20_ms(host_ppm: float, guest_ppm: float) -> None:
    frames = int(HOUR_S * RATE)
    host = runs_of(readings(HOUR_S, ppm=host_ppm), frames)
    more = readings(HOUR_S + 5, begin_s=998.7, ppm=guest_ppm, seed=2)
    guest = runs_of(more, int((HOUR_S + 5) * RATE))
    stretches = plan(host, guest)
    worst = 0.0
    for moment in np.linspace(1000.5, 1000 + HOUR_S - 1, 50):
        at_guest = round(true_frame(moment, 998.7, guest_ppm))
        found = placed(stretches, at_guest)
        assert found is not None
        worst = max(worst, abs(found - true_frame(moment, 1000.0, host_ppm)) / RATE)
    assert worst < 0.020


def test_two_microphones_stay_within_10_ms_for_an_hour_by_their_rates_alone() -> None:
    (run,) = runs_of(readings(HOUR_S, ppm=80, jitter_s=0.004), int(HOUR_S * RATE))
    drift_s = abs(run.rate / (RATE * (1 + 80e-6)) - 1) * HOUR_S
    assert drift_s < 0.010


def test_a_pause_of_the_hosts_is_left_out_and_the_rest_stays_in_time() -> None:
    """The host speaks ten seconds, pauses seven, speaks ten; the guest is recorded throughout."""
    first = readings(10, begin_s=50.0, jitter_s=0.002)
    second = readings(10, begin_s=67.0, jitter_s=0.002, run=1, first_frame=10 * RATE, seed=3)
    host = runs_of(first + second, 20 * RATE)
    guest = runs_of(readings(40, begin_s=45.0, jitter_s=0.002, seed=4), 40 * RATE)
    stretches = plan(host, guest)
    assert [s.at for s in stretches] == pytest.approx([0, 10 * RATE], abs=0.003 * RATE)
    assert [s.source for s in stretches] == pytest.approx([5 * RATE, 22 * RATE], abs=0.003 * RATE)
    assert placed(stretches, 18 * RATE) is None  # the guest in the host's pause
    assert holes(stretches, 20 * RATE) == []


def test_where_the_guest_was_not_there_a_hole_is_told() -> None:
    host = (Run(0, 20 * RATE, 100.0, RATE),)
    guest = (Run(0, 5 * RATE, 103.0, RATE), Run(5 * RATE, 4 * RATE, 112.0, RATE))
    stretches = plan(host, guest)
    assert holes(stretches, 20 * RATE) == [
        (0, 3 * RATE),
        (8 * RATE, 4 * RATE),
        (16 * RATE, 4 * RATE),
    ]
    assert plan((), guest) == ()
    assert runs_of([], 100) == ()


def noise(seconds: float, seed: int) -> Sound:
    sound = np.random.default_rng(seed).standard_normal(int(seconds * RATE)) * 0.1
    return np.convolve(sound, np.ones(8) / 8, "same").astype(np.float32)[:, None]


def joined(stretches, frames: int, sound: Sound) -> Sound:
    return np.concatenate(list(follow(stretches, frames, lambda at, n: sound[at : at + n])))


def test_clocks_that_agree_pass_every_sample_on_as_it_is() -> None:
    sound = noise(9, 1)
    stretches = plan((Run(0, 6 * RATE, 10.0, RATE),), (Run(0, 9 * RATE, 8.5, RATE),))
    out = joined(stretches, 6 * RATE, sound)
    assert np.array_equal(out, sound[round(1.5 * RATE) :][: 6 * RATE])


def test_clocks_that_differ_are_resampled_in_time_and_without_loss() -> None:
    """One sound heard by two cards 300 ppm apart, for ten minutes: 180 ms at the end, undone."""
    seconds, ppm = 600, 300e-6
    time = np.arange(int(seconds * RATE * (1 + ppm))) / (RATE * (1 + ppm))
    tone = (0.2 * np.sin(2 * np.pi * (200 + 3 * time) * time)).astype(np.float32)[:, None]
    host = (Run(0, seconds * RATE, 0.0, RATE),)
    guest = (Run(0, len(tone), 0.0, RATE * (1 + ppm)),)
    out = joined(plan(host, guest), seconds * RATE, tone)
    assert out.shape == (seconds * RATE, 1)
    real = np.arange(seconds * RATE) / RATE
    wanted = 0.2 * np.sin(2 * np.pi * (200 + 3 * real) * real)
    for at in (RATE, 300 * RATE, 598 * RATE):
        part, like = out[at : at + RATE, 0], wanted[at : at + RATE]
        lag = int(np.argmax(correlate(part, like, "full"))) - (RATE - 1)
        assert abs(lag) <= 1
        error = np.sqrt(np.mean((part - like) ** 2)) / np.sqrt(np.mean(like**2))
        assert 20 * np.log10(error) < -60


def test_a_clock_that_is_told_wildly_wrong_is_held_within_bounds() -> None:
    wrong = [Reading(i * PIECE, i * PIECE / RATE * 1.01, 0) for i in range(600)]
    (run,) = runs_of(wrong, 600 * PIECE)
    assert abs(run.rate / RATE - 1) <= 500.1e-6


def test_sound_that_was_lost_breaks_a_run_and_a_late_message_does_not() -> None:
    """A card that gave nothing for 80 ms after ten seconds; and one reading a second late."""
    told = readings(20, jitter_s=0.002)
    told = [r if r.frame < 10 * RATE else Reading(r.frame, r.at_s + 0.08, 0) for r in told]
    told[5] = Reading(told[5].frame, told[5].at_s + 1.0, 0)
    runs = runs_of(told, 20 * RATE)
    assert len(runs) == 2
    assert runs[1].start == pytest.approx(10 * RATE, abs=PIECE)
    steady = (Run(0, 21 * RATE, 1000.0, RATE),)
    stretches = plan(steady, runs)
    lost = sum(frames for _, frames in holes(stretches, 20 * RATE))
    assert lost == pytest.approx(0.08 * RATE, abs=0.005 * RATE)


def test_sound_that_came_in_a_rush_overlaps_nothing_and_stays_in_time() -> None:
    host = (Run(0, 20 * RATE, 100.0, RATE),)
    guest = (Run(0, 10 * RATE, 100.0, RATE), Run(10 * RATE, 10 * RATE, 109.95, RATE))
    first, second = plan(host, guest)
    assert second.at == first.at + first.frames == 10 * RATE
    assert second.source == 10 * RATE + round(0.05 * RATE)
