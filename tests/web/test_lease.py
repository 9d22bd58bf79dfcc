"""One microphone, several uses: trial, recording, another device, another screen. None of them ends
another silently."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, Route, expect

from tests.reference import RATE
from tests.serving import ForkedServer, Server
from tests.web.recording import begin, elapsed, end, open_stage, place_of, takes, told, until


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    server = ForkedServer(tmp_path_factory.mktemp("lease") / "data")
    yield server
    server.stop()


def test_a_recording_continues_past_the_end_of_a_trial(page: Page, server: Server) -> None:
    episode = open_stage(page, server, "Simulated microphone")
    page.get_by_role("button", name="Try it for five seconds").click()
    expect(page.get_by_role("button", name="Speak now…")).to_be_visible()
    page.wait_for_timeout(1500)  # the trial is in the middle of its five seconds
    begin(page)
    until(page, 7.0)  # the trial would have ended
    view = end(page, server, episode)
    (sound,) = takes(server, view)
    assert len(sound) >= 7 * RATE
    place_of(sound)
    assert told(view) == []


def test_a_trial_that_follows_a_trial_takes_its_place(page: Page, server: Server) -> None:
    open_stage(page, server, "Simulated: too quiet", "Simulated microphone")
    first, second = page.get_by_test_id("microphone").all()
    first.get_by_role("button", name="Try it for five seconds").click()
    second.get_by_role("button", name="Try it for five seconds").click()
    expect(first.get_by_role("button", name="Try it for five seconds")).to_be_enabled()
    expect(second.get_by_test_id("advice").locator("p")).to_be_visible()
    expect(first.get_by_test_id("advice").locator("p")).to_have_count(0)


OPENING = re.compile(r"/api/standins/microphone\?")


class Held:
    """The simulated device does not open until it is released."""

    def __init__(self, page: Page) -> None:
        self._page, self._routes = page, list[Route]()
        page.route(OPENING, lambda route: self._routes.append(route))

    def wait(self) -> None:
        while not self._routes:
            self._page.wait_for_timeout(20)

    def release(self) -> None:
        for route in self._routes:
            route.continue_()
        self._page.unroute(OPENING)


def test_leaving_while_the_microphone_opens_leaves_it_off(page: Page, server: Server) -> None:
    page.goto(f"/episodes/{server.new_episode('Fog')}/record")
    page.get_by_label("Device").select_option(label="Simulated microphone")
    held = Held(page)
    page.get_by_role("button", name="Switch the microphone on").click()
    held.wait()
    page.get_by_role("link", name="Release", exact=True).click()
    expect(page.get_by_role("button", name="Switch the microphone on")).to_have_count(0)
    with page.expect_response(OPENING):
        held.release()
    page.get_by_role("link", name="Record", exact=True).click()
    expect(page.get_by_role("button", name="Switch the microphone on")).to_be_visible()
    expect(page.get_by_role("meter")).to_have_count(0)
    page.get_by_role("button", name="Switch the microphone on").click()
    expect(page.get_by_role("meter")).to_be_visible()


def test_a_device_chosen_while_another_opens_is_the_one_that_opens(
    page: Page, server: Server
) -> None:
    page.goto(f"/episodes/{server.new_episode('Fog')}/record")
    page.get_by_label("Device").select_option(label="Simulated microphone")
    held = Held(page)
    page.get_by_role("button", name="Switch the microphone on").click()
    held.wait()
    page.get_by_label("Device").select_option(label="Simulated: too quiet")
    held.release()
    expect(page.get_by_role("meter")).to_have_attribute("aria-valuetext", "Too quiet")
    expect(page.get_by_role("meter")).to_have_count(1)


def test_every_screen_shows_a_recording_that_runs_and_can_end_it(
    page: Page, server: Server
) -> None:
    episode = open_stage(page, server, "Simulated microphone")
    bar = page.get_by_test_id("recording-bar")
    begin(page)
    expect(bar).to_have_count(0)  # the stage shows it itself
    until(page, 0.5)
    page.get_by_role("link", name="Release", exact=True).click()
    expect(bar).to_contain_text("Recording")
    page.get_by_role("banner").get_by_role("link").first.click()
    expect(page).to_have_url(f"{server.address}/")
    expect(bar).to_contain_text("Recording")
    until(page, 2.0)
    shown = bar.get_by_test_id("elapsed").bounding_box()
    assert shown is not None
    assert shown["width"] > 30, "the time has no room"
    bar.get_by_role("link", name="Back to the recording").click()
    assert elapsed(page) >= 2.0
    page.get_by_role("banner").get_by_role("link").first.click()
    until(page, 3.0)
    bar.get_by_role("button", name="End and add it").click()
    expect(bar).to_have_count(0)
    for job in server.client.get("/api/jobs").json():
        server.wait(job["id"])
    (sound,) = takes(server, server.episode(episode))
    assert len(sound) >= 3 * RATE
    place_of(sound)
