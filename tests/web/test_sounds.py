"""Sounds on the Rundown: taken from the shelf, placed, changed, and following the talk."""

from playwright.sync_api import Page, expect

from tests.api.host import wav
from tests.serving import RATE, Server
from tests.waiting import eventually
from tests.web.selecting import more
from tests.web.test_rundown import open_rundown, rows
from tests.web.test_tasks import Hand, edited, hand, open_edit, span, told, word

__all__ = ["hand"]


def shelf(page: Page):
    return page.locator("[data-sound]")


def rundown(server: Server) -> dict:
    revision = server.episode(1)["revision"]
    return server.client.get("/api/episodes/1/rundown", params={"revision": revision}).json()


def with_three(page: Page) -> None:
    """The three that come with Air Trim, and nothing placed yet."""
    expect(shelf(page)).to_have_count(3)
    rows(page).nth(4).get_by_role("button", name="Low tide").click()
    page.get_by_test_id("placed-sound").get_by_role("button", name="Take out").click()
    expect(rows(page).nth(4)).not_to_contain_text("Low tide")


def called(page: Page, name: str):
    """The button of a sound on the shelf that opens it."""
    return shelf(page).filter(has_text=name).get_by_role("button").nth(1)


def test_the_opening_is_placed_and_follows_when_the_first_sentence_is_cut(
    page: Page, hand: Hand, server: Server
) -> None:
    open_rundown(page)
    with_three(page)
    before = server.episode(1)
    hand.drop(shelf(page).filter(has_text="Slipway").locator("[draggable]"), rows(page).nth(1))
    view = edited(page, server, before["revision"])
    assert hand.actions == told("place the opening music")
    (placed,) = rundown(server)["sounds"]
    first = 8 * RATE
    assert placed["sound"]["hold"]["kind"] == "before_talk"
    # So much of it is heard alone as was told, before the first word of the part.
    talk = placed["at"] + placed["length"] - placed["sound"]["hold"]["offset"]
    assert talk - placed["at"] == first
    assert view["frames"] > before["frames"]
    expect(page.get_by_test_id("placed-sound")).to_contain_text("At “Opening”")
    expect(rows(page).nth(1)).to_contain_text("Slipway")
    # The first sentence goes on the Page; the music ends as long after the talk begins as it did.
    open_edit(page)
    word(page, "Every").click()
    start, _ = span(word(page, "Every"))
    assert abs(start - talk) < RATE // 10
    word(page, "harbor").click(modifiers=["Shift"])
    page.keyboard.press("Delete")
    edited(page, server, view["revision"])
    expect(word(page, "Every")).to_have_count(0)
    (after,) = rundown(server)["sounds"]
    fresh, _ = span(word(page, "It"))
    ends = after["at"] + after["length"] - placed["sound"]["hold"]["offset"]
    assert abs(ends - fresh) < RATE // 10
    assert after["length"] == placed["length"]
    page.keyboard.press("Control+z")
    eventually(lambda: rundown(server)["sounds"] == [placed], page)


def test_the_interview_goes_to_the_front_and_its_music_with_it(page: Page, server: Server) -> None:
    open_rundown(page)
    with_three(page)
    view = server.episode(1)
    interview = view["sections"][2]
    shelf(page).filter(has_text="Low tide").locator("[draggable]").drag_to(rows(page).nth(2))
    view = edited(page, server, view["revision"])
    (bed,) = rundown(server)["sounds"]
    assert (bed["at"], bed["length"]) == (interview["at"], interview["frames"])
    assert bed["sound"]["level_lu"] == -18
    rows(page).nth(2).click()
    page.keyboard.press("Alt+ArrowUp")
    view = edited(page, server, view["revision"])
    page.keyboard.press("Alt+ArrowUp")
    edited(page, server, view["revision"])
    (moved,) = rundown(server)["sounds"]
    assert (moved["at"], moved["length"]) == (0, interview["frames"])
    expect(rows(page).first).to_contain_text("Low tide")
    # What is heard: the bed under the talk, from its first second on.
    name = next(track["id"] for track in server.episode(1)["tracks"] if track["held"])
    page_of = server.client.get(
        "/api/episodes/1/page",
        params={"revision": server.episode(1)["revision"], "start": 0, "frames": 20 * RATE},
    ).json()
    assert any(clip["track"] == name and clip["start"] == 0 for clip in page_of["clips"])


def test_a_placed_sound_is_changed_taken_out_and_let_go(page: Page, server: Server) -> None:
    open_rundown(page)
    with_three(page)
    view = server.episode(1)
    rows(page).nth(2).click()
    called(page, "Low tide").click()
    page.get_by_role("button", name="Under the part").click()
    view = edited(page, server, view["revision"])
    card = page.get_by_test_id("placed-sound")
    gain = rundown(server)["sounds"][0]["sound"]["gain_db"]
    card.get_by_label("Level beside the voices").fill("−12")
    page.keyboard.press("Enter")
    view = edited(page, server, view["revision"])
    assert rundown(server)["sounds"][0]["sound"]["gain_db"] == round(gain + 6, 2)
    card.get_by_label("How far it gives way").fill("9")
    page.keyboard.press("Enter")
    view = edited(page, server, view["revision"])
    card.get_by_label("Waits").fill("0.5")
    page.keyboard.press("Enter")
    view = edited(page, server, view["revision"])
    sound = rundown(server)["sounds"][0]["sound"]
    assert (sound["duck"]["depth_db"], sound["duck"]["hold"]) == (9, RATE // 2)
    card.get_by_label("Where").select_option(label="Before the next part")
    view = edited(page, server, view["revision"])
    assert rundown(server)["sounds"][0]["sound"]["hold"]["kind"] == "between"
    expect(card).to_contain_text("There is less room than it is long")
    card.get_by_role("button", name="Let go").click()
    view = edited(page, server, view["revision"])
    assert rundown(server)["sounds"] == []
    assert view["tracks"][-1]["name"] == "Low tide"
    expect(card).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(rows(page).nth(2)).to_contain_text("Low tide")
    rows(page).nth(2).get_by_role("button", name="Low tide").click()
    card.get_by_role("button", name="Take out").click()
    eventually(lambda: rundown(server)["sounds"] == [], page)
    assert not any(track["held"] for track in server.episode(1)["tracks"])


def test_a_placed_sound_is_taken_hold_of_on_the_page(page: Page, server: Server) -> None:
    open_rundown(page)
    with_three(page)
    rows(page).nth(1).click()
    called(page, "Slipway").click()
    view = server.episode(1)
    page.get_by_role("button", name="Before the talk").click()
    view = edited(page, server, view["revision"])
    (before,) = rundown(server)["sounds"]
    open_edit(page)
    expect(page.locator("[data-sound-on-page]").first).to_have_text("Slipway")
    held = next(t["id"] for t in view["tracks"] if t["held"])
    line = page.locator(".at-line", has=page.locator("[data-sound-grip]"))
    line.locator(f"[data-track='{held}']").hover()
    pixel = 5 * RATE / line.locator("[data-line]").bounding_box()["width"]

    def pull(handle, by: int) -> dict:
        nonlocal view
        box = handle.bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + 4
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + by / 2, y)
        page.mouse.move(x + by, y)
        page.mouse.up()
        view = edited(page, server, view["revision"])
        return rundown(server)["sounds"][0]

    # Later by its grip: still held on to the talk, so much further into it.
    moved = pull(page.locator("[data-sound-grip]"), 40)
    assert moved["sound"]["hold"]["kind"] == "before_talk"
    later = moved["sound"]["hold"]["offset"] - before["sound"]["hold"]["offset"]
    assert abs(later - 40 * pixel) < 2 * pixel
    assert moved["at"] - before["at"] == later
    line.locator(f"[data-track='{held}']").hover()
    faded = pull(page.get_by_title("“Slipway” fades in").first, 30)
    assert abs(faded["sound"]["fade_in"] - 30 * pixel) < 2 * pixel
    # Its beginning: what it ends by stays.
    line.locator(f"[data-track='{held}']").hover()
    trimmed = pull(page.get_by_title("Where “Slipway” begins"), 25)
    assert trimmed["at"] + trimmed["length"] == moved["at"] + moved["length"]
    assert trimmed["sound"]["start"] > moved["sound"]["start"]
    # The same can be typed beside the Page, where it is come upon.
    page.get_by_label("Position").fill(str(trimmed["at"] / RATE + 1))
    page.keyboard.press("Enter")
    page.get_by_role("tab", name="Tracks").click()
    page.locator("[data-track-row='Sounds']").click(position={"x": 4, "y": 4})
    card = page.get_by_test_id("placed-sound")
    card.get_by_label("Shape of the fade out").select_option("straight")
    view = edited(page, server, view["revision"])
    assert rundown(server)["sounds"][0]["sound"]["shape_out"] == "straight"
    # A voice made louder: its level was set beside another.
    voice = next(t for t in view["tracks"] if t["name"] == "Tobin")
    body = {
        "revision": view["revision"],
        "edit": {"kind": "set_track", "track": voice["id"], "gain_db": 6.0},
    }
    server.client.post("/api/episodes/1/edits", json=body).raise_for_status()
    view = edited(page, server, view["revision"])
    card.get_by_role("button", name="Level again").click()
    edited(page, server, view["revision"])
    again = rundown(server)["sounds"][0]
    assert not again["outdated"]
    assert again["sound"]["gain_db"] > trimmed["sound"]["gain_db"] + 3
    expect(card.get_by_role("button", name="Level again")).to_have_count(0)


def test_a_file_goes_on_the_shelf_is_named_listened_to_and_removed(
    page: Page, server: Server
) -> None:
    open_rundown(page)
    expect(shelf(page)).to_have_count(3)
    page.get_by_test_id("add-sound").set_input_files(
        {"name": "Harbour bell.wav", "mimeType": "audio/wav", "buffer": wav(3.0)}
    )
    expect(shelf(page)).to_have_count(4)
    called(page, "Harbour bell").click()
    page.get_by_label("Name of the sound").fill("Bell at the quay")
    page.keyboard.press("Enter")
    bell = shelf(page).filter(has_text="Bell at the quay")
    expect(bell).to_have_count(1)
    bell.get_by_label("What it is for").select_option("sting")
    expect(bell).to_contain_text("sting, 0:03")
    bell.get_by_label("Credit").fill("T. Aas")
    page.keyboard.press("Enter")

    def kept() -> dict:
        sounds = server.client.get("/api/shows/1/sounds").json()
        return next(sound for sound in sounds if sound["name"] == "Bell at the quay")

    eventually(lambda: kept()["credit"] == "T. Aas", page)
    assert (kept()["kind"], kept()["frames"]) == ("sting", 3 * RATE)
    bell.get_by_role("button", name="Listen to Bell at the quay").click()
    bell.get_by_role("button", name="Stop").click()
    expect(bell.get_by_role("button", name="Listen to Bell at the quay")).to_be_visible()
    bell.get_by_role("button", name="Remove").click()
    expect(shelf(page)).to_have_count(3)


def test_an_empty_shelf_is_begun_with_the_three(page: Page, server: Server) -> None:
    for sound in server.client.get("/api/shows/1/sounds").json():
        server.client.patch(f"/api/sounds/{sound['id']}", json={"deleted": True})
    open_rundown(page)
    page.get_by_role("button", name="Take the three").click()
    expect(shelf(page)).to_have_count(3)


def test_what_is_selected_is_kept_as_a_sound(page: Page, server: Server) -> None:
    open_edit(page)
    word(page, "Every").click()
    word(page, "morning").click(modifiers=["Shift"])
    more(page, "Keep it as a sound")
    expect(page.get_by_text("stands on the shelf of sounds now")).to_be_visible()
    sounds = server.client.get("/api/shows/1/sounds").json()
    kept = next(sound for sound in sounds if sound["kind"] == "other")
    view = server.episode(1)
    (host,) = [track for track in view["tracks"] if track["name"] == "Tobin"]
    assert kept["name"].startswith("Sound from 0:1")
    assert 0.4 * RATE < kept["end"] - kept["start"] < 3 * RATE
    assert host["frames"] == server.episode(1)["tracks"][0]["frames"]
    open_rundown(page)
    expect(shelf(page)).to_have_count(4)
