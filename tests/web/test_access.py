"""Without a mouse, and by the rules of WCAG 2.2 and good practice as axe-core checks them."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.serving import RATE, Server
from tests.waiting import at_rest
from tests.web.conftest import Shared, fresh_page
from tests.web.test_tasks import edited, open_edit, span, word

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def findings(page: Page, within: str = "body") -> list[str]:
    """What axe-core finds, of any rank, in light and in dark, with the places; of a part of the
    view where the rest was looked at before."""
    # The script is run by the test's own hand, since the page itself lets none in.
    if not page.evaluate("() => 'axe' in window"):
        page.evaluate(AXE.read_text() + "; undefined")
        # Colours on their way from one scheme to the other are nobody's.
        page.add_style_tag(content="* { transition: none !important; }")
    found = []
    grounds = set()
    page.locator(within).first.wait_for()
    for scheme in ("light", "dark"):
        page.emulate_media(color_scheme=scheme)
        page.wait_for_function(
            "(scheme) => document.documentElement.classList.contains(scheme)", arg=scheme
        )
        grounds.add(page.evaluate("() => getComputedStyle(document.body).backgroundColor"))
        result = page.evaluate(
            """(within) => axe.run(within === "body" ? document : document.querySelector(within), {
              resultTypes: ["violations"],
              rules: { "target-size": { enabled: true } },
            })""",
            within,
        )
        found += [
            f"{scheme}: {v['id']}: {node['html'][:160]} "
            f"{node['any'][0]['message'][:160] if node['any'] else ''}"
            for v in result["violations"]
            for node in v["nodes"][:3]
        ]
    assert len(grounds) == 2, "the page does not go with the scheme"
    return found


VIEWS = {
    "shelf": "/",
    "record": "/episodes/1/record",
    "edit": "/episodes/1/edit",
    "sound": "/episodes/1/sound",
    "rundown": "/episodes/1/rundown",
    "loudness": "/episodes/1/loudness",
    "release": "/episodes/1/release",
}


def looking(shared: Shared, server: Server) -> Page:
    """A page that axe-core may be run on."""
    context = shared(server.address, bypass_csp=True, reduced_motion="reduce")
    return fresh_page(context, server.address)


@pytest.mark.only_looks
@pytest.mark.parametrize("view", VIEWS)
def test_no_view_has_a_finding(shared: Shared, server: Server, view: str) -> None:
    page = looking(shared, server)
    page.goto(VIEWS[view])
    page.wait_for_load_state("networkidle")
    at_rest(page)
    if view == "edit":
        word(page, "slowest").click()
        at_rest(page)
    found = findings(page)
    page.close()
    assert found == []


@pytest.mark.only_looks
@pytest.mark.parametrize("view", VIEWS)
def test_nothing_is_drawn_while_nothing_moves(shared: Shared, server: Server, view: str) -> None:
    page = looking(shared, server)
    page.add_init_script(COUNT_PICTURES)
    page.goto(VIEWS[view])
    page.wait_for_load_state("networkidle")
    at_rest(page)
    before = page.evaluate("window.pictures")
    page.wait_for_timeout(300)  # a loop would have asked for eighteen
    after = page.evaluate("window.pictures")
    page.close()
    assert after == before


COUNT_PICTURES = """
  window.pictures = 0;
  const ask = window.requestAnimationFrame;
  window.requestAnimationFrame = (draw) => { window.pictures += 1; return ask(draw); };
"""


def test_what_opens_on_the_page_has_no_finding(shared: Shared, server: Server) -> None:
    page = looking(shared, server)
    open_edit(page)
    view = server.episode(1)
    word(page, "slowest").click()
    page.keyboard.press("Delete")
    now = edited(page, server, view["revision"])
    page.keyboard.press("m")
    edited(page, server, now["revision"])
    page.keyboard.press("x")
    page.keyboard.press("v")
    found = []
    for tab in ("Find", "Marks", "History", "Takes", "Tracks"):
        page.get_by_role("tab", name=tab).click()
        at_rest(page)
        found += findings(page, "[role=tabpanel]:not([hidden])")
    page.locator("[data-splice]").first.click()
    at_rest(page)
    found += findings(page, "[role=dialog]")
    page.keyboard.press("Escape")
    at_rest(page)
    page.keyboard.press("?")
    page.get_by_role("dialog").wait_for()
    at_rest(page)
    found += findings(page, "[role=dialog]")
    page.close()
    assert found == []


def test_an_episode_is_edited_without_a_mouse(page: Page, server: Server) -> None:
    """Find a place, mark it exactly, cut it, move an edge, put it back, dip it, mark it."""
    open_edit(page)
    view = server.episode(1)
    keyboard = page.keyboard
    # Find the spot by its words.
    keyboard.press("/")
    keyboard.type("slowest")
    expect(page.get_by_test_id("find").get_by_role("status")).to_have_text("1 place")
    keyboard.press("Enter")
    expect(page.locator("[data-word][data-marked]")).to_have_text("slowest")
    keyboard.press("Escape")
    start, end = span(word(page, "slowest"))
    # Mark it exactly, and cut.
    keyboard.press(">")
    keyboard.press("<")
    keyboard.press("Delete")
    cut = edited(page, server, view["revision"])
    expect(page.get_by_test_id("said")).to_have_text(re.compile(r"^Cut .+\. Now 4 minutes 29 s"))
    assert view["frames"] - cut["frames"] == pytest.approx(end - start, abs=RATE // 10)
    # Open the splice, move an edge, hear it, put it back.
    expect(page.locator("[data-splice]")).to_have_count(1)
    keyboard.press("o")
    card = page.get_by_test_id("splice-card")
    expect(card).to_be_visible()
    for _ in range(12):
        keyboard.press("Tab")
        if page.evaluate("document.activeElement.ariaLabel") == "Left edge 10 ms later":
            break
    keyboard.press("Enter")
    moved = edited(page, server, cut["revision"])
    assert moved["frames"] == cut["frames"] + 480
    keyboard.press("Escape")
    expect(card).to_have_count(0)
    keyboard.press("Alt+Shift+ArrowLeft")
    back = edited(page, server, moved["revision"])
    assert back["frames"] == cut["frames"]
    keyboard.press("r")
    whole = edited(page, server, back["revision"])
    assert whole["frames"] == view["frames"]
    # Words, sentences, gain, a marker, a section, and undo.
    keyboard.press("Home")
    keyboard.press("Control+ArrowRight")
    expect(page.get_by_label("Position")).not_to_have_value("0:00.0")
    keyboard.press("e")
    expect(page.locator("[data-word][data-marked]").first).to_be_visible()
    keyboard.press("Shift+ArrowDown")
    quieter = edited(page, server, whole["revision"])
    assert quieter["tracks"][0]["envelope"]
    keyboard.press("m")
    marked = edited(page, server, quieter["revision"])
    assert len(marked["markers"]) == 1
    keyboard.press("Shift+M")
    sections = edited(page, server, marked["revision"])
    assert len(sections["sections"]) == len(view["sections"]) + 1
    revision = sections["revision"]
    for _ in range(3):
        keyboard.press("Control+z")
        revision = edited(page, server, revision)["revision"]
    # The menu by its key, and through it.
    assert server.episode(1)["frames"] == view["frames"]


@pytest.mark.only_looks
def test_everything_that_can_be_clicked_has_a_name_and_is_reached_by_tab(page: Page) -> None:
    open_edit(page)
    word(page, "slowest").click()
    nameless = page.evaluate(
        """() => [...document.querySelectorAll("button, a, input, select")]
          .filter((e) => e.offsetParent && !(e.ariaLabel || e.title || e.innerText.trim()
            || e.labels?.length || e.getAttribute("placeholder")))
          .map((e) => e.outerHTML.slice(0, 120))"""
    )
    assert nameless == []
    outside = page.evaluate(
        """() => [...document.querySelectorAll("button, a, select")]
          .filter((e) => e.offsetParent && e.tabIndex < 0 && e.getAttribute("role") !== "tab")
          .map((e) => e.outerHTML.slice(0, 120))"""
    )
    assert outside == []
    assert re.search(r"\S", page.title())
