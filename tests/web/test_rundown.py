"""The running order, driven as a host does."""

import pytest
from playwright.sync_api import Page, expect

from tests.serving import RATE, Server
from tests.waiting import eventually
from tests.web.test_tasks import Hand, edited, hand, told

__all__ = ["hand"]


def open_rundown(page: Page) -> None:
    page.goto("/episodes/1/rundown")
    expect(rows(page).first).to_be_visible()


def rows(page: Page):
    return page.locator("[data-rundown-row]")


def names(server: Server) -> list[str]:
    return [section["name"] for section in server.episode(1)["sections"]]


def test_the_interview_goes_to_the_front_by_keys_and_back_by_its_grip(
    page: Page, hand: Hand, server: Server
) -> None:
    open_rundown(page)
    before = server.episode(1)
    order = names(server)
    assert order[:3] == ["Intro music", "Opening", "Marit on the pier"]
    expect(rows(page).nth(2)).to_contain_text("“My father headed the run”")
    hand.click(rows(page).nth(2))
    hand.key("Alt+ArrowUp")
    now = edited(page, server, before["revision"])
    expect(rows(page).nth(1)).to_have_attribute("data-rundown-row", before["sections"][2]["id"])
    hand.key("Alt+ArrowUp")
    now = edited(page, server, now["revision"])
    assert hand.actions == told("put the interview first")
    assert [s["name"] for s in now["sections"]] == [order[2], order[0], order[1], *order[3:]]
    assert now["frames"] == before["frames"]
    expect(rows(page).first).to_contain_text("“My father headed the run”")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute(
        "title", "Undo: Moved “Marit on the pier” (Ctrl+Z)"
    )
    rows(page).first.locator("[data-grip]").drag_to(
        rows(page).nth(3), target_position={"x": 200, "y": 3}
    )
    back = edited(page, server, now["revision"])
    assert [s["name"] for s in back["sections"]] == order
    assert back["sections"] == before["sections"]
    # A voice that leaves at a seam that was made anew dies away in its room for half a second.
    for was, is_now in zip(before["tracks"], back["tracks"], strict=True):
        assert 0 <= is_now["frames"] - was["frames"] <= RATE // 2
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    eventually(lambda: server.episode(1)["revision"] == before["revision"], page)
    assert server.episode(1)["tracks"] == before["tracks"]


def test_a_part_is_put_aside_and_brought_back_where_it_was(
    page: Page, hand: Hand, server: Server
) -> None:
    open_rundown(page)
    before = server.episode(1)
    hand.click(rows(page).nth(3))
    hand.key("Delete")
    without = edited(page, server, before["revision"])
    # What came after it is chosen now, so that it comes back to its place.
    hand.click(page.get_by_role("button", name="Bring back"))
    back = edited(page, server, without["revision"])
    assert back["sections"] == before["sections"]
    assert back["frames"] == before["frames"]
    assert hand.actions == told("put a part aside and bring it back")


def test_a_part_is_put_aside_and_brought_back_elsewhere(page: Page, server: Server) -> None:
    open_rundown(page)
    before = server.episode(1)
    order = names(server)
    rows(page).nth(3).click()
    page.keyboard.press("Delete")
    without = edited(page, server, before["revision"])
    assert names(server) == [*order[:3], *order[4:]]
    aside = page.get_by_test_id("aside")
    expect(aside).to_contain_text("The old boat")
    expect(rows(page)).to_have_count(len(order) - 1)
    # It comes back before what is chosen, here the first of the talk.
    rows(page).nth(1).click()
    expect(aside).to_contain_text("They come back before “Opening”")
    page.reload()
    expect(aside).to_contain_text("They come back at the end")
    rows(page).nth(1).click()
    aside.get_by_role("button", name="Bring back").click()
    back = edited(page, server, without["revision"])
    assert [s["name"] for s in back["sections"]] == [order[0], order[3], *order[1:3], *order[4:]]
    assert back["frames"] == before["frames"]
    expect(aside).not_to_be_visible()


def test_parts_are_renamed_doubled_merged_and_held_to_a_length(page: Page, server: Server) -> None:
    open_rundown(page)
    view = server.episode(1)
    page.get_by_label("Name of part 2").fill("Good morning")
    page.keyboard.press("Enter")
    view = edited(page, server, view["revision"])
    assert view["sections"][1]["name"] == "Good morning"
    # Parted where the playhead is, and made one again.
    at = view["sections"][1]["at"] + 20 * RATE
    page.get_by_label("Position").fill(str(at / RATE))
    page.keyboard.press("Enter")
    rows(page).nth(1).click()
    page.get_by_role("button", name="Part at playhead").click()
    parted = edited(page, server, view["revision"])
    assert (parted["sections"][2]["at"], parted["sections"][2]["name"]) == (
        at,
        "Good morning, part 2",
    )
    expect(rows(page)).to_have_count(len(parted["sections"]))
    page.keyboard.press("Control+z")
    expect(rows(page)).to_have_count(len(view["sections"]))
    view = server.episode(1)
    rows(page).first.click()
    page.get_by_role("button", name="Duplicate").click()
    longer = edited(page, server, view["revision"])
    assert longer["sections"][1]["name"] == "Intro music"
    assert longer["frames"] == view["frames"] + view["sections"][1]["at"]
    expect(rows(page)).to_have_count(len(longer["sections"]))
    rows(page).nth(1).click()
    page.get_by_role("button", name="Merge with previous").click()
    view = edited(page, server, longer["revision"])
    assert [s["at"] for s in view["sections"]] == [
        s["at"] for i, s in enumerate(longer["sections"]) if i != 1
    ]
    length = page.get_by_test_id("length")
    length.get_by_role("button", name="Set a length").click()
    view = edited(page, server, view["revision"])
    page.get_by_label("Wanted length").fill("4:00")
    page.keyboard.press("Enter")
    expect(length).to_contain_text("Over by")
    page.get_by_label("Wanted length").fill("9:00")
    page.keyboard.press("Enter")
    expect(length).to_contain_text("Under by")


@pytest.mark.only_looks
def test_the_seams_are_heard_one_after_another(page: Page, server: Server) -> None:
    view = server.episode(1)
    asked: list[int] = []

    def note(url: str) -> None:
        if "/audio?" in url:
            query = dict(part.split("=") for part in url.partition("?")[2].split("&"))
            asked.append(int(query["start"]))

    page.on("request", lambda request: note(request.url))
    open_rundown(page)
    page.get_by_label("Speed").select_option("3")
    page.get_by_role("button", name="Hear the seams").click()
    wanted = [max(0, s["at"] - 3 * RATE) for s in view["sections"][1:]]
    eventually(lambda: wanted[1] in asked, page)
    assert asked[0] == wanted[0]
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    assert wanted[-1] not in asked


@pytest.mark.only_looks
def test_a_part_is_played_from_its_row(page: Page, server: Server) -> None:
    view = server.episode(1)
    open_rundown(page)
    page.get_by_label("Play from Close").click()
    position = page.get_by_label("Position")
    close = next(s["at"] for s in view["sections"] if s["name"] == "Close")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")
    eventually(lambda: close <= int(position.get_attribute("data-at") or 0), page)
