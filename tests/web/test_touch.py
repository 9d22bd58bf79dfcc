"""A tablet: what a finger does on the Page and beside it."""

import re
import time
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.serving import RATE, Server
from tests.waiting import at_rest, eventually
from tests.web.conftest import fresh_page, new_context
from tests.web.test_access import findings
from tests.web.test_page import marked
from tests.web.test_tasks import open_edit, word


class Fingers:
    """Touches as the screen of a tablet sends them."""

    def __init__(self, page: Page) -> None:
        self._session = page.context.new_cdp_session(page)

    def _send(self, what: str, at_s: float, *points: tuple[float, float]) -> None:
        touches = [{"x": x, "y": y, "id": number} for number, (x, y) in enumerate(points)]
        told = {"type": what, "touchPoints": touches, "timestamp": at_s}
        self._session.send("Input.dispatchTouchEvent", told)

    def drag(self, *paths: tuple[tuple[float, float], tuple[float, float]], steps: int = 8) -> None:
        """Put down a finger for each path, move them along, and lift them where they have come to
        rest: what is let go in movement glides on, as far as the machine is quick."""
        at_s = time.time()
        self._send("touchStart", at_s, *(begin for begin, _ in paths))
        for step in range(1, steps + 1):
            part = step / steps
            self._send(
                "touchMove",
                at_s + 0.02 * step,
                *((ax + (bx - ax) * part, ay + (by - ay) * part) for (ax, ay), (bx, by) in paths),
            )
        self._send("touchEnd", at_s + 1)


@pytest.fixture
def tablet(browser: Browser, server: Server) -> Iterator[Page]:
    context = new_context(
        browser,
        server.address,
        viewport={"width": 1180, "height": 820},
        has_touch=True,
        is_mobile=True,
        bypass_csp=True,
    )
    yield fresh_page(context, server.address)
    context.close()


def middle(page: Page, selector: str) -> tuple[float, float]:
    box = page.locator(selector).first.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def top_of(page: Page) -> int:
    """The first line in view."""
    return page.evaluate(
        "Math.min(...[...document.querySelectorAll('[data-line]')]"
        ".filter((line) => line.getBoundingClientRect().bottom > 150)"
        ".map((line) => Number(line.dataset.line)))"
    )


@pytest.mark.only_looks
def test_a_finger_selects_and_hears(tablet: Page) -> None:
    open_edit(tablet)
    word(tablet, "slowest").tap()
    assert marked(tablet) == ["slowest"]
    expect(tablet.locator("[data-knob=end]")).to_be_visible()
    panel = tablet.get_by_test_id("selected").bounding_box()
    assert panel["x"] + panel["width"] <= 1180
    tablet.get_by_test_id("selection-bar").get_by_role("button", name="Hear it").tap()
    expect(tablet.get_by_role("button", name="Pause", exact=True)).to_be_visible()


@pytest.mark.only_looks
def test_a_finger_moves_an_edge_scrolls_and_zooms(tablet: Page, server: Server) -> None:
    open_edit(tablet)
    fingers = Fingers(tablet)
    word(tablet, "slowest").tap()
    x, y = middle(tablet, "[data-knob=end]")
    fingers.drag(((x, y), (x + 130, y + 20)))
    at_rest(tablet)
    assert len(marked(tablet)) > 1
    # Swiping over the Page scrolls it, and selects nothing, though it begins on a word.
    before = marked(tablet)
    first = top_of(tablet)
    box = word(tablet, "nobody").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    fingers.drag(((x, y), (x, y - 300)))
    eventually(lambda: top_of(tablet) > first, tablet)
    assert marked(tablet) == before
    fingers.drag(((x, y - 300), (x, y + 400)))
    eventually(lambda: top_of(tablet) == first, tablet)
    assert marked(tablet) == before
    # Two fingers apart: shorter lines.
    said = tablet.get_by_text(re.compile(r"^\d+ s a line$"))
    was = said.inner_text()
    fingers.drag(((x - 40, y), (x - 160, y)), ((x + 40, y), (x + 160, y)))
    expect(said).not_to_have_text(was)
    # Along the spine to another place.
    spine = tablet.locator(".at-spine-whole").bounding_box()
    x = spine["x"] + spine["width"] / 2
    fingers.drag(
        ((x, spine["y"] + 20), (x, spine["y"] + spine["height"] * 0.8)),
    )
    half = server.episode(1)["frames"] / 2
    eventually(lambda: top_of(tablet) > half, tablet)


def test_a_finger_moves_a_marker(tablet: Page, server: Server) -> None:
    edit = {"kind": "add_marker", "at": 3 * RATE}
    body = {"revision": server.episode(1)["revision"], "edit": edit}
    server.client.post("/api/episodes/1/edits", json=body).raise_for_status()
    open_edit(tablet)
    fingers = Fingers(tablet)
    before = server.episode(1)["markers"][0]
    x, y = middle(tablet, "[data-marker]")
    fingers.drag(((x, y - 6), (x + 60, y - 6)))
    eventually(lambda: server.episode(1)["markers"][0]["at"] > before["at"], tablet)


@pytest.mark.only_looks
@pytest.mark.parametrize("stage", ["record", "edit", "sound", "rundown", "loudness", "release"])
def test_nothing_is_too_small_for_a_finger(tablet: Page, stage: str) -> None:
    """By axe-core's rule for WCAG 2.2, 2.5.8 (24 by 24 px, or so far apart)."""
    tablet.goto(f"/episodes/1/{stage}")
    expect(tablet.get_by_role("main")).to_be_visible()
    at_rest(tablet)
    assert not findings(tablet)
