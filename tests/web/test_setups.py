"""Setups and copies in the browser, as a host works with them."""

import re
from collections.abc import Callable
from pathlib import Path

import soundfile
from playwright.sync_api import Browser, Page, expect

from tests.serving import RATE, ForkedServer, Server
from tests.waiting import eventually
from tests.web.conftest import new_context
from tests.web.test_rundown import open_rundown, rows
from tests.web.test_tasks import Hand, hand, told

__all__ = ["hand"]

NAME = "Slow Crossing, each week"


def beginning(name: str, seconds: int, folder: Path) -> Path:
    """The first seconds of a take of the demo, as a file: their words are soon written down."""
    sound, rate = soundfile.read(f"demo/sound/{name}.flac", frames=seconds * RATE)
    soundfile.write(folder / f"{name}.flac", sound, rate)
    return folder / f"{name}.flac"


def rundown(server: Server, episode: int) -> dict:
    revision = server.episode(episode)["revision"]
    where = {"revision": revision}
    return server.client.get(f"/api/episodes/{episode}/rundown", params=where).json()


def test_the_next_episode_starts_from_the_setup(
    page: Page, hand: Hand, server: Server, tmp_path: Path
) -> None:
    page.goto("/")
    hand.click(page.get_by_role("button", name="New episode"))
    expect(page.get_by_label("Begin from")).to_have_value(re.compile(r"\d+"))
    hand.click(page.get_by_role("button", name="Create"))
    waiting = page.get_by_test_id("waiting")
    expect(waiting.locator("[data-waiting]")).to_have_count(4)
    expect(waiting.locator("[data-waiting='Opening']")).to_contain_text("Slipway before the talk")
    assert hand.actions == told("start the next episode from the setup")
    expect(page.get_by_text("Episode 8", exact=True)).to_be_visible()
    view = server.episode(2)
    assert [track["name"] for track in view["tracks"]] == ["Tobin", "Marit", "Music"]
    assert (view["tags"]["episode"], view["artwork"]) == (8, server.episode(1)["artwork"])

    # Its talk comes, and one press puts the sounds where they belong.
    page.get_by_test_id("add-file").set_input_files(beginning("host-opening", 12, tmp_path))
    expect(rows(page)).to_have_count(1)
    server.wait_all()
    page.get_by_role("button", name="Fill these 2").click()
    expect(rows(page).first).to_contain_text("Slipway")
    expect(rows(page).first).to_contain_text("Low tide")
    expect(waiting.locator("[data-waiting]")).to_have_count(2)
    slipway, bed = rundown(server, 2)["sounds"]
    assert slipway["notice"] == ""
    first_word = slipway["at"] + slipway["length"] - slipway["sound"]["hold"]["offset"]
    assert first_word - slipway["at"] == 8 * RATE
    assert bed["length"] > 12 * RATE
    # What is not wanted this week goes, and undo brings it back.
    waiting.get_by_role("button", name="Do without Back on board").click()
    expect(waiting.locator("[data-waiting]")).to_have_count(1)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(waiting.locator("[data-waiting]")).to_have_count(2)


def test_a_setup_is_kept_looked_at_changed_and_taken_away(page: Page, server: Server) -> None:
    open_rundown(page)
    page.get_by_role("button", name="Keep as a setup").click()
    name = page.get_by_label("Name of the setup")
    expect(name).to_have_value(NAME)
    expect(page.get_by_text("There is one of that name")).to_be_visible()
    name.fill("Short")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("New episodes can begin from “Short”.")).to_be_visible()
    page.goto("/")
    page.get_by_role("button", name="Short", exact=True).click()
    sheet = page.get_by_test_id("setup")
    expect(sheet.locator("[data-row]")).to_have_count(6)
    sheet.get_by_role("button", name="Leave Outro music out").click()
    expect(sheet.locator("[data-row]")).to_have_count(5)
    first = sheet.get_by_label("Name of part 1")
    first.fill("Before all")
    first.press("Enter")
    expect(sheet.locator("[data-row='Before all']")).to_be_visible()
    sheet.get_by_role("button", name="Leave Low tide out").click()
    expect(sheet.get_by_text("Low tide")).to_have_count(0)
    setups = server.client.get("/api/shows/1/setups").json()
    kept = next(one for one in setups if one["name"] == "Short")["setup"]
    assert kept["rows"][0]["name"] == "Before all"
    assert not any(row["sounds"] for row in kept["rows"])
    page.get_by_role("button", name="Delete", exact=True).last.click()
    expect(page.get_by_role("button", name="Short", exact=True)).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Short", exact=True)).to_be_visible()


def test_a_setup_is_sent_as_a_file_and_opened_on_another_server(
    page: Page, browser: Browser, server: Server, tmp_path: Path
) -> None:
    page.goto("/")
    page.get_by_role("button", name=NAME).click()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Download as a file").click()
    path = tmp_path / waiting.value.suggested_filename
    assert path.name.endswith(".airtrim-setup.zip")
    waiting.value.save_as(path)
    other = ForkedServer(tmp_path / "other")
    context = new_context(browser, other.address)
    there = context.new_page()
    try:
        other.client.post("/api/shows", json={"name": "North Sound"}).raise_for_status()
        there.goto(other.address)
        expect(there.get_by_text("No setup yet.")).to_be_visible()
        broken = tmp_path / "broken.zip"
        broken.write_bytes(path.read_bytes()[:5000])
        there.get_by_test_id("open-setup").set_input_files(broken)
        expect(there.get_by_text("That is no setup, or it is broken.")).to_be_visible()
        there.get_by_test_id("open-setup").set_input_files(path)
        expect(there.get_by_role("button", name=NAME)).to_be_visible()
        sounds = other.client.get("/api/shows/1/sounds").json()
        assert {one["name"] for one in sounds} == {"Slipway", "Low tide", "Buoy"}
    finally:
        context.close()
        other.stop()


def test_a_link_makes_a_copy_and_is_withdrawn(page: Page, server: Server) -> None:
    page.goto("/episodes/1/release?step=files")
    links = page.get_by_test_id("copy-links")
    links.get_by_role("button", name="Make a link").click()
    link = links.get_by_label("Link that makes a copy").input_value()
    before = server.episode(1)
    page.goto(link)
    expect(page.get_by_role("heading", name="The six o’clock boat")).to_be_visible()
    page.get_by_role("button", name="Make my copy").click()
    expect(page.get_by_test_id("page")).to_be_visible()
    assert page.url.endswith("/episodes/2/edit")
    assert server.episode(2)["title"] == "The six o’clock boat, copy"
    assert server.episode(1) == before
    page.goto("/episodes/1/release?step=files")
    links.get_by_role("button", name="Withdraw").click()
    expect(page.get_by_text("The link leads nowhere now.")).to_be_visible()
    page.goto(link)
    expect(page.get_by_role("alert")).to_contain_text("This link leads nowhere any more")


def test_each_part_becomes_an_episode_on_the_shelf(page: Page, server: Server) -> None:
    open_rundown(page)
    page.get_by_role("button", name="Each part an episode").click()
    expect(page.get_by_text("6 episodes were made; they are on the shelf.")).to_be_visible()
    page.goto("/")
    expect(page.get_by_test_id("episode")).to_have_count(7)
    expect(page.get_by_test_id("episode").filter(has_text="Marit on the pier")).to_be_visible()
    # And a copy of the whole, taken back at once.
    page.get_by_test_id("episode").last.get_by_role("button", name="Copy").click()
    expect(page.get_by_text("“The six o’clock boat, copy” was made.")).to_be_visible()
    expect(page.get_by_test_id("episode")).to_have_count(8)
    page.get_by_role("button", name="Undo").last.click()
    expect(page.get_by_test_id("episode")).to_have_count(7)


TAKES = ["host-opening", "guest", "host-bridge", "host-closing"]


def test_a_whole_episode_is_built_in_the_rundown_alone(
    page: Page, hand: Hand, server: Server, tmp_path: Path
) -> None:
    """From raw takes to an order with opening, bed, sting and closing."""
    show = server.client.get("/api/shows").json()[0]["id"]
    made = server.client.post(f"/api/shows/{show}/episodes", json={"title": "Built"}).json()["id"]
    page.goto(f"/episodes/{made}/rundown")
    hand.actions += 2  # the button, and the files chosen together
    page.get_by_test_id("add-file").set_input_files(
        [beginning(name, 12, tmp_path) for name in TAKES]
    )
    expect(rows(page)).to_have_count(4)
    server.wait_all()
    expect(rows(page).nth(0)).to_contain_text("Every morning")
    names = [section["name"] for section in server.episode(made)["sections"]]
    assert names == TAKES
    shelf = page.locator("[data-sound]")

    def placed_at(row: int, sound: str, place: Callable[[], None]) -> None:
        before = server.episode(made)["revision"]
        place()
        eventually(lambda: server.episode(made)["revision"] != before, page)
        expect(rows(page).nth(row)).to_contain_text(sound)

    def drop(row: int, sound: str) -> None:
        """Where a sound of its kind usually goes."""
        dragged = shelf.filter(has_text=sound).locator("[draggable]")
        placed_at(row, sound, lambda: hand.drop(dragged, rows(page).nth(row)))

    drop(0, "Slipway")
    drop(0, "Low tide")
    drop(1, "Buoy")
    hand.click(rows(page).nth(3))
    hand.click(shelf.filter(has_text="Slipway").get_by_role("button").nth(1))
    after = page.get_by_role("button", name="After the talk", exact=True)
    placed_at(3, "Slipway", lambda: hand.click(after))
    assert hand.actions == told("build a whole episode from raw takes")
    placed = rundown(server, made)["sounds"]
    assert [one["sound"]["hold"]["kind"] for one in placed] == [
        "before_talk", "under", "between", "after_talk",
    ]  # fmt: skip
    assert all(one["notice"] == "" for one in placed)
    view = server.episode(made)
    heard = sorted(placed, key=lambda one: one["at"])
    assert [one["sound"]["name"] for one in heard] == ["Slipway", "Low tide", "Buoy", "Slipway"]
    assert heard[0]["at"] == 0
    assert heard[-1]["at"] + heard[-1]["length"] == view["frames"]
    # The interview goes to the front, and every sound goes with what it holds on to.
    starts = {section["name"]: section["at"] for section in view["sections"]}
    offset = {one["sound"]["id"]: one["at"] for one in placed}
    hand.click(rows(page).nth(1))
    hand.key("Alt+ArrowUp")
    eventually(lambda: server.episode(made)["revision"] != view["revision"], page)
    moved = server.episode(made)
    order = ["guest", "host-opening", *TAKES[2:]]
    assert [section["name"] for section in moved["sections"]] == order
    fresh = {section["name"]: section["at"] for section in moved["sections"]}
    sounds = {one["sound"]["id"]: one for one in rundown(server, made)["sounds"]}
    parts = ["host-opening", "host-opening", "guest", "host-closing"]
    for one, part in zip(placed, parts, strict=True):
        now = sounds[one["sound"]["id"]]
        assert now["notice"] == ""
        if one["sound"]["hold"]["kind"] != "between":
            assert now["at"] - fresh[part] == offset[one["sound"]["id"]] - starts[part]
