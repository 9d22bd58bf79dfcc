"""The Page in the browser: selecting, listening, tracks, gain, clips, marks, keys, two tabs."""

import re
import struct
from itertools import pairwise

import numpy as np
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.serving import RATE, Server
from tests.waiting import at_rest, eventually
from tests.web.conftest import new_context
from tests.web.test_tasks import (
    all_words,
    at,
    edited,
    go_to,
    open_edit,
    page_clip,
    span,
    track_of,
    word,
)


def marked(page: Page) -> list[str]:
    at_rest(page)
    found = page.locator("[data-word][data-marked]").all_inner_texts()
    return [re.sub(r"\W", "", text) for text in found]


@pytest.mark.only_looks
def test_clicks_and_keys_select_words_sentences_and_turns(page: Page) -> None:
    open_edit(page)
    x, y = at(page, sum(span(word(page, "slowest"))) // 2)
    page.mouse.dblclick(x, y)
    expect(page.locator("[data-word][data-marked]")).to_have_count(1)
    assert marked(page) == ["slowest"]
    page.mouse.click(x, y, click_count=3)
    expect(page.locator("[data-word][data-marked]").nth(1)).to_be_visible()
    assert {"slowest", "ferry", "coast"} <= set(marked(page))
    # A word more, a sentence more, ten milliseconds more.
    word(page, "slowest").click()
    page.keyboard.press("Shift+ArrowRight")
    assert marked(page) == ["slowest", "ferry"]
    page.keyboard.press("Shift+ArrowLeft")
    assert marked(page) == ["the", "slowest", "ferry"]
    page.keyboard.press("Control+Shift+ArrowRight")
    expect(page.locator("[data-word][data-marked]")).not_to_have_count(3)
    assert len(marked(page)) > 3
    start = page.get_by_label("Start of the selection")
    word(page, "slowest").click()
    before = start.input_value()
    page.keyboard.press("Alt+.")
    expect(start).not_to_have_value(before)
    # An edge by its knob.
    knob = page.locator("[data-knob=end]").bounding_box()
    page.mouse.move(knob["x"] + knob["width"] / 2, knob["y"] + 3)
    page.mouse.down()
    page.mouse.move(knob["x"] + 120, knob["y"] + 20, steps=6)
    page.mouse.up()
    assert marked(page)[0] == "slowest"
    assert len(marked(page)) > 1
    # Typed.
    page.get_by_label("End of the selection").fill("0:27.00")
    page.keyboard.press("Enter")
    assert len(marked(page)) > 8
    page.keyboard.press("Escape")
    assert marked(page) == []
    page.keyboard.press("Control+a")
    expect(page.get_by_test_id("selected")).to_contain_text("269.3 s")


@pytest.mark.only_looks
def test_zooming_keeps_what_is_pointed_at(page: Page) -> None:
    open_edit(page)
    go_to(page, 60 * RATE)
    target = page.locator("[data-word]").filter(has_text="school").first
    start, _ = span(target)
    box = target.bounding_box()
    page.mouse.move(box["x"] + 3, box["y"] - 20)
    page.keyboard.down("Control")
    page.mouse.wheel(0, 200)
    page.keyboard.up("Control")
    expect(page.get_by_text("10 s a line")).to_be_visible()
    at_rest(page)
    expect(page.locator(f"[data-start='{start}']").first).to_be_in_viewport()
    for _ in range(2):
        page.keyboard.press("+")
    expect(page.get_by_text("2 s a line")).to_be_visible()
    # At two seconds a line the wave itself is drawn, and every word has room.
    at_rest(page)
    boxes = [w.bounding_box() for w in page.locator("[data-word]:visible").all()[:40]]
    rows: dict[float, list[dict]] = {}
    for box in boxes:
        rows.setdefault(round(box["y"]), []).append(box)
    for row in rows.values():
        row.sort(key=lambda b: b["x"])
        for left, right in pairwise(row):
            assert left["x"] + left["width"] <= right["x"] + 1, "words overlap"
        assert all(b["x"] + b["width"] <= 961 for b in row), "a word is cut off"


CAPTURE = """() => {
  window.played = [];
  const start = AudioBufferSourceNode.prototype.start;
  AudioBufferSourceNode.prototype.start = function (when, ...rest) {
    window.played.push(Array.from(this.buffer.getChannelData(0)));
    return start.call(this, when, ...rest);
  };
}"""


def played(page: Page) -> np.ndarray:
    return np.concatenate([np.array(part) for part in page.evaluate("window.played")])


def listened(page: Page) -> None:
    """It began to play, and has come to its end."""
    expect(page.get_by_role("button", name="Pause", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()


def tone_wav(seconds: float, hertz: float) -> bytes:
    n = np.arange(round(seconds * RATE))
    samples = (8000 * np.sin(2 * np.pi * hertz * n / RATE)).astype("<i2").tobytes()
    head = struct.pack("<4sI4s4sIHHIIHH4sI", b"RIFF", 36 + len(samples), b"WAVE", b"fmt ", 16,
                       1, 1, RATE, RATE * 2, 2, 16, b"data", len(samples))  # fmt: skip
    return head + samples


@pytest.mark.real_time
@pytest.mark.parametrize(("speed", "hertz"), [("0.5", 500.0), ("3", 440.0)])
def test_faster_and_slower_at_the_same_pitch(
    page: Page, server: Server, speed: str, hertz: float
) -> None:
    episode = server.new_episode()
    server.wait(server.upload(episode, tone_wav(3.0, hertz)))
    page.goto(f"/episodes/{episode}/edit")
    page.get_by_label("Speed").select_option(speed)
    page.evaluate(CAPTURE)
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    sound = played(page)
    assert len(sound) / RATE == pytest.approx(3.0 / float(speed), abs=0.12)
    middle = sound[len(sound) // 4 : len(sound) * 3 // 4]
    spectrum = np.abs(np.fft.rfft(middle * np.hanning(len(middle))))
    top = np.argmax(spectrum) * RATE / len(middle)
    assert top == pytest.approx(hertz, rel=0.01)
    near = np.abs(np.fft.rfftfreq(len(middle), 1 / RATE) - hertz) < 40
    power = np.square(spectrum)
    assert power[near].sum() > 0.97 * power.sum(), "it is no clean tone any more"


@pytest.mark.real_time
def test_what_was_cut_is_shown_and_played_in_its_place(page: Page, server: Server) -> None:
    open_edit(page)
    view = server.episode(1)
    word(page, "slowest").click()
    page.keyboard.press("Delete")
    cut = edited(page, server, view["revision"])
    removed = view["frames"] - cut["frames"]
    page.keyboard.press("x")
    expect(page.locator("[data-cut-words]")).to_have_text("slowest")
    page.evaluate(CAPTURE)
    page.keyboard.press("j")
    listened(page)
    across = len(played(page))
    assert across == pytest.approx(3 * RATE, abs=RATE // 10)
    page.evaluate("() => { window.played = []; }")
    page.keyboard.press("Shift+J")
    listened(page)
    assert len(played(page)) == pytest.approx(3 * RATE + removed, abs=RATE // 10)
    # And as a preference, while simply playing.
    page.get_by_role("button", name="Play cuts").click()
    page.evaluate("() => { window.played = []; }")
    page.keyboard.press("j")
    listened(page)
    assert len(played(page)) == pytest.approx(3 * RATE + removed, abs=RATE // 10)
    page.get_by_role("button", name="Play cuts").click()
    # The splice, with its crossfade, and looping while an edge is moved.
    page.locator("[data-cut-words]").click()
    card = page.get_by_test_id("splice-card")
    card.get_by_role("button", name="Again and again").click()
    card.get_by_label("Shape of the crossfade").select_option("soft")
    after = edited(page, server, cut["revision"])
    card.get_by_label("Crossfade in milliseconds").fill("25")
    page.keyboard.press("Enter")
    after = edited(page, server, after["revision"])
    near = server.client.get(
        "/api/episodes/1/page",
        params={"revision": after["revision"], "start": 0, "frames": 60 * RATE},
    ).json()
    assert near["splices"][0]["crossfade_frames"] == 1200
    assert near["splices"][0]["shape"] == "soft"
    expect(card.get_by_role("button", name="Stop")).to_be_visible()
    card.get_by_role("button", name="Stop").click()
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()


def test_tracks_are_renamed_muted_soloed_reordered_and_deleted(page: Page, server: Server) -> None:
    open_edit(page)
    page.get_by_role("tab", name="Tracks").click()
    view = server.episode(1)
    row = page.locator("[data-track-row=Music]")
    row.get_by_label("Name of track Music").fill("Harbour organ")
    page.keyboard.press("Enter")
    now = edited(page, server, view["revision"])
    row = page.locator("[data-track-row='Harbour organ']")
    row.get_by_role("button", name="Mute").click()
    now = edited(page, server, now["revision"])
    music = next(t for t in now["tracks"] if t["name"] == "Harbour organ")
    assert music["muted"]
    silent = server.client.get(
        "/api/episodes/1/audio",
        params={"revision": now["revision"], "start": RATE, "frames": RATE},
    ).content
    assert not any(silent[44:]), "a muted track is not heard"
    row.get_by_label("Gain of Harbour organ, dB").fill("−6")
    page.keyboard.press("Enter")
    now = edited(page, server, now["revision"])
    assert next(t for t in now["tracks"] if t["name"] == "Harbour organ")["gain_db"] == -6
    row.get_by_label("Colour of Harbour organ").select_option("rose")
    now = edited(page, server, now["revision"])
    row.get_by_label("Harbour organ: up").click()
    now = edited(page, server, now["revision"])
    assert [t["name"] for t in now["tracks"]] == ["Tobin", "Harbour organ", "Marit", "Sounds"]
    page.locator("[data-track-row=Marit]").get_by_role("button", name="Solo").click()
    now = edited(page, server, now["revision"])
    page.get_by_role("button", name="Add a track").click()
    now = edited(page, server, now["revision"])
    assert now["tracks"][-1]["name"] == "Track 5"
    page.get_by_label("Delete track Harbour organ").click()
    now = edited(page, server, now["revision"])
    assert "Harbour organ" not in [t["name"] for t in now["tracks"]]
    page.keyboard.press("Control+z")
    assert "Harbour organ" in [t["name"] for t in edited(page, server, now["revision"])["tracks"]]


def test_gain_points_are_set_dragged_typed_and_deleted(page: Page, server: Server) -> None:
    open_edit(page)
    view = server.episode(1)
    host = track_of(view, "Tobin")

    def points(state: dict) -> list[dict]:
        return next(t for t in state["tracks"] if t["id"] == host)["envelope"]

    # Four points in one gesture: a dip with its ramps.
    word(page, "slowest").click()
    page.keyboard.press("Shift+D")
    now = edited(page, server, view["revision"])
    assert [p["db"] for p in points(now)] == [0, -6, -6, 0]
    handle = page.locator("[data-gain-point]").nth(1)
    box = handle.bounding_box()
    page.mouse.move(box["x"] + 6, box["y"] + 6)
    page.mouse.down()
    page.mouse.move(box["x"] + 6, box["y"] + 16, steps=4)
    page.mouse.up()
    now = edited(page, server, now["revision"])
    assert points(now)[1]["db"] < -8
    handle = page.locator("[data-gain-point]").nth(2)
    handle.focus()
    page.keyboard.press("ArrowDown")
    now = edited(page, server, now["revision"])
    assert points(now)[2]["db"] == -7
    handle = page.locator("[data-gain-point]").nth(2)
    handle.focus()
    page.keyboard.press("Enter")
    page.get_by_label("Gain in dB").fill("-3.5")
    page.get_by_label("soft").check()
    page.get_by_role("button", name="Set", exact=True).click()
    now = edited(page, server, now["revision"])
    assert points(now)[2]["db"] == -3.5
    assert points(now)[2]["shape"] == "soft"
    page.locator("[data-gain-point]").nth(0).focus()
    page.keyboard.press("Delete")
    now = edited(page, server, now["revision"])
    assert len(points(now)) == 3
    # A double click on the line sets one.
    page.keyboard.press("v")
    line = page.locator("[data-line]").nth(4).locator("svg polyline").first.bounding_box()
    page.mouse.dblclick(line["x"] + 100, line["y"] + line["height"] / 2)
    now = edited(page, server, now["revision"])
    assert len(points(now)) == 4


def test_a_clip_is_dragged_and_comes_to_rest_at_what_is_near(page: Page, server: Server) -> None:
    view = server.episode(1)
    music = track_of(view, "Music")
    open_edit(page)
    page.get_by_role("tab", name="Tracks").click()
    go_to(page, 3 * RATE)
    x, y = at(page, 100, music)
    page.mouse.move(x + 60, y)
    grip = page.locator(f"[data-track='{music}'] [data-clip-grip='0']")
    box = grip.bounding_box()
    page.mouse.move(box["x"] + 10, box["y"] + 5)
    page.mouse.down()
    # Let go a few pixels beside the playhead: it comes to stand at the playhead.
    target, _ = at(page, 3 * RATE, music)
    page.mouse.move(target + 4, box["y"] + 12, steps=12)
    page.mouse.up()
    now = edited(page, server, view["revision"])
    assert page_clip(server, now["revision"], music)["start"] == 3 * RATE
    # Its fades, typed.
    page.get_by_label("Track to act on").select_option(music)
    go_to(page, 4 * RATE)
    card = page.get_by_test_id("clip")
    expect(card.get_by_label("Where the clip begins")).to_have_value("0:03.00")
    card.get_by_label("Fade in, seconds").fill("1.5")
    page.keyboard.press("Enter")
    now = edited(page, server, now["revision"])
    assert page_clip(server, now["revision"], music)["fade_in"] == 72_000


def test_markers_and_sections_are_set_named_moved_and_reached(page: Page, server: Server) -> None:
    open_edit(page)
    view = server.episode(1)
    go_to(page, 20 * RATE)
    page.keyboard.press("m")
    now = edited(page, server, view["revision"])
    assert now["markers"][0]["at"] == 20 * RATE
    page.get_by_role("tab", name="Marks").click()
    marks = page.get_by_test_id("marks")
    marks.get_by_label("Name of Note").fill("Ask for the year")
    page.keyboard.press("Enter")
    now = edited(page, server, now["revision"])
    assert now["markers"][0]["name"] == "Ask for the year"
    marks.get_by_label("Where Note stands").fill("0:21.50")
    page.keyboard.press("Enter")
    now = edited(page, server, now["revision"])
    assert now["markers"][0]["at"] == round(21.5 * RATE)
    page.keyboard.press("Home")
    page.keyboard.press("n")
    expect(page.get_by_label("Position")).to_have_value("0:21.5")
    # A boundary is dragged by its name.
    opening = now["sections"][1]
    page.keyboard.press("Home")
    at_rest(page)
    tag = page.locator(f"[data-section={opening['id']}]")
    box = tag.bounding_box()
    page.mouse.move(box["x"] + 10, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 90, box["y"] + 8, steps=5)
    page.mouse.up()
    moved = edited(page, server, now["revision"])
    assert moved["sections"][1]["at"] > opening["at"] + RATE // 3
    assert moved["sections"][1]["id"] == opening["id"]
    page.keyboard.press("Home")
    page.keyboard.press("PageDown")
    position = page.get_by_label("Position")
    expect(position).to_have_attribute("data-at", str(moved["sections"][1]["at"]))


@pytest.mark.only_looks
def test_keys_can_be_changed_but_not_to_one_that_is_taken(page: Page) -> None:
    open_edit(page)
    page.keyboard.press("?")
    sheet = page.get_by_role("dialog")
    change = sheet.get_by_label("Change the key for: Loop the selection")
    change.click()
    page.keyboard.press("c")
    expect(sheet.get_by_role("alert")).to_contain_text("is already: Cover with")
    page.keyboard.press("Control+t")
    expect(sheet.get_by_role("alert")).to_contain_text("belongs to the browser")
    page.keyboard.press("4")
    expect(change).to_have_text("4")
    page.keyboard.press("Escape")
    page.reload()
    expect(word(page, "ferry")).to_be_visible()
    word(page, "slowest").click()
    position = page.get_by_label("Position")
    seen: list[float] = []

    def goes_round() -> bool:
        seen.append(float(position.input_value().rpartition(":")[2]))
        return any(later < earlier for earlier, later in pairwise(seen))

    page.keyboard.press("4")
    expect(page.get_by_role("button", name="Pause", exact=True)).to_be_visible()
    eventually(goes_round, page)
    expect(page.get_by_role("button", name="Pause", exact=True)).to_be_visible()
    page.keyboard.press("4")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()


def test_no_two_actions_share_a_key_and_none_is_the_browsers(page: Page) -> None:
    open_edit(page)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog").locator("kbd").first).to_be_visible()
    sheet = page.get_by_role("dialog")
    keys = sheet.locator("kbd").all_inner_texts()
    # The last of them do it elsewhere: 17 while recording and on Sound, ten on Rundown.
    own, elsewhere = keys[:-27], keys[-27:]
    assert len(own) > 70
    assert len(own) == len(set(own))
    assert len(set(elsewhere[-10:])) == 10
    assert len(set(elsewhere[:13])) == 13, "those of Record"
    taken = {"Ctrl T", "Ctrl W", "Ctrl N", "Ctrl R", "Ctrl F", "Ctrl P", "Ctrl S", "F5", "Tab"}
    assert not taken & set(own)


def test_two_tabs_stay_in_step_and_a_change_without_its_audio_is_refused(
    page: Page, browser: Browser, server: Server
) -> None:
    open_edit(page)
    other = new_context(browser, server.address)
    second = other.new_page()
    open_edit(second)
    word(page, "slowest").click()
    page.keyboard.press("Delete")
    expect(word(second, "slowest")).to_have_count(0)
    # The second tab does not hear of the next changes, and makes its own.
    second.route("**/api/episodes/1", lambda route: route.abort())
    view = server.episode(1)
    word(page, "morning").click()
    page.keyboard.press("Delete")
    now = edited(page, server, view["revision"])
    word(second, "morning").click()
    second.keyboard.press("Delete")
    dialog = second.get_by_role("alertdialog")
    expect(dialog).to_contain_text("was not made")
    assert server.episode(1)["revision"] == now["revision"]
    second.unroute("**/api/episodes/1")
    dialog.get_by_role("button", name="Done").click()
    expect(dialog).to_have_count(0)
    # Audio that is still there is found, wherever it is now.
    word(second, "boat").click()
    second.keyboard.press("Delete")
    after = edited(second, server, now["revision"])
    assert after["cuts"] == now["cuts"] + 1
    other.close()


def test_a_recording_is_dropped_between_words_and_beside(page: Page, server: Server) -> None:
    open_edit(page)
    view = server.episode(1)
    x, y = at(page, 21 * RATE)
    drop = """([bytes, x, y, shift]) => {
      const data = new DataTransfer();
      data.items.add(new File([new Uint8Array(bytes)], "gull.wav", { type: "audio/wav" }));
      const on = document.elementFromPoint(x, y);
      for (const type of ["dragover", "drop"]) {
        on.dispatchEvent(new DragEvent(type, {
          bubbles: true, cancelable: true, dataTransfer: data, clientX: x, clientY: y,
          shiftKey: shift,
        }));
      }
    }"""
    page.evaluate(drop, [list(tone_wav(1.0, 700)), x, y, False])
    now = edited(page, server, view["revision"])
    assert now["frames"] == view["frames"] + RATE
    words = all_words(server, now["revision"])
    stretch = server.client.get(
        "/api/episodes/1/page",
        params={"revision": now["revision"], "start": 19 * RATE, "frames": 4 * RATE},
    ).json()
    gull = next(c for c in stretch["clips"] if c["frames"] == RATE)
    assert gull["track"] == track_of(view, "Tobin")
    end = gull["start"] + gull["frames"]
    assert not [w for w in words if w["start"] < end - 480 and w["end"] > gull["start"] + 480]
    server.wait_all()
    page.evaluate(drop, [list(tone_wav(1.5, 900)), x, y, True])
    beside = edited(page, server, now["revision"])
    assert beside["frames"] == now["frames"]
    assert beside["tracks"][-1]["name"] == "gull"


@pytest.mark.only_looks
def test_the_menu_offers_what_the_keys_do(page: Page) -> None:
    open_edit(page)
    word(page, "slowest").click(button="right")
    menu = page.get_by_role("menu")
    expect(menu.get_by_role("menuitem").filter(has_text="Cut from every track")).to_be_visible()
    expect(menu).to_contain_text("Cover with room tone")
    menu.get_by_role("menuitem").filter(has_text="Select this sentence").click()
    expect(page.locator("[data-word][data-marked]").nth(1)).to_be_visible()


@pytest.mark.only_looks
def test_zooming_at_a_place_does_not_go_back_to_the_playhead(page: Page) -> None:
    open_edit(page)
    go_to(page, 20 * RATE)
    box = page.get_by_test_id("page").bounding_box()
    target = page.locator("[data-word]").filter(has_text="school").first
    page.mouse.move(box["x"] + 300, box["y"] + 300)
    while not target.count():
        page.mouse.wheel(0, 300)
        at_rest(page)
    target.scroll_into_view_if_needed()
    at_rest(page)
    start, _ = span(target)
    box = target.bounding_box()
    page.mouse.move(box["x"] + 3, box["y"] - 20)
    page.keyboard.down("Control")
    page.mouse.wheel(0, -200)
    page.keyboard.up("Control")
    expect(page.get_by_text("2 s a line")).to_be_visible()
    at_rest(page)
    expect(page.locator(f"[data-start='{start}']").first).to_be_in_viewport()
    expect(page.get_by_label("Position")).to_have_value("0:20.0")
