"""The smallest window that is promised: 1024 by 700."""

import pytest
from playwright.sync_api import Page, expect

from tests.waiting import at_rest

STAGES = ("record", "edit", "sound", "rundown", "loudness", "release?step=check", "release")


@pytest.mark.only_looks
@pytest.mark.parametrize("stage", STAGES)
def test_nothing_runs_out_of_a_small_window(page: Page, stage: str) -> None:
    page.set_viewport_size({"width": 1024, "height": 700})
    page.goto(f"/episodes/1/{stage}")
    expect(page.get_by_role("main")).to_be_visible()
    at_rest(page)
    assert page.evaluate("document.documentElement.scrollWidth") == 1024
    beyond = page.evaluate(
        """() => [...document.querySelectorAll("button, a[href], input, select, th")]
            .filter((one) => one.checkVisibility())
            .filter((one) => one.getBoundingClientRect().right > 1024.5)
            .map((one) => one.textContent || one.ariaLabel)"""
    )
    assert beyond == []


@pytest.mark.only_looks
def test_a_running_order_is_read_in_a_small_window(page: Page) -> None:
    page.set_viewport_size({"width": 1024, "height": 700})
    page.goto("/episodes/1/rundown")
    rows = page.locator("[data-rundown-row]")
    expect(rows).to_have_count(6)
    at_rest(page)
    heights = rows.evaluate_all("rows => rows.map((row) => row.getBoundingClientRect().height)")
    assert max(heights) < 90
    name = rows.nth(2).get_by_role("textbox")
    assert name.evaluate("it => it.scrollWidth <= it.clientWidth")
