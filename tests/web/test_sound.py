"""The sound of a voice in a real browser: suggestions taken, compared, evened out, exported."""

import io
import json
from itertools import pairwise
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, Route, expect

from airtrim.core.loudness.meter import Meter, section_loudness
from tests.core.test_echo import in_room
from tests.core.test_learnt import knocks
from tests.reference import RATE, Sound, decoded, ffmpeg_loudness
from tests.serving import Server
from tests.waiting import eventually


def open_sound(page: Page, voice: str = "Marit") -> None:
    page.goto("/episodes/1/sound")
    page.get_by_role("button", name=voice, exact=True).click()
    expect(page.get_by_role("heading", name=f"Chain of {voice}")).to_be_visible()
    expect(page.get_by_test_id("measured")).to_contain_text("Room")


def chain_of(server: Server, name: str) -> dict:
    return next(t["chain"] for t in server.episode(1)["tracks"] if t["name"] == name)


def listened(page: Page) -> list[dict]:
    """How the track was heard in every piece that is asked for from now on."""
    out: list[dict] = []

    def note(request) -> None:  # type: ignore[no-untyped-def]
        query = parse_qs(urlsplit(request.url).query)
        if urlsplit(request.url).path.endswith("/audio"):
            out.append(json.loads(query["listening"][0]) if "listening" in query else {})

    page.on("request", note)
    return out


def line_db(sound: Sound, hertz: float) -> float:
    """A steady line against what is beside it."""
    mono = sound.mean(axis=1)
    spectrum = np.abs(np.fft.rfft(mono * np.hanning(len(mono)), 1 << 18))
    at = round(hertz * (1 << 18) / RATE)
    near, far = round(8 * (1 << 18) / RATE), round(20 * (1 << 18) / RATE)
    beside = np.concatenate([spectrum[at - far : at - near], spectrum[at + near : at + far]])
    return float(20 * np.log10(spectrum[at - 4 : at + 5].max() / np.median(beside)))


def test_a_noisy_second_voice_is_treated_evened_out_and_exported(
    page: Page, server: Server, tmp_path: Path
) -> None:
    heard = listened(page)
    open_sound(page)
    # Two of what would help, each with its reason.
    helps = page.get_by_test_id("helps")
    expect(helps).to_contain_text("hums on in every pause")
    expect(helps).to_contain_text("dB under the voice")
    # The second is taken before the list knows of the first: both are.
    late: list[Route] = []
    page.route("**/sound?*", lambda route: late.append(route))
    page.get_by_role("button", name="Do it: Take out the hum at 50 Hz").click()
    page.get_by_role("button", name="Do it: Lower the noise").click()
    eventually(lambda: chain_of(server, "Marit")["noise"]["on"], page)
    while late:
        late.pop().continue_()
    page.unroute("**/sound?*")
    expect(page.get_by_role("button", name="Do it: Take out the hum at 50 Hz")).to_have_count(0)
    expect(page.get_by_role("button", name="Do it: Lower the noise")).to_have_count(0)
    assert chain_of(server, "Marit")["hum"]["on"]
    assert chain_of(server, "Marit")["noise"]["on"]
    assert not chain_of(server, "Tobin")["noise"]["on"]
    # What her noise calls for, and why; the other is one choice away, and told to be the other.
    against, why = page.get_by_label("Against what noise"), page.get_by_test_id("noise")
    expect(against).to_have_value("steady")
    expect(why).to_contain_text("The noise is steady")
    against.select_option("Any noise")
    expect(why).to_contain_text("“Steady noise” is enough, and gentler.")
    eventually(lambda: chain_of(server, "Marit")["noise"]["method"] == "learnt", page)
    expect(page.get_by_text("Being made; until then")).to_have_count(0)
    # Compare at equal loudness, while it plays.
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_role("button", name="Untouched")).to_have_attribute("aria-pressed", "true")
    eventually(lambda: any(one.get("hear") == "untouched" for one in heard), page)
    page.keyboard.press("o")
    eventually(lambda: any(one.get("hear") == "taken_out" for one in heard), page)
    page.keyboard.press("o")
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Hear this voice")).to_be_visible()
    # Even out, and read the picture.
    page.get_by_role("link", name="Loudness", exact=True).click()
    button = page.get_by_role("button", name="Even out all sections")
    expect(button).to_be_enabled()
    expect(page.get_by_test_id("verdict")).to_contain_text("Uneven: sections are")
    button.click()
    expect(page.get_by_test_id("verdict")).to_contain_text("Even: sections within")
    expect(page.get_by_test_id("speakers")).to_contain_text("Marit")
    # Undo and redo.
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("verdict")).to_contain_text("Uneven: sections are")
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_test_id("verdict")).to_contain_text("Even: sections within")
    # Export, and measure the file as somebody else would.
    page.get_by_role("link", name="Release", exact=True).click()
    page.get_by_role("button", name="3 Files").click()
    page.get_by_role("button", name="Make the file").click()
    expect(page.get_by_test_id("report")).to_be_visible()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Download").click()
    path = tmp_path / "export.mp3"
    waiting.value.save_as(path)
    sound = decoded(path)
    figures = ffmpeg_loudness(sound)
    assert figures["integrated"] == pytest.approx(-16.0, abs=0.2)
    assert figures["true_peak"] <= -0.9
    meter = Meter(2)
    meter.push(sound)
    starts = [section["at"] for section in server.episode(1)["sections"]]
    sections = [v for v in section_loudness(meter.profile().energy, starts) if v is not None]
    assert max(sections) - min(sections) < 0.5
    # The hum is gone from a pause of Marit's, where it stood 20 dB out of the room before.
    pause = marits_longest_pause(server)
    assert line_db(sound[slice(*pause)], 50.0) < 12
    assert line_db(sound[slice(*pause)], 150.0) < 12


def marits_longest_pause(server: Server) -> tuple[int, int]:
    view = server.episode(1)
    section = next(s for s in view["sections"] if s["name"].startswith("Marit"))
    where = {
        "revision": view["revision"],
        "start": section["at"],
        "frames": min(section["frames"], 60 * RATE),
    }
    words = server.client.get("/api/episodes/1/page", params=where).json()["words"]
    gaps = [(b["start"] - a["end"], a["end"], b["start"]) for a, b in pairwise(words)]
    _, start, end = max(gaps)
    # A notch on 150 Hz rings on for a moment after a voice that has that pitch.
    return start + RATE, end - 4800


def test_a_band_is_dragged_typed_and_moved_by_keys(page: Page, server: Server) -> None:
    open_sound(page, "Tobin")
    page.get_by_role("button", name="Add a band").click()
    point = page.get_by_role("slider", name="Band 1", exact=True)
    expect(point).to_be_visible()
    box = point.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 120, y + 45, steps=6)
    page.mouse.up()
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute(
        "title", "Undo: Moved a band of Tobin (Ctrl+Z)"
    )
    band = chain_of(server, "Tobin")["bands"][0]
    assert 2000 < band["hz"] < 4000
    assert -9 < band["gain_db"] < -5
    page.get_by_label("Frequency, typed").last.fill("3150")
    page.keyboard.press("Enter")
    expect(point).to_have_attribute("aria-valuenow", "3150")
    point.focus()
    page.keyboard.press("ArrowUp")
    expect(point).to_have_attribute("aria-valuetext", f"3150 Hz, {band['gain_db'] + 0.5:g} dB")
    page.get_by_label("Frequency, typed").last.fill("90000")
    page.keyboard.press("Enter")
    expect(page.get_by_text("between 20 and 20000 Hz")).to_be_visible()
    # Drawn before it is kept: the server is asked until it says so too.
    eventually(lambda: chain_of(server, "Tobin")["bands"][0]["hz"] == 3150, page)


def test_what_is_shown_is_what_is_kept_though_the_server_is_slow(
    page: Page, server: Server
) -> None:
    """The answer to one step comes while the next is on its way: the next stays on the screen."""
    open_sound(page, "Tobin")
    held: list[Route] = []
    page.route("**/edits", lambda route: held.append(route))
    page.get_by_label("Compressor", exact=True).locator("..").click()
    page.get_by_label("De-esser", exact=True).locator("..").click()
    eventually(lambda: held, page)
    held.pop().continue_()
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute(
        "title", "Undo: Compressor on for Tobin (Ctrl+Z)"
    )
    eventually(lambda: held, page)
    expect(page.get_by_label("De-esser", exact=True)).to_be_checked()
    page.get_by_role("button", name="Save this chain").click()
    page.get_by_label("Name of the chain").fill("Both steps")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("Both steps")).to_be_visible()
    (kept,) = server.client.get("/api/chains").json()
    assert kept["chain"]["de_ess"]["on"]
    held.pop().continue_()
    eventually(lambda: chain_of(server, "Tobin") == kept["chain"], page)
    # Taken back, it is not held on to.
    page.unroute("**/edits")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("De-esser", exact=True)).not_to_be_checked()
    expect(page.get_by_label("Compressor", exact=True)).to_be_checked()
    # Nor is a step lost that is on its way while another control is being moved.
    page.route("**/edits", lambda route: held.append(route))
    threshold = chain_of(server, "Tobin")["compressor"]["threshold_db"]
    page.get_by_label("De-esser", exact=True).locator("..").click()
    page.get_by_label("Low cut", exact=True).locator("..").click()
    thumb = page.get_by_role("slider", name="Threshold", exact=True).bounding_box()
    assert thumb
    x, y = thumb["x"] + thumb["width"] / 2, thumb["y"] + thumb["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 40, y, steps=4)
    eventually(lambda: held, page)
    held.pop().continue_()
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute(
        "title", "Undo: De-esser on for Tobin (Ctrl+Z)"
    )
    page.mouse.move(x + 50, y, steps=2)
    page.mouse.up()
    for _ in range(2):
        eventually(lambda: held, page)
        held.pop().continue_()
    eventually(lambda: chain_of(server, "Tobin")["compressor"]["threshold_db"] != threshold, page)
    assert chain_of(server, "Tobin")["de_ess"]["on"]
    assert chain_of(server, "Tobin")["low_cut"]["on"]


def lowest(heard: list[dict]) -> list[float]:
    """Where the low cut of each chain lay that was heard, in Hz."""
    return [one["chain"]["low_cut"]["hz"] for one in heard if one.get("chain")]


def test_a_control_is_heard_while_it_moves_and_a_second_setting_beside_it(
    page: Page, server: Server
) -> None:
    heard = listened(page)
    open_sound(page, "Tobin")
    page.get_by_label("Low cut", exact=True).locator("..").click()
    expect(page.get_by_label("Below, typed")).to_be_enabled()
    page.get_by_role("button", name="Hear this voice").click()
    page.get_by_role("button", name="Keep as second").click()
    page.get_by_role("button", name="First setting").click()
    expect(page.get_by_text("You hear and change the second setting")).to_be_visible()
    revision = server.episode(1)["revision"]
    page.get_by_role("slider", name="Below").focus()
    for _ in range(30):
        page.keyboard.press("ArrowRight")
    eventually(lambda: max(lowest(heard), default=0) > 110, page)
    assert server.episode(1)["revision"] == revision, "trying is no step of the history"
    page.get_by_role("button", name="Use it").click()
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute(
        "title", "Undo: Took the second setting for Tobin (Ctrl+Z)"
    )
    used = chain_of(server, "Tobin")["low_cut"]["hz"]
    eventually(lambda: used == max(lowest(heard)), page)


def test_a_chain_is_kept_and_used_for_another_voice(page: Page, server: Server) -> None:
    open_sound(page, "Tobin")
    page.get_by_label("Compressor", exact=True).locator("..").click()
    page.get_by_role("button", name="Set it by this voice").click()
    page.get_by_role("button", name="Save this chain").click()
    page.get_by_label("Name of the chain").fill("Two voices")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("Two voices")).to_be_visible()
    page.get_by_role("button", name="Marit", exact=True).click()
    page.get_by_role("button", name="Use", exact=True).click()
    expect(page.get_by_label("Compressor", exact=True)).to_be_checked()
    # It is shown before it is kept.
    eventually(lambda: chain_of(server, "Marit") == chain_of(server, "Tobin"), page)
    page.get_by_role("button", name="Remove Two voices").click()
    expect(page.get_by_role("button", name="Use", exact=True)).to_have_count(0)


def test_phrases_and_music_are_ridden_and_seen_as_points(page: Page, server: Server) -> None:
    # Both voices and the music, without what only takes time.
    spans = [(45, 60), (130, 110)]
    edit = {
        "kind": "cut_many",
        "spans": [{"start": at * RATE, "frames": s * RATE} for at, s in spans],
    }
    revision = server.episode(1)["revision"]
    asked = {"revision": revision, "edit": edit}
    assert server.client.post("/api/episodes/1/edits", json=asked).status_code == 200
    page.goto("/episodes/1/loudness")
    expect(page.get_by_test_id("verdict")).to_be_visible()
    page.get_by_role("button", name="Even out phrases").click()
    undo = page.get_by_role("button", name="Undo", exact=True)
    expect(undo).to_have_attribute("title", "Undo: Evened out phrases (Ctrl+Z)")
    expect(page.get_by_role("button", name="Hold it under the talk")).to_be_enabled()
    page.get_by_role("button", name="Hold it under the talk").click()
    said = "Undo: Held the music under the talk (Ctrl+Z)"
    expect(undo).to_have_attribute("title", said)
    tracks = {t["name"]: t for t in server.episode(1)["tracks"]}
    assert len(tracks["Tobin"]["envelope"]) > 10
    assert all(track["envelope"] for track in tracks.values() if not track["held"])
    expect(page.get_by_test_id("curve")).to_be_visible()
    # A click on the picture goes there.
    box = page.locator(".u-over").bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 100)
    at = float(page.get_by_label("Position").get_attribute("data-at") or 0)
    assert at == pytest.approx(server.episode(1)["frames"] / 2, rel=0.03)


def jobs(server: Server) -> list[dict]:
    return server.client.get("/api/jobs").json()


def test_a_take_full_of_dishes_is_cleaned_and_what_goes_is_heard(
    page: Page, server: Server, demo: Path
) -> None:
    voice, _ = soundfile.read(demo / "sound" / "host-bridge.flac", dtype="float32")
    dishes = knocks(10 * RATE, 0.3)
    taken = io.BytesIO()
    noisy = voice[RATE : 11 * RATE] + dishes[:, 0]
    soundfile.write(taken, noisy, RATE, format="FLAC")
    episode = server.new_episode("In the kitchen")
    server.wait(server.upload(episode, taken.getvalue(), "kitchen.flac"), "done")
    server.wait_all()
    heard = listened(page)
    page.goto(f"/episodes/{episode}/sound")
    page.get_by_role("button", name="Do it: Lower the noise").click()
    expect(page.get_by_label("Against what noise")).to_have_value("learnt")
    expect(page.get_by_test_id("noise")).to_contain_text("changes")
    eventually(lambda: any(job["kind"] == "clean" for job in jobs(server)), page)
    server.wait_all()
    expect(page.get_by_text("Being made; until then")).to_have_count(0)
    # What goes is heard by itself, and it is the dishes.
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.get_by_role("button", name="What goes").click()
    eventually(lambda: any(one.get("hear") == "taken_out" for one in heard), page)
    view = server.episode(episode)
    (track,) = view["tracks"]
    assert track["chain"]["noise"]["method"] == "learnt"
    out = {}
    for hear in ("treated", "taken_out"):
        listening = {"track": track["id"], "chain": track["chain"], "hear": hear}
        where = {"revision": view["revision"], "start": 0, "frames": 8 * RATE}
        answer = server.client.get(
            f"/api/episodes/{episode}/audio",
            params={**where, "listening": json.dumps(listening)},
        )
        out[hear] = soundfile.read(io.BytesIO(answer.content), dtype="float32")[0]
    loud = np.abs(dishes[: 8 * RATE, 0]) > 0.1
    at = {hear: float(np.mean(np.square(sound[: 8 * RATE][loud]))) for hear, sound in out.items()}
    before = float(np.mean(np.square(noisy[: 8 * RATE][loud])))
    assert at["treated"] < 0.25 * before
    assert at["taken_out"] > 0.3 * before


def test_an_echo_is_lowered_by_one_press_and_what_goes_is_heard(
    page: Page, server: Server, demo: Path
) -> None:
    voice, _ = soundfile.read(demo / "sound" / "host-bridge.flac", dtype="float32")
    taken = io.BytesIO()
    soundfile.write(taken, 0.5 * in_room(voice[RATE : 11 * RATE], 0.6), RATE, format="FLAC")
    episode = server.new_episode("In the hall")
    server.wait(server.upload(episode, taken.getvalue(), "hall.flac"), "done")
    server.wait_all()
    heard = listened(page)
    page.goto(f"/episodes/{episode}/sound")
    expect(page.get_by_role("button", name="What goes")).to_be_disabled()
    page.get_by_role("button", name="Do it: Lower the echo").click()
    expect(page.get_by_role("checkbox", name="Echo")).to_be_checked()
    expect(page.get_by_text("What the room throws back is lowered.")).to_be_visible()
    assert [job["state"] for job in jobs(server) if job["kind"] == "clean"][-1:] == ["done"]
    page.get_by_role("button", name="Hear this voice").click()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.get_by_role("button", name="What goes").click()
    expect(page.get_by_role("button", name="What goes")).to_have_attribute("aria-pressed", "true")
    eventually(lambda: any(one.get("hear") == "taken_out" for one in heard), page)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Do it: Lower the echo")).to_be_visible()


def test_numbers_are_typed_with_a_comma_kept_taken_back_and_told(
    page: Page, server: Server
) -> None:
    page.goto("/episodes/1/loudness")
    field = page.get_by_label("Target in LUFS")
    field.fill("-19,5")
    field.press("Escape")
    expect(field).to_have_value("−16")
    field.fill("-19,5")
    field.press("Enter")
    eventually(lambda: server.episode(1)["loudness"]["target_lufs"] == -19.5, page)
    # Two in a row, the second before the first is answered: neither takes the other back.
    held: list[Route] = []
    page.route("**/edits", lambda route: held.append(route))
    peak = page.get_by_label("Highest true peak in dBTP")
    peak.fill("-2")
    peak.press("Enter")
    field.fill("-20")
    field.press("Enter")
    for _ in range(2):
        eventually(lambda: held, page)
        held.pop().continue_()
    page.unroute("**/edits")
    eventually(lambda: server.episode(1)["loudness"]["target_lufs"] == -20, page)
    assert server.episode(1)["loudness"]["ceiling_dbtp"] == -2
    field.fill("-60")
    field.press("Enter")
    expect(page.get_by_text("Target in LUFS: between −36 and −8, please.")).to_be_visible()
    expect(field).to_have_value("−20")
    start = page.get_by_label("Start of section 2")
    start.fill("soon")
    start.press("Enter")
    expect(page.get_by_text("“soon” is not a time")).to_be_visible()


def test_sections_are_found_and_the_old_ones_come_back(page: Page, server: Server) -> None:
    page.goto("/episodes/1/loudness")
    first = [section["name"] for section in server.episode(1)["sections"]]
    page.get_by_role("button", name="Find sections").click()
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute(
        "title", "Undo: Found sections (Ctrl+Z)"
    )
    found = [section["name"] for section in server.episode(1)["sections"]]
    assert found[0] == "Intro music"
    assert found[-1] == "Outro music"
    assert found[1:-1] == ["Tobin", "Marit", "Tobin", "Tobin"]
    expect(page.get_by_test_id("sections").get_by_role("row")).to_have_count(7)
    page.get_by_role("button", name="Find sections").click()
    expect(page.get_by_text("These are the sections that are found")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Name of section 2")).to_have_value(first[1])
