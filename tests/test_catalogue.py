"""Finished files side by side: which stand out, what would mend them, and that it does."""

import json
from pathlib import Path

import numpy as np
import pytest
import soundfile

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.meter import measure
from airtrim.core.release.catalogue import Published, findings, usual_lufs
from airtrim.core.release.tags import own_tags, read_artwork
from airtrim.core.timeline.tags import Tags
from airtrim.services.batch.planning import Recipe, planned, sources_in, tags_in, write_table
from airtrim.services.batch.running import make
from tests.commands import airtrim
from tests.reference import RATE


def told(file: str, loudness_lufs: float | None, **tags: object) -> Published:
    given = {"title": file, "show": "Slow Crossing", "artist": "Marit", "episode": 1, **tags}
    return Published(
        file=file,
        seconds=60.0,
        channels=2,
        loudness_lufs=loudness_lufs,
        true_peak_dbtp=-1.0,
        tags=Tags.model_validate(given),
        artwork="",
    )


def test_what_is_far_from_the_median_stands_out_and_what_is_near_does_not() -> None:
    """The median of these five is −16 LUFS."""
    levels = (-16.0, -16.4, -15.2, -12.9, -19.5)
    files = [told(f"{n}.mp3", level, episode=n) for n, level in enumerate(levels, 1)]
    assert usual_lufs(files) == {2: -16.0}
    assert [(one.file, one.what, one.sentence) for one in findings(files)] == [
        ("4.mp3", "loudness", "3.1 LU louder than the show’s median."),
        ("5.mp3", "loudness", "3.5 LU softer than the show’s median."),
    ]


def test_a_table_gives_back_every_title_as_it_was(tmp_path: Path) -> None:
    """Also those that a spreadsheet would take for a formula."""
    titles = ("-5 degrees", "=1+1", "@home", "'tis the season", "A, “b” and c")
    write_table([told(f"{n}.mp3", -16.0, title=t) for n, t in enumerate(titles)], tmp_path / "t")
    assert [tags.title for tags in tags_in(tmp_path / "t").values()] == list(titles)


def test_mono_is_not_held_against_stereo() -> None:
    files = [told("a.mp3", -16.0), told("b.mp3", -16.0, episode=2)]
    mono = [told(f"m{n}.mp3", -19.0, episode=n).model_copy(update={"channels": 1}) for n in (3, 4)]
    assert findings([*files, *mono]) == []


def test_numbers_twice_missing_tags_silence_and_peaks_are_told() -> None:
    files = [
        told("a.mp3", -16.0, episode=7),
        told("b.mp3", -16.0, episode=7),
        told("c.mp3", -16.0, episode=7, season=2),
        told("d.mp3", None, episode=8),
        told("e.mp3", -16.0, episode=None, artist=""),
        told("f.mp3", -16.0, episode=9).model_copy(update={"true_peak_dbtp": 0.4}),
    ]
    found = {(one.file, one.what): one.sentence for one in findings(files)}
    assert set(found) == {
        *(("a.mp3", "number"), ("b.mp3", "number"), ("d.mp3", "loudness")),
        *(("e.mp3", "tags"), ("f.mp3", "peaks")),
    }
    assert found["a.mp3", "number"] == "Number 7 is also that of “b.mp3”."
    assert found["e.mp3", "tags"] == "Missing: artist, episode."


@pytest.fixture
def old(tmp_path: Path, demo: Path) -> Path:
    """Four finished episodes, of which the third is too soft and has no picture, and the fourth has
    the number of the second; and one that is no sound."""
    raw, folder = tmp_path / "raw", tmp_path / "old"
    raw.mkdir(), folder.mkdir()
    rng = np.random.default_rng(3)
    cover = demo / "cover.png"
    for number in (1, 2, 3, 4):
        time_s = np.arange(8 * RATE) / RATE
        sound = 0.2 * np.sin(2 * np.pi * 300 * time_s) * (0.6 + 0.4 * np.sin(9 * time_s))
        name = f"{number}_part.wav"
        soundfile.write(raw / name, sound + 1e-4 * rng.standard_normal(len(sound)), RATE)
        recipe = Recipe(
            transcripts=False,
            target_lufs=-24.0 if number == 3 else -19.0,
            artwork=None if number == 3 else cover,
        )
        tags = Tags(
            title=f"Crossing {number}",
            show="Slow Crossing",
            artist="Marit",
            episode=2 if number == 4 else number,
        )
        (item,) = planned([raw / name], folder, recipe, Tags(), {name: tags})
        make(item, recipe)
    (folder / "notes.txt").write_text("Not a sound.")
    return folder


def test_an_old_catalogue_is_looked_over_and_mended_in_one_batch(
    old: Path, tmp_path: Path, demo: Path
) -> None:
    table, new = tmp_path / "tags.csv", tmp_path / "new"
    first = airtrim("catalogue", str(old), "--table", str(table), "--json")
    assert first.returncode == 1
    assert "notes.txt" in first.stderr
    report = json.loads(first.stdout)
    assert {(one["file"], one["what"]) for one in report["findings"]} == {
        *(("3_part.mp3", "loudness"), ("3_part.mp3", "artwork")),
        *(("2_part.mp3", "number"), ("4_part.mp3", "number")),
    }
    (old / "notes.txt").unlink()
    table.write_text(
        table.read_text().replace("Marit,,2,", "Marit,,4,").replace("Marit,,4,", "Marit,,2,", 1)
    )
    mended = airtrim(
        *("batch", str(old), "-o", str(new), "--target", "-19", "--tags", str(table)),
        *("--artwork", str(demo / "cover.png"), "--no-transcripts", "--workers", "1"),
    )
    assert mended.returncode == 0, mended.stderr
    again = airtrim("catalogue", str(new))
    assert again.returncode == 0, again.stdout
    assert again.stdout == "4 files, 0 with something to mend.\n"
    assert measure(meter_file(new / "3_part.mp3")).integrated_lufs == pytest.approx(-19.0, abs=0.3)


def test_a_batch_keeps_what_files_say_of_themselves(old: Path, tmp_path: Path) -> None:
    recipe = Recipe(transcripts=False)
    new = tmp_path / "kept"
    new.mkdir()
    sources = [one for one in sources_in([old]) if one.name.startswith("2_")]
    (item,) = planned(sources, new, recipe, Tags(artist="Marit Holm"))
    assert item.tags.title == "Crossing 2"
    assert item.tags.artist == "Marit Holm", "what all are given goes before"
    make(item, recipe)
    assert read_artwork(item.output) == read_artwork(sources[0])
    assert own_tags(item.output).episode == 2


def test_the_picture_of_a_file_is_the_one_that_was_put_in(old: Path, demo: Path) -> None:
    assert read_artwork(old / "1_part.mp3") == (demo / "cover.png").read_bytes()
    assert read_artwork(old / "3_part.mp3") is None
