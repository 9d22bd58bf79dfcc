"""What a host does on the Record stage, and holding takes against what was played."""

import numpy as np
from playwright.sync_api import Page, expect

from airtrim.core.media.take import TakeReader
from airtrim.standins.microphone import simulated
from tests.reference import RATE
from tests.serving import Server


def open_stage(page: Page, server: Server, *devices: str) -> int:
    """A new episode's Record stage with its microphones on."""
    episode = server.new_episode("Fog")
    page.goto(f"/episodes/{episode}/record")
    for index, device in enumerate(devices):
        if index:
            page.get_by_role("button", name="Add another microphone").click()
        page.get_by_label("Device").nth(index).select_option(label=device)
    page.get_by_role("button", name="Switch the microphone on").click()
    expect(page.get_by_role("meter").first).to_be_visible()
    return episode


def begin(page: Page) -> None:
    page.get_by_role("button", name="Record", exact=True).click()
    expect(page.get_by_text("Recording", exact=True).first).to_be_visible()


def elapsed(page: Page) -> float:
    shown = page.get_by_test_id("elapsed")
    expect(shown).to_contain_text(":")  # it is written on the next frame
    minutes, seconds = shown.inner_text().split(":")
    return 60 * int(minutes) + float(seconds)


def until(page: Page, seconds: float) -> None:
    page.wait_for_function(
        """(s) => { const [m, t] = (document.querySelector('[data-testid=elapsed]')
             ?.textContent ?? '0:0').split(':'); return 60 * m + Number(t) >= s; }""",
        arg=seconds,
    )


def end(page: Page, server: Server, episode: int) -> dict:
    page.get_by_role("button", name="End and add it").click()
    expect(page.get_by_role("button", name="Record", exact=True)).to_be_visible()
    return added(server, episode)


def added(server: Server, episode: int) -> dict:
    """The episode when the recording has been put in; its words may still be on their way."""
    jobs = server.client.get("/api/jobs").json()
    for job in jobs:
        if job["kind"] == "record" and job["episode_id"] == episode:
            done = server.wait(job["id"])
            assert done["state"] == "done", done
    return server.episode(episode)


def takes(server: Server, view: dict) -> list[np.ndarray]:
    folder = server.data / "takes"
    readers = [TakeReader(folder / take["id"] / "sound") for take in view["takes"]]
    return [reader.read(0, reader.frames)[:, 0] for reader in readers]


def told(view: dict) -> list[dict]:
    """The marks of a recording but for the seconds in which the machine was too busy to hear, or a
    guest's page to follow the host's, which it marks too: a machine that also runs other tests is,
    now and then."""
    busy = ("Nothing was heard for", "was not recorded for")
    return [mark for mark in view["markers"] if not any(one in mark["name"] for one in busy)]


def place_of(sound: np.ndarray, voice: str = "voice") -> int:
    """Where in the looped stand-in ``sound`` begins, all of it equal sample for sample.

    To −180 dBFS: Chromium's own player of the stand-in sometimes reads between two samples by an
    error in the last digit, so that a sample of nought comes out as 1e-15.
    """
    once = simulated(voice)[:, 0]
    loop = np.tile(once, -(-len(sound) // len(once)) + 1)
    first = int(np.argmax(np.abs(sound[: RATE // 2])))
    reached = 0
    for at in np.flatnonzero(np.abs(loop[: len(once)] - sound[first]) < 1e-9):
        start = (int(at) - first) % len(once)
        differs = np.flatnonzero(np.abs(loop[start : start + len(sound)] - sound) > 1e-9)
        if not len(differs):
            return start
        reached = max(reached, int(differs[0]))
    after = " ".join(f"{value:.5f}" for value in sound[reached : reached + 8])
    raise AssertionError(f"not what was played from frame {reached} of {len(sound)}: {after} …")
