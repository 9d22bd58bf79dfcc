"""Releasing: the label, its chapters, the check with its remedies, and the files."""

import json
import re
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from zoneinfo import ZoneInfo

import av
import feedparser
import httpx
import pytest
from mutagen.id3 import ID3
from mutagen.mp4 import MP4
from PIL import Image
from playwright.sync_api import Page, expect

from tests.reference import decoded, ffmpeg_loudness
from tests.serving import RATE, Server
from tests.standins import TOKEN, StandIn, standin
from tests.waiting import eventually
from tests.web.test_tasks import Hand, edited, told


def step(page: Page, name: str) -> None:
    page.get_by_role("button", name=name).click()


def line(page: Page, check: str):
    return page.locator(f"[data-check='{check}']")


def chapters(server: Server) -> list[dict]:
    return [m for m in server.episode(1)["markers"] if m["kind"] == "chapter"]


def test_an_episode_is_labelled_checked_and_made_into_two_files(
    page: Page, server: Server, tmp_path: Path
) -> None:
    page.goto("/episodes/1/release")
    view = server.episode(1)
    # Chapters from the parts; one is renamed and gets a link.
    page.get_by_role("button", name="From the parts").click()
    view = edited(page, server, view["revision"])
    assert [c["name"] for c in chapters(server)] == [s["name"] for s in view["sections"]]
    third = page.locator("[data-chapter]").nth(2)
    third.get_by_label("Title of the chapter").fill("Marit, on the pier")
    page.keyboard.press("Enter")
    view = edited(page, server, view["revision"])
    third.get_by_role("button", name="A link or a picture").click()
    third.get_by_label("Link of").fill("https://slowcrossing.example/marit")
    page.keyboard.press("Enter")
    view = edited(page, server, view["revision"])
    # A number that another episode has is a stop; one press gives the next.
    other = server.client.post("/api/shows/1/episodes", json={"title": "Tides"}).json()["id"]
    taken = {"kind": "set_tags", "tags": {"season": view["tags"]["season"], "episode": 7}}
    server.client.post(
        f"/api/episodes/{other}/edits", json={"revision": 0, "edit": taken}
    ).raise_for_status()
    assert view["tags"]["episode"] == 7
    step(page, "2 Check")
    check = page.get_by_test_id("check")
    expect(check.get_by_role("heading")).to_have_text("Not yet: number")
    expect(line(page, "number")).to_contain_text("Stop")
    check.get_by_role("button", name="Number: Use 8").click()
    view = edited(page, server, view["revision"])
    assert view["tags"]["episode"] == 8
    expect(line(page, "number")).to_contain_text("Good")
    # The loudness is measured and evened out from here.
    check.get_by_role("button", name="Loudness: Measure").click()
    even = check.get_by_role("button", name="Parts beside each other: Even out")
    eventually(even.count, page)
    even.click()
    view = edited(page, server, view["revision"])
    expect(line(page, "sections")).to_contain_text("Good")
    expect(line(page, "loudness")).to_contain_text("Good")
    expect(check.get_by_role("heading")).to_contain_text("Ready")
    check.get_by_role("button", name="Files: Go to Files").click()
    # MP3 and M4A at once.
    page.get_by_text("M4A (AAC)").first.click()
    page.get_by_role("button", name="Make 2 files").click()
    reports = page.get_by_test_id("report")
    expect(reports).to_have_count(2)
    for report in reports.all():
        expect(report).to_contain_text("Reads −16.0 LUFS")
        expect(report).to_contain_text("6 chapters")
    paths = []
    for number, link in enumerate(page.get_by_role("link", name="Download").all()):
        with page.expect_download() as waiting:
            link.click()
        paths.append(tmp_path / waiting.value.suggested_filename)
        waiting.value.save_as(paths[number])
    assert [path.suffix for path in paths] == [".mp3", ".m4a"]
    wanted = [round(c["at"] * 1000 / RATE) for c in chapters(server)]
    for path in paths:
        loud = ffmpeg_loudness(decoded(path))
        assert loud["integrated"] == pytest.approx(-16.0, abs=0.15)
        assert loud["true_peak"] <= -0.9
        with av.open(str(path)) as file:
            found = sorted(
                (round(c["start"] * c["time_base"] * 1000), c["metadata"]["title"])
                for c in file.chapters()
            )
        assert [start for start, _ in found] == wanted
        assert found[2][1] == "Marit, on the pier"
    assert ID3(paths[0])["CHAP:ch2"].sub_frames["WXXX:chapter url"].url.endswith("/marit")
    assert MP4(paths[1])["trkn"] == [(8, 0)]
    # It is played from the file, chapter by chapter.
    card = page.get_by_test_id("export").first
    card.get_by_role("button", name="Play the file").first.click()
    expect(card.get_by_role("button", name="Pause the file")).to_be_visible()
    card.get_by_role("button", name="Marit, on the pier").first.click()
    expect(card).to_contain_text("1:4")
    expect(card.get_by_test_id("said").first).to_contain_text(re.compile("(Tobin|Marit): ."))
    name = re.compile(r"Loudness over time, from -?\d+ to -?\d+ LUFS")
    expect(card.get_by_role("img", name=name)).to_have_count(2)
    card.get_by_role("button", name="Pause the file").click()
    # An edit later, the files are behind, and the check stops there.
    expect(page.get_by_test_id("behind")).to_have_text("of the episode as it is now")
    cut(server, 100 * RATE, RATE)
    expect(page.get_by_test_id("behind")).to_have_text("1 edit behind")
    step(page, "2 Check")
    expect(check.get_by_role("heading")).to_contain_text("Not yet: files")
    # Chapters moved with the talk.
    moved = chapters(server)[-1]["at"] * 1000 / RATE
    assert moved == pytest.approx(wanted[-1] - 1000, abs=50)
    # The files are thrown away, once that is meant.
    step(page, "3 Files")
    card.get_by_role("button", name="Delete both").click()
    page.get_by_role("dialog").get_by_role("button", name="Keep").click()
    expect(reports).to_have_count(2)
    card.get_by_role("button", name="Delete both").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete").click()
    expect(card).to_have_count(0)


def test_a_chapter_gets_a_picture_and_every_splice_is_heard(
    page: Page, server: Server, tmp_path: Path
) -> None:
    view = server.episode(1)
    for start in (30, 60):
        edit = {"kind": "cut", "start": start * RATE, "frames": RATE // 2}
        body = {"revision": view["revision"], "edit": edit}
        view = server.client.post("/api/episodes/1/edits", json=body).json()
    page.goto("/episodes/1/release")
    page.get_by_label("Position").fill("1:00")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Add one here").click()
    view = edited(page, server, view["revision"])
    (chapter,) = chapters(server)
    assert chapter["at"] == 60 * RATE
    Image.new("RGB", (640, 360), "#345").save(tmp_path / "pier.png")
    page.get_by_test_id("chapter-picture").set_input_files(tmp_path / "pier.png")
    view = edited(page, server, view["revision"])
    assert chapters(server)[0]["artwork"]
    page.get_by_role("button", name="Take the picture of this chapter away").click()
    edited(page, server, view["revision"])
    assert chapters(server)[0]["artwork"] is None
    with page.expect_download() as waiting:
        page.get_by_test_id("chapters").get_by_role("link", name="JSON chapters").click()
    waiting.value.save_as(tmp_path / "chapters.json")
    told = json.loads((tmp_path / "chapters.json").read_text())
    assert told == {"version": "1.2.0", "chapters": [{"startTime": 60.0, "title": "Chapter 1"}]}
    step(page, "3 Files")
    heard = []
    page.on("request", lambda r: heard.append(r.url) if "/audio?" in r.url else None)
    page.get_by_role("button", name="Listen to every splice (2)").click()
    eventually(lambda: len({_start(url) // RATE for url in heard} & {28, 58}) == 2, page)


def _start(url: str) -> int:
    return int(url.split("start=")[1].split("&")[0])


@pytest.fixture
def host_there(tmp_path: Path) -> Iterator[StandIn]:
    with standin(tmp_path / "there") as found:
        yield found


@pytest.fixture
def environment(request: pytest.FixtureRequest) -> dict[str, str]:
    """Servers may hand over to the stand-in, where a test has one."""
    allowed = []
    if "host_there" in request.fixturenames:
        allowed = [request.getfixturevalue("host_there").url]
    return {"AIRTRIM_ALLOWED_HOSTS": json.dumps(allowed)}


def cut(server: Server, start: int, frames: int) -> None:
    """As in another window."""
    edit = {"kind": "cut", "start": start, "frames": frames}
    body = {"revision": server.episode(1)["revision"], "edit": edit}
    server.client.post("/api/episodes/1/edits", json=body).raise_for_status()


def handed_over(page: Page):
    return page.get_by_test_id("handed-over")


def test_a_draft_is_handed_over_looked_at_published_and_replaced(
    page: Page, server: Server, host_there: StandIn
) -> None:
    zone = ZoneInfo("Pacific/Auckland")
    page.context.new_cdp_session(page).send(
        "Emulation.setTimezoneOverride", {"timezoneId": zone.key}
    )
    frames = server.episode(1)["frames"]
    cut(server, 40 * RATE, frames - 40 * RATE)  # so that making it twice takes little
    page.goto("/episodes/1/release?step=files")
    page.get_by_role("button", name="Make the file").click()
    expect(page.get_by_test_id("report")).to_be_visible()
    step(page, "4 Hand over")
    # What cannot be used is told; then the destination is kept, for all episodes of the show.
    page.get_by_role("button", name="Add a destination").click()
    page.get_by_label("Name", exact=True).fill("The stand-in")
    page.get_by_label("Address").fill("http://127.0.0.1:9")
    page.get_by_label("Token").fill(TOKEN)
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("Use https://").first).to_be_visible()
    page.get_by_label("Address").fill(host_there.url)
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_test_id("destinations")).to_contain_text("The stand-in")
    # Times are told as they are where the host is.
    made = datetime.fromisoformat(server.client.get("/api/jobs").json()[-1]["created_at"])
    here = made.replace(tzinfo=UTC).astimezone(zone)
    said = re.compile(f", {here.day} {here:%b}[a-z]* {here:%Y, %H:%M}")
    expect(page.get_by_label("File", exact=True)).to_contain_text(said)
    # A connection that breaks off twice is gone on with by itself.
    host_there.faults(break_after_bytes=100_000, breaks=2)
    page.get_by_role("button", name="Hand over as a draft").click()
    row = handed_over(page).first
    expect(row).to_have_attribute("data-state", "draft")
    assert host_there.host.published() == []
    with page.context.expect_page() as opened:
        row.get_by_role("link", name="Look at it there").click()
    expect(opened.value.get_by_text("Draft: nobody else sees this")).to_be_visible()
    opened.value.close()
    year = made.year + 2
    row.get_by_label("When to publish it").fill("2020-05-01T08:00")
    row.get_by_role("button", name="Publish then").click()
    expect(page.get_by_text("That time has passed.")).to_be_visible()
    row.get_by_label("When to publish it").fill(f"{year}-05-01T08:00")
    row.get_by_role("button", name="Publish then").click()
    expect(row).to_contain_text(f"on 1 May {year}, 08:00")
    expect(row).to_contain_text("Air Trim must run then")
    (there,) = server.client.get("/api/episodes/1/hand-overs").json()
    assert datetime.fromisoformat(there["publish_at"]) == datetime(year, 5, 1, 8, tzinfo=zone)
    row.get_by_role("button", name="Cancel schedule").click()
    expect(row).to_have_attribute("data-state", "draft")  # what stands above the buttons is gone
    row.get_by_role("button", name="Publish", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Publish").click()
    expect(row).to_have_attribute("data-state", "published")
    feed = feedparser.parse(httpx.get(f"{host_there.url}/feed.xml").content)
    assert not feed.bozo
    assert [entry.title for entry in feed.entries] == ["The six o’clock boat"]
    assert "The six o’clock boat" in httpx.get(host_there.url).text
    # The same state a second time is asked about.
    page.get_by_role("button", name="Hand over as a draft").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("handed over to The stand-in before")
    dialog.get_by_role("button", name="Leave it").click()
    # An edit, made anew, replaced.
    cut(server, 10 * RATE, RATE)
    expect(page.get_by_text("not of the episode as it is now")).to_be_visible()
    hand = Hand(page)
    hand.click(page.get_by_role("button", name="3 Files"))
    expect(page.get_by_test_id("behind")).to_have_text("1 edit behind")
    hand.click(page.get_by_role("button", name="Make the file"))
    expect(page.get_by_test_id("report")).to_have_count(2)
    hand.click(page.get_by_role("button", name="4 Hand over"))
    hand.click(page.get_by_role("button", name="Hand over as a draft"))
    expect(handed_over(page)).to_have_count(2)
    row = handed_over(page).first
    expect(row).to_have_attribute("data-state", "draft")
    hand.click(row.get_by_role("button", name="Publish", exact=True))
    hand.click(page.get_by_role("dialog").get_by_role("button", name="Publish"))
    assert hand.actions == told("make the file, hand it over and publish it")
    expect(row).to_have_attribute("data-state", "published")
    feed = feedparser.parse(httpx.get(f"{host_there.url}/feed.xml").content)
    (entry,) = feed.entries
    newest = server.client.get("/api/jobs", params={"episode_id": 1}).json()
    export = [job for job in newest if job["kind"] == "export"][-1]
    file = server.client.get(f"/api/exports/{export['id']}/file").content
    assert httpx.get(entry.enclosures[0].href).content == file


def test_a_description_is_previewed_and_filled_and_the_show_gets_a_feed(
    page: Page, server: Server, tmp_path: Path
) -> None:
    page.goto("/episodes/1/release")
    view = server.episode(1)
    page.get_by_role("button", name="From the parts").click()
    view = edited(page, server, view["revision"])
    text = page.get_by_label("Description")
    text.fill("With *Marit*. <script>alert(1)</script>")
    preview = page.get_by_test_id("description-preview")
    expect(preview.locator("em")).to_have_text("Marit")
    expect(preview.locator("script")).to_have_count(0)
    page.get_by_role("button", name="Times of chapters").click()
    expect(preview).to_contain_text("01:41 Marit on the pier")
    page.get_by_label("People", exact=True).fill("Marit Sorley (guest), Tobin Hallam (host)")
    page.keyboard.press("Enter")
    page.get_by_label("Type of episode").select_option("bonus")
    eventually(lambda: server.episode(1)["tags"]["episode_type"] == "bonus", page)
    tags = server.episode(1)["tags"]
    assert tags["description"].endswith("04:20 Outro music")
    assert [person["role"] for person in tags["people"]] == ["guest", "host"]
    step(page, "3 Files")
    page.get_by_role("button", name="Make the file").click()
    expect(page.get_by_test_id("report")).to_be_visible()
    step(page, "4 Hand over")
    web = tmp_path / "web"
    web.mkdir()
    page.get_by_role("button", name="Add a destination").click()
    page.get_by_label("How").select_option("site")
    page.get_by_label("Name", exact=True).fill("Our pages")
    page.get_by_label("Path").fill(str(web))
    page.get_by_label("Address it is served under").fill("https://slowcrossing.example/")
    page.get_by_role("button", name="Keep it").click()
    page.get_by_role("button", name="Hand over as a draft").click()
    row = handed_over(page).first
    expect(row).to_have_attribute("data-state", "draft")
    row.get_by_role("button", name="Publish", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Publish").click()
    expect(row).to_have_attribute("data-state", "published")
    feed = feedparser.parse((web / "feed.xml").read_bytes())
    assert not feed.bozo
    (entry,) = feed.entries
    assert (entry.itunes_episodetype, entry.title) == ("bonus", "The six o’clock boat")
    # Its page, as a listener sees it, with chapters that are gone to.
    page.goto(
        (web / entry.link.removeprefix("https://slowcrossing.example/") / "index.html").as_uri()
    )
    expect(page.get_by_role("heading", name="The six o’clock boat")).to_be_visible()
    expect(page.locator("ol.chapters li")).to_have_count(6)
