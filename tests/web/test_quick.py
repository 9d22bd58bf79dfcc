"""Quick hands: edits made before the last answer has come, keys before a dialog has the focus."""

import random

import pytest
from playwright.sync_api import Page, expect

from tests.serving import RATE, Server
from tests.waiting import eventually
from tests.web.quick import answer_late, cut_two
from tests.web.test_tasks import edited, go_to, open_edit, word


@pytest.mark.parametrize("seed", [1, 2])
def test_quick_cuts_remove_exactly_the_selected_words(
    page: Page, server: Server, seed: int
) -> None:
    open_edit(page)
    answer_late(page, seed, 1500)
    chance = random.Random(seed)
    for _ in range(4):
        pair = cut_two(page, server, chance)
        assert pair.is_right, pair


def test_keys_after_ctrl_k_belong_to_the_palette(page: Page, server: Server) -> None:
    open_edit(page)
    before = server.episode(1)
    page.keyboard.press("Control+k")
    page.keyboard.type("import")
    field = page.get_by_role("combobox", name="What to do")
    expect(field).to_have_value("import")
    expect(field).to_be_focused()
    page.keyboard.press("Escape")
    expect(field).to_have_count(0)
    assert server.episode(1)["revision"] == before["revision"]
    # After it was closed, keys act on the Page again.
    page.keyboard.press("m")
    assert len(edited(page, server, before["revision"])["markers"]) == len(before["markers"]) + 1


def test_holding_a_key_makes_one_edit(page: Page, server: Server) -> None:
    open_edit(page)
    go_to(page, 30 * RATE)
    before = server.episode(1)
    page.keyboard.down("m")
    for _ in range(5):
        page.keyboard.down("m")  # a second "down" is a repeat
    page.keyboard.up("m")
    assert len(edited(page, server, before["revision"])["markers"]) == len(before["markers"]) + 1
    go_to(page, 60 * RATE)
    page.keyboard.press("m")
    after = edited(page, server, server.episode(1)["revision"] - 1)
    assert len(after["markers"]) <= len(before["markers"]) + 2


def test_a_fade_goes_to_the_track_that_was_pointed_at(page: Page, server: Server) -> None:
    open_edit(page)
    view = server.episode(1)
    lengths = {track["id"]: len(track["envelope"]) for track in view["tracks"]}
    chosen = word(page, "slowest")
    track = chosen.locator("xpath=ancestor::*[@data-track][1]").get_attribute("data-track")
    chosen.click()
    page.keyboard.press("f")
    after = edited(page, server, view["revision"])
    changed = {t["id"] for t in after["tracks"] if len(t["envelope"]) != lengths[t["id"]]}
    assert changed == {track}


def test_undo_right_after_a_cut_undoes_that_cut(page: Page, server: Server) -> None:
    open_edit(page)
    before = server.episode(1)
    answer_late(page, 5, 800)
    word(page, "slowest").click()
    page.keyboard.press("Delete")
    page.keyboard.press("Control+z")
    eventually(lambda: server.episode(1)["redo"], page)
    expect(page.locator(f"[data-revision='{before['revision']}']")).to_have_count(1)
    expect(word(page, "slowest")).to_have_count(1)
    assert server.episode(1)["revision"] == before["revision"]
