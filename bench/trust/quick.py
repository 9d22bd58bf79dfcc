"""Pairs of quick cuts in a browser whose answers come late and out of order."""

import random
import shutil
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright
from tests.serving import Server
from tests.web.conftest import CHROMIUM
from tests.web.quick import answer_late, cut_two

from airtrim.demo import fill, source
from bench.measuring import Row

_MOST_MS = 3000
_PAIRS_AN_EPISODE = 10
"""Then the words in view run out, and the next pairs get a fresh episode."""


def quick(pairs: int) -> list[Row]:
    """Count pairs in which a cut removed a word that was not selected, or nothing without saying
    so."""
    misplaced = refused = 0
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        demo = Path(folder) / "demo"
        fill(demo, source())
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=CHROMIUM
        )
        for first in range(0, pairs, _PAIRS_AN_EPISODE):
            data = Path(folder) / f"data-{first}"
            shutil.copytree(demo, data)
            server = Server(data)
            page = browser.new_page(
                viewport={"width": 1280, "height": 800}, base_url=server.address
            )
            page.goto("/episodes/1/edit")
            page.locator("[data-word]").first.wait_for()
            answer_late(page, first + 1, _MOST_MS)
            chance = random.Random(first)
            for _ in range(min(_PAIRS_AN_EPISODE, pairs - first)):
                pair = cut_two(page, server, chance)
                misplaced += not pair.is_right
                refused += pair.refused
                if not pair.is_right:
                    print(pair)
            page.close()
            server.kill()
            shutil.rmtree(data)
        browser.close()
    what = f"{pairs} pairs of quick cuts, answers up to {_MOST_MS / 1000:.0f} s late: misplaced"
    return [Row(what, f"{refused} refused, and reported", "", str(misplaced), "0", not misplaced)]
