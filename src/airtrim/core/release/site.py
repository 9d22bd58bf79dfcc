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
from airtrim.core.release.webpages import PAGES, put_all
from airtrim.core.release.xmltext import XmlText, xml_text
from airtrim.core.timeline.tags import Person
from airtrim.errors import BadInput

_ITUNES = "http://www.itunes.com/dtds/podcast-1.0.dtd"
_PODCAST = "https://podcastindex.org/namespace/1.0"
_COVERS_PX = (3000, 600)
_LANGUAGES = {"eng": "en", "deu": "de", "fra": "fr", "spa": "es", "nld": "nl", "nor": "no"}
"""Two letters, as feeds want them, of the three that tags hold."""


class Item(BaseModel):
    """A published episode, as it stands in the feed. ``folder`` is its own, ``file`` its sound."""

    guid: XmlText
    folder: XmlText
    file: XmlText
    title: XmlText
    description: XmlText = ""
    published_at: datetime
    bytes: int
    media_type: XmlText
    duration_s: float
    season: int | None = None
    episode: int | None = None
    episode_type: XmlText = "full"
    explicit: bool = False
    transcript: XmlText = ""
    chapters: XmlText = ""
    people: tuple[Person, ...] = ()


class Site(BaseModel):
    """A show. ``base`` is the address of the folder, ending in a slash."""

    title: XmlText
    base: XmlText
    description: XmlText = ""
    author: XmlText = ""
    email: XmlText = ""
    category: XmlText = ""
    language: XmlText = "en"
    explicit: bool = False
    cover: XmlText = ""


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
    if site.category:
        # feedgen builds a path of the name, which a quotation mark in it breaks.
        category = etree.Element(f"{{{_ITUNES}}}category", {"text": site.category})
        channel.insert(0, category)
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
            made.text = str(xml_text(person.name))
    etree.indent(whole)
    found: bytes = etree.tostring(whole, xml_declaration=True, encoding="UTF-8")
    return found + b"\n"


def write_site(
    folder: Path,
    site: Site,
    items: Sequence[Item],
    *,
    cover: bytes | None = None,
    beside: Mapping[str, bytes] | None = None,
) -> list[str]:
    """Write feed and pages into a folder, all of them or none.

    Parameters
    ----------
    cover
        A picture that was checked; it is written in the sizes that apps ask for.
    beside
        More files, by name, which are written together with them.

    Returns
    -------
    The names of the files that changed.

    Raises
    ------
    BadInput
        The feed or a page cannot be made; nothing was written.
    OSError
        The folder cannot be written to; every file is as it was.
    """
    try:
        files = _rendered(folder, site, items, cover)
    except (ValueError, TypeError, KeyError, etree.LxmlError) as error:
        raise BadInput(
            "The feed cannot be made of what the episodes say of themselves. Nothing was changed."
        ) from error
    return put_all(folder, {**files, **(beside or {})})


def _rendered(
    folder: Path, site: Site, items: Sequence[Item], cover: bytes | None
) -> dict[str, bytes]:
    """Every file by its name. What leads to others comes after them."""
    files: dict[str, bytes] = {}
    if cover is not None:
        name = f"cover-{hashlib.sha256(cover).hexdigest()[:12]}"
        for px in _COVERS_PX:
            files[f"{name}-{px}.jpg"] = _sized(cover, px)
        site = site.model_copy(update={"cover": f"{name}-{_COVERS_PX[0]}.jpg"})
    ordered = sorted(items, key=lambda one: (one.published_at, one.guid), reverse=True)
    small = site.model_copy(update={"cover": site.cover.replace("-3000.", "-600.")})
    shown = [_shown(folder, one) for one in ordered]
    for one in shown:
        title = f"{one['title']} · {site.title}"
        files[f"{one['folder']}/index.html"] = _page(small, [one], title, "../")
    files["index.html"] = _page(small, shown, site.title, "")
    files["feed.xml"] = feed_xml(site, ordered)
    return files


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
