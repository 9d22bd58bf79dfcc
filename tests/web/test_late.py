"""Answers that are older than what has happened since, and come after it was told."""

import re
from collections.abc import Callable
from contextlib import suppress

from playwright.sync_api import APIResponse, Error, Page, Route, expect

from tests.serving import Server
from tests.waiting import at_rest, eventually


class Held:
    """Requests for one address that the server answers at once, and whose answers come to the
    browser when they are let go; the first so many go through."""

    def __init__(self, page: Page, address: str, through: int = 0, only: str = "") -> None:
        """Of one method alone where that is told."""
        self._page, self._through, self._only = page, through, only
        self._held: list[tuple[Route, APIResponse]] | None = []
        page.route(re.compile(address), self._take)

    def _take(self, route: Route) -> None:
        if self._only not in ("", route.request.method):
            route.continue_()
        elif self._through or self._held is None:
            self._through = max(0, self._through - 1)
            route.continue_()
        else:
            self._held.append((route, route.fetch()))

    def wait(self) -> None:
        eventually(lambda: self._held, self._page)

    def let_go(self) -> None:
        held, self._held = self._held or [], None
        for route, answer in held:
            with suppress(Error):  # nobody waits for it any more
                route.fulfill(response=answer)


def ended(page: Page, kind: str) -> None:
    """Wait until the browser was told that work of a kind has ended."""
    page.wait_for_function("(kind) => window.ended?.includes(kind)", arg=kind)


JOBS = r"/api/jobs\?episode_id=1"

LISTEN = """
const Source = window.EventSource;
window.ended = [];
window.EventSource = class extends Source {
  constructor(...given) {
    super(...given);
    this.addEventListener('job', ({ data }) => {
      const { kind, state } = JSON.parse(data);
      if (state === 'done') setTimeout(() => window.ended.push(kind));
    });
  }
};
"""


def looked_again(page: Page) -> Callable[[], object]:
    """Wait for the look at what is shown that is taken a while after a page was opened."""
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    return lambda: eventually(
        lambda: sum(url.endswith("/api/episodes/1") for url in asked) >= 2, page
    )


def test_the_first_list_of_jobs_comes_after_what_was_told(page: Page) -> None:
    page.add_init_script(LISTEN)
    jobs, look = Held(page, JOBS), looked_again(page)
    page.goto("/episodes/1/release?step=files")
    elsewhere = page.get_by_test_id("elsewhere")
    elsewhere.get_by_role("button", name="Pack the episode").click()
    ended(page, "pack")
    look()
    jobs.let_go()
    expect(elsewhere.get_by_role("link", name="Download")).to_be_visible()


def test_a_later_list_of_jobs_does_not_undo_what_was_told(page: Page) -> None:
    jobs, look = Held(page, JOBS, through=1), looked_again(page)
    page.goto("/episodes/1/release?step=files")
    look()
    jobs.wait()
    elsewhere = page.get_by_test_id("elsewhere")
    elsewhere.get_by_role("button", name="Pack the episode").click()
    link = elsewhere.get_by_role("link", name="Download")
    expect(link).to_be_visible()
    jobs.let_go()
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))")
    expect(link).to_be_visible()


def test_what_was_first_read_while_work_went_on_is_read_again(page: Page, server: Server) -> None:
    page.add_init_script(LISTEN)
    check = Held(page, "/api/episodes/1/check")
    page.goto("/episodes/1/release?step=check")
    check.wait()
    body = {"revision": server.episode(1)["revision"]}
    server.client.post("/api/episodes/1/measure", json=body).raise_for_status()
    ended(page, "measure")
    check.let_go()
    expect(page.get_by_role("button", name="Parts beside each other: Even out")).to_be_visible()


def test_what_is_made_before_the_first_list_has_come_is_in_it(page: Page, server: Server) -> None:
    links = Held(page, "/api/episodes/1/copy-links", only="GET")
    page.goto("/episodes/1/release?step=files")
    links.wait()
    shown = page.get_by_test_id("copy-links")
    with page.expect_response(lambda answer: answer.request.method == "POST") as made:
        shown.get_by_role("button", name="Make a link").click()
    links.let_go()
    link = shown.get_by_label("Link that makes a copy")
    expect(link).to_have_value(server.address + made.value.json()["path"])


def test_work_that_ended_before_the_stream_began_is_seen_wherever_it_shows(
    page: Page, server: Server
) -> None:
    """The stream begins when all that is shown has been read, and work has ended in between."""
    held: list[Route] = []
    page.route("**/api/events", lambda route: held.append(route))
    server.client.post("/api/shows/1/episodes", json={"title": "Nothing yet"}).raise_for_status()
    page.goto("/shows/1/batch")
    expect(page.get_by_text("The six o’clock boat")).to_be_visible()
    body = {"batch": "b" * 32, "recipe": {}, "episodes": [2]}
    (job,) = server.client.post("/api/shows/1/batches", json=body).json()
    assert server.wait(job["id"])["state"] == "failed"
    page.unroute("**/api/events")  # and what was held goes on
    expect(page.get_by_test_id("batch").get_by_role("heading")).to_contain_text("1 failed")


def test_words_that_came_before_the_stream_began_are_seen(page: Page, server: Server) -> None:
    held: list[Route] = []
    page.route("**/api/events", lambda route: held.append(route))
    page.goto("/episodes/1/edit")
    at_rest(page)
    cues = b"WEBVTT\n\n00:00.000 --> 00:08.000\nPuffins were here before the boat.\n"
    address = "/api/takes/host-opening/transcript"
    job = server.client.put(address, params={"name": "words.vtt"}, content=cues).json()
    assert server.wait(job["id"])["state"] == "done"
    expect(page.get_by_test_id("page")).not_to_contain_text("Puffins")
    page.unroute("**/api/events")  # and what was held goes on
    expect(page.get_by_test_id("page")).to_contain_text("Puffins")


def test_what_a_form_begins_with_may_come_after_it_was_opened(page: Page) -> None:
    setups = Held(page, "/api/shows/1/setups")
    page.goto("/episodes/1/rundown")
    setups.wait()
    page.get_by_role("button", name="Keep as a setup").click()
    name = page.get_by_label("Name of the setup")
    expect(name).to_have_value("Slow Crossing")
    setups.let_go()
    expect(name).to_have_value("Slow Crossing, each week")


def test_a_script_is_not_written_over_before_it_has_come(page: Page, server: Server) -> None:
    before = server.episode(1)["revision"]
    edit = {"kind": "set_script", "text": "The boat is late. It always is."}
    body = {"revision": before, "edit": edit}
    after = server.client.post("/api/episodes/1/edits", json=body).json()["revision"]
    script = Held(page, "/api/episodes/1/script")
    page.goto("/episodes/1/record")
    script.wait()
    expect(page.get_by_role("button", name="Write or paste it")).to_be_disabled()
    script.let_go()
    page.get_by_role("button", name="Change it").click()
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("button", name="Change it")).to_be_visible()
    assert server.episode(1)["revision"] == after


def test_zooming_keeps_its_place_though_words_come_late(page: Page) -> None:
    page.goto("/episodes/1/edit")
    at_rest(page)
    page.get_by_label("Position").fill("60")
    page.get_by_label("Position").press("Enter")
    at_rest(page)
    target = page.locator("[data-word]").filter(has_text="school").first
    start, box = target.get_attribute("data-start"), target.bounding_box()
    assert box
    pages = Held(page, "/api/episodes/1/page")
    page.mouse.move(box["x"] + 3, box["y"] - 20)
    page.keyboard.down("Control")
    page.mouse.wheel(0, 200)
    page.keyboard.up("Control")
    expect(page.get_by_text("10 s a line")).to_be_visible()
    pages.wait()
    page.evaluate(
        """() => new Promise((done) => {
             let left = 60;
             const drawn = () => (left-- ? requestAnimationFrame(drawn) : done());
             drawn();
           })"""
    )
    pages.let_go()
    expect(page.locator(f"[data-start='{start}']").first).to_be_in_viewport()
