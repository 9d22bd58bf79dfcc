"""What a host relies on without thinking: windows in step, typing kept, things said once, deleting
that can be undone and then means it."""

import re
from contextlib import suppress
from pathlib import Path

from playwright.sync_api import APIResponse, Browser, Error, Page, Route, expect

from tests.reference import RATE
from tests.serving import Server
from tests.waiting import eventually
from tests.web.test_tasks import edited, word


def test_an_undo_in_another_window_is_noticed(browser: Browser, page: Page, server: Server) -> None:
    view = server.episode(1)
    cut = {"kind": "cut", "start": 20 * RATE, "frames": 10 * RATE}
    body = {"revision": view["revision"], "edit": cut}
    after = server.client.post("/api/episodes/1/edits", json=body).json()
    page.goto("/episodes/1/edit")
    expect(page.get_by_text("of 4:19.3")).to_be_visible()
    undo = {"revision": after["revision"]}
    assert server.client.post("/api/episodes/1/undo", json=undo).status_code == 200
    expect(page.get_by_text("of 4:29.3")).to_be_visible()


def test_typing_in_the_tags_goes_on_while_a_field_is_saved_and_others_change(
    page: Page, server: Server
) -> None:
    page.goto("/episodes/1/release")
    genre = page.get_by_label("Genre")
    genre.fill("Travel")
    copyright_field = page.get_by_label("Copyright")
    copyright_field.click()  # the genre is saved now
    copyright_field.fill("2026 the crew")
    eventually(lambda: server.episode(1)["tags"]["genre"] == "Travel", page)
    expect(copyright_field).to_be_focused()
    expect(copyright_field).to_have_value("2026 the crew")
    # Somebody else changes another field: it comes in, and what is typed here stays.
    view = server.episode(1)
    edit = {
        "kind": "set_tags",
        "tags": {**view["tags"], "year": 2031},
        "artwork": view["artwork"],
    }
    body = {"revision": view["revision"], "edit": edit}
    assert server.client.post("/api/episodes/1/edits", json=body).status_code == 200
    expect(page.get_by_label("Year")).to_have_value("2031")
    expect(copyright_field).to_be_focused()
    expect(copyright_field).to_have_value("2026 the crew")
    copyright_field.blur()
    eventually(lambda: server.episode(1)["tags"]["copyright"] == "2026 the crew", page)
    assert server.episode(1)["tags"]["year"] == 2031


def test_fields_left_while_one_is_being_saved_save_nothing_again(
    page: Page, server: Server
) -> None:
    page.goto("/episodes/1/release")
    held: list[Route] = []
    page.route("**/api/episodes/1/edits", lambda route: held.append(route))
    page.get_by_label("Genre").fill("Travel")
    for field in ("Copyright", "Year", "Title"):
        page.get_by_label(field, exact=True).focus()
    eventually(lambda: held, page)
    sent: list[str] = []
    page.on("request", lambda r: sent.append(r.url) if r.url.endswith("/edits") else None)
    page.unroute("**/api/episodes/1/edits")  # and what was held goes on
    eventually(lambda: server.episode(1)["tags"]["genre"] == "Travel")
    page.get_by_label("Copyright").fill("2026 the crew")
    page.get_by_label("Year").focus()
    eventually(lambda: server.episode(1)["tags"]["copyright"] == "2026 the crew", page)
    assert (len(held), len(sent)) == (1, 1)


def test_what_ended_while_nothing_was_told_is_seen_all_the_same(page: Page, server: Server) -> None:
    """The stream of events begins late, after work that it would have told of."""
    held: list[Route] = []
    page.route("**/api/events", lambda route: held.append(route))
    page.goto("/episodes/1/release?step=check")
    expect(page.get_by_role("button", name="Loudness: Measure")).to_be_visible()
    body = {"revision": server.episode(1)["revision"]}
    job = server.client.post("/api/episodes/1/measure", json=body).json()["id"]
    assert server.wait(job)["state"] == "done"
    expect(page.get_by_role("button", name="Loudness: Measure")).to_be_visible()
    page.unroute("**/api/events")  # and what was held goes on
    expect(page.get_by_role("button", name="Parts beside each other: Even out")).to_be_visible()


def test_keep_only_with_nothing_selected_moves_nothing(page: Page) -> None:
    page.goto("/episodes/1/edit")
    expect(page.get_by_text("44 snags", exact=True)).to_be_visible()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    at = page.get_by_label("Position").input_value()
    assert at != "0:00.0"
    page.keyboard.press("k")
    expect(page.get_by_text("Select something first")).to_be_visible()
    assert page.get_by_label("Position").input_value() == at


def test_a_refused_decision_says_so_once(page: Page, server: Server) -> None:
    page.goto("/episodes/1/edit")
    expect(page.get_by_text("44 snags", exact=True)).to_be_visible()
    page.route(
        "**/api/episodes/1/snags",
        lambda route: (
            route.fulfill(status=422, json={"sentence": "That snag is not there any more."})
            if route.request.method == "POST"
            else route.continue_()
        ),
    )
    page.keyboard.press("z")
    page.get_by_role("button", name="Trim").first.click()
    said = page.get_by_text("That snag is not there any more.")
    expect(said.first).to_be_visible()
    page.keyboard.press("?")  # a while later
    expect(page.get_by_role("dialog")).to_be_visible()
    assert said.count() == 1


def test_a_section_that_is_moved_keeps_its_gain(page: Page, server: Server) -> None:
    view = server.episode(1)
    gains = [float(number) for number in range(len(view["sections"]))]
    even = {"kind": "even_out", "section_gains_db": gains, "gain_db": 0.0}
    body = {"revision": view["revision"], "edit": even}
    server.client.post("/api/episodes/1/edits", json=body)
    page.goto("/episodes/1/loudness")
    start = page.get_by_label("Start of section 3")
    start.fill("1:20.0")
    start.press("Enter")
    eventually(lambda: server.episode(1)["sections"][2]["at"] == 80 * RATE, page)
    moved = server.episode(1)["sections"]
    assert [s["gain_db"] for s in moved] == gains
    assert [s["id"] for s in moved] == [s["id"] for s in view["sections"]]


def test_what_was_deleted_is_brought_back_or_goes_for_good(page: Page, server: Server) -> None:
    page.goto("/")
    page.get_by_test_id("episode").get_by_role("button", name="Delete").click()
    deleted = page.get_by_test_id("deleted")
    deleted.locator("summary").click()
    deleted.get_by_role("button", name="Bring back").click()
    expect(page.get_by_test_id("episode")).to_be_visible()
    page.get_by_test_id("episode").get_by_role("button", name="Delete").click()
    page.get_by_test_id("deleted").locator("summary").click()
    page.get_by_role("button", name="Empty now").click()
    page.get_by_role("button", name="Delete for good").click()
    expect(page.get_by_text("are free again")).to_be_visible()
    expect(page.get_by_test_id("deleted")).to_have_count(0)
    # The sounds of the show's shelf are no episode's.
    on_shelf = {sound["id"] for sound in server.client.get("/api/shows/1/sounds").json()}
    assert {take.name for take in (server.data / "takes").iterdir()} == on_shelf


def test_the_shelf_tells_when_all_was_backed_up_last(
    page: Page, server: Server, tmp_path: Path
) -> None:
    from airtrim.store.backup import back_up

    page.goto("/")
    expect(page.get_by_text("Not backed up yet.")).to_be_visible()
    back_up(server.data, tmp_path / "backups")
    page.reload()
    expect(page.get_by_text("Backed up today.")).to_be_visible()


def test_a_damaged_recording_is_told_on_every_stage_and_kept_from_going_out(
    page: Page, server: Server
) -> None:
    for name in ("sound", "original"):
        path = server.data / "takes" / "guest" / name
        data = path.read_bytes()
        path.unlink()
        path.write_bytes(data[: len(data) // 2])
    page.goto("/episodes/1/release?step=files")
    expect(page.get_by_role("alert")).to_contain_text("“Guest” is damaged on the disk")
    page.get_by_role("button", name="Make the file").click()
    expect(page.get_by_test_id("export")).to_contain_text("Nothing was exported")
    page.get_by_text("Export all the same").click()
    page.get_by_role("button", name="Make the file").click()
    expect(page.get_by_test_id("report")).to_be_visible()


def test_an_upload_is_sent_with_checksums(page: Page, server: Server, demo: Path) -> None:
    page.goto("/episodes/1/edit")
    chooser = page.locator("input[type=file][accept*=audio]").first
    with page.expect_request(lambda request: request.method == "PATCH") as sent:
        chooser.set_input_files(str(demo / "sound" / "intro.flac"))
    assert sent.value.headers["upload-checksum"].startswith("sha256 ")
    eventually(lambda: len(server.episode(1)["takes"]) == 8, page)


def test_an_answer_that_comes_late_does_not_bring_back_what_stood_before(
    page: Page, server: Server
) -> None:
    """What is asked for a moment after opening is answered with the state before an edit, and comes
    after it: the next edit is made on the newest state all the same."""
    held: list[tuple[Route, APIResponse]] = []

    def hold(route: Route) -> None:
        if not held:
            held.append((route, route.fetch()))
            return None
        return route.continue_()

    page.route("**/api/episodes/1", hold)
    page.goto("/episodes/1/edit")
    expect(word(page, "ferry")).to_be_visible()
    eventually(lambda: bool(held), page)
    before = server.episode(1)["revision"]
    page.keyboard.press("m")
    first = edited(page, server, before)
    expect(page.locator("[data-marker]")).to_have_count(1)
    page.wait_for_timeout(500)  # later than the stream's own look at what it told
    route, answer = held[0]
    with suppress(Error), page.expect_event("requestfinished", timeout=5_000):
        route.fulfill(response=answer)  # unless nobody waits for it any more
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))")
    expect(page.locator("[data-marker]")).to_have_count(1)
    word(page, "ferry").click()
    page.keyboard.press("Delete")
    edited(page, server, first["revision"])
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert len(server.episode(1)["markers"]) == 1


def test_a_stage_that_did_not_come_through_says_so_and_is_loaded_again(page: Page) -> None:
    page.route("**/assets/RundownStage-*", lambda route: route.fulfill(status=404))
    with page.expect_response("**/assets/RundownStage-*"):  # fetched beforehand: hurts nobody
        page.goto("/episodes/1/edit")
    expect(word(page, "ferry")).to_be_visible()
    page.get_by_role("link", name="Rundown", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("did not come through")
    page.unroute("**/assets/RundownStage-*")
    page.get_by_role("button", name="Load it again").click()
    expect(page.get_by_role("heading", name="Running order")).to_be_visible()


def test_an_address_that_leads_nowhere_says_so_or_leads_to_what_was_meant(page: Page) -> None:
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.goto("/episodes/999/edit")
    expect(page.get_by_text("That episode is not on the shelf.")).to_be_visible()
    # By the script that comes first, then by what was loaded since; refused, so not once more.
    assert len([url for url in asked if "/api/episodes/999" in url]) <= 3
    page.get_by_role("link", name="Back to the shelf").click()
    expect(page.get_by_text("The six o’clock boat", exact=True)).to_be_visible()
    for path in ("/episodes/1", "/episodes/1/nowhere"):
        page.goto(path)
        expect(page).to_have_url(re.compile(r"/episodes/1/edit$"))
        expect(word(page, "ferry")).to_be_visible()
    for path in ("/episodes/abc/edit", "/shows/1", "/nowhere"):
        page.goto(path)
        expect(page).to_have_url(re.compile(r":\d+/$"))
