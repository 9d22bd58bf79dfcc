"""Answers that are older than what the stream of events has told, and come after it."""

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import APIResponse, Page, Route, expect

from tests.serving import Server
from tests.waiting import eventually


class Held:
    """Requests for one address, of which one is answered by the server at once and comes to the
    browser when it is let go."""

    def __init__(self, page: Page, address: re.Pattern[str], which: int) -> None:
        self._page, self._address, self._before = page, address, which - 1
        self._held: list[tuple[Route, APIResponse]] = []
        page.route(address, self._take)

    def _take(self, route: Route) -> None:
        if self._before or self._held:
            self._before = max(0, self._before - 1)
            route.continue_()
        else:
            self._held.append((route, route.fetch()))

    def wait(self) -> None:
        eventually(lambda: self._held, self._page)

    def let_go(self) -> None:
        route, answer = self._held[0]
        route.fulfill(response=answer)


Hold = Callable[..., Held]


@pytest.fixture
def hold(page: Page) -> Hold:
    return lambda address, which=1: Held(page, re.compile(address), which)


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


def test_the_first_list_of_jobs_comes_after_what_was_told(page: Page, hold: Hold) -> None:
    page.add_init_script(LISTEN)
    jobs = hold(JOBS)
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.goto("/episodes/1/release?step=files")
    elsewhere = page.get_by_test_id("elsewhere")
    elsewhere.get_by_role("button", name="Pack the episode").click()
    ended(page, "pack")
    # A while after opening what is shown is looked at once more.
    eventually(lambda: sum(url.endswith("/api/episodes/1") for url in asked) == 2, page)
    jobs.let_go()
    expect(elsewhere.get_by_role("link", name="Download")).to_be_visible()


def test_a_later_list_of_jobs_does_not_undo_what_was_told(page: Page, hold: Hold) -> None:
    page.add_init_script(LISTEN)
    jobs = hold(JOBS, 3)  # that look; two are asked for while the page is opened
    page.goto("/episodes/1/release?step=files")
    elsewhere = page.get_by_test_id("elsewhere")
    jobs.wait()
    elsewhere.get_by_role("button", name="Pack the episode").click()
    link = elsewhere.get_by_role("link", name="Download")
    expect(link).to_be_visible()
    jobs.let_go()
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))")
    expect(link).to_be_visible()


def test_what_was_first_read_while_work_went_on_is_read_again(
    page: Page, server: Server, hold: Hold
) -> None:
    page.add_init_script(LISTEN)
    check = hold("/api/episodes/1/check")
    page.goto("/episodes/1/release?step=check")
    check.wait()
    body = {"revision": server.episode(1)["revision"]}
    server.client.post("/api/episodes/1/measure", json=body).raise_for_status()
    ended(page, "measure")
    check.let_go()
    expect(page.get_by_role("button", name="Parts beside each other: Even out")).to_be_visible()
