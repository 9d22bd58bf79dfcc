"""Take the pictures in ``docs/screenshots/`` from the demo episode: ``make screenshots``."""

import shutil
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from tests.serving import Server
from tests.web.conftest import CHROMIUM

from airtrim.demo import fill

HERE = Path(__file__).parent
PICTURES = HERE.parent / "docs" / "screenshots"


def take(page: Page, name: str) -> None:
    """A picture of what is on the screen."""
    page.wait_for_timeout(700)
    page.screenshot(path=PICTURES / f"{name}.png")


def word(page: Page, text: str) -> None:
    """Select a word."""
    page.locator("[data-word]").filter(has_text=text).first.click()


def edit(page: Page) -> None:
    """The Page with a few cuts and a selection, and a splice opened."""
    page.goto("/episodes/1/edit")
    page.wait_for_selector("[data-word]")
    for text in ("slowest", "for,"):
        word(page, text)
        page.keyboard.press("Delete")
        page.wait_for_timeout(900)
    first = page.locator("[data-word]").filter(has_text="crossing").first.bounding_box()
    last = page.locator("[data-word]").filter(has_text="minds").first.bounding_box()
    assert first
    assert last
    page.mouse.move(first["x"] + 2, first["y"] - 25)
    page.mouse.down()
    page.mouse.move(last["x"] + last["width"], last["y"] - 25, steps=6)
    page.mouse.up()
    take(page, "edit")
    page.get_by_label("Dark colours").click()
    take(page, "edit-dark")
    page.get_by_label("Light colours").click()
    page.locator("[data-splice]").first.click()
    take(page, "splice")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    for _ in range(4):
        page.keyboard.press("-")
        page.wait_for_timeout(200)
    page.wait_for_timeout(800)
    take(page, "edit-long-lines")


def loudness_and_release(page: Page) -> None:
    """Evened out, then exported."""
    page.goto("/episodes/1/loudness")
    button = page.get_by_role("button", name="Even out all sections")
    button.click(timeout=60_000)
    page.get_by_text("of each other").wait_for()
    take(page, "loudness")
    page.goto("/episodes/1/release")
    page.get_by_role("button", name="Export", exact=True).click()
    page.get_by_test_id("report").wait_for(timeout=120_000)
    take(page, "release")


def recording(page: Page) -> None:
    """Before, while, and after the microphone was unplugged."""
    page.goto("/episodes/1/record")
    page.get_by_label("Device").select_option(label="Simulated microphone")
    page.get_by_role("button", name="Switch the microphone on").click()
    page.get_by_role("button", name="Try it for five seconds").click()
    page.get_by_text("That is good").wait_for(timeout=20_000)
    take(page, "record")
    page.get_by_role("button", name="Record", exact=True).click()
    page.wait_for_timeout(9000)
    page.keyboard.press("f")
    page.wait_for_timeout(15_000)
    take(page, "recording")
    page.get_by_role("button", name="End and add it").click()
    page.get_by_role("button", name="Record", exact=True).wait_for()
    page.get_by_label("Device").select_option(label="Simulated: unplugged after 5 s")
    page.get_by_role("button", name="Record", exact=True).click()
    page.get_by_role("alert").wait_for(timeout=15_000)
    page.wait_for_timeout(6000)
    take(page, "recording-fault")


def main() -> None:
    """Take them all."""
    PICTURES.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        fill(Path(folder), HERE)
        server = Server(Path(folder))
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=CHROMIUM
        )
        page = browser.new_page(
            viewport={"width": 1280, "height": 800}, base_url=server.address, color_scheme="light"
        )
        page.goto("/")
        page.get_by_text("The six o’clock boat").wait_for()
        take(page, "shelf")
        edit(page)
        loudness_and_release(page)
        recording(page)
        browser.close()
        server.stop()


if __name__ == "__main__":
    main()
