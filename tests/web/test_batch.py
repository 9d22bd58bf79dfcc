"""Batch on the shelf, as a host works with it."""

import csv
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.meter import measure
from tests.serving import Server
from tests.waiting import eventually
from tests.web.test_setups import beginning


@pytest.mark.timeout(2400)  # it gives way to all else that a busy machine does
def test_episodes_and_files_go_through_one_recipe(
    page: Page, server: Server, tmp_path: Path
) -> None:
    """One that is there, a file that becomes one, and one that is no sound."""
    talk = beginning("host-opening", 12, tmp_path).rename(tmp_path / "012_the_ramp.flac")
    broken = tmp_path / "notes.mp3"
    broken.write_bytes(b"These are no sounds." * 50)
    before = server.episode(1)
    page.goto("/")
    page.get_by_role("link", name="Batch").click()
    start = page.get_by_role("button", name="Choose some")
    expect(start).to_be_disabled()
    page.get_by_label("The six o’clock boat").check(force=True)
    page.get_by_test_id("batch-files").set_input_files([talk, broken])
    expect(page.get_by_test_id("file-to-make")).to_have_count(2)
    page.get_by_label("Slips and fillers").select_option("close")
    page.get_by_label("Loudness, of every part and of the whole").select_option("-19")
    page.get_by_role("button", name="Make 3 episodes").click()

    batch = page.get_by_test_id("batch")
    expect(batch.get_by_role("heading")).to_contain_text("2 made, 1 failed", timeout=2_000_000)
    entries = batch.get_by_test_id("batch-entry")
    expect(entries).to_have_count(3)
    refused = entries.filter(has_text="notes")
    expect(refused).to_contain_text("is not a sound file")
    for title in ("The six o’clock boat", "the ramp"):
        entry = entries.filter(has_text=title)
        expect(entry).to_contain_text("−19.0 LUFS")
        expect(entry.get_by_role("img")).to_be_visible()
        with page.expect_download() as download:
            entry.get_by_role("link", name="Download").click()
        file = tmp_path / download.value.suggested_filename
        download.value.save_as(file)
        assert measure(meter_file(file)).integrated_lufs == pytest.approx(-19.0, abs=0.3)
    with page.expect_download() as download:
        batch.get_by_role("link", name="As a table").click()
    with Path(download.value.path()).open(newline="") as table:
        states = {row["source"]: row["state"] for row in csv.DictReader(table)}
    assert states == {
        "The six o’clock boat": "made",
        "the ramp": "made",
        "notes": "failed",
    }

    # In its episode each change is undone by itself.
    after = server.episode(1)
    assert after["trimmed"] > before["trimmed"]
    entries.filter(has_text="The six o’clock boat").get_by_role("link").first.click()
    for _ in range(5):
        if server.episode(1)["frames"] == before["frames"]:
            break
        revision = server.episode(1)["revision"]
        page.get_by_role("button", name="Undo", exact=True).click()
        eventually(lambda now=revision: server.episode(1)["revision"] != now, page)  # type: ignore[misc]
    assert server.episode(1)["frames"] == before["frames"]


def test_what_is_left_of_a_batch_is_cancelled(page: Page, server: Server) -> None:
    page.goto("/")
    page.get_by_role("link", name="Batch").click()
    page.get_by_label("All episodes of this show").check(force=True)
    page.get_by_role("button", name="Make 1 episode").click()
    batch = page.get_by_test_id("batch")
    batch.get_by_role("button", name="Cancel what is left").click()
    expect(batch.get_by_role("heading")).to_contain_text("1 cancelled")
    expect(batch.get_by_role("button", name="Make it after all")).to_be_visible()
