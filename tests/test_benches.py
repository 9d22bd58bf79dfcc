"""Every bench runs: at a size that shows nothing but that."""

import importlib
from pathlib import Path

import bench.__main__ as benches
import pytest
from bench.packing import packing
from bench.releasing import releasing
from bench.trust import hostile


def no_ffmpeg(*arguments: str) -> str:
    """The command is installed by `make bench` alone; what it finds is not looked at here."""
    return "I: -24.0 LUFS"


PARTS = ["meter", "exporting", "importing", "recognising", "document"]


@pytest.mark.parametrize("part", PARTS)
def test_a_bench_runs(part: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(benches, "ffmpeg", no_ffmpeg)
    (tmp_path / "hour.flac").touch()
    monkeypatch.setattr(Path, "unlink", lambda path, missing_ok=True: None)
    rows = getattr(benches, part)(tmp_path, benches.SMALL)
    assert rows
    assert all(row.what and (row.found or row.ours) for row in rows)


def test_edits_and_first_sound_are_measured_on_what_memory_left(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(benches, "first_sound_ms", lambda data, episode: 1.0)
    assert [row.holds for row in benches.memory(tmp_path, benches.SMALL)] == [True, True]
    edits, _ = benches.editing(tmp_path, benches.SMALL)
    assert edits.ours.endswith(" ms")


def test_releasing_is_measured(tmp_path: Path) -> None:
    rows = releasing(tmp_path, seconds=12.0, hour_s=12.0, items=5, hand_overs=2, long=False)
    assert all(row.what and (row.found or row.ours) for row in rows)
    assert rows[-1].holds


def test_a_pack_is_measured_beside_a_zip(tmp_path: Path) -> None:
    rows = packing(tmp_path, 20.0)
    assert rows[1].holds
    assert all(row.ours for row in rows)


def test_mutated_files_run() -> None:
    """And none of them crashes; what they cost is told by the bench."""
    for rows in (hostile.media(24), hostile.transcripts(200)):
        assert rows[0].found == "0", rows[0]


@pytest.mark.parametrize(
    "name",
    [
        *(
            "cluster",
            "echo",
            "fillers",
            "host",
            "page",
            "recording",
            "recognisers",
            "sound",
            "speech",
        ),
        *("trust.kills", "voices"),
    ],
)
def test_what_a_bench_measures_is_still_there(name: str) -> None:
    """Those that take a browser or voices of their own are run by hand; their imports hold."""
    try:
        importlib.import_module(f"bench.{name}")
    except ModuleNotFoundError as error:
        if (error.name or "").startswith(("airtrim", "bench", "tests")):
            raise
        pytest.skip(f"{error.name} is installed by `make bench-{name}` alone")
