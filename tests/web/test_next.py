"""Where an episode stands, at the head of every stage and on the shelf."""

import re

from playwright.sync_api import Page, expect

from tests.serving import Server
from tests.waiting import eventually
from tests.web.test_tasks import open_edit, word


def test_one_press_leads_to_what_is_next_until_a_file_is_made(page: Page, server: Server) -> None:
    page.goto("/episodes/1/loudness")
    step = page.get_by_test_id("next-step")
    expect(step).to_contain_text("Next: Go through 44 snags")
    step.click()
    expect(page.get_by_role("tab", name="Snags")).to_have_attribute("aria-selected", "true")
    page.get_by_role("button", name="Tidy closely").click()
    page.get_by_role("dialog").get_by_role("button", name="Tidy closely").click()
    left = page.locator("[data-step=snags]")
    expect(left).not_to_contain_text("44")
    page.goto("/episodes/1/release?step=files")
    page.get_by_role("button", name="Make the file").click()
    expect(page.locator("[data-step=file]")).to_contain_text("File made")
    expect(page.get_by_test_id("next-step")).to_contain_text("Hand it over")
    page.get_by_test_id("next-step").click()
    expect(page.get_by_role("button", name="4 Hand over")).to_have_attribute("aria-current", "step")
    page.get_by_title("Back to the shelf").click()
    expect(page.get_by_test_id("episode")).to_contain_text("File made")


def test_an_action_is_found_by_its_name(page: Page, server: Server) -> None:
    """By keys alone, from the Page to a fade, and to another stage."""
    open_edit(page)
    word(page, "harbor").click()
    page.keyboard.press("Control+k")
    field = page.get_by_label("What to do")
    expect(field).to_be_focused()
    field.fill("fade out")
    expect(page.get_by_role("option")).to_have_count(1)
    page.keyboard.press("Enter")
    eventually(lambda: (server.episode(1)["undo"] or "").startswith("Faded out"), page)
    page.keyboard.press("Control+k")
    field.fill("nothing is called so")
    expect(page.get_by_text("Nothing is called that")).to_be_visible()
    field.fill("go to")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("option", selected=True)).to_contain_text("Go to Sound")
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="Sound", exact=True)).to_have_attribute(
        "aria-current", "page"
    )


def test_an_action_is_found_by_what_somebody_else_calls_it(page: Page) -> None:
    """Words of the trade and of everyday that stand on no button (from memory)."""
    open_edit(page)
    page.keyboard.press("Control+k")
    field, options = page.get_by_label("What to do"), page.get_by_role("option")
    for typed, says in {
        "delete": "Cut from every track",
        "pause": "Play, pause",  # called so, which comes before what is known by it
        "um": "Next filler",
        "volume": "This track 1 dB louder",
        "zoom in": "Shorter lines",
        "revert": "Undo",
        "chapters": "Go to Label",
        "mp3": "Go to Files",
        "publish": "Go to Hand over",
        "echo": "Go to Sound",
    }.items():
        field.fill(typed)
        expect(options.first).to_contain_text(says)
    field.fill("export")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="3 Files")).to_have_attribute("aria-current", "step")


def test_what_is_done_most_stands_at_the_selection(page: Page, server: Server) -> None:
    """Words, then air, then the rest; it is gone with the selection."""
    open_edit(page)
    word(page, "harbor").click()
    bar = page.get_by_test_id("selection-bar")
    expect(bar.get_by_role("button")).to_have_text(["Cut", "Hear it", "Cover", "Copy", "More"])
    line = bar.locator("xpath=ancestor::*[@data-line]").bounding_box()
    chosen, box = word(page, "harbor").bounding_box(), bar.bounding_box()
    assert chosen
    assert box
    assert line
    assert 0 <= box["y"] - (chosen["y"] + chosen["height"]) < 30
    assert line["x"] <= box["x"]
    assert box["x"] + box["width"] <= line["x"] + line["width"]
    page.locator("[data-air]").filter(has_text="2.4 s").first.click()
    expect(bar.get_by_role("button")).to_have_text(
        ["Cut", "Hear it", "Air 0.6 s", "As room tone", "More"]
    )
    before = server.episode(1)["frames"]
    bar.get_by_role("button", name="Air 0.6 s").click()
    eventually(lambda: server.episode(1)["frames"] < before, page)
    page.keyboard.press("Escape")
    expect(bar).to_have_count(0)


def test_a_sentence_is_found_on_the_shelf_and_gone_to(page: Page, server: Server) -> None:
    page.goto("/")
    page.get_by_label("Find in all episodes").fill("nobody minds")
    found = page.get_by_test_id("found")
    expect(found.get_by_role("link")).to_have_count(1)
    expect(found.get_by_role("link")).to_contain_text("and nobody minds. This is a show")
    found.get_by_role("link").click()
    expect(word(page, "minds")).to_be_visible()
    expect(page.get_by_label("Position")).to_have_value(re.compile(r"^0:27"))
    page.goto("/")
    page.get_by_label("Find in all episodes").fill("submarine")
    expect(page.get_by_text("nobody says it")).to_be_visible()


def test_many_episodes_are_put_in_an_order(page: Page, server: Server) -> None:
    for title in ("Nets and knots", "Eels", "The ramp", "A dog on board"):
        server.client.post("/api/shows/1/episodes", json={"title": title}).raise_for_status()
    page.goto("/")
    titles = page.get_by_test_id("episode").locator("a")
    expect(titles.first).to_contain_text("A dog on board")
    page.get_by_label("Order of the episodes").select_option("By title")
    expect(titles).to_have_text(
        [re.compile(one) for one in ("A dog", "Eels", "Nets", "The ramp", "The six")]
    )
    page.get_by_label("Order of the episodes").select_option("By how far they are")
    expect(titles.first).to_contain_text("Being edited")
