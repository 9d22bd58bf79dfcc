"""Chapters: from the document, and as the forms that players and platforms read."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.model import Timeline


@dataclass(frozen=True, slots=True)
class Chapter:
    """From frame ``start`` up to ``end`` of the episode; ``picture`` is a JPEG or PNG, ``artwork``
    its SHA-256."""

    start: int
    end: int
    title: str
    link: str = ""
    artwork: str | None = None
    picture: bytes | None = None

    @property
    def start_ms(self) -> int:
        """Where it begins, in milliseconds."""
        return round(self.start * 1000 / FRAME_RATE)

    @property
    def end_ms(self) -> int:
        """Where it ends, in milliseconds."""
        return round(self.end * 1000 / FRAME_RATE)


NO_PICTURES: Mapping[str, bytes] = MappingProxyType({})


def chapters_of(
    timeline: Timeline, pictures: Mapping[str, bytes] = NO_PICTURES
) -> tuple[Chapter, ...]:
    """The chapters of a document, each up to the next; ``pictures`` are those that are at hand, by
    SHA-256. One without a title is called by its number. Of several at one place the last stays:
    a chapter of no length is none."""
    marks = [m for m in timeline.markers if m.kind == "chapter" and m.at < timeline.frames]
    ends = [*(mark.at for mark in marks), timeline.frames][1:]
    lasting = [(mark, end) for mark, end in zip(marks, ends, strict=True) if mark.at < end]
    return tuple(
        Chapter(
            mark.at,
            end,
            mark.name or f"Chapter {number}",
            mark.link,
            mark.artwork,
            pictures.get(mark.artwork or ""),
        )
        for number, (mark, end) in enumerate(lasting, 1)
    )


def clock(frame: int, *, hours: bool) -> str:
    """A time as descriptions have it: whole seconds, never later than the frame.

    >>> clock(48_000 * 75, hours=False), clock(48_000 * 3675, hours=True)
    ('01:15', '01:01:15')
    """
    seconds = frame // FRAME_RATE
    minutes = f"{seconds // 60 % 60 if hours else seconds // 60:02}:{seconds % 60:02}"
    return f"{seconds // 3600:02}:{minutes}" if hours else minutes


def as_times(chapters: Sequence[Chapter]) -> str:
    """Chapters as lines of a description, which many apps make links of (common practice)."""
    hours = bool(chapters) and chapters[-1].start >= 3600 * FRAME_RATE
    return "\n".join(f"{clock(one.start, hours=hours)} {one.title}" for one in chapters)


def as_json(chapters: Sequence[Chapter], picture_address: str = "") -> str:
    """Podcast namespace, JSON chapters 1.2; a picture by its address, where its SHA-256 is put for
    ``{sha256}``."""
    told = []
    for one in chapters:
        chapter: dict[str, object] = {"startTime": one.start_ms / 1000, "title": one.title}
        if one.link:
            chapter["url"] = one.link
        if one.artwork and picture_address:
            chapter["img"] = picture_address.format(sha256=one.artwork)
        told.append(chapter)
    return json.dumps({"version": "1.2.0", "chapters": told}, ensure_ascii=False, indent=1)


def as_vorbis(chapters: Sequence[Chapter]) -> list[tuple[str, str]]:
    """Chapters as Vorbis comments: ``CHAPTER001`` and ``CHAPTER001NAME`` (the chapter extension of
    the Vorbis comment wiki, from memory; FFmpeg reads it)."""
    out = []
    for number, one in enumerate(chapters):
        seconds, thousandths = divmod(one.start_ms, 1000)
        time = f"{seconds // 3600:02}:{seconds // 60 % 60:02}:{seconds % 60:02}.{thousandths:03}"
        out.append((f"CHAPTER{number:03}", time))
        out.append((f"CHAPTER{number:03}NAME", one.title))
        if one.link:
            out.append((f"CHAPTER{number:03}URL", one.link))
    return out


def too_short(chapters: Sequence[Chapter], least_s: float = 10.0) -> list[Chapter]:
    """Those that are over before a listener has found them (common practice: ten seconds)."""
    return [one for one in chapters if one.end - one.start < least_s * FRAME_RATE]
