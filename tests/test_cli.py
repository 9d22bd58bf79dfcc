"""The command line: what scripts read on standard output, and what people are told on error."""

import json
import subprocess
import sys
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest

from airtrim.standins.microphone import simulated
from tests.commands import airtrim
from tests.reference import RATE, decoded, ffmpeg_loudness, programme, write


def test_transcribe_gives_words_with_times_in_seconds(tmp_path: Path) -> None:
    raw = write(tmp_path / "talk.wav", simulated()[: 12 * RATE])
    done = airtrim("transcribe", str(raw), "--json")
    assert done.returncode == 0, done.stderr
    words = json.loads(done.stdout)["words"]
    assert len(words) > 15
    assert {"text", "start", "end", "kind", "confidence", "speaker"} == set(words[0])
    assert {word["speaker"] for word in words} == {"1"}
    assert all(0 <= word["start"] < word["end"] <= 12.0 for word in words)
    assert all(a["end"] <= b["start"] for a, b in pairwise(words))
    assert {word["kind"] for word in words} <= {"word", "filler"}
    assert all(0 <= word["confidence"] <= 1 for word in words)
    said = " ".join(word["text"] for word in words).lower()
    assert "island" in said


def test_transcribe_in_another_language() -> None:
    file = Path(__file__).parent / "spoken" / "spanish.flac"
    done = airtrim("transcribe", str(file), "--careful")
    assert done.returncode == 0, done.stderr
    assert "el barco sale" in done.stdout.lower()
    refused = airtrim("transcribe", str(file), "--language", "es")
    assert refused.returncode == 1
    assert "does not know the language “es”" in refused.stderr


def test_transcribe_without_speech_is_no_error(tmp_path: Path) -> None:
    raw = write(tmp_path / "hush.wav", programme(3, 1, 1) * 0)
    done = airtrim("transcribe", str(raw), "--json")
    assert done.returncode == 0
    assert json.loads(done.stdout) == {"words": []}


def test_measure_of_silence_has_no_loudness(tmp_path: Path) -> None:
    raw = write(tmp_path / "hush.wav", programme(3, 1, 1) * 0)
    found = json.loads(airtrim("measure", str(raw), "--json").stdout)
    assert found["duration_s"] == pytest.approx(3.0)
    assert found["integrated_lufs"] is None
    assert found["true_peak_dbtp"] is None


def test_measure_reads_as_a_list_without_json(tmp_path: Path) -> None:
    raw = write(tmp_path / "a.wav", programme(3, 1, 1))
    lines = airtrim("measure", str(raw)).stdout.splitlines()
    assert len(lines) == 7
    assert lines[0] == "duration_s: 3.0"


@pytest.mark.parametrize(("channels", "target"), [(1, -19.0), (2, -16.0)])
def test_produce_goes_by_the_channels_of_the_files(
    tmp_path: Path, channels: int, target: float
) -> None:
    raw = write(tmp_path / "raw.wav", programme(12, channels, 3))
    out = tmp_path / "out.mp3"
    done = airtrim("produce", str(raw), "-o", str(out), "--json")
    report = json.loads(done.stdout)
    assert report["target_lufs"] == target
    sound = decoded(out)
    assert sound.shape[1] == channels
    assert ffmpeg_loudness(sound)["integrated"] == pytest.approx(target, abs=0.2)


def test_produce_joins_files_and_tells_each_section_as_read_back(tmp_path: Path) -> None:
    loud = write(tmp_path / "one.wav", programme(10, 1, 1))
    faint = write(tmp_path / "two.flac", programme(10, 1, 2) * 0.2)
    out = tmp_path / "out.wav"
    arguments = ["produce", str(loud), str(faint), "-o", str(out), "--sections", "0,10"]
    report = json.loads(airtrim(*arguments, "--no-words", "--json").stdout)
    assert report["raw_s"] == pytest.approx(20.0)
    first, second = report["sections"]
    assert (first["start_s"], second["start_s"]) == (0.0, 10.0)
    assert second["gain_db"] > first["gain_db"]
    sound = decoded(out)
    for section, part in ((first, sound[: 10 * RATE]), (second, sound[10 * RATE :])):
        heard = ffmpeg_loudness(part)["integrated"]
        assert section["after_lufs"] == pytest.approx(heard, abs=0.15)
    assert first["after_lufs"] == pytest.approx(second["after_lufs"], abs=1.0)


def test_progress_goes_to_standard_error_only(tmp_path: Path) -> None:
    raw = write(tmp_path / "a.wav", programme(3, 1, 1))
    done = airtrim("measure", str(raw), "--json")
    assert "Measuring" in done.stderr
    json.loads(done.stdout)


def test_serve_on_another_address_asks_for_a_token(tmp_path: Path) -> None:
    done = airtrim("serve", "--host", "0.0.0.0", "--data", str(tmp_path))
    assert done.returncode == 1
    assert "needs a token" in done.stderr


def test_https_needs_certificate_and_key(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("AIRTRIM_TLS_CERTIFICATE", str(tmp_path / "none.pem"))
    done = airtrim("serve", "--data", str(tmp_path))
    assert done.returncode == 1
    assert "name both" in done.stderr


def test_the_demo_says_where_it_has_to_be_run(tmp_path: Path) -> None:
    command = [str(Path(sys.executable).parent / "airtrim"), "demo", "--fill-only"]
    done = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, timeout=60)
    assert done.returncode == 1
    assert "project’s folder" in done.stderr or "project's folder" in done.stderr


def test_the_description_of_the_api_is_up_to_date() -> None:
    """The interface's client is generated from it: ``make client``."""
    kept = Path(__file__).parent.parent / "web" / "openapi.json"
    assert json.loads(airtrim("openapi").stdout) == json.loads(kept.read_text())


@pytest.fixture(scope="module")
def bridge(tmp_path_factory: pytest.TempPathFactory, demo: Path) -> Path:
    """The first 26 s of the demo's bridge: a filler between two pauses, a breath, a false start and
    long air."""
    sound = decoded(demo / "sound" / "host-bridge.flac")[: 26 * RATE]
    return write(tmp_path_factory.mktemp("bridge") / "bridge.wav", sound)


def test_snags_of_a_file_in_seconds(bridge: Path, mistakes) -> None:
    done = airtrim("snags", str(bridge))
    assert done.returncode == 0, done.stderr
    found = json.loads(done.stdout)["snags"]
    assert {"kind", "start", "end", "text", "confidence"} == set(found[0])
    kinds = {"filler", "air", "repeat", "breath", "noise", "clipping", "level"}
    assert {snag["kind"] for snag in found} <= kinds
    planted = [m for m in mistakes["host-bridge"] if m["end"] < 26 and not m.get("joined")]
    assert {m["kind"] for m in planted} == {"filler", "breath", "repeat", "air"}
    for mistake in planted:
        near = [
            snag
            for snag in found
            if snag["kind"] == mistake["kind"]
            and snag["start"] < mistake["end"]
            and snag["end"] > mistake["start"]
        ]
        assert near, mistake


def test_produce_tidies(tmp_path: Path, bridge: Path) -> None:
    """Closely: the false start, the fillers and the long air are not in the file any more."""
    out = tmp_path / "out.wav"
    done = airtrim("produce", str(bridge), "-o", str(out), "--tidy", "close", "--json")
    report = json.loads(done.stdout)
    # On some machines the recogniser writes a filler before "I'm" as a second "I'm".
    assert report["tidied"]["repeat"] in (1, 2)
    assert report["tidied"]["filler"] >= 1
    kept_s = report["raw_s"] - report["trimmed_s"]
    assert len(decoded(out)) / RATE == pytest.approx(kept_s, abs=0.01)
    left = json.loads(airtrim("snags", str(out)).stdout)["snags"]
    assert not {snag["kind"] for snag in left} & {"repeat", "air"}
    refused = airtrim("produce", str(bridge), "-o", str(out), "--tidy", "close", "--no-words")
    assert refused.returncode == 1
    assert "needs the words" in refused.stderr


def noisy(folder: Path) -> Path:
    """A voice over hiss, the first two seconds of it hiss alone."""
    sound = simulated()[: 14 * RATE]
    rng = np.random.default_rng(2)
    sound = np.concatenate([np.zeros((2 * RATE, 1), np.float32), sound])
    return write(
        folder / "noisy.wav",
        (sound + 0.004 * rng.standard_normal(sound.shape)).astype(np.float32),
    )


def level_db(sound) -> float:
    return float(10 * np.log10(np.mean(np.square(sound)) + 1e-12))


def test_clean_lowers_the_room_by_what_it_says(tmp_path: Path) -> None:
    raw, out = noisy(tmp_path), tmp_path / "clean.wav"
    told = ("clean", str(raw), "-o", str(out), "--strength", "0.5", "--room-tone", "0.2-1.8")
    done = airtrim(*told, "--json")
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["lowered_db"] == 14.0
    before, after = decoded(raw), decoded(out)
    assert len(after) == len(before)
    hiss = slice(RATE // 4, RATE)
    assert level_db(after[hiss]) - level_db(before[hiss]) == pytest.approx(-13.5, abs=1.0)
    assert level_db(after) == pytest.approx(level_db(before), abs=0.5)


def test_clean_refuses_what_it_cannot_do(tmp_path: Path) -> None:
    raw = noisy(tmp_path)
    for told, sentence in (
        (("-o", str(tmp_path / "out.mp3")), "has to end in .wav"),
        (("-o", str(tmp_path / "out.wav"), "--room-tone", "1-1.2"), "half a second or more"),
        (("-o", str(tmp_path / "out.wav"), "--room-tone", "9-99"), "within the file"),
    ):
        refused = airtrim("clean", str(raw), *told)
        assert refused.returncode == 1
        assert sentence in " ".join(refused.stderr.split())
        assert not (tmp_path / "out.wav").exists()


def test_level_evens_out_phrases_and_sections_to_the_target(tmp_path: Path) -> None:
    sound = simulated()[: 20 * RATE].copy()
    sound[10 * RATE :] *= np.float32(10 ** (-11 / 20))
    raw, out = write(tmp_path / "raw.wav", sound), tmp_path / "even.wav"
    told = ("level", str(raw), "-o", str(out), "--target", "-20", "--sections", "0,10")
    done = airtrim(*told, "--json")
    assert done.returncode == 0, done.stderr
    report = json.loads(done.stdout)
    after = [section["after_lufs"] for section in report["sections"]]
    assert after[0] == pytest.approx(after[1], abs=0.5)
    assert ffmpeg_loudness(decoded(out))["integrated"] == pytest.approx(-20.0, abs=0.2)
    refused = airtrim("produce", str(raw), "-o", str(out), "--level", "--no-words")
    assert refused.returncode == 1
    assert "needs the words" in refused.stderr


def test_produce_cleans_and_levels_on_the_way(tmp_path: Path) -> None:
    raw, out = noisy(tmp_path), tmp_path / "out.wav"
    plain = tmp_path / "plain.wav"
    for path, more in ((plain, ()), (out, ("--clean", "0.8", "--level"))):
        done = airtrim("produce", str(raw), "-o", str(path), *more, "--json")
        assert done.returncode == 0, done.stderr
    hiss = slice(RATE // 2, RATE)
    lowered = level_db(decoded(out)[hiss]) - level_db(decoded(plain)[hiss])
    assert lowered < -15
    assert ffmpeg_loudness(decoded(out))["integrated"] == pytest.approx(-19.0, abs=0.2)
