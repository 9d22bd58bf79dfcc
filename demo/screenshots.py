"""Take the pictures in ``docs/screenshots/`` from the demo episode: ``make screenshots``."""

import shutil
import tempfile
from pathlib import Path

import soundfile
from playwright.sync_api import Page, sync_playwright
from tests.serving import Server
from tests.web.conftest import CHROMIUM

from airtrim.demo import fill

HERE = Path(__file__).parent
PICTURES = HERE.parent / "docs" / "screenshots"


def take(page: Page, name: str) -> None:
    """A picture of what is on the screen, once the line at its head says how far the episode is."""
    if page.get_by_label("Steps of the work").count():
        page.locator("[data-step]").first.wait_for()
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


def snags(page: Page) -> None:
    """A repeat being chosen."""
    page.goto("/episodes/1/edit")
    page.get_by_text("to save").wait_for()
    page.get_by_role("button", name="Repeats 7").click()
    page.keyboard.press("z")
    take(page, "snags")


def sound(page: Page) -> None:
    """A voice with two suggestions taken, a band dragged, the compressor at work."""
    page.goto("/episodes/1/sound")
    page.get_by_role("button", name="Marit", exact=True).click()
    page.get_by_role("button", name="Do it: Take out the hum at 50 Hz").click()
    page.get_by_role("button", name="Do it: Lower the noise").click()
    page.get_by_role("button", name="Add a band").click()
    point = page.get_by_role("slider", name="Band 1", exact=True).bounding_box()
    assert point
    page.mouse.move(point["x"] + 9, point["y"] + 9)
    page.mouse.down()
    page.mouse.move(point["x"] - 80, point["y"] + 45, steps=5)
    page.mouse.up()
    page.get_by_label("Compressor", exact=True).locator("..").click()
    page.get_by_role("button", name="Set it by this voice").click()
    page.get_by_text("Being made; until then").wait_for(state="detached")
    page.get_by_text("Chain of Marit").scroll_into_view_if_needed()
    page.wait_for_timeout(1500)
    take(page, "sound")


def loudness(page: Page) -> None:
    """Evened out."""
    page.goto("/episodes/1/loudness")
    button = page.get_by_role("button", name="Even out all sections")
    button.click(timeout=60_000)
    page.get_by_text("Even: sections within").wait_for()
    page.get_by_text("Compress Tobin").scroll_into_view_if_needed()
    take(page, "loudness")


def release(page: Page, web: Path) -> None:
    """The four steps, and the show's own page that comes of them."""
    page.goto("/episodes/1/release")
    page.get_by_role("button", name="From the parts").click()
    page.locator("[data-chapter]").nth(5).wait_for()
    page.get_by_role("button", name="Times of chapters").click()
    page.get_by_test_id("description-preview").get_by_text("01:4").first.wait_for()
    take(page, "release-label")
    page.get_by_role("button", name="2 Check").click()
    page.locator("[data-check='sections']").wait_for()
    take(page, "release-check")
    page.get_by_role("button", name="3 Files").click()
    page.get_by_text("M4A (AAC)").first.click()
    page.get_by_role("button", name="Make 2 files").click()
    page.get_by_test_id("report").nth(1).wait_for(timeout=120_000)
    page.get_by_role("button", name="Play the file").first.click()
    page.get_by_test_id("said").filter(has_text="post").wait_for(timeout=60_000)
    page.get_by_role("button", name="Pause the file").click()
    take(page, "release")
    page.get_by_role("button", name="4 Hand over").click()
    page.get_by_role("button", name="Add a destination").click()
    page.get_by_label("How").select_option("site")
    page.get_by_label("Name", exact=True).fill("Our own pages")
    page.get_by_label("Path").fill(str(web))
    page.get_by_label("Address it is served under").fill("https://slowcrossing.example/")
    page.get_by_label("What the show is").fill("Small island ferries, and those who run them.")
    page.get_by_role("button", name="Keep it").click()
    page.get_by_role("button", name="Hand over as a draft").click()
    row = page.get_by_test_id("handed-over").first
    row.get_by_role("button", name="Publish", exact=True).wait_for(timeout=60_000)
    page.get_by_label("Dark colours").click()
    page.get_by_text(str(web)).evaluate("(one) => { one.textContent = '/srv/www/podcast' }")
    page.wait_for_timeout(8_000)  # what was announced is gone again
    take(page, "release-over")
    row.get_by_role("button", name="Publish", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Publish").click()
    page.get_by_text("Public", exact=True).wait_for(timeout=60_000)
    page.get_by_label("Light colours").click()
    (own,) = web.glob("airtrim-*/index.html")
    page.goto(own.as_uri())
    take(page, "site")


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


def batch(page: Page, folder: Path) -> None:
    """An episode and two files through one recipe, and a file that is no sound."""
    files = []
    for name, seconds in (("012_the_ramp", 30), ("013_nets_and_knots", 45)):
        sound, rate = soundfile.read(HERE / "sound" / "guest.flac", frames=seconds * 48_000)
        soundfile.write(folder / f"{name}.flac", sound, rate)
        files.append(folder / f"{name}.flac")
    (folder / "notes.mp3").write_bytes(b"These are no sounds." * 50)
    page.goto("/")
    page.get_by_role("link", name="Batch").click()
    page.get_by_label("The six o’clock boat").check(force=True)
    page.get_by_test_id("batch-files").set_input_files([*files, folder / "notes.mp3"])
    page.get_by_role("button", name="Make 4 episodes").click()
    page.get_by_text("3 made, 1 failed").wait_for(timeout=300_000)
    take(page, "batch")


def main() -> None:
    """Take them all."""
    PICTURES.mkdir(exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as folder,
        tempfile.TemporaryDirectory() as web,
        sync_playwright() as playwright,
    ):
        fill(Path(folder), HERE)
        server = Server(Path(folder))
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=CHROMIUM
        )
        page = browser.new_page(
            viewport={"width": 1280, "height": 800}, base_url=server.address, color_scheme="light"
        )
        page.goto("/")
        page.get_by_test_id("episode").first.wait_for()
        take(page, "shelf")
        setup(page)
        snags(page)
        edit(page)
        sound(page)
        loudness(page)
        release(page, Path(web))
        rundown(page)
        recording(page, browser.new_page(viewport={"width": 1280, "height": 800}))
        batch(page, Path(web))
        browser.close()
        server.stop()


if __name__ == "__main__":
    main()
