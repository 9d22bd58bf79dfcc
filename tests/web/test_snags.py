"""A host goes through the demo's snags by keyboard, then tidies, and exports."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.reference import RATE, decoded
from tests.serving import Server
from tests.waiting import eventually

EPISODE = "/episodes/1/edit"


def open_snags(page: Page) -> None:
    page.goto(EPISODE)
    expect(page.get_by_test_id("snags")).to_contain_text("to save")


def chosen(page: Page):
    return page.get_by_test_id("snag")


def to_first(page: Page, kind: str) -> None:
    """By key to the first snag of a kind after the playhead."""
    for _ in range(60):
        before = chosen(page).inner_text() if chosen(page).count() else ""
        page.keyboard.press("z")
        expect(chosen(page)).to_be_visible()
        expect(chosen(page)).not_to_have_text(before, use_inner_text=True)
        if chosen(page).locator("b").first.inner_text() == kind:
            return
    raise AssertionError(f"no {kind} was come to")


def snags(server: Server, kind: str) -> list[dict]:
    view = server.episode(1)
    found = server.client.get("/api/episodes/1/snags", params={"revision": view["revision"]})
    return [s for s in found.json()["snags"] if s["kind"] == kind]


def until(page: Page, server: Server, says: str) -> dict:
    """Until the last step of the history is that."""
    eventually(lambda: server.episode(1)["undo"] == says, page)
    return server.episode(1)


def test_snags_are_settled_by_keyboard_alone(page: Page, server: Server) -> None:
    open_snags(page)
    raw = server.episode(1)
    # Air: trimmed. The next snag is gone to by itself.
    to_first(page, "Long air")
    (air, *_) = snags(server, "air")
    page.keyboard.press("1")
    view = until(page, server, "Trimmed long air")
    assert raw["frames"] - view["frames"] == pytest.approx(air["saves"], abs=0.1 * RATE)
    # A repeat: the first attempt is chosen instead of the last.
    to_first(page, "Repeat")
    expect(chosen(page).get_by_role("listitem")).to_have_count(2)
    (repeat, *rest) = snags(server, "repeat")
    last = repeat["attempts"][-1]
    page.keyboard.press("2")
    view = until(page, server, "Cut a repeat")
    assert [s["id"] for s in snags(server, "repeat")] == [s["id"] for s in rest]
    splices = server.client.get(
        "/api/episodes/1/page",
        params={"revision": view["revision"], "start": 0, "frames": 60 * RATE},
    ).json()["splices"]
    assert splices[-1]["text"] == last["text"]
    # A filler: heard as it would be, then cut; the one after it is kept.
    to_first(page, "Filler")
    with page.expect_request(re.compile(r"/audio\?.*snag=filler")):
        page.keyboard.press("h")
    page.keyboard.press("Escape")
    page.keyboard.press("Shift+z")
    to_first(page, "Filler")
    fillers = snags(server, "filler")
    page.keyboard.press("1")
    until(page, server, "Cut a filler")
    assert len(snags(server, "filler")) == len(fillers) - 1
    to_first(page, "Filler")
    page.keyboard.press("0")
    until(page, server, "Kept a filler")
    kept = [s for s in snags(server, "filler") if s["kept"]]
    assert len(kept) == 1
    expect(page.get_by_role("button", name="Kept 1")).to_be_visible()
    # A breath: covered; nothing moves.
    before = server.episode(1)["frames"]
    to_first(page, "Breath")
    page.keyboard.press("1")
    view = until(page, server, "Covered a breath")
    assert view["frames"] == before
    # All of it is undone.
    for _ in range(5):
        page.keyboard.press("Control+z")
    eventually(lambda: server.episode(1)["revision"] == raw["revision"], page)
    assert server.episode(1)["frames"] == raw["frames"]


def test_all_of_a_kind_are_settled_after_a_look(page: Page, server: Server) -> None:
    open_snags(page)
    fillers = snags(server, "filler")
    page.get_by_role("button", name=re.compile("^Fillers")).click()
    page.get_by_role("button", name="Settle all").click()
    review = page.get_by_test_id("review")
    # The control and not the label: the row beside it plays what is looked at.
    review.locator("[data-part=control]").first.click()
    review.get_by_role("button", name=f"Cut these {len(fillers) - 1}").click()
    until(page, server, f"Cut {len(fillers) - 1} fillers")
    assert [s["id"] for s in snags(server, "filler")] == [fillers[0]["id"]]
    expect(page.get_by_role("button", name="Fillers 1")).to_be_visible()


def test_tidied_gently_undone_and_tidied_again_for_export(
    page: Page, server: Server, tmp_path
) -> None:
    view = server.episode(1)
    short = {"kind": "keep_only", "start": 0, "frames": 70 * RATE}
    server.client.post(
        "/api/episodes/1/edits", json={"revision": view["revision"], "edit": short}
    ).raise_for_status()
    open_snags(page)
    raw = server.episode(1)
    before = page.get_by_test_id("snags").get_by_role("status").first.inner_text()
    page.get_by_role("button", name="Tidy gently").click()
    dialog = page.get_by_role("dialog")
    lengths = dialog.get_by_test_id("lengths").inner_text()
    told = re.findall(r"(\d+):(\d+\.\d)", lengths)
    becomes = 60 * int(told[1][0]) + float(told[1][1])
    dialog.get_by_role("button", name="Tidy gently").click()
    view = until(page, server, "Tidied gently")
    assert view["frames"] / RATE == pytest.approx(becomes, abs=0.6)
    # Only what is written as finished sentences is left to the host.
    assert [one for one in snags(server, "repeat") if not one["text"].endswith(".")] == []
    page.get_by_role("button", name="Undo", exact=True).first.click()
    until(page, server, raw["undo"])
    expect(page.get_by_test_id("snags").get_by_role("status").first).to_have_text(before)
    page.get_by_role("button", name="Tidy closely").click()
    page.get_by_role("dialog").get_by_role("button", name="Tidy closely").click()
    view = until(page, server, "Tidied closely")
    page.get_by_role("link", name="Release", exact=True).click()
    page.get_by_role("button", name="3 Files").click()
    page.get_by_role("button", name="Make the file").click()
    expect(page.get_by_test_id("report")).to_be_visible()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Download").click()
    waiting.value.save_as(tmp_path / "export.mp3")
    sound = decoded(tmp_path / "export.mp3")
    assert len(sound) / RATE == pytest.approx(view["frames"] / RATE, abs=0.1)
    assert np.abs(sound).max() > 0.05


def test_what_counts_is_set_in_the_panel(page: Page, server: Server) -> None:
    open_snags(page)
    page.get_by_text("What counts as a snag").click()
    page.get_by_label("A filler of your own").fill("and...")
    page.keyboard.press("Enter")
    until(page, server, "Set what counts as a snag")
    expect(page.get_by_text("“and” at the start of a sentence")).to_be_visible()
    page.get_by_label("Air counts as long from").select_option("3")
    eventually(lambda: len(snags(server, "air")) <= 1, page)
    page.get_by_role("button", name="Take “and” off the list").click()
    expect(page.get_by_text("“and” at the start of a sentence")).to_have_count(0)
