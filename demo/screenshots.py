"""Take the pictures in ``docs/screenshots/`` from the demo episode: ``make screenshots``."""

import re
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


def snags(page: Page) -> None:
    """A repeat being chosen, all fillers looked through, a pass told before it is made."""
    page.goto("/episodes/1/edit")
    page.get_by_text("to save").wait_for()
    page.get_by_role("button", name="Repeats 7").click()
    page.keyboard.press("z")
    take(page, "snags")
    page.get_by_role("button", name="Tidy gently").click()
    take(page, "tidy")
    page.get_by_role("button", name="Cancel").click()
    page.get_by_label("Dark colours").click()
    page.get_by_role("button", name=re.compile("^Fillers")).click()
    page.get_by_role("button", name="Settle all").click()
    take(page, "snags-dark")
    page.get_by_label("Light colours").click()


def two_tracks(page: Page, server: Server) -> None:
    """The guest's answer laid under the host's words, a stretch of it covered, the host dipped."""
    view = server.episode(1)
    guest = next(t["id"] for t in view["tracks"] if t["name"] == "Marit")
    stretch = server.client.get(
        "/api/episodes/1/page",
        params={"revision": view["revision"], "start": 0, "frames": 260 * 48_000},
    ).json()
    clip = next(c for c in stretch["clips"] if c["track"] == guest)
    move = {"kind": "move_clip", "track": guest, "to_track": guest, "to": 30 * 48_000}
    edits = [
        {**move, "at": clip["start"]},
        {"kind": "cover", "track": guest, "start": 33 * 48_000, "frames": 40_000},
    ]
    for edit in edits:
        revision = server.episode(1)["revision"]
        body = {"revision": revision, "edit": edit}
        assert server.client.post("/api/episodes/1/edits", json=body).status_code == 200
    page.goto("/episodes/1/edit")
    page.wait_for_selector("[data-word]")
    page.get_by_label("Position").fill("0:36")
    page.keyboard.press("Enter")
    page.wait_for_timeout(1500)
    page.locator("[data-word]:visible").filter(has_text="slow").first.click()
    page.keyboard.press("Shift+D")
    page.wait_for_timeout(1500)
    take(page, "edit-two-tracks")
    for _ in range(3):
        page.keyboard.press("Control+z")
        page.wait_for_timeout(800)


def sound(page: Page) -> None:
    """A voice with two suggestions taken, a band dragged, the compressor at work."""
    page.goto("/episodes/1/sound")
    page.get_by_role("button", name="Marit", exact=True).click()
    page.get_by_role("button", name="Do it: Take out the hum at 50 Hz").click()
    page.get_by_role("button", name="Add a band").click()
    point = page.get_by_role("slider", name="Band 1", exact=True).bounding_box()
    assert point
    page.mouse.move(point["x"] + 9, point["y"] + 9)
    page.mouse.down()
    page.mouse.move(point["x"] - 80, point["y"] + 45, steps=5)
    page.mouse.up()
    page.get_by_label("Compressor", exact=True).locator("..").click()
    page.get_by_role("button", name="Set it by this voice").click()
    page.wait_for_timeout(1500)
    take(page, "sound")
    page.get_by_label("Dark colours").click()
    take(page, "sound-dark")
    page.get_by_label("Light colours").click()


def loudness_and_release(page: Page) -> None:
    """Evened out, then exported."""
    page.goto("/episodes/1/loudness")
    button = page.get_by_role("button", name="Even out all sections")
    button.click(timeout=60_000)
    page.get_by_text("Even: sections within").wait_for()
    take(page, "loudness")
    page.goto("/episodes/1/release")
    page.get_by_role("button", name="Export", exact=True).click()
    page.get_by_test_id("report").wait_for(timeout=120_000)
    take(page, "release")


def setup(page: Page) -> None:
    """What new episodes of the show begin from."""
    page.goto("/")
    page.get_by_role("button", name="Slow Crossing, each week").click()
    page.get_by_test_id("setup").wait_for()
    take(page, "setup")
    page.get_by_role("button", name="Done").click()


def rundown(page: Page) -> None:
    """The running order with a place noted and a sound of the shelf opened; with one placed, and
    a part put aside."""
    page.goto("/episodes/1/rundown")
    page.get_by_role("button", name="Set a length").click()
    page.get_by_label("Wanted length").fill("4:00")
    page.keyboard.press("Enter")
    page.get_by_text("Over by").wait_for()
    page.locator("[data-rundown-row]").nth(1).click()
    sounds = page.get_by_test_id("shelf-of-sounds")
    sounds.get_by_role("button", name="Slipway opening").click()
    page.get_by_label("Position").fill("150")
    page.keyboard.press("Enter")
    page.keyboard.press("k")
    page.locator("[data-place]").wait_for()
    sounds.get_by_role("button", name="Add a file").scroll_into_view_if_needed()
    take(page, "rundown")
    sounds.get_by_role("button", name="Before the talk").click()
    page.get_by_test_id("placed-sound").wait_for()
    page.locator("[data-rundown-row]").nth(3).click()
    page.keyboard.press("Delete")
    page.get_by_test_id("aside").wait_for()
    page.get_by_role("button", name="Measure how loud").click()
    page.get_by_role("button", name="Measure how loud").wait_for(state="detached", timeout=120_000)
    page.get_by_label("Dark colours").click()
    take(page, "rundown-dark")
    page.get_by_label("Light colours").click()


SCRIPT = """Good morning from the quay at Hallin.
The six o’clock boat has been running for forty-one years.
It has been late twice, and both times it was the cow.
Today we ask Marit, who has steered it since she was nineteen."""


def recording(page: Page, guest: Page) -> None:
    """Before, while with a guest, the guest's own page, and after the microphone was unplugged."""
    page.goto("/episodes/1/record")
    page.get_by_label("Device").select_option(label="Simulated microphone")
    page.get_by_role("button", name="Switch the microphone on").click()
    page.get_by_role("button", name="Try it for five seconds").click()
    page.get_by_text("That is good").wait_for(timeout=20_000)
    take(page, "record")
    page.get_by_role("button", name="Write or paste it").click()
    page.get_by_role("textbox", name="Script or notes").fill(SCRIPT)
    page.get_by_role("button", name="Keep it").click()
    page.get_by_label("Name of the guest").fill("Marit")
    page.get_by_role("button", name="Make a link").click()
    guest.goto(page.get_by_label("Link for Marit").input_value())
    guest.get_by_label("Device").select_option(label="Simulated second voice")
    guest.get_by_role("button", name="Switch the microphone on").click()
    guest.get_by_text("You hear each other.").wait_for(timeout=20_000)
    page.get_by_role("button", name="Record", exact=True).click()
    page.wait_for_timeout(9000)
    page.keyboard.press("f")
    page.keyboard.press("ArrowDown")
    page.wait_for_timeout(12_000)
    page.keyboard.press("2")
    page.wait_for_timeout(3000)
    take(page, "recording")
    take(guest, "guest")
    page.get_by_role("button", name="End and add it").click()
    page.get_by_role("button", name="Record", exact=True).wait_for()
    guest.close()
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
        setup(page)
        snags(page)
        edit(page)
        two_tracks(page, server)
        sound(page)
        loudness_and_release(page)
        rundown(page)
        recording(page, browser.new_page(viewport={"width": 1280, "height": 800}))
        browser.close()
        server.stop()


if __name__ == "__main__":
    main()
