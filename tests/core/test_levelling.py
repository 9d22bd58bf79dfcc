"""Evening out, and the main job without a screen, measured by FFmpeg on the finished file."""

import json
from pathlib import Path

import numpy as np
import pytest
import soundfile

from airtrim.core.loudness.levelling import even_out
from airtrim.core.loudness.meter import Meter, Profile
from tests.commands import airtrim
from tests.reference import RATE, decoded, ffmpeg_loudness, programme, write


def profile_of(sound: np.ndarray) -> Profile:
    meter = Meter(sound.shape[1], careful_above=0.02)
    meter.push(sound)
    return meter.profile()


def test_sections_reach_the_target_and_so_does_the_whole() -> None:
    parts = [programme(20, 1, seed) * np.float32(g) for seed, g in ((1, 1.0), (2, 0.3), (3, 2.0))]
    profile = profile_of(np.concatenate(parts))
    starts = [0, 20 * RATE, 40 * RATE]
    ramps = [(s - 2000, s + 2000) for s in starts[1:]]
    plan = even_out(profile, starts, ramps, target_lufs=-19, ceiling_dbtp=-1)
    assert plan.sections_after == pytest.approx([-19, -19, -19], abs=0.3)
    assert plan.after == pytest.approx(-19, abs=0.02)


def test_a_target_deep_in_the_limiter_is_reached_all_the_same() -> None:
    """A few shouts above quiet talk: the limiter takes most of what the gain gives."""
    sound = programme(40, 1, 4)
    sound[8 * RATE : 10 * RATE] *= 10
    plan = even_out(profile_of(sound), [0], [], target_lufs=-19, ceiling_dbtp=-1)
    assert plan.most_limiting_db > 6
    assert plan.after == pytest.approx(-19, abs=0.02)


def test_no_section_is_moved_by_more_than_20_db() -> None:
    quiet = programme(20, 1, 1) * np.float32(0.004)
    profile = profile_of(np.concatenate([programme(20, 1, 2), quiet]))
    plan = even_out(profile, [0, 20 * RATE], [(958_000, 962_000)], target_lufs=-16, ceiling_dbtp=-1)
    assert max(map(abs, plan.section_gains_db)) == 20.0
    assert plan.after == pytest.approx(-16, abs=0.1)


def test_a_recording_that_is_faint_throughout_still_comes_out_even() -> None:
    parts = [programme(20, 1, 1) * np.float32(0.02), programme(20, 1, 1) * np.float32(0.006)]
    profile = profile_of(np.concatenate(parts))
    plan = even_out(profile, [0, 20 * RATE], [(958_000, 962_000)], target_lufs=-16, ceiling_dbtp=-1)
    assert plan.sections_after == pytest.approx([-16, -16], abs=0.3)


def test_silence_keeps_its_gain() -> None:
    profile = profile_of(np.zeros((5 * RATE, 1), np.float32))
    plan = even_out(profile, [0], [], target_lufs=-16, ceiling_dbtp=-1)
    assert plan.section_gains_db == (0.0,)
    assert plan.gain_db == 0.0
    assert plan.after is None


def test_produce_evens_out_sections_11_db_apart(tmp_path: Path, demo: Path) -> None:
    """Speech, then the same kind of speech 11 dB lower: within 1 LU, on target, tagged, cut."""
    loud, rate = soundfile.read(demo / "sound" / "host-bridge.flac", dtype="float32")
    loud = loud[: 30 * rate]
    raw = write(tmp_path / "raw.wav", np.concatenate([loud, loud * 10 ** (-11 / 20)]), rate)
    out = tmp_path / "out.mp3"
    done = airtrim(
        *("produce", str(raw), "-o", str(out), "--sections", "0,30", "--target", "-16"),
        *("--cut", "10.0-11.5", "--title", "Half the talk", "--show", "Slow Crossing"),
        *("--artist", "Tobin Hallam", "--episode", "8", "--artwork", str(demo / "cover.png")),
        "--json",
    )
    assert done.returncode == 0, done.stderr
    report = json.loads(done.stdout)
    assert report["tags"]["title"] == "Half the talk"
    assert report["tags"]["artwork"] == "1500 × 1500"
    assert report["trimmed_s"] == pytest.approx(1.5, abs=0.07)
    sound = decoded(out)
    assert len(sound) / RATE == pytest.approx(60 - report["trimmed_s"], abs=0.1)
    boundary = round((30 - report["trimmed_s"]) * RATE)
    first = ffmpeg_loudness(sound[: boundary - RATE])["integrated"]
    second = ffmpeg_loudness(sound[boundary + RATE :])["integrated"]
    whole = ffmpeg_loudness(sound)
    assert first == pytest.approx(second, abs=1.0)
    assert whole["integrated"] == pytest.approx(-16.0, abs=0.2)
    assert whole["true_peak"] <= -0.9


def test_measure_prints_the_figures_ffmpeg_finds(tmp_path: Path) -> None:
    sound = programme(15, 2, 5)
    done = airtrim("measure", str(write(tmp_path / "a.wav", sound, subtype="FLOAT")), "--json")
    figures = json.loads(done.stdout)
    assert set(figures) == {
        "duration_s",
        "integrated_lufs",
        "loudness_range_lu",
        "max_momentary_lufs",
        "max_short_term_lufs",
        "true_peak_dbtp",
        "sample_peak_dbfs",
    }
    assert figures["integrated_lufs"] == pytest.approx(
        ffmpeg_loudness(sound)["integrated"], abs=0.1
    )
    assert figures["duration_s"] == pytest.approx(15.0)


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["measure", "missing.wav"], "not there"),
        (["produce", __file__, "-o", "x.mp3"], "not a sound file"),
        (["produce", "{raw}", "-o", "x.xyz"], "has to end in"),
        (["produce", "{raw}", "-o", "x.mp3", "--cut", "5"], "START-END"),
        (["produce", "{raw}", "-o", "x.mp3", "--cut", "0-900"], "past the end"),
        (["produce", "{raw}", "-o", "x.mp3", "--sections", "0,a"], "list of seconds"),
        (["produce", "{raw}", "-o", "x.mp3", "--kbits", "500"], "MP3 is offered at 64"),
    ],
)
def test_bad_input_on_the_command_line_gets_a_sentence(
    tmp_path: Path, arguments: list[str], words: str
) -> None:
    raw = write(tmp_path / "raw.wav", programme(2, 1, 1))
    done = airtrim(*[a.replace("{raw}", str(raw)) for a in arguments])
    assert done.returncode == 1
    assert words in " ".join(done.stderr.split())
    assert "Traceback" not in done.stderr
    assert not Path("x.mp3").exists()
