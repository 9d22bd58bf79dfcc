"""Five steps for whoever begins: they lead from hearing an episode to a file, and are left and
taken up at any time. Units say what they mean."""

import pytest
from playwright.sync_api import Page, expect

from tests.serving import Server
from tests.waiting import at_rest


def test_five_steps_lead_to_a_file(page: Page, server: Server) -> None:
    page.goto("/")
    page.get_by_role("button", name="Take them").click()
    walk = page.get_by_test_id("walk")
    expect(walk).to_contain_text("Hear. Press Space")
    expect(page.get_by_text("44 snags", exact=True)).to_be_visible()
    page.keyboard.press("Space")
    expect(walk).to_contain_text("Cut. Drag over words")
    page.keyboard.press("Space")
    at_rest(page)
    word = page.locator("[data-word]").nth(4)
    word.dblclick()
    page.keyboard.press("Delete")
    expect(walk).to_contain_text("Tidy. At the right")
    # It is left, and gone on with from the shelf.
    page.get_by_title("Back to the shelf").click()
    expect(page.get_by_text("The five steps are still open.")).to_be_visible()
    page.get_by_role("button", name="Go on").click()
    page.get_by_role("button", name="Tidy gently").click()
    page.get_by_role("dialog").get_by_role("button", name="Tidy gently").click()
    expect(walk).to_contain_text("Even out.")
    walk.get_by_role("link", name="Go to Loudness").click()
    page.get_by_role("button", name="Even out all sections").click()
    expect(walk).to_contain_text("Release.")
    walk.get_by_role("link", name="Go to Release").click()
    page.goto("/episodes/1/release?step=files")
    page.get_by_role("button", name="Make the file").click()
    expect(walk).to_contain_text("That is all there is to it.")
    walk.get_by_role("button", name="Finish").click()
    expect(walk).to_have_count(0)
    page.goto("/")
    expect(page.get_by_test_id("episode")).to_be_visible()
    expect(page.get_by_role("button", name="Take them")).to_have_count(0)


@pytest.mark.only_looks
def test_the_steps_are_left_and_found_among_the_keys(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="Not now").click()
    expect(page.get_by_role("button", name="Take them")).to_have_count(0)
    page.reload()
    page.get_by_test_id("episode").click()
    expect(page.get_by_text("44 snags", exact=True)).to_be_visible()
    expect(page.get_by_test_id("walk")).to_have_count(0)
    page.keyboard.press("?")
    page.get_by_role("button", name="Five steps to begin with").click()
    expect(page.get_by_test_id("walk")).to_contain_text("Hear.")
    page.get_by_test_id("walk").get_by_role("button", name="Leave").click()
    expect(page.get_by_test_id("walk")).to_have_count(0)


@pytest.mark.only_looks
def test_a_unit_says_what_it_means_and_what_is_good(page: Page) -> None:
    page.goto("/episodes/1/loudness")
    page.get_by_test_id("evenness").get_by_role("button", name="LUFS").click()
    told = page.get_by_role("dialog", name="LUFS")
    expect(told).to_contain_text("−16 in stereo and −19 in mono")
    page.keyboard.press("Escape")
    expect(told).to_have_count(0)
    expect(page.get_by_test_id("evenness").get_by_role("button", name="LUFS")).to_be_focused()
    page.get_by_role("button", name="Phrases apart").click()
    expect(page.get_by_role("dialog", name="Phrases apart")).to_contain_text("Below 4 LU")
