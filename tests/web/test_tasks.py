"""Tasks that a host does on the Page, as ``docs/tasks.md`` tells them, counted as they are done.

What comes of each is measured on the document and on the rendered sound.
"""

import io
import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Locator, Page, expect

from tests.serving import RATE, Server
from tests.waiting import at_rest, eventually


class Hand:
    """The host's hand: every click, drag, key and typed text is one action."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.actions = 0

    def click(self, what: Locator, **options) -> None:
        self.actions += 1
        what.click(**options)

    def choose(self, what: Locator, value: str) -> None:
        self.actions += 1
        what.select_option(value)

    def key(self, key: str) -> None:
        self.actions += 1
        self.page.keyboard.press(key)

    def type(self, text: str) -> None:
        self.actions += 1
        self.page.keyboard.type(text)

    def drop(self, what: Locator, onto: Locator) -> None:
        self.actions += 1
        what.drag_to(onto)

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        self.actions += 1
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move(*end, steps=10)
        self.page.mouse.up()


@pytest.fixture
def hand(page: Page) -> Hand:
    return Hand(page)


TASKS = Path(__file__).parents[2] / "docs" / "tasks.md"


def told(task: str) -> int:
    """How many actions the documentation says that a task takes."""
    row = re.search(rf"^\| {re.escape(task)} \|.*\| (\d+) \|$", TASKS.read_text(), re.M)
    assert row, f"{task} is not in docs/tasks.md"
    return int(row.group(1))


def word(page: Page, text: str, number: int = 0) -> Locator:
    exact = re.compile(rf"^{text}[.,!?]?$")
    return page.locator("[data-word]").filter(has_text=exact).nth(number)


def span(locator: Locator) -> tuple[int, int]:
    return int(locator.get_attribute("data-start")), int(locator.get_attribute("data-end"))


def open_edit(page: Page) -> None:
    page.goto("/episodes/1/edit")
    expect(word(page, "ferry")).to_be_visible()
    expect(page.get_by_role("tablist")).to_be_visible()


def sound(server: Server, start: int, frames: int) -> np.ndarray:
    """The finished sound as the player gets it."""
    revision = server.episode(1)["revision"]
    answer = server.client.get(
        "/api/episodes/1/audio",
        params={"revision": revision, "start": start, "frames": frames},
    )
    return soundfile.read(io.BytesIO(answer.content), dtype="float32")[0]


def level_db(part: np.ndarray) -> float:
    return float(20 * np.log10(np.sqrt(np.mean(np.square(part))) + 1e-9))


def at(page: Page, frame: int, track: str | None = None) -> tuple[float, float]:
    """Where a frame of a track stands on the screen."""
    for line in page.locator("[data-line]").all():
        start = int(line.get_attribute("data-line"))
        frames = int(line.get_attribute("data-frames"))
        if start <= frame < start + frames:
            box = line.bounding_box()
            strip = line.locator(f"[data-track='{track}']") if track else line
            upright = strip.bounding_box()
            return box["x"] + (frame - start) / frames * box["width"], upright["y"] + 22
    raise AssertionError("that frame is not in view")


def go_to(page: Page, frame: int) -> None:
    """Bring a frame into view, as a click on the Spine or playing would; not counted."""
    field = page.get_by_label("Position")
    field.fill(f"{frame / RATE:.2f}")
    field.press("Enter")
    at_rest(page)


def edited(page: Page, server: Server, revision: int) -> dict:
    """The episode once it has moved on from a revision, and all of the screen with it."""

    def moved() -> dict | None:
        view = server.episode(1)
        shown = page.locator("[data-revision]").get_attribute("data-revision")
        return view if view["revision"] != revision and shown == str(view["revision"]) else None

    return eventually(moved, page)


def track_of(view: dict, name: str) -> str:
    return next(t["id"] for t in view["tracks"] if t["name"] == name)


@pytest.fixture
def two_voices(server: Server) -> dict:
    """The guest's answer laid under the host's opening, so that both speak at once."""
    view = server.episode(1)
    guest = track_of(view, "Marit")
    page = server.client.get(
        "/api/episodes/1/page",
        params={"revision": view["revision"], "start": 0, "frames": 250 * RATE},
    ).json()
    clip = next(c for c in page["clips"] if c["track"] == guest)
    answer = server.client.post(
        "/api/episodes/1/edits",
        json={
            "revision": view["revision"],
            "edit": {
                "kind": "move_clip",
                "track": guest,
                "at": clip["start"],
                "to_track": guest,
                "to": 12 * RATE,
            },
        },
    )
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_a_cough_is_covered_on_one_track_while_the_other_speaks(
    page: Page, hand: Hand, server: Server, two_voices: dict
) -> None:
    view = two_voices
    guest = track_of(view, "Marit")
    open_edit(page)
    start, end = 14 * RATE, 14 * RATE + RATE // 2
    before = sound(server, 12 * RATE, 4 * RATE)
    go_to(page, start)
    hand.drag(at(page, start, guest), at(page, end, guest))
    expect(page.get_by_label("Track to act on")).to_have_value(guest)
    hand.key("c")
    after_view = edited(page, server, view["revision"])
    assert after_view["frames"] == view["frames"]
    stretch = server.client.get(
        "/api/episodes/1/page",
        params={"revision": after_view["revision"], "start": start, "frames": RATE // 2},
    ).json()
    tone = [c for c in stretch["clips"] if c["tone"]]
    assert len(tone) == 1
    assert tone[0]["track"] == guest
    assert tone[0]["start"] == pytest.approx(start, abs=RATE // 50)
    assert tone[0]["frames"] == pytest.approx(RATE // 2, abs=RATE // 25)
    # The host goes on, undisturbed; what was before and after is the same sound.
    after = sound(server, 12 * RATE, 4 * RATE)
    assert np.abs(after[: RATE + RATE // 2] - before[: RATE + RATE // 2]).max() < 2e-4
    assert np.abs(after[3 * RATE :] - before[3 * RATE :]).max() < 2e-4
    assert hand.actions == told("cover a cough")


def test_a_four_second_gap_is_closed_to_0_6_s(page: Page, hand: Hand, server: Server) -> None:
    view = server.episode(1)
    added = server.client.post(
        "/api/episodes/1/edits",
        json={
            "revision": view["revision"],
            "edit": {"kind": "add_air", "at": round(23.0 * RATE), "frames": round(1.5 * RATE)},
        },
    ).json()
    open_edit(page)
    chip = page.locator("[data-air]").filter(has_text=re.compile(r"^[34]\.\d s$")).first
    start, end = span(chip)
    gap = end - start
    assert gap > 3.5 * RATE
    hand.click(chip)
    hand.click(page.get_by_role("button", name="0.6 s", exact=True))
    after = edited(page, server, added["revision"])
    assert added["frames"] - after["frames"] == gap - round(0.6 * RATE)
    assert hand.actions == told("close a gap")


def test_everything_before_welcome_and_after_goodbye_is_cut(
    page: Page, hand: Hand, server: Server
) -> None:
    """In the demo the talk begins with “Every morning” and ends where its last word does."""
    open_edit(page)
    view = server.episode(1)
    first = word(page, "Every")
    start, _ = span(first)
    hand.click(first)
    stretch = all_words(server, view["revision"])
    assert stretch[0]["text"] == "Every"
    go_to(page, stretch[-1]["start"])
    last = page.locator(f"[data-start='{stretch[-1]['start']}']")
    hand.click(last, modifiers=["Shift"])
    hand.key("k")
    done = edited(page, server, view["revision"])
    rest = all_words(server, done["revision"])
    assert rest[0]["start"] < RATE <= start
    assert [w["text"] for w in rest] == [w["text"] for w in stretch]
    assert done["frames"] - rest[-1]["end"] < RATE
    assert hand.actions == told("cut off both ends")
    hand.key("Control+z")
    edited(page, server, done["revision"])
    assert server.episode(1)["frames"] == view["frames"]


def all_words(server: Server, revision: int) -> list[dict]:
    stretch = server.client.get(
        "/api/episodes/1/page",
        params={"revision": revision, "start": 0, "frames": 400 * RATE},
    )
    return stretch.json()["words"]


def test_a_sentence_is_moved_to_the_front(page: Page, hand: Hand, server: Server) -> None:
    open_edit(page)
    view = server.episode(1)
    hand.click(word(page, "slowest"))
    hand.key("e")
    expect(page.locator("[data-word][data-marked]").nth(3)).to_be_visible()
    moved = [re.sub(r"\W", "", t) for t in page.locator("[data-marked]").all_inner_texts()]
    hand.key("Shift+G")
    after = edited(page, server, view["revision"])
    assert after["frames"] == view["frames"]
    stretch = server.client.get(
        "/api/episodes/1/page",
        params={"revision": after["revision"], "start": 0, "frames": 4 * RATE},
    ).json()
    said = [re.sub(r"\W", "", w["text"]) for w in stretch["words"]]
    assert said[: len(moved)] == moved
    assert "slowest" in said
    assert hand.actions == told("move a sentence to the front")


def test_a_splice_that_clipped_a_breath_is_repaired(page: Page, hand: Hand, server: Server) -> None:
    """A cut made without care, 150 ms into what should have stayed, is given back by its edge."""
    open_edit(page)
    view = server.episode(1)
    start, _ = span(word(page, "harbor"))
    rough = server.client.post(
        "/api/episodes/1/edits",
        json={
            "revision": view["revision"],
            "edit": {"kind": "cut", "start": start - 7200, "frames": RATE},
            "snap": False,
        },
    ).json()
    page.reload()
    stitch = page.locator("[data-splice]").first
    hand.click(stitch)
    card = page.get_by_test_id("splice-card")
    expect(card).to_contain_text("1.0 s cut here")
    revision = rough["revision"]
    for _ in range(3):
        hand.click(card.get_by_label("Left edge 10 ms later"))
        revision = edited(page, server, revision)["revision"]
    stretch = server.client.get(
        "/api/episodes/1/page",
        params={"revision": revision, "start": start - RATE, "frames": 2 * RATE},
    ).json()
    splice = stretch["splices"][0]
    assert splice["at"] == start - 7200 + 3 * 480
    assert splice["frames"] == RATE - 3 * 480
    assert server.episode(1)["frames"] == rough["frames"] + 3 * 480
    # The edge can be dragged as well, and the whole put back.
    edge = page.locator("[data-edge='left']").bounding_box()
    middle = edge["x"] + edge["width"] / 2, edge["y"] + 6
    hand.drag(middle, (middle[0] + 12, middle[1]))
    dragged = edited(page, server, revision)
    assert dragged["frames"] > rough["frames"] + 3 * 480
    hand.click(page.get_by_test_id("splice-card").get_by_role("button", name="Put it back"))
    assert edited(page, server, dragged["revision"])["frames"] == view["frames"]
    assert hand.actions == told("repair a splice")


def test_every_place_of_some_words_is_found_and_cut(page: Page, hand: Hand, server: Server) -> None:
    open_edit(page)
    view = server.episode(1)
    hand.key("/")
    hand.type("the ferry")
    found = page.get_by_test_id("find")
    expect(found.get_by_role("status")).to_contain_text(re.compile(r"\d+ places?"))
    hits = int(re.search(r"\d+", found.get_by_role("status").inner_text()).group())
    assert hits >= 2
    expect(page.locator("[data-spine-hit]")).to_have_count(hits)
    hand.key("Enter")
    expect(page.locator("[data-marked]").first).to_be_visible()
    # One of them is kept.
    hand.click(found.locator("[data-part=control]").first)
    expect(found.get_by_role("checkbox").first).not_to_be_checked()
    hand.click(found.get_by_role("button", name=re.compile(r"^Cut th")))
    after = edited(page, server, view["revision"])
    assert after["cuts"] - view["cuts"] == hits - 1
    expect(found.get_by_role("status")).to_contain_text("1 place")
    assert hand.actions == told("cut every “you know”")
    page.get_by_role("tab", name="History").click()
    expect(page.get_by_test_id("history")).to_contain_text(f"Cut “the ferry” {hits - 1} time")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    eventually(lambda: server.episode(1)["frames"] == view["frames"], page)  # one undo for all


def test_music_is_placed_to_end_where_the_talk_begins(
    page: Page, hand: Hand, server: Server
) -> None:
    view = server.episode(1)
    music = track_of(view, "Music")
    open_edit(page)
    first = word(page, "Every")
    talk, _ = span(first)
    hand.click(first)
    page.keyboard.press("Escape")
    # The clip of the music is the one under the playhead of its track: go there, then say its end.
    page.get_by_label("Track to act on").select_option(music)
    go_to(page, 2 * RATE)
    hand.click(page.get_by_role("tab", name="Tracks"))
    card = page.get_by_test_id("clip")
    expect(card).to_be_visible()
    length = page_clip(server, view["revision"], music)["frames"]
    begins = card.get_by_label("Where the clip begins")
    hand.click(begins)
    page.keyboard.press("Control+a")
    hand.type(f"{(talk - length) / RATE:.4f}")
    hand.key("Enter")
    after = edited(page, server, view["revision"])
    clip = page_clip(server, after["revision"], music)
    assert clip["start"] + clip["frames"] == pytest.approx(talk, abs=RATE // 100)
    hand.key("Control+z")
    undone = edited(page, server, after["revision"])
    assert page_clip(server, undone["revision"], music)["start"] == 0
    assert hand.actions == told("end the music where the talk begins")


def page_clip(server: Server, revision: int, track: str) -> dict:
    stretch = server.client.get(
        "/api/episodes/1/page", params={"revision": revision, "start": 0, "frames": 20 * RATE}
    ).json()
    return next(c for c in stretch["clips"] if c["track"] == track)


def test_all_of_it_is_undone_and_redone_across_a_restart(
    page: Page, hand: Hand, server: Server
) -> None:
    open_edit(page)
    view = server.episode(1)
    revisions = [view["revision"]]
    for text, key in (("slowest", "Delete"), ("morning", "c"), ("boat", "Shift+D")):
        hand.click(word(page, text))
        hand.key(key)
        revisions.append(edited(page, server, revisions[-1])["revision"])
        # What is clicked next is where it stands after this.
        at_rest(page)
    hand.click(page.get_by_role("tab", name="History"))
    done = page.get_by_test_id("history").locator("button")
    expect(done.nth(0)).to_contain_text("dB for")
    expect(done.nth(1)).to_contain_text("Covered")
    expect(done.nth(2)).to_contain_text("Cut 0.")
    # Any state of it, at one click; forwards again as well.
    hand.click(done.nth(3))
    assert edited(page, server, revisions[-1])["frames"] == view["frames"]
    server.kill()
    server.start()
    page.reload()
    expect(word(page, "ferry")).to_be_visible()
    hand.key("Control+Shift+z")
    expect(word(page, "slowest")).to_have_count(0)
    hand.key("Control+Shift+z")
    expect(page.locator("[data-tone]").first).to_be_visible()
    # Held, a key shows it as it was before.
    page.keyboard.down("q")
    expect(page.get_by_test_id("before")).to_contain_text("Covered")
    expect(page.locator("[data-tone]")).to_have_count(0)
    page.keyboard.up("q")
    expect(page.locator("[data-tone]").first).to_be_visible()
    assert hand.actions == told("undo everything")
