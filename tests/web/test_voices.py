"""Two people on one track: told apart, named by a press each, and brought to one loudness."""

import io
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from airtrim.core.media.take import TakeReader, store_take
from tests.serving import RATE, Server
from tests.waiting import at_rest, eventually

TURN_S, TURNS = 5, 8
QUIETER = 0.35
"""The second voice, about 9 dB under the first."""


@pytest.fixture
def talk(demo, tmp_path) -> bytes:
    """The demo's host and guest by turns at one microphone, as FLAC."""
    takes = []
    for name in ("host-opening", "guest"):
        folder = tmp_path / name
        folder.mkdir()
        store_take(demo / "sound" / f"{name}.flac", folder / "sound", folder / "peaks", name=name)
        takes.append(TakeReader(folder / "sound"))
    parts = []
    for turn in range(TURNS):
        start = (5 + turn // 2 * TURN_S) * RATE
        sound = takes[turn % 2].read(start, TURN_S * RATE).mean(axis=1)
        parts += [sound * (QUIETER if turn % 2 else 1.0), np.zeros(RATE // 2, np.float32)]
    out = io.BytesIO()
    soundfile.write(out, np.concatenate(parts), RATE, format="FLAC")
    return out.getvalue()


def words_of(server: Server, episode: int) -> list[dict]:
    view = server.episode(episode)
    where = {"revision": view["revision"], "start": 0, "frames": view["frames"]}
    return server.client.get(f"/api/episodes/{episode}/page", params=where).json()["words"]


def test_two_people_on_one_track_are_named_and_evened_out(
    page: Page, server: Server, talk: bytes
) -> None:
    episode = server.new_episode("Two at one microphone")
    server.wait(server.upload(episode, talk, "talk.flac"), "done")
    server.wait_all()
    turn = (TURN_S * RATE) + RATE // 2
    truth = [
        "Voice 1" if w["start"] // turn % 2 == 0 else "Voice 2" for w in words_of(server, episode)
    ]
    told = [w["speaker"] for w in words_of(server, episode)]
    assert np.mean([a == b for a, b in zip(truth, told, strict=True)]) >= 0.95

    # Each is named by a press on what its first turn is called.
    page.goto(f"/episodes/{episode}/edit")
    for voice, name in (("Voice 1", "Tobin"), ("Voice 2", "Marit")):
        page.get_by_role("button", name=voice, exact=True).first.click()
        page.get_by_label(f"Name of {voice}").fill(name)
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name=voice, exact=True)).to_have_count(0)
    assert {w["speaker"] for w in words_of(server, episode)} == {"Tobin", "Marit"}
    at_rest(page)

    # Each by one gain.
    page.get_by_role("link", name="Loudness", exact=True).click()
    rows = page.get_by_test_id("speakers")
    expect(rows).to_contain_text("Marit")
    apart = levels(server, episode)
    assert apart["Tobin"] - apart["Marit"] > 6
    page.get_by_role("button", name="Even out voices").click()
    eventually(lambda: server.episode(episode)["undo"] == "Evened out voices", page)
    eventually(lambda: levels(server, episode), page)
    near = levels(server, episode)
    assert abs(near["Tobin"] - near["Marit"]) < 2


def levels(server: Server, episode: int) -> dict[str, float]:
    """The loudness of each who speaks, once it is measured."""
    revision = server.episode(episode)["revision"]
    found = server.client.get(f"/api/episodes/{episode}/levels", params={"revision": revision})
    return {one["name"]: one["before"] for one in found.json()["speakers"]}


def test_a_recording_is_set_to_spanish(page: Page, server: Server) -> None:
    episode = server.new_episode("El barco")
    spoken = (Path(__file__).parents[1] / "spoken" / "spanish.flac").read_bytes()
    server.wait(server.upload(episode, spoken, "spanish.flac"), "done")
    server.wait_all()
    page.goto(f"/episodes/{episode}/edit")
    page.get_by_role("tab", name="Takes").click()
    page.get_by_role("button", name="Write the words anew…").click()
    expect(page.get_by_label("Recogniser")).to_have_value("careful")
    page.get_by_label("Language", exact=True).select_option("Spanish")
    page.get_by_role("button", name="Write them").click()
    expect(page.get_by_test_id("written")).to_have_text("Spanish, careful recogniser")
    expect(page.locator("[data-word]").filter(has_text="barco")).to_be_visible()
    expect(page.get_by_role("button", name="Its words of before")).to_be_visible()
