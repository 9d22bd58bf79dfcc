"""The running order in Chromium, on the long episode in forty parts: opening it, moving a part."""

import statistics

from playwright.sync_api import Browser, Page
from tests.serving import Server

from bench.measuring import Row

PARTS = 40
MOVES = 12

# Until every row stands there; the stage is opened as a host opens it.
OPEN = """(parts) => new Promise((done) => {
  const pressed = performance.now();
  const look = () => {
    const rows = document.querySelectorAll("[data-rundown-row]").length;
    if (rows === parts) done(performance.now() - pressed);
    else requestAnimationFrame(look);
  };
  [...document.querySelectorAll("nav a")].find((a) => a.textContent === "Rundown").click();
  look();
})"""

# Until the chosen row stands one higher; counted from its key.
WATCH = """(place) => {
  const order = () =>
    [...document.querySelectorAll("[data-rundown-row]")].map((row) => row.dataset.rundownRow);
  const id = order()[place];
  window.moved = null;
  addEventListener("keydown", () => {
    const pressed = performance.now();
    const look = () => {
      if (order()[place - 1] === id) window.moved = performance.now() - pressed;
      else requestAnimationFrame(look);
    };
    look();
  }, { once: true, capture: true });
}"""


def running_order(server: Server, episode: int, browser: Browser) -> list[Row]:
    """Opening with forty parts, and a move by a key until it is seen."""
    view = server.episode(episode)
    starts = [
        {"at": view["frames"] * number // PARTS, "name": f"Part {number + 1}"}
        for number in range(PARTS)
    ]
    edit = {"kind": "set_sections", "sections": starts}
    server.client.post(
        f"/api/episodes/{episode}/edits", json={"revision": view["revision"], "edit": edit}
    ).raise_for_status()
    opened = []
    for _ in range(4):  # the first also warms the server
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        tab = context.new_page()
        tab.goto(f"{server.address}/episodes/{episode}/record")
        tab.wait_for_load_state("networkidle")
        opened.append(float(tab.evaluate(OPEN, PARTS)))
        if len(opened) < 4:
            context.close()
    moved = [_moved(tab, 5 + number) for number in range(MOVES)]
    return [
        Row(
            f"Rundown opened with {PARTS} parts, same episode",
            f"{statistics.median(opened[1:]):.0f} ms",
            "",
            f"{min(opened[1:]):.0f} to {max(opened[1:]):.0f} ms; just started {opened[0]:.0f} ms",
            "within 500 ms",
            statistics.median(opened[1:]) <= 500,
        ),
        Row(
            f"Key to a moved part on screen: median of {MOVES}",
            f"{statistics.median(moved):.0f} ms",
            "",
            f"{min(moved):.0f} to {max(moved):.0f} ms",
            "within 100 ms",
            statistics.median(moved) <= 100,
        ),
    ]


def _moved(tab: Page, place: int) -> float:
    tab.locator("[data-rundown-row]").nth(place).click()
    tab.wait_for_timeout(1000)
    tab.evaluate(WATCH, place)
    tab.keyboard.press("Alt+ArrowUp")
    tab.wait_for_function("() => window.moved")
    return float(tab.evaluate("window.moved"))
