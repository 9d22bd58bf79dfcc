"""Many files through one recipe: what is made, left, refused, set aside, and told of it."""

import csv
import json
import os
import signal
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.meter import measure
from airtrim.core.release.tags import read_tags
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.setup import Setup
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput
from airtrim.services.batch.planning import Item, Recipe, planned, sources_in, tags_in
from airtrim.services.batch.report import Entry, made_before
from airtrim.services.batch.running import estimated, run_batch
from airtrim.store.store import Store
from tests.commands import airtrim
from tests.reference import RATE

PLAIN = Recipe(transcripts=False)


@pytest.fixture
def talks(tmp_path: Path) -> Path:
    """Three files of different loudness, one that holds no sound, and one that is hidden."""
    folder = tmp_path / "talks"
    folder.mkdir()
    rng = np.random.default_rng(1)
    for number, gain in enumerate((0.3, 0.05, 0.01), 1):
        time_s = np.arange(6 * RATE) / RATE
        sound = gain * np.sin(2 * np.pi * 300 * time_s) * (0.6 + 0.4 * np.sin(9 * time_s))
        sound += 1e-4 * rng.standard_normal(len(sound))
        soundfile.write(folder / f"{number:02}_part_{number}.wav", sound, RATE)
    (folder / "notes.txt").write_text("Not a sound.")
    (folder / ".hidden.wav").write_bytes(b"")
    return folder


def plan(talks: Path, out: Path, recipe: Recipe = PLAIN, **tags: Tags) -> list[Item]:
    out.mkdir(exist_ok=True)
    return planned(sources_in([talks]), out, recipe, Tags(show="Slow Crossing"), tags)


def states(entries: list[Entry]) -> dict[str, str]:
    return {Path(entry.source).name: entry.state for entry in entries}


def test_a_folder_becomes_finished_files_with_a_report(talks: Path, tmp_path: Path) -> None:
    """From the command line: all at one loudness, tags by table and name, one bad file told."""
    out, table = tmp_path / "out", tmp_path / "tags.csv"
    table.write_text("file,title,episode\n02_part_2.wav,The second,\n")
    told = ("batch", str(talks), "-o", str(out), "--target", "-19", "--tags", str(table))
    options = ("--no-transcripts", "--show", "Slow Crossing", "--workers", "2", "--json")
    first = airtrim(*told, *options)
    assert first.returncode == 1, first.stderr
    assert json.loads(first.stdout) == {
        "made": 3,
        "failed": 1,
        "report": str(out / "report.html"),
    }
    assert "notes.txt" in first.stderr
    for number in (1, 2, 3):
        made = out / f"{number:02}_part_{number}.mp3"
        found = measure(meter_file(made)).integrated_lufs
        assert found == pytest.approx(-19.0, abs=0.3)
    labels = [read_tags(out / f"{n:02}_part_{n}.mp3") for n in (1, 2)]
    assert (labels[0]["title"], labels[0]["episode"]) == ("part 1", "1")
    assert labels[1]["title"] == "The second"
    assert {label["show"] for label in labels} == {"Slow Crossing"}
    with (out / "report.csv").open(newline="") as file:
        rows = list(csv.DictReader(file))
    assert [row["state"] for row in rows] == ["made", "made", "made", "failed"]
    page = (out / "report.html").read_text()
    assert page.count("<polyline") == 3
    assert "notes.txt" in page
    # Again: nothing is made anew.
    before = {path: path.stat().st_mtime_ns for path in out.glob("*.mp3")}
    again = airtrim(*told, *options)
    assert json.loads(again.stdout)["as before"] == 3
    assert {path: path.stat().st_mtime_ns for path in out.glob("*.mp3")} == before


def test_what_is_new_changed_or_gone_is_made_again_and_no_more(talks: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    (talks / "notes.txt").unlink()
    assert set(states(run_batch(plan(talks, out), PLAIN, out, workers=1)).values()) == {"made"}
    (talks / "04_new.wav").write_bytes((talks / "01_part_1.wav").read_bytes())
    (out / "02_part_2.mp3").unlink()
    tagged = plan(talks, out, **{"03_part_3.wav": Tags(title="Another")})
    left = estimated(tagged, PLAIN, out, 2)
    assert left.files == 3
    assert left.sound_s == pytest.approx(18.0)
    assert 0 < left.work_s < 60
    found = states(run_batch(tagged, PLAIN, out, workers=2))
    assert found == {
        "01_part_1.wav": "as before",
        "02_part_2.wav": "made",
        "03_part_3.wav": "made",
        "04_new.wav": "made",
    }
    louder = Recipe(transcripts=False, target_lufs=-14.0)
    assert set(states(run_batch(tagged, louder, out, workers=2)).values()) == {"made"}


def sometimes(item: Item, recipe: Recipe) -> dict[str, Any]:
    """A worker that is ended by one file, each time, and works slowly."""
    if "part_2" in item.source.name:
        os.kill(os.getpid(), signal.SIGKILL)
    time.sleep(0.3)
    if "part_3" in item.source.name:
        raise ValueError("out of order")
    item.output.write_bytes(b"made")
    measured = {"integrated_lufs": -16.0, "true_peak_dbtp": -1.0}
    sizes = {"bytes": 4, "raw_s": 6.0, "trimmed_s": 0.0}
    told = {"loudness_lufs": (), "warnings": (), "not_levelled": ""}
    return {"measured": measured, **told, **sizes}


def test_a_file_that_ends_its_worker_is_set_aside_and_takes_nobody_along(
    talks: Path, tmp_path: Path
) -> None:
    out = tmp_path / "out"
    told: list[tuple[str, float, float | None]] = []
    entries = run_batch(
        plan(talks, out),
        PLAIN,
        out,
        workers=2,
        told=lambda entry, done, left: told.append((entry.state, done, left)),
        make=sometimes,
    )
    assert states(entries) == {
        "01_part_1.wav": "made",
        "02_part_2.wav": "set aside",
        "03_part_3.wav": "failed",
        "notes.txt": "failed",
    }
    assert "inside Air Trim (ValueError)" in entries[2].sentence
    assert [done for _, done, _ in told] == sorted(done for _, done, _ in told)
    assert told[-1][1] == pytest.approx(1.0)
    assert told[-1][2] == pytest.approx(0.0)


def ended(item: Item, recipe: Recipe) -> dict[str, Any]:
    """As when the whole batch is ended while it works on the second file."""
    if "part_2" in item.source.name:
        raise KeyboardInterrupt
    return sometimes(item, recipe)


def test_a_batch_that_ended_early_has_noted_what_was_made(talks: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    items = plan(talks, out)[:2]
    with pytest.raises(KeyboardInterrupt):
        run_batch(items, PLAIN, out, workers=1, make=ended)
    assert states(list(made_before(out).values())) == {"01_part_1.wav": "made"}
    found = states(run_batch(items, PLAIN, out, workers=1))
    assert found == {"01_part_1.wav": "as before", "02_part_2.wav": "made"}


def test_what_cannot_be_planned_is_a_sentence(talks: Path, tmp_path: Path) -> None:
    table = tmp_path / "tags.csv"
    for text, said in (
        ("file,colour\n01_part_1.wav,red\n", "colour"),
        ("file,episode\n01_part_1.wav,first\n", "line 2, episode"),
        ("title\nFirst\n", "column “file”"),
        ("file,title\n01_part_1.wav,One,Two\n", "line 2"),
        ("\xff\xfe", "cannot be read|column"),
    ):
        table.write_bytes(text.encode("latin-1"))
        with pytest.raises(BadInput, match=said):
            tags_in(table)
    with pytest.raises(BadInput, match="nowhere"):
        plan(talks, tmp_path / "out", **{"nowhere.wav": Tags(title="x")})
    (talks / "01_part_1.flac").write_bytes(b"")
    with pytest.raises(BadInput, match="another name"):
        plan(talks, tmp_path / "out")
    with pytest.raises(BadInput, match="not there"):
        sources_in([tmp_path / "missing"])


def test_a_dry_run_makes_nothing_and_tells_how_long(talks: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    found = airtrim("batch", str(talks), "-o", str(out), "--dry-run", "--json")
    assert found.returncode == 0, found.stderr
    told = json.loads(found.stdout)
    assert (told["files"], told["to_make"], told["sound_minutes"]) == (4, 3, 0.3)
    assert told["about_minutes"] >= 0
    assert list(told["refused"]) == ["notes.txt"]
    assert not out.exists()


@pytest.mark.parametrize(
    ("option", "said"),
    [(("--target", "-50"), "target_lufs"), (("--to", "aiff"), "no format")],
)
def test_an_option_out_of_range_is_a_sentence(
    talks: Path, tmp_path: Path, option: tuple[str, str], said: str
) -> None:
    found = airtrim("batch", str(talks), "-o", str(tmp_path / "out"), *option)
    assert found.returncode == 1
    assert said in found.stderr
    assert "Traceback" not in found.stderr


def test_files_become_episodes_of_a_show_and_those_are_made_again(
    talks: Path, tmp_path: Path
) -> None:
    """With --in: begun from a setup, each step an edit; a second run makes what was changed."""
    data, out = tmp_path / "data", tmp_path / "out"
    store = Store(data)
    show = store.add_show("Slow Crossing").id or 0
    store.keep_setup(show, "Weekly", Setup(tags=Tags(show="Slow Crossing", artist="The crew")))
    told = ("--in", "Slow Crossing", "--data", str(data), "--no-transcripts", "--json")
    first = airtrim("batch", str(talks), "-o", str(out), *told, "--setup", "Weekly", "--level")
    assert first.returncode == 1, "notes.txt is no sound"
    assert json.loads(first.stdout)["made"] == 3
    assert "notes.txt: " in first.stderr
    (_, episodes), *_ = store.shows()
    assert sorted(one.title for one in episodes) == ["part 1", "part 2", "part 3"], "none for it"
    again = airtrim("batch", str(talks), "-o", str(out), *told, "--setup", "Weekly", "--level")
    assert json.loads(again.stdout)["as before"] == 3
    # The same episodes, another recipe: a file each, and made again once one was edited.
    files = tmp_path / "files"
    options = ("batch", "-o", str(files), *told, "--target", "-20", "--to", "wav")
    plan_of = json.loads(airtrim(*options, "--dry-run").stdout)
    assert (plan_of["files"], plan_of["to_make"], plan_of["sound_minutes"]) == (3, 3, 0.3)
    assert not files.exists()
    found = airtrim(*options)
    assert found.returncode == 0, found.stderr
    made = sorted(files.glob("*.wav"))
    assert len(made) == 3
    for file in made:
        assert measure(meter_file(file)).integrated_lufs == pytest.approx(-20.0, abs=0.3)
    episode = min(one.id or 0 for one in episodes)
    store.edit(episode, None, SetTags(tags=Tags(title="Another"), artwork=None))
    counts = json.loads(airtrim(*options).stdout)
    assert (counts["as before"], counts["made"]) == (2, 1)
    rows = json.loads((files / "report.json").read_text())["files"]
    assert all((files / row["output"]).stat().st_size == row["bytes"] for row in rows)
    store.close()


@pytest.mark.parametrize(
    ("options", "said"),
    [
        (("--in", "Nowhere"), "no one show “Nowhere”; there are “Slow Crossing”"),
        (("--in", "Slow Crossing", "--setup", "None"), "no setup “None”; it has none"),
        (("--in", "Slow Crossing", "--artist", "Me"), "--artist is for files that stay files"),
        (("--setup", "Weekly"), "belongs to a show"),
        ((), "Name files or folders"),
    ],
)
def test_what_cannot_be_made_of_a_show_is_a_sentence(
    tmp_path: Path, options: tuple[str, ...], said: str
) -> None:
    store = Store(tmp_path / "data")
    store.add_show("Slow Crossing")
    store.close()
    out = ("-o", str(tmp_path / "out"), "--data", str(tmp_path / "data"))
    found = airtrim("batch", *out, *options)
    assert found.returncode == 1
    assert said in " ".join(found.stderr.split())
    assert "Traceback" not in found.stderr
