"""More of the Record stage: channels, what is heard, playing along, script, sleep, faults."""

import re
import time
from collections.abc import Iterator
from contextlib import suppress

import numpy as np
import psutil
import pytest
from playwright.sync_api import Page, Route, expect
from scipy.signal import correlate

from tests.reference import RATE
from tests.serving import ForkedServer, Server
from tests.waiting import at_rest, eventually
from tests.web.clicking import CLICKING, UNHEARD, clicks
from tests.web.conftest import Launch
from tests.web.recording import begin, elapsed, end, open_stage, place_of, takes, told, until
from tests.web.selecting import more


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    server = ForkedServer(tmp_path_factory.mktemp("more") / "data")
    yield server
    server.stop()


def test_the_channels_of_one_interface_are_tracks_of_their_own(page: Page, server: Server) -> None:
    interface = "Simulated interface with two channels"
    episode = open_stage(page, server, interface, interface)
    for index in (0, 1):
        page.get_by_label("Channel").nth(index).select_option(label=str(index + 1))
    expect(page.get_by_role("meter")).to_have_count(2)
    begin(page)
    until(page, 1.5)
    first, second = takes(server, end(page, server, episode))
    assert len(first) == len(second)
    assert place_of(first) == place_of(second, "second"), "in time to the sample"


def test_a_microphone_that_is_not_armed_is_not_recorded(page: Page, server: Server) -> None:
    episode = open_stage(page, server, "Simulated microphone", "Simulated second voice")
    card = page.get_by_test_id("microphone").first
    card.get_by_role("button", name="More").click()
    card.get_by_label("Record it").uncheck(force=True)
    begin(page)
    until(page, 1.0)
    view = end(page, server, episode)
    assert [track["name"] for track in view["tracks"]] == ["Voice 2"]
    (sound,) = takes(server, view)
    place_of(sound, "second")


def test_oneself_is_heard_only_when_asked_and_mute_and_solo_are_obeyed(
    page: Page, server: Server
) -> None:
    """A microphone that hears the loudspeaker tells what is heard."""
    open_stage(page, server, "Simulated microphone", "Simulated: hears the loudspeaker")
    loudspeaker = page.get_by_role("meter").nth(1)
    expect(page.get_by_role("meter").first).to_have_attribute("aria-valuetext", "Good")
    at_rest(page)
    expect(loudspeaker).to_have_attribute("aria-valuetext", "Silence")
    page.get_by_label("Hear yourself").check(force=True)
    expect(loudspeaker).not_to_have_attribute("aria-valuetext", "Silence")
    page.get_by_role("button", name="Mute").first.click()
    expect(loudspeaker).to_have_attribute("aria-valuetext", "Silence")
    page.get_by_role("button", name="Mute").first.click()
    expect(loudspeaker).not_to_have_attribute("aria-valuetext", "Silence")
    page.get_by_role("button", name="Solo").nth(1).click()
    expect(loudspeaker).to_have_attribute("aria-valuetext", "Silence")


def test_what_is_said_to_tracks_that_play_along_is_laid_in_time_with_them(
    page: Page, server: Server
) -> None:
    """The simulated loudspeaker is 90 ms from its microphone: so much is measured and left out,
    and what it recorded lies on what was played, to a millisecond."""
    episode = open_stage(page, server, "Simulated microphone")
    begin(page)
    until(page, 6.0)
    end(page, server, episode)
    page.get_by_label("Device").select_option(label="Simulated: hears the loudspeaker")
    page.get_by_label("Track").fill("Echo")
    page.get_by_label("Track").blur()
    page.get_by_text("Beside what is there").click()
    page.get_by_label("Other tracks play along").check(force=True)
    page.get_by_role("button", name="Measure the delay").click()
    expect(page.get_by_test_id("listening")).to_contain_text(re.compile("Delay 9[0-4] ms"))
    begin(page)
    # Not that of the transport, which stands beside it while the tracks play.
    pause = page.get_by_role("main").get_by_role("button", name="Pause", exact=True)
    expect(pause.and_(page.get_by_title(re.compile("^Other tracks play along")))).to_be_disabled()
    until(page, 1.0)
    # Nothing stops, moves or slows what is recorded to.
    page.keyboard.press("Space")
    expect(page.get_by_text("End the recording first")).to_be_visible()
    for key in ("]", "ArrowRight", "Escape"):
        page.keyboard.press(key)
    expect(page.get_by_title("Other tracks play along", exact=True)).to_be_disabled()
    until(page, 4.0)
    view = end(page, server, episode)
    original, echo = takes(server, view)
    timeline_clip = server.client.get(
        f"/api/episodes/{episode}/page",
        params={"revision": view["revision"], "start": 0, "frames": view["frames"]},
    ).json()["clips"]
    (clip,) = [c for c in timeline_clip if c["track"] == view["tracks"][1]["id"]]
    assert clip["start"] == 0
    skipped = len(echo) - clip["frames"]
    laid = echo[skipped : skipped + 3 * RATE]
    last = slice(2 * RATE, 3 * RATE)
    assert np.std(laid[last]) > 0.25 * np.std(original[last]), "half of it, as it was played"
    lag = int(np.argmax(correlate(original[: 3 * RATE], laid, "full"))) - (len(laid) - 1)
    assert abs(lag) <= RATE // 1000


def test_the_script_stands_beside_and_its_place_is_kept(page: Page, server: Server) -> None:
    episode = open_stage(page, server, "Simulated microphone")
    page.get_by_role("button", name="Write or paste it").click()
    page.get_by_role("textbox", name="Script or notes").fill(
        "Good morning.\nThe boat is late.\nIt always is."
    )
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("9 words")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Write or paste it")).to_be_visible()
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_text("9 words")).to_be_visible()
    begin(page)
    here = page.get_by_test_id("script").locator("[aria-current=step]")
    expect(here).to_have_text("Good morning.")
    page.keyboard.press("ArrowDown")
    expect(here).to_have_text("The boat is late.")
    size = here.evaluate("(p) => parseFloat(getComputedStyle(p).fontSize)")
    assert size >= 24
    until(page, 0.6)
    end(page, server, episode)
    page.reload()
    page.get_by_role("button", name="Switch the microphone on").click()
    begin(page)
    expect(here).to_have_text("The boat is late.")
    until(page, 0.6)
    end(page, server, episode)


def test_where_it_will_go_is_shown_on_the_page_before_it_starts(page: Page, server: Server) -> None:
    episode = open_stage(page, server, "Simulated microphone")
    begin(page)
    until(page, 4.0)
    view = end(page, server, episode)
    mark = page.get_by_test_id("landing-mark")
    line = page.get_by_test_id("landing-lines").locator("[data-line='0']")
    expect(mark).to_contain_text("Goes here: Voice")
    box = line.bounding_box()
    assert box
    per_second = box["width"] / 10

    def at() -> float:
        found = mark.bounding_box()
        assert found
        return (found["x"] - box["x"]) / per_second

    assert at() == pytest.approx(view["frames"] / RATE, abs=0.05)
    page.mouse.click(box["x"] + 1.5 * per_second, box["y"] + 20)
    page.get_by_text("At the playhead").click()
    assert at() == pytest.approx(1.5, abs=0.05)
    page.mouse.move(box["x"] + per_second, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(box["x"] + 3 * per_second, box["y"] + 20, steps=4)
    page.mouse.up()
    page.get_by_text("Over the selection").click()
    expect(mark).to_contain_text("Goes over this: Voice")
    found = mark.bounding_box()
    assert found
    assert found["width"] / per_second == pytest.approx(2.0, abs=0.1)


def test_room_tone_is_found_shown_and_chosen_by_hand(page: Page, server: Server) -> None:
    episode = open_stage(page, server, "Simulated microphone")
    begin(page)
    until(page, 8.0)
    view = end(page, server, episode)
    server.wait_all()
    page.get_by_role("link", name="Edit", exact=True).click()
    page.get_by_role("tab", name="Takes").click()
    tone = page.get_by_test_id("room-tone")
    expect(tone).to_contain_text("dBFS")
    where = {"revision": view["revision"]}
    address = f"/api/episodes/{episode}/takes/{view['takes'][0]['id']}/room-tone"
    found = server.client.get(address, params=where).json()
    (sound,) = takes(server, view)
    level = 20 * np.log10(
        np.sqrt(np.mean(sound[found["start"] : found["start"] + found["frames"]] ** 2))
    )
    assert found["level_dbfs"] == pytest.approx(level, abs=1.0)
    assert level < 20 * np.log10(np.sqrt(np.mean(sound**2))) - 15
    expect(page.get_by_test_id("page").get_by_test_id("room-tone-mark").first).to_be_visible()
    tone.get_by_role("button", name="Hear it").click()
    expect(page.get_by_role("button", name="Pause", exact=True)).to_be_visible()
    line = page.get_by_test_id("page").locator("[data-line='0'] .at-canvas").bounding_box()
    assert line
    page.mouse.move(line["x"] + line["width"] * 0.2, line["y"] + 20)
    page.mouse.down()
    page.mouse.move(line["x"] + line["width"] * 0.6, line["y"] + 20, steps=4)
    page.mouse.up()
    more(page, "Take it as room tone")
    expect(tone).to_contain_text("chosen by you")
    page.get_by_role("button", name="Undo").click()
    expect(tone).not_to_contain_text("chosen by you")


@pytest.mark.real_time
def test_a_flag_lands_within_50_ms_of_the_key_as_heard(page: Page, server: Server) -> None:
    """The microphone clicks as the key is pressed."""
    page.add_init_script(CLICKING)
    for _ in range(3):
        episode = open_stage(page, server, "Clicking microphone")
        begin(page)
        for number in range(4):
            until(page, 1.0 + 0.73 * number)
            page.keyboard.press("f")
        until(page, 4.0)
        view = end(page, server, episode)
        if page.evaluate("() => window.unsteady.length"):
            continue
        (sound,) = takes(server, view)
        heard = clicks(sound)
        flags = told(view)
        assert len(flags) == 4
        for flag in flags:
            assert np.abs(heard - flag["at"]).min() / RATE < 0.050
        return
    pytest.skip(UNHEARD)


def test_nothing_is_done_to_the_voice_unless_it_is_asked(page: Page, server: Server) -> None:
    page.add_init_script(
        """navigator.mediaDevices.getUserMedia = async (wanted) => {
             (window.asked ??= []).push(wanted.audio);
             const context = new AudioContext();
             return new MediaStreamAudioDestinationNode(context).stream;
           };"""
    )
    open_stage(page, server, "System default")
    done = ("echoCancellation", "noiseSuppression", "autoGainControl")
    asked = page.evaluate("window.asked.at(-1)")
    assert [asked[key] for key in done] == [False, False, False]
    page.get_by_role("button", name="More").click()
    page.get_by_label("take out noise").check(force=True)
    page.wait_for_function("() => window.asked.length > 1")
    asked = page.evaluate("window.asked.at(-1)")
    assert [asked[key] for key in done] == [False, True, False]


def test_the_gain_of_a_device_that_has_one_is_set(page: Page, server: Server) -> None:
    open_stage(page, server, "Simulated microphone")
    expect(page.get_by_role("meter")).to_have_attribute("aria-valuetext", "Good")
    page.get_by_role("button", name="More").click()
    page.get_by_role("slider", name="Input gain").focus()
    page.keyboard.press("Home")
    expect(page.get_by_role("meter")).to_have_attribute("aria-valuetext", "Silence")


def test_a_browser_that_does_not_run_at_48_khz_is_told(page: Page, server: Server) -> None:
    page.add_init_script(
        """const Real = AudioContext;
           window.AudioContext = class extends Real {
             constructor() { super({ sampleRate: 44100 }); }
           };"""
    )
    page.goto(f"/episodes/{server.new_episode()}/record")
    page.get_by_label("Device").select_option(label="Simulated microphone")
    page.get_by_role("button", name="Switch the microphone on").click()
    expect(page.get_by_role("alert")).to_contain_text("44100 Hz")
    expect(page.get_by_role("button", name="Record", exact=True)).to_be_disabled()


def test_a_sound_that_the_browser_stops_pauses_and_goes_on(page: Page, server: Server) -> None:
    """As it does when the sound device changes under it, its sample rate too."""
    page.add_init_script(
        """const Real = AudioContext;
           window.AudioContext = class extends Real {
             constructor(options) { super(options); window.sound = this; }
           };"""
    )
    episode = open_stage(page, server, "Simulated microphone")
    begin(page)
    until(page, 1.5)
    page.evaluate("window.sound.suspend()")
    expect(page.get_by_role("alert")).to_contain_text("went away")
    expect(page.get_by_text("Paused", exact=True)).to_be_visible()
    held = elapsed(page)
    page.get_by_role("button", name="Go on").click()
    until(page, held + 1.0)
    view = end(page, server, episode)
    assert [marker["kind"] for marker in told(view)] == ["gap"]
    (sound,) = takes(server, view)
    place_of(sound[:RATE])
    place_of(sound[-RATE // 2 :])


def test_a_laptop_that_slept_marks_the_gap_and_goes_on(server: Server, launch: Launch) -> None:
    """All processes of the browser are stopped for three seconds, as sleep does."""
    # Only those of this test: others have browsers of their own meanwhile.
    before = psutil.Process().children(recursive=True)
    browser = launch()
    page = browser.new_page(base_url=server.address)
    episode = open_stage(page, server, "Simulated microphone")
    begin(page)
    until(page, 1.5)
    now = psutil.Process().children(recursive=True)
    asleep = [one for one in now if one not in before and "chrom" in one.name()]
    assert asleep
    for process in asleep:
        with suppress(psutil.NoSuchProcess):  # one that has ended by itself meanwhile
            process.suspend()
    try:
        time.sleep(3)
    finally:
        for process in asleep:
            with suppress(psutil.NoSuchProcess):
                process.resume()
    expect(page.get_by_role("alert")).to_contain_text("asleep")
    until(page, elapsed(page) + 1.0)
    view = end(page, server, episode)
    browser.close()
    gaps = [re.fullmatch(r"Nothing was heard for (.+) s", mark["name"]) for mark in view["markers"]]
    assert max(float(gap[1]) for gap in gaps if gap) >= 2.5
    (sound,) = takes(server, view)
    assert len(sound) >= 2 * RATE


def test_tracks_that_begin_late_cannot_be_stopped_before_they_do(
    page: Page, server: Server
) -> None:
    """A key that was meant for something else comes while their sound is still on its way."""
    episode = open_stage(page, server, "Simulated microphone")
    begin(page)
    until(page, 3.0)
    end(page, server, episode)
    page.get_by_label("Track").fill("Second")
    page.get_by_label("Track").blur()
    page.get_by_text("Beside what is there").click()
    page.get_by_label("Other tracks play along").check(force=True)
    held: list[Route] = []
    page.route("**/audio?*", lambda route: held.append(route))
    begin(page)
    eventually(lambda: held, page)
    page.keyboard.press("Space")
    expect(page.get_by_text("End the recording first")).to_be_visible()
    page.unroute("**/audio?*")  # and what was held goes on
    until(page, 2.0)
    assert len(end(page, server, episode)["takes"]) == 2
