"""A long recording is parted where the host noted it, and each part becomes a file."""

import zipfile
from pathlib import Path

from playwright.sync_api import Page, expect

from airtrim.core.release.tags import read_tags
from tests.serving import RATE, Server
from tests.web.test_rundown import open_rundown, rows
from tests.web.test_tasks import Hand, edited, hand, told

__all__ = ["hand"]


def as_one(server: Server, seconds: int | None = None) -> dict:
    """The demo as one part, cut to its beginning where that is told."""
    edits = [{"kind": "set_sections", "sections": [{"at": 0, "name": "Whole"}]}]
    if seconds is not None:
        edits.insert(0, {"kind": "keep_only", "start": 0, "frames": seconds * RATE})
    for edit in edits:
        body = {"revision": server.episode(1)["revision"], "edit": edit}
        server.client.post("/api/episodes/1/edits", json=body).raise_for_status()
    return server.episode(1)


def go_to(page: Page, seconds: float) -> None:
    page.get_by_label("Position").fill(str(seconds))
    page.keyboard.press("Enter")


def test_it_is_parted_at_four_places_into_four_numbered_files(
    page: Page, hand: Hand, server: Server, tmp_path: Path
) -> None:
    before = as_one(server, 60)
    open_rundown(page)
    view = before
    for seconds in (0, 15, 30, 45):
        go_to(page, seconds)
        hand.key("k")
        view = edited(page, server, view["revision"])
    hand.click(page.get_by_role("button", name="Part at all 4"))
    view = edited(page, server, view["revision"])
    assert [s["at"] // RATE for s in view["sections"]] == [0, 15, 30, 45]
    assert view["frames"] == before["frames"]
    expect(rows(page)).to_have_count(4)
    parting = page.get_by_test_id("parting")
    hand.click(parting.get_by_role("button", name="Each part as a file"))
    link = parting.get_by_role("link", name="Download")
    expect(link).to_be_visible()
    assert hand.actions == told("part a recording at four places into four files")
    with page.expect_download() as downloaded:
        link.click()
    downloaded.value.save_as(tmp_path / "parts.zip")
    with zipfile.ZipFile(tmp_path / "parts.zip") as file:
        file.extractall(tmp_path / "parts")
    files = sorted((tmp_path / "parts").iterdir())
    assert [path.name for path in files] == [
        "01 Whole.mp3",
        "02 Whole, part 2.mp3",
        "03 Whole, part 3.mp3",
        "04 Whole, part 4.mp3",
    ]
    assert "(2 of 4)" in read_tags(files[1])["title"]
    # The source is whole.
    assert server.episode(1)["frames"] == before["frames"]


def test_places_are_proposed_moved_and_removed(page: Page, server: Server) -> None:
    view = as_one(server)
    open_rundown(page)
    parting = page.get_by_test_id("parting")
    parting.get_by_role("button", name="Propose places").click()
    view = edited(page, server, view["revision"])
    places = page.locator("[data-place]")
    count = len([m for m in view["markers"] if m["kind"] == "part"])
    assert count >= 3
    expect(places).to_have_count(count)
    places.first.get_by_label("Place to part at").fill("0:30")
    page.keyboard.press("Enter")
    view = edited(page, server, view["revision"])
    expect(page.locator(f"[data-place='{30 * RATE}']")).to_be_visible()
    places.last.get_by_role("button", name="Remove").click()
    edited(page, server, view["revision"])
    expect(places).to_have_count(count - 1)
    places.first.get_by_role("button", name="Listen from").click()
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
