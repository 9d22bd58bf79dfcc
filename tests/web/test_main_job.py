"""The main job, as a host does it in the browser, on the demo."""

import re
from itertools import pairwise
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, Route, expect

from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.release.tags import read_tags
from airtrim.core.speech.models import packaged_model
from airtrim.core.speech.recognise import recognised
from tests.reference import RATE, decoded, ffmpeg_loudness, write
from tests.serving import Server
from tests.waiting import at_rest, eventually
from tests.web.selecting import more


def word(page: Page, text: str) -> Locator:
    exact = re.compile(rf"^{text}[.,!?]?$")
    return page.locator("[data-word]").filter(has_text=exact).first


def span(locator: Locator) -> tuple[int, int]:
    return int(locator.get_attribute("data-start")), int(locator.get_attribute("data-end"))


def open_page(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="The six o’clock boat").click()
    expect(word(page, "slowest")).to_be_visible()


def marked(page: Page) -> list[str]:
    return page.locator("[data-word][data-marked]").all_inner_texts()


def frames_of(selection: Locator, page: Page) -> tuple[float, float]:
    """The span that the highlight on the skyline covers, from where it stands on the screen."""
    line = selection.locator("xpath=ancestor::*[@data-line]")
    box, whole = selection.bounding_box(), line.bounding_box()
    start, frames = int(line.get_attribute("data-line")), int(line.get_attribute("data-frames"))
    left = start + (box["x"] - whole["x"]) / whole["width"] * frames
    return left, left + box["width"] / whole["width"] * frames


def words_of(path: Path, folder: Path) -> list[str]:
    folder.mkdir()
    info = store_take(path, folder / "sound", folder / "peaks", name="export")
    found = recognised(TakeReader(folder / "sound").read, info.frames, packaged_model())
    return [re.sub(r"\W", "", w.text.lower()) for w in found]


def test_the_main_job(page: Page, server: Server, tmp_path: Path) -> None:
    open_page(page)
    length = server.episode(1)["frames"]

    # Play: the playhead moves, pause holds it.
    page.keyboard.press("Space")
    position = page.get_by_label("Position")
    expect(position).not_to_have_value(re.compile(r"^0:00\.[0-7]$"))
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    held = position.input_value()
    at_rest(page)
    assert position.input_value() == held != "0:00.0"

    # A word in the text is the same span on the skyline.
    target = word(page, "slowest")
    start, end = span(target)
    target.click()
    assert marked(page) == ["slowest"]
    left, right = frames_of(page.get_by_test_id("selection"), page)
    one_pixel = 5 * RATE / 700
    assert left == pytest.approx(start, abs=2 * one_pixel)
    assert right == pytest.approx(end, abs=2 * one_pixel)

    # Cut it.
    page.keyboard.press("Delete")
    expect(word(page, "slowest")).to_have_count(0)
    expect(page.locator("[data-splice]").first).to_be_visible()
    cut = server.episode(1)
    assert length - cut["frames"] == pytest.approx(end - start, abs=2 * 1440)
    expect(page.get_by_test_id("history")).to_contain_text("Cut 0.")

    # A drag over the skyline marks the words that sound there.
    first, last = word(page, "morning"), word(page, "six")
    a, b = first.bounding_box(), last.bounding_box()
    line = first.locator("xpath=ancestor::*[@data-line]").bounding_box()
    page.mouse.move(a["x"] - 4, line["y"] + 20)
    page.mouse.down()
    page.mouse.move(b["x"] + b["width"] + 2, line["y"] + 20, steps=8)
    page.mouse.up()
    assert marked(page)[0] == "morning"
    assert [re.sub(r"\W", "", t) for t in marked(page)] == ["morning", "at", "ten", "past", "six"]
    expect(page.get_by_test_id("selected")).to_contain_text("morning at ten past six")

    # Undo, redo, reload.
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    expect(word(page, "slowest")).to_be_visible()
    page.keyboard.press("Control+Shift+z")
    expect(word(page, "slowest")).to_have_count(0)
    page.reload()
    expect(word(page, "ferry")).to_be_visible()
    expect(word(page, "slowest")).to_have_count(0)
    assert server.episode(1)["frames"] == cut["frames"]

    # Even out.
    page.get_by_role("link", name="Loudness", exact=True).click()
    button = page.get_by_role("button", name="Even out all sections")
    expect(button).to_be_enabled()
    expect(page.get_by_test_id("evenness")).to_contain_text("LU apart")
    button.click()
    expect(page.get_by_test_id("evenness")).to_contain_text("within")
    expect(page.get_by_test_id("sections").get_by_text("−16.0 LUFS")).to_have_count(6)

    # Export and download.
    page.get_by_role("link", name="Release", exact=True).click()
    page.get_by_role("button", name="3 Files").click()
    page.get_by_role("button", name="Make the file").click()
    expect(page.get_by_test_id("report")).to_be_visible()
    expect(page.get_by_test_id("report")).to_contain_text("Reads −16.0 LUFS")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Download").click()
    assert waiting.value.suggested_filename == "Slow Crossing - The six o’clock boat.mp3"
    path = tmp_path / "export.mp3"
    waiting.value.save_as(path)

    # The file: on target, tagged, and without the word.
    sound = decoded(path)
    figures = ffmpeg_loudness(sound)
    assert figures["integrated"] == pytest.approx(-16.0, abs=0.2)
    assert figures["true_peak"] <= -0.9
    assert len(sound) == pytest.approx(cut["frames"], abs=4800)
    tags = read_tags(path)
    assert tags["title"] == "The six o’clock boat"
    assert tags["episode"] == "7"
    assert tags["artwork"] == "1500 × 1500"
    write(tmp_path / "first.wav", sound[: 60 * RATE])
    said = words_of(tmp_path / "first.wav", tmp_path / "again")
    assert "slowest" not in said
    assert "ferry" in said
    assert said.index("morning") < said.index("harbor" if "harbor" in said else "harbour")


def test_a_cut_is_put_back_at_its_splice(page: Page, server: Server) -> None:
    open_page(page)
    whole = server.episode(1)["frames"]
    word(page, "bread").click()
    page.get_by_test_id("selection-bar").get_by_role("button", name="Cut").click()
    expect(word(page, "bread")).to_have_count(0)
    page.locator("[data-splice]").first.click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("bread")
    dialog.get_by_role("button", name="Put it back").click()
    expect(word(page, "bread")).to_be_visible()
    assert server.episode(1)["frames"] == whole


def test_a_word_is_corrected_and_the_sound_stays(page: Page, server: Server) -> None:
    open_page(page)
    before = server.episode(1)
    word(page, "harbor").click()
    page.get_by_label("Written as").fill("harbour")
    page.get_by_role("button", name="Correct", exact=True).click()
    expect(word(page, "harbour")).to_be_visible()
    after = server.episode(1)
    assert (after["frames"], after["cuts"]) == (before["frames"], 0)
    page.get_by_role("button", name="Undo").click()
    expect(word(page, "harbor")).to_be_visible()


def test_a_section_starts_where_the_host_says(page: Page, server: Server) -> None:
    open_page(page)
    at, _ = span(word(page, "carries"))
    word(page, "carries").click()
    more(page, "Section")
    expect(page.get_by_test_id("page").get_by_text("New section")).to_be_visible()
    assert at in [section["at"] for section in server.episode(1)["sections"]]


@pytest.mark.only_looks
def test_zoom_keeps_the_playheads_line_in_view(page: Page) -> None:
    open_page(page)
    word(page, "slowest").click()
    for _ in range(2):
        page.keyboard.press("-")
    expect(page.get_by_text("20 s a line")).to_be_visible()
    expect(word(page, "slowest")).to_be_in_viewport()
    for _ in range(3):
        page.keyboard.press("+")
    expect(page.get_by_text("2 s a line")).to_be_visible()
    expect(word(page, "slowest")).to_be_in_viewport()


@pytest.mark.only_looks
def test_a_typed_time_brings_its_line_into_view(page: Page) -> None:
    open_page(page)
    for time, seconds in (("4:12", 252), ("0:11", 11), ("2:31.5", 151.5)):
        page.get_by_label("Position").fill(time)
        page.keyboard.press("Enter")
        expect(page.get_by_label("Position")).to_have_attribute("data-at", str(int(seconds * RATE)))
        page.wait_for_function(
            """() => {
              const heads = [...document.querySelectorAll('[data-playhead]')]
                .filter((bar) => bar.style.display === 'block')
                .map((bar) => bar.getBoundingClientRect().top);
              return heads.length && heads.every((top) => 52 <= top && top <= 736);
            }""",
        )
        at_rest(page)


@pytest.mark.only_looks
def test_air_is_told_on_the_strip_of_who_spoke_last(page: Page) -> None:
    """At two minutes a line, where host and guest have a strip each."""
    open_page(page)
    for _ in range(4):
        page.keyboard.press("-")
    told = """() => {
         const voice = (word) => word.dataset.word.split('-')[0].split(':')[0];
         const words = [...document.querySelectorAll('[data-word]')];
         return [...document.querySelectorAll('[data-air]')].map((chip) => {
           const before = words.filter((w) => +w.dataset.end <= +chip.dataset.start);
           const last = before.sort((a, b) => b.dataset.end - a.dataset.end)[0];
           const beside = chip.parentElement.querySelector('[data-word]');
           return last && beside ? [voice(last), voice(beside)] : null;
         }).filter(Boolean);
       }"""
    voices: list = []

    def both() -> bool:
        voices[:] = page.evaluate(told)
        return {"host", "guest"} <= {last for last, _ in voices}

    eventually(both, page)
    assert all(last == beside for last, beside in voices)


@pytest.mark.only_looks
@pytest.mark.parametrize("clicks", [0, 2, 4])
def test_no_word_is_clipped_or_stands_on_another(page: Page, clicks: int) -> None:
    """At 5, 20 and 120 seconds a line."""
    open_page(page)
    for _ in range(clicks):
        page.keyboard.press("-")
    at_rest(page)
    boxes = page.evaluate(
        """() => [...document.querySelectorAll('[data-word]')].map(w => {
             const b = w.getBoundingClientRect();
             const l = w.closest('[data-line]').getBoundingClientRect();
             return [b.left, b.right, Math.round(b.top), l.left, l.right, w.textContent];
           })"""
    )
    assert len(boxes) > 30
    rows: dict[int, list] = {}
    for box in boxes:
        assert box[0] >= box[3] - 1, box
        assert box[1] <= box[4] + 2, box
        rows.setdefault(box[2], []).append(box)
    for row in rows.values():
        row.sort()
        for left, right in pairwise(row):
            assert left[1] <= right[0] + 1, (left, right)


@pytest.mark.only_looks
def test_keys_move_by_word_and_extend_the_selection(page: Page) -> None:
    # The stretch with the first words comes last: the key goes to them all the same.
    first: list[Route] = []
    late = re.compile(r"/page\?.*start=0&")
    page.route(late, lambda route: first.append(route))
    open_page(page)
    eventually(lambda: first, page)
    with page.expect_response("**/next?*"):
        page.keyboard.press("ArrowRight")
    for route in first:
        route.continue_()
    page.unroute(late)
    start, _ = span(word(page, "Every"))
    position = page.get_by_label("Position")
    expect(position).not_to_have_value("0:00.0")
    shown = position.input_value()
    assert float(shown.split(":")[1]) == pytest.approx(start / RATE, abs=0.11)
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("[data-word][data-marked]")).to_have_count(2)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("Next word")
