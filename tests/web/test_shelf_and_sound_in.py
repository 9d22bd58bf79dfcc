"""The shelf, bringing recordings in, and what happens when something is wrong."""

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, expect

from tests.reference import programme, write
from tests.serving import Server
from tests.waiting import at_rest, eventually
from tests.web.conftest import new_context


def test_a_first_show_an_episode_and_its_recording(page: Page, server: Server, demo: Path) -> None:
    page.goto("/")
    page.get_by_role("button", name="New show").click()
    page.get_by_label("Name of the show").fill("Tide Tables")
    page.get_by_role("button", name="Create").click()
    show = page.get_by_test_id("show").filter(has_text="Tide Tables")
    show.get_by_role("button", name="New episode").click()
    show.get_by_label("Title of the episode").fill("Springs and neaps")
    show.get_by_role("button", name="Create").click()
    expect(page.get_by_text("This Page is still blank")).to_be_visible()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Add a recording").click()
    looked: list[str] = []
    page.on("request", lambda r: looked.append(r.method) if "looked-at" in r.url else None)
    chooser.value.set_files(demo / "sound" / "host-opening.flac")
    # The first words stand there while the rest is still being heard: this recording is heard in
    # three stretches, of which no more than two at once; at 75 % all are heard.
    first = page.wait_for_function(
        """() => {
             const job = document.querySelector('[data-testid=job]')?.textContent ?? '';
             const done = job.match(/^Writing down.* (\\d+) %/)?.[1];
             return document.querySelector("[data-word$=':0']") && done && Number(done) < 70 &&
               [...document.querySelectorAll('[data-word]')].map(
                 (word) => [word.dataset.word, word.textContent]);
           }"""
    ).json_value()
    eventually(lambda: server.episode(2)["takes"][0]["transcribed"], page)
    words = page.locator("[data-word]")
    known = words.evaluate_all("all => all.map((word) => [word.dataset.word, word.textContent])")
    assert [word for word in known if word in first] == first
    assert looked, "what is in view is written down first"
    expect(page.get_by_test_id("history")).to_contain_text("Added “host-opening.flac”")


def test_the_shelf_tells_an_episode_by_cover_and_number(page: Page, server: Server) -> None:
    page.goto("/")
    episode = page.get_by_test_id("episode")
    expect(episode).to_contain_text("Season 1 · Episode 7 · 4:29.3")
    page.wait_for_function(
        "() => document.querySelector('[data-testid=episode] img')?.naturalWidth === 1500"
    )
    revision = server.episode(1)["revision"]
    body = {"revision": revision, "edit": {"kind": "cut", "start": 0, "frames": 96_000}}
    server.client.post("/api/episodes/1/edits", json=body)
    expect(episode).to_contain_text("4:27.3 · 0:02.0 trimmed")


def test_a_dropped_file_is_added_after_what_is_there(page: Page, server: Server) -> None:
    page.goto("/episodes/1/edit")
    before = server.episode(1)["frames"]
    expect(page.get_by_test_id("page")).to_be_visible()
    page.evaluate(
        """() => {
             const rate = 8000, seconds = 2, bytes = new ArrayBuffer(44 + rate * seconds * 2);
             const view = new DataView(bytes);
             const text = (at, s) => 
               [...s].forEach((c, i) => view.setUint8(at + i, c.charCodeAt(0)));
             text(0, 'RIFF'); view.setUint32(4, 36 + rate * seconds * 2, true); text(8, 'WAVEfmt ');
             view.setUint32(16, 16, true); view.setUint16(20, 1, true); view.setUint16(22, 1, true);
             view.setUint32(24, rate, true); view.setUint32(28, rate * 2, true);
             view.setUint16(32, 2, true); view.setUint16(34, 16, true); text(36, 'data');
             view.setUint32(40, rate * seconds * 2, true);
             for (let i = 0; i < rate * seconds; i++)
               view.setInt16(44 + i * 2, 8000 * Math.sin(i / 5), true);
             const data = new DataTransfer();
             data.items.add(new File([bytes], 'horn.wav', { type: 'audio/wav' }));
             const target = document.querySelector('[data-testid=page]');
             for (const kind of ['dragover', 'drop'])
               target.dispatchEvent(new DragEvent(kind, { dataTransfer: data, bubbles: true }));
           }"""
    )
    expect(page.get_by_test_id("history")).to_contain_text("Added “horn.wav”")
    assert server.episode(1)["frames"] == before + 96_000


def test_several_files_are_asked_how_they_belong_together(
    page: Page, server: Server, tmp_path: Path
) -> None:
    """Two that are about as long are taken for two microphones of one talk; nothing is placed
    before it is said."""
    files = [write(tmp_path / f"{name}.wav", programme(3.0, 1, n)) for n, name in
             enumerate(("Marit", "Tobin"), 1)]  # fmt: skip
    episode = server.new_episode("Two microphones")
    page.goto(f"/episodes/{episode}/edit")
    page.get_by_test_id("add-file").first.set_input_files(files[::-1])
    plan = page.get_by_test_id("together")
    expect(plan).to_contain_text("Marit.wav0:03Tobin.wav0:03")
    expect(page.get_by_role("radio", name="Side by side")).to_be_checked()
    page.get_by_role("button", name="Add nothing").click()
    assert server.episode(episode)["takes"] == []
    page.get_by_test_id("add-file").first.set_input_files(files)
    page.get_by_role("button", name="Add them").click()
    eventually(lambda: len(server.episode(episode)["tracks"]) == 2, page)
    view = server.episode(episode)
    assert {track["name"] for track in view["tracks"]} == {"Marit", "Tobin"}
    assert view["frames"] == 3 * 48_000, "both from the same moment"
    # One after the other, after what is there. Until the Page shows it, that is the blank one.
    expect(page.get_by_text("of 0:03.0")).to_be_visible()
    page.get_by_test_id("add-file").first.set_input_files(files)
    page.get_by_test_id("together").get_by_text("One after another").click()
    page.get_by_role("button", name="Add them").click()
    eventually(lambda: server.episode(episode)["frames"] == 9 * 48_000, page)


def test_renaming_and_deleting_can_be_undone(page: Page) -> None:
    page.goto("/")
    episode = page.get_by_test_id("episode")
    episode.get_by_role("button", name="Rename").click()
    page.get_by_label("Title of the episode").fill("The seven o’clock boat")
    page.keyboard.press("Enter")
    expect(episode).to_contain_text("seven")
    told = page.get_by_role("status")
    told.filter(has_text="Renamed").get_by_role("button", name="Undo").click()
    expect(episode).to_contain_text("six")
    episode.get_by_role("button", name="Delete").click()
    expect(episode).to_have_count(0)
    told.filter(has_text="deleted").get_by_role("button", name="Undo").click()
    expect(episode).to_contain_text("six")


def test_an_episode_is_archived_found_and_brought_back(page: Page, server: Server) -> None:
    page.goto("/")
    episode = page.get_by_test_id("episode")
    episode.get_by_role("button", name="Archive").click()
    archived = page.get_by_test_id("archived")
    expect(archived).to_contain_text("1 archived episode")
    expect(episode).to_be_hidden()
    archived.locator("summary").click()
    expect(episode).to_be_visible()
    told = page.get_by_role("status")
    told.filter(has_text="was archived").get_by_role("button", name="Undo").click()
    expect(archived).to_have_count(0)
    episode.get_by_role("button", name="Archive").click()
    archived.locator("summary").click()
    archived.get_by_role("button", name="Bring back").click()
    expect(archived).to_have_count(0)
    assert server.episode(1)["title"] == "The six o’clock boat"


def test_what_takes_space_is_told_and_finished_files_are_cleared(
    page: Page, server: Server
) -> None:
    server.client.post(
        "/api/episodes/1/exports",
        json={"revision": server.episode(1)["revision"], "files": [{"format": "mp3"}]},
    )
    exports = "/api/jobs?episode_id=1"

    def made() -> list[dict]:
        jobs = server.client.get(exports).json()
        return [job for job in jobs if job["kind"] == "export" and job["state"] == "done"]

    eventually(made, page)
    page.goto("/")
    space = page.get_by_test_id("space")
    space.locator("summary").click()
    expect(space).to_contain_text("All recordings look whole.")
    expect(space).to_contain_text("The six o’clock boat")
    space.get_by_role("button", name="of finished files").click()
    space.get_by_role("button", name="Delete files").click()
    expect(page.get_by_text("are free again")).to_be_visible()
    expect(space.get_by_role("button", name="of finished files")).to_have_count(0)
    assert made() == []


@pytest.mark.only_looks
@pytest.mark.parametrize("kind", ["empty", "text"])
def test_a_bad_file_gets_a_sentence(page: Page, server: Server, tmp_path: Path, kind: str) -> None:
    bad = tmp_path / "notes.wav"
    bad.write_bytes(b"" if kind == "empty" else b"these are notes, not sound. " * 200)
    page.goto("/episodes/1/edit")
    before = server.episode(1)["revision"]
    page.get_by_test_id("add-file").first.set_input_files(bad)
    sentence = "is empty (0 bytes)" if kind == "empty" else "not a sound file"
    expect(page.get_by_text(sentence).first).to_be_visible()
    assert server.episode(1)["revision"] == before


@pytest.mark.only_looks
def test_bad_artwork_gets_a_sentence(page: Page, tmp_path: Path) -> None:
    bad = tmp_path / "cover.png"
    bad.write_bytes(b"no picture")
    page.goto("/episodes/1/release")
    page.get_by_test_id("artwork-file").set_input_files(bad)
    expect(page.get_by_text("not a picture").first).to_be_visible()


def test_a_picture_that_is_not_square_is_made_to_fit_by_a_press(
    page: Page, server: Server, tmp_path: Path
) -> None:
    wide = tmp_path / "cover.webp"
    Image.new("RGB", (1600, 1200), "navy").save(wide)
    page.goto("/episodes/1/release")
    before = server.episode(1)["artwork"]
    page.get_by_test_id("artwork-file").set_input_files(wide)
    expect(page.get_by_role("dialog")).to_contain_text("read JPEG and PNG only")
    with page.expect_response("**/edits"):
        page.get_by_role("button", name="Make it fit").click()
    cover = server.client.get(f"/api/artwork/{server.episode(1)['artwork']}").content
    assert server.episode(1)["artwork"] != before
    assert Image.open(io.BytesIO(cover)).size == (1400, 1400)
    page.get_by_role("button", name="Undo").click()
    eventually(lambda: server.episode(1)["artwork"] == before, page)


def test_tags_are_kept_as_a_field_is_left_and_can_be_undone(page: Page, server: Server) -> None:
    page.goto("/episodes/1/release")
    title = page.get_by_label("Title", exact=True)
    title.fill("Half the talk")
    with page.expect_response("**/edits"):
        title.blur()
    assert server.episode(1)["tags"]["title"] == "Half the talk"
    page.get_by_role("button", name="Undo").click()
    expect(title).to_have_value("The six o’clock boat")


def test_two_tabs_stay_in_step(browser: Browser, page: Page, server: Server) -> None:
    page.goto("/episodes/1/edit")
    other = page.context.new_page()
    other.goto("/episodes/1/edit")
    bread = other.locator("[data-word]").filter(has_text="bread").first
    bread.click()
    other.keyboard.press("Delete")
    expect(page.locator("[data-word]").filter(has_text="bread")).to_have_count(0)


def test_a_long_import_shows_progress_and_can_be_cancelled(
    page: Page, server: Server, tmp_path: Path
) -> None:
    long = write(tmp_path / "long.wav", np.tile(programme(20, 1, 1), (75, 1)), 44_100)
    page.goto("/episodes/1/edit")
    page.get_by_test_id("add-file").first.set_input_files(long)
    expect(page.get_by_test_id("job")).to_contain_text("Bringing in “long.wav”")
    page.get_by_test_id("job").get_by_role("button", name="Cancel").click()
    expect(page.get_by_test_id("job")).to_have_count(0)
    assert all(take["name"] != "long.wav" for take in server.episode(1)["takes"])


@pytest.mark.only_looks
@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_text_keeps_its_contrast(browser: Browser, server: Server, scheme: str) -> None:
    """WCAG 2.1 AA: 4.5 to 1 for text, on every stage, in light and dark."""
    context = new_context(browser, server.address, color_scheme=scheme)
    page = context.new_page()
    for stage in ("edit", "loudness", "release"):
        page.goto(f"/episodes/1/{stage}")
        page.wait_for_load_state("networkidle")
        at_rest(page)
        faint = page.evaluate(CONTRAST)
        assert faint == [], (scheme, stage)
    context.close()


CONTRAST = """() => {
  const canvas = document.createElement('canvas').getContext('2d', { willReadFrequently: true });
  const rgba = (c) => {
    canvas.clearRect(0, 0, 1, 1); canvas.fillStyle = c; canvas.fillRect(0, 0, 1, 1);
    return [...canvas.getImageData(0, 0, 1, 1).data];
  };
  const lum = ([r, g, b]) => [r, g, b].map(v => v / 255)
    .map(v => v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
    .reduce((sum, v, i) => sum + v * [0.2126, 0.7152, 0.0722][i], 0);
  const out = [];
  for (const el of document.querySelectorAll('body *')) {
    const own = [...el.childNodes].some(n => n.nodeType === 3 && n.textContent.trim());
    const style = getComputedStyle(el);
    if (!own || el.closest('[disabled], [data-disabled]') || !el.checkVisibility()) continue;
    let at = el, back = [0, 0, 0, 0];
    while (at && back[3] < 255) {
      back = rgba(getComputedStyle(at).backgroundColor);
      at = at.parentElement;
    }
    const [a, b] = [lum(rgba(style.color)), lum(back)].sort((x, y) => y - x);
    const ratio = (a + 0.05) / (b + 0.05);
    if (ratio < 4.5) out.push([el.textContent.slice(0, 30), ratio.toFixed(2), style.color]);
  }
  return out;
}"""
