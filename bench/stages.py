"""From stage to stage of a long episode: how soon each shows, and what jumps when data come."""

import numpy as np
from playwright.sync_api import Browser, Page
from tests.serving import Server

from bench.measuring import Row

SHOWS = {
    "Record": "Microphone",
    "Sound": "",
    "Rundown": "Running order",
    "Loudness": "Loudness over time",
    "Release": "Tags",
    "Edit": "",
}
"""What tells that a stage is there: a heading of its own, or its Page, or its voices."""
ROUNDS = 4
SETTLES_MS = 1500

WATCH = """() => {
  window.jumps = [];
  new PerformanceObserver((list) => {
    for (const one of list.getEntries()) jumps.push([one.startTime, one.value]);
  }).observe({ type: "layout-shift", buffered: true });
}"""
PRESS = """([name, heading]) => new Promise((done) => {
  const link = [...document.querySelectorAll("nav[aria-label=Stages] a")]
    .find((one) => one.textContent === name);
  const there = () => {
    if (link.getAttribute("aria-current") !== "page") return false;
    const main = document.querySelector("main");
    if (name === "Edit") return main.querySelector("[data-testid=page] [data-ready]");
    if (name === "Sound") return main.querySelector("[data-testid=helps], [data-testid=spectrum]");
    return [...main.querySelectorAll("h2")].some((one) => one.textContent === heading);
  };
  const pressed = performance.now();
  link.click();
  const look = () => {
    if (there()) requestAnimationFrame(() => done([pressed, performance.now()]));
    else requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
})"""


def stage_changes(server: Server, episode: int, browser: Browser) -> list[Row]:
    """Each stage gone to some times; the first time it has been fetched already."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    tab = context.new_page()
    tab.goto(f"{server.address}/episodes/{episode}/edit")
    tab.wait_for_selector("[data-ready] [data-word]")
    tab.evaluate(WATCH)
    tab.wait_for_timeout(6000)  # what else there is has been fetched
    took: dict[str, list[float]] = {name: [] for name in SHOWS}
    shifts: dict[str, float] = dict.fromkeys(SHOWS, 0.0)
    for _ in range(ROUNDS):
        for name, heading in SHOWS.items():
            shown_ms, jumped = _gone_to(tab, name, heading)
            took[name].append(shown_ms)
            shifts[name] = max(shifts[name], jumped)
    context.close()
    everything = [one for found in took.values() for one in found]
    middle, high = np.percentile(everything, [50, 95])
    slowest = max(took, key=lambda name: float(np.median(took[name])))
    worst = max(shifts, key=lambda name: shifts[name])
    return [
        Row(
            f"From one stage to another, {len(everything)} times: median",
            f"{middle:.0f} ms",
            "",
            f"95 of 100 within {high:.0f} ms; slowest {slowest}, {np.median(took[slowest]):.0f} ms",
            "100 ms, 200 ms",
            middle <= 100 and high <= 200,
        ),
        Row(
            "What jumps when data come: layout shift at most",
            f"{shifts[worst]:.3f}",
            "",
            f"on {worst}",
            "under 0.02",
            shifts[worst] < 0.02,
        ),
    ]


def _gone_to(tab: Page, name: str, heading: str) -> tuple[float, float]:
    """Milliseconds until a stage shows, and what jumped in it afterwards."""
    pressed, shown = tab.evaluate(PRESS, [name, heading])
    tab.wait_for_timeout(SETTLES_MS)
    jumps = tab.evaluate("(since) => jumps.filter(([at]) => at > since)", shown)
    return shown - pressed, sum(value for _, value in jumps)
