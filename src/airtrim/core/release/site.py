"""A show's feed and its pages in a folder that any web server can serve.

RSS 2.0 with the elements of the iTunes and podcast namespaces that platforms ask for. The same
items make the same bytes, and what has not changed is not written.
"""

import hashlib
import io
import json
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from email.utils import format_datetime
from pathlib import Path
from uuid import NAMESPACE_URL, uuid5

from feedgen.feed import FeedGenerator
from lxml import etree
from markupsafe import Markup
from PIL import Image
from pydantic import BaseModel

from airtrim.core.release.description import as_html
from airtrim.core.release.webpages import PAGES, put
from airtrim.core.timeline.tags import Person

_PODCAST = "https://podcastindex.org/namespace/1.0"
_COVERS_PX = (3000, 600)
_LANGUAGES = {"eng": "en", "deu": "de", "fra": "fr", "spa": "es", "nld": "nl", "nor": "no"}
"""Two letters, as feeds want them, of the three that tags hold."""


class Item(BaseModel):
    """A published episode, as it stands in the feed. ``folder`` is its own, ``file`` its sound."""

    guid: str
    folder: str
    file: str
    title: str
    description: str = ""
    published_at: datetime
    bytes: int
    media_type: str
    duration_s: float
    season: int | None = None
    episode: int | None = None
    episode_type: str = "full"
    explicit: bool = False
    transcript: str = ""
    chapters: str = ""
    people: tuple[Person, ...] = ()


class Site(BaseModel):
    """A show. ``base`` is the address of the folder, ending in a slash."""

    title: str
    base: str
    description: str = ""
    author: str = ""
    email: str = ""
    category: str = ""
    language: str = "en"
    explicit: bool = False
    cover: str = ""


def language_of(tag: str) -> str:
    """Two letters for a language of tags; ``en`` where it is not known."""
    return _LANGUAGES.get(tag, "en")


def feed_xml(site: Site, items: Sequence[Item]) -> bytes:
    """The feed, newest first."""
    ordered = sorted(items, key=lambda one: (one.published_at, one.guid), reverse=True)
    made = FeedGenerator()
    made.load_extension("podcast")
    made.generator("Air Trim")
    made.title(site.title)
    made.link(href=site.base, rel="alternate")
    made.description(site.description or site.title)
    made.language(site.language)
    # The time of what is in it, so that the same items make the same bytes.
    made.lastBuildDate(ordered[0].published_at if ordered else datetime(2000, 1, 1, tzinfo=UTC))
    made.podcast.itunes_explicit("yes" if site.explicit else "no")
    if site.author:
        made.podcast.itunes_author(site.author)
    if site.email:
        made.podcast.itunes_owner(name=site.author or site.title, email=site.email)
    if site.category:
        made.podcast.itunes_category(site.category)
    if site.cover:
        made.podcast.itunes_image(site.base + site.cover)
    for one in ordered:
        entry = made.add_entry(order="append")
        address = f"{site.base}{one.folder}/"
        entry.guid(one.guid, permalink=False)
        entry.title(one.title)
        entry.link(href=address)
        entry.description(as_html(one.description) or one.title)
        entry.enclosure(address + one.file, str(one.bytes), one.media_type)
        entry.pubDate(one.published_at)
        entry.podcast.itunes_duration(round(one.duration_s))
        entry.podcast.itunes_explicit("yes" if one.explicit else "no")
        entry.podcast.itunes_episode_type(one.episode_type)
        if one.season:
            entry.podcast.itunes_season(one.season)
        if one.episode:
            entry.podcast.itunes_episode(one.episode)
    root = etree.fromstring(made.rss_str())
    return _with_podcast_namespace(root, site, ordered)


def _with_podcast_namespace(root: etree._Element, site: Site, items: Sequence[Item]) -> bytes:
    names = {**root.nsmap, "podcast": _PODCAST}
    whole = etree.Element(root.tag, dict(root.attrib), nsmap=names)
    whole.extend(list(root))
    channel = whole.find("channel")
    assert channel is not None
    show = etree.SubElement(channel, f"{{{_PODCAST}}}guid")
    show.text = str(uuid5(NAMESPACE_URL, site.base))
    channel.insert(0, show)
    for entry, one in zip(channel.findall("item"), items, strict=True):
        address = f"{site.base}{one.folder}/"
        if one.season:
            etree.SubElement(entry, f"{{{_PODCAST}}}season").text = str(one.season)
        if one.episode:
            etree.SubElement(entry, f"{{{_PODCAST}}}episode").text = str(one.episode)
        if one.transcript:
            told = {"url": address + one.transcript, "type": "text/vtt"}
            etree.SubElement(entry, f"{{{_PODCAST}}}transcript", told)
        if one.chapters:
            told = {"url": address + one.chapters, "type": "application/json+chapters"}
            etree.SubElement(entry, f"{{{_PODCAST}}}chapters", told)
        for person in one.people:
            made = etree.SubElement(entry, f"{{{_PODCAST}}}person", {"role": person.role})
            made.text = person.name
    etree.indent(whole)
    found: bytes = etree.tostring(whole, xml_declaration=True, encoding="UTF-8")
    return found + b"\n"


def write_site(
    folder: Path, site: Site, items: Sequence[Item], *, cover: bytes | None = None
) -> list[str]:
    """Write feed and pages into a folder; which files were written, by their names. ``cover`` is a
    picture that was checked: it is laid down in the sizes asked for."""
    written: list[str] = []

    def changed(name: str, data: bytes) -> None:
        path = folder / name
        if path.exists() and path.read_bytes() == data:
            return
        path.parent.mkdir(parents=True, exist_ok=True)
        put(path, data)
        written.append(name)

    if cover is not None:
        name = f"cover-{hashlib.sha256(cover).hexdigest()[:12]}"
        for px in _COVERS_PX:
            changed(f"{name}-{px}.jpg", _sized(cover, px))
        site = site.model_copy(update={"cover": f"{name}-{_COVERS_PX[0]}.jpg"})
    ordered = sorted(items, key=lambda one: (one.published_at, one.guid), reverse=True)
    small = site.model_copy(update={"cover": site.cover.replace("-3000.", "-600.")})
    shown = [_shown(folder, one) for one in ordered]
    changed("index.html", _page(small, shown, site.title, ""))
    for one in shown:
        title = f"{one['title']} · {site.title}"
        changed(f"{one['folder']}/index.html", _page(small, [one], title, "../"))
    changed("feed.xml", feed_xml(site, ordered))
    return written


def _sized(cover: bytes, px: int) -> bytes:
    with Image.open(io.BytesIO(cover)) as image:
        side = min(px, image.width)
        made = image.convert("RGB").resize((side, side), Image.Resampling.LANCZOS)
    buffer = io.BytesIO()
    made.save(buffer, "JPEG", quality=88)
    return buffer.getvalue()


def _page(site: Site, items: Sequence[Mapping[str, object]], title: str, up: str) -> bytes:
    made = PAGES.get_template("page.html").render(site=site, items=items, title=title, up=up)
    return made.encode()


def _shown(folder: Path, item: Item) -> dict[str, object]:
    chapters: list[dict[str, object]] = []
    if item.chapters and (folder / item.folder / item.chapters).exists():
        told = json.loads((folder / item.folder / item.chapters).read_text())
        chapters = [
            {**one, "clock": _clock(float(one["startTime"]))} for one in told.get("chapters", [])
        ]
    return {
        **item.model_dump(),
        "html": Markup(as_html(item.description)),  # cleaned there
        "chapters": chapters,
        "date": format_datetime(item.published_at)[5:16],
        "length": _clock(item.duration_s),
    }


def _clock(seconds: float) -> str:
    minutes, rest = divmod(int(seconds), 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02}:{rest:02}" if hours else f"{minutes}:{rest:02}"
