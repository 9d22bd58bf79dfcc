"""A show's feed and pages: read by feedparser, held against what platforms ask for (a list from
memory of the requirements that directories publish, and of the podcast namespace)."""

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path

import feedparser
import pytest
from lxml import etree

from airtrim.core.release.description import as_html
from airtrim.core.release.site import Item, Site, feed_xml, language_of, write_site
from airtrim.core.timeline.tags import Person
from airtrim.errors import BadInput
from tests.standards.test_release_file import picture

SITE = Site(
    title="Slow Crossing",
    base="https://slowcrossing.example/",
    description="Small ferries & those who run them.",
    author="The Pier",
    email="pier@slowcrossing.example",
    category="Society & Culture",
    cover="cover-3000.jpg",
)
ITUNES = "{http://www.itunes.com/dtds/podcast-1.0.dtd}"
PODCAST = "{https://podcastindex.org/namespace/1.0}"
FIRST = datetime(2026, 1, 4, 6, 0, tzinfo=UTC)


def item(number: int, **more: object) -> Item:
    told = {
        "guid": f"crossing-{number}",
        "folder": f"crossing-{number}",
        "file": "talk.mp3",
        "title": f"Crossing <{number}>",
        "description": "With *Marit*.\n\n<script>alert(1)</script> [fare](javascript:alert(1))",
        "published_at": FIRST + timedelta(days=7 * number),
        "bytes": 4_321_000 + number,
        "media_type": "audio/mpeg",
        "duration_s": 1834.4,
        "season": 2,
        "episode": number,
    }
    return Item(**{**told, **more})


def test_a_feed_holds_what_platforms_ask_for() -> None:
    people = (Person(name="Marit Sorley"), Person(name="Tobin Hallam", role="host"))
    whole = item(3, transcript="t.vtt", chapters="c.json", people=people, explicit=True)
    data = feed_xml(SITE, [item(1), whole])
    feed = feedparser.parse(data)
    assert not feed.bozo
    assert [entry.title for entry in feed.entries] == ["Crossing <3>", "Crossing <1>"]
    channel = etree.fromstring(data).find("channel")
    assert channel is not None
    for name in ("title", "link", "description", "language"):
        assert channel.findtext(name)
    for name in ("author", "explicit"):
        assert channel.findtext(ITUNES + name)
    assert channel.find(ITUNES + "image").get("href") == f"{SITE.base}cover-3000.jpg"
    assert channel.find(ITUNES + "category").get("text") == "Society & Culture"
    assert channel.find(ITUNES + "owner").findtext(ITUNES + "email") == SITE.email
    assert len(channel.findtext(PODCAST + "guid")) == 36
    for entry, number in zip(channel.findall("item"), (3, 1), strict=True):
        enclosure = entry.find("enclosure")
        assert enclosure.get("url") == f"{SITE.base}crossing-{number}/talk.mp3"
        assert enclosure.get("length") == str(4_321_000 + number)
        assert enclosure.get("type") == "audio/mpeg"
        assert entry.find("guid").get("isPermaLink") == "false"
        assert entry.findtext(ITUNES + "duration") in ("1834", "00:30:34")
        assert entry.findtext(ITUNES + "episode") == str(number)
        assert entry.findtext(PODCAST + "season") == "2"
        assert "<em>Marit</em>" in entry.findtext("description")
        assert "<script" not in entry.findtext("description")
        assert 'href="javascript' not in entry.findtext("description")
    newest = channel.find("item")
    assert newest.findtext(ITUNES + "explicit") == "yes"
    transcript = newest.find(PODCAST + "transcript")
    assert (transcript.get("url"), transcript.get("type")) == (
        f"{SITE.base}crossing-3/t.vtt",
        "text/vtt",
    )
    assert newest.find(PODCAST + "chapters").get("type") == "application/json+chapters"
    told = [(p.text, p.get("role")) for p in newest.findall(PODCAST + "person")]
    assert told == [("Marit Sorley", "guest"), ("Tobin Hallam", "host")]


def test_what_has_not_changed_keeps_its_bytes(tmp_path: Path) -> None:
    (tmp_path / "crossing-1").mkdir()
    chapters = {"version": "1.2.0", "chapters": [{"startTime": 65.5, "title": "Fare & fog"}]}
    (tmp_path / "crossing-1" / "c.json").write_text(json.dumps(chapters))
    items = [item(1, chapters="c.json"), item(2)]
    cover = picture()
    first = write_site(tmp_path, SITE, items, cover=cover)
    assert "feed.xml" in first
    assert len([name for name in first if name.startswith("cover-")]) == 2
    assert write_site(tmp_path, SITE, list(reversed(items)), cover=cover) == []
    # One more episode: its own page, the front and the feed.
    again = write_site(tmp_path, SITE, [*items, item(3)], cover=cover)
    assert sorted(again) == ["crossing-3/index.html", "feed.xml", "index.html"]
    page = (tmp_path / "crossing-1" / "index.html").read_text()
    assert "Fare &amp; fog" in page
    assert "1:05" in page
    assert "<script>alert" not in page
    assert "Crossing &lt;1&gt;" in page


def test_an_empty_show_and_odd_words(tmp_path: Path) -> None:
    assert "index.html" in write_site(tmp_path, Site(title="Empty", base="https://x.example/"), [])
    assert not feedparser.parse((tmp_path / "feed.xml").read_bytes()).bozo
    assert language_of("deu") == "de"
    assert language_of("") == "en"
    assert as_html("a\nb") == "<p>a<br>\nb</p>"
    assert 'href="https://x.example"' in as_html("[x](https://x.example)")


@pytest.mark.parametrize(
    "odd",
    ["\x0b", "\x00", "\x1b[31m", "\ufffe", "\ud800", "\x85", "'", '"', "]]>", "&#0;", "{x}"],
)
def test_no_character_of_any_field_breaks_the_feed(tmp_path: Path, odd: str) -> None:
    """XML 1.0 has no control characters; a path of XPath has no two kinds of quotation marks."""
    text = f"Fog{odd} on the {odd}line"
    fields = dict.fromkeys(("title", "description", "author", "email", "category"), text)
    site = Site(base="https://slowcrossing.example/", **fields)
    told = item(1, title=text, description=text, people=(Person(name="Marit"),))
    write_site(tmp_path, site, [told])
    feed = feedparser.parse((tmp_path / "feed.xml").read_bytes())
    assert not feed.bozo
    assert feed.entries[0].title.startswith("Fog")
    channel = etree.fromstring((tmp_path / "feed.xml").read_bytes()).find("channel")
    assert channel is not None
    category = channel.find(ITUNES + "category")
    assert category is not None
    assert category.get("text", "").startswith("Fog")
    assert (tmp_path / "crossing-1" / "index.html").read_text()


def contents(folder: Path) -> dict[str, bytes]:
    return {
        str(path.relative_to(folder)): path.read_bytes()
        for path in sorted(folder.rglob("*"))
        if path.is_file()
    }


@pytest.mark.parametrize("call", ["write_bytes", "replace"])
def test_feed_and_pages_are_published_all_of_them_or_none(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, call: str
) -> None:
    """The disk is full, or the folder is gone, at any one of the calls."""
    write_site(tmp_path, SITE, [item(1), item(2)], beside={"state.json": b"1"})
    before = contents(tmp_path)
    real = getattr(Path, call)
    failures = 0
    for broken in range(1, 20):
        calls = 0

        def failing(self: Path, *args: object, broken: int = broken) -> object:
            nonlocal calls
            calls += 1
            if calls == broken:
                raise OSError(28, "No space left on device")
            return real(self, *args)

        with monkeypatch.context() as patched:
            patched.setattr(Path, call, failing)
            try:
                write_site(
                    tmp_path,
                    SITE,
                    [item(1, title="Other"), item(2), item(3)],
                    cover=picture(kind="PNG"),
                    beside={"state.json": b"2"},
                )
            except OSError:
                failures += 1
                assert contents(tmp_path) == before, broken
            else:
                break
    assert failures >= 5
    after = contents(tmp_path)
    assert after["state.json"] == b"2"
    assert b"crossing-3" in after["feed.xml"]


def test_a_page_that_cannot_be_made_changes_nothing(tmp_path: Path) -> None:
    write_site(tmp_path, SITE, [item(1)])
    before = contents(tmp_path)
    (tmp_path / "crossing-2").mkdir()
    (tmp_path / "crossing-2" / "c.json").write_text('{"chapters": [{}]}')
    with pytest.raises(BadInput, match="Nothing was changed"):
        write_site(tmp_path, SITE, [item(1), item(2, chapters="c.json")])
    (tmp_path / "crossing-2" / "c.json").unlink()
    assert contents(tmp_path) == before
