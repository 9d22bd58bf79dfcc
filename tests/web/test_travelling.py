"""An episode goes to another machine and is opened there, by a host's hand."""

import zipfile
from pathlib import Path

from playwright.sync_api import Browser, Page, expect

from tests.serving import ForkedServer, Server
from tests.waiting import eventually
from tests.web.conftest import new_context


def test_an_episode_is_sent_as_a_file_and_opened_on_a_second_server(
    page: Page, browser: Browser, server: Server, tmp_path: Path
) -> None:
    page.goto("/episodes/1/release?step=files")
    elsewhere = page.get_by_test_id("elsewhere")
    elsewhere.get_by_role("button", name="Pack the episode").click()
    with page.expect_download() as downloaded:
        elsewhere.get_by_role("link", name="Download").click()
    assert downloaded.value.suggested_filename == "Slow Crossing - The six o’clock boat.airtrim.zip"
    file = tmp_path / "crossing.airtrim.zip"
    downloaded.value.save_as(file)
    second = ForkedServer(tmp_path / "there")
    try:
        context = new_context(browser, second.address)
        there = context.new_page()
        there.goto("/")
        there.get_by_label("Name of the show").fill("Elsewhere")
        there.keyboard.press("Enter")
        expect(there.get_by_role("button", name="Open a packed episode")).to_be_visible()
        there.get_by_test_id("open-pack").set_input_files(file)
        line = there.get_by_test_id("episode").filter(has_text="The six o’clock boat")
        expect(line).to_contain_text("4:29")
        line.get_by_role("link").click()
        expect(there.locator("[data-ready] [data-word]").first).to_be_visible()
        ours, theirs = server.episode(1), second.episode(1)
        assert theirs["sections"] == ours["sections"]
        assert theirs["tags"] == ours["tags"]
        # What is no packed episode is told, and leaves nothing on the shelf.
        there.goto("/")
        there.get_by_test_id("open-pack").set_input_files(
            {"name": "holiday.zip", "mimeType": "application/zip", "buffer": b"no zip"}
        )
        expect(there.get_by_text("That is no packed episode")).to_be_visible()
        expect(there.get_by_test_id("episode")).to_have_count(1)
        context.close()
    finally:
        second.stop()


def test_tracks_and_lists_are_downloaded(page: Page, tmp_path: Path) -> None:
    page.goto("/episodes/1/release?step=files")
    elsewhere = page.get_by_test_id("elsewhere")
    with page.expect_download() as downloaded:
        elsewhere.get_by_role("link", name="Chapters").click()
    downloaded.value.save_as(tmp_path / "chapters.vtt")
    assert "Marit on the pier" in (tmp_path / "chapters.vtt").read_text()
    elsewhere.get_by_role("button", name="Tracks, cut only").click()
    link = elsewhere.get_by_role("link", name="Download")
    expect(link).to_be_visible()
    with page.expect_download() as downloaded:
        link.click()
    downloaded.value.save_as(tmp_path / "tracks.zip")
    names = eventually(lambda: zipfile.ZipFile(tmp_path / "tracks.zip").namelist())
    assert names == ["01 Tobin.flac", "02 Marit.flac", "03 Music.flac", "04 Sounds.flac"]
