"""ID3 tags and chapters: ID3v2.3 (read everywhere) or ID3v2.4 (current)."""

from typing import Any

from mutagen import id3
from mutagen.mp3 import MP3
from mutagen.wave import WAVE

from airtrim.core.media import FRAME_RATE
from airtrim.core.release.artwork import picture_type
from airtrim.core.release.labels import Labels

_NO_OFFSET = 0xFFFFFFFF
_TOP_LEVEL_AND_ORDERED = id3.CTOCFlags.TOP_LEVEL | id3.CTOCFlags.ORDERED


def write_id3(file: MP3 | WAVE, labels: Labels) -> None:
    """Write what a file says of itself into an opened MP3 or WAV (frames: ID3v2.3/2.4, and the
    chapter frame addendum 1.0; season in TPOS and the link in WOAF and TXXX, common practice).
    Raises BadInput for bad artwork."""
    tags = labels.tags
    old = labels.id3_version == "2.3"
    encoding = id3.Encoding.UTF16 if old else id3.Encoding.UTF8
    language = tags.language or "eng"
    frames: list[id3.Frame] = []

    def text(frame: type[id3.Frame], value: str | int | None) -> None:
        if value not in (None, ""):
            frames.append(frame(encoding=encoding, text=[str(value)]))

    text(id3.TIT2, tags.title)
    text(id3.TALB, tags.show)
    text(id3.TPE1, tags.artist)
    text(id3.TPE2, tags.album_artist)
    text(id3.TPOS, tags.season)
    text(id3.TRCK, tags.episode)
    text(id3.TYER if old else id3.TDRC, tags.year)
    text(id3.TCON, tags.genre)
    text(id3.TLAN, tags.language)
    text(id3.TCOP, tags.copyright)
    if labels.frames:
        text(id3.TLEN, round(labels.frames * 1000 / FRAME_RATE))
    if tags.description:
        frames.append(id3.COMM(encoding=encoding, lang=language, desc="", text=[tags.description]))
    if tags.link:
        frames.append(id3.WOAF(url=tags.link))
        frames.append(id3.TXXX(encoding=encoding, desc="link", text=[tags.link]))
    if labels.artwork is not None:
        mime = picture_type(labels.artwork)
        frames.append(
            id3.APIC(encoding=encoding, mime=mime, type=3, desc="Cover", data=labels.artwork)
        )
    frames += _chapters(labels, encoding)

    opened: Any = file  # mutagen sets its tags when it reads, which its types do not say
    if opened.tags is None:
        opened.add_tags()
    opened.tags.clear()
    for frame in frames:
        opened.tags.add(frame)
    file.save(v2_version=3 if old else 4)


def _chapters(labels: Labels, encoding: int) -> list[id3.Frame]:
    """A table of contents, and a frame for each chapter with its title, link and picture."""
    made = []
    names = [f"ch{number}" for number in range(len(labels.chapters))]
    for number, one in enumerate(labels.chapters):
        told: list[id3.Frame] = [id3.TIT2(encoding=encoding, text=[one.title])]
        if one.link:
            told.append(id3.WXXX(encoding=encoding, desc="chapter url", url=one.link))
        if one.picture:
            mime = picture_type(one.picture)
            told.append(id3.APIC(encoding=encoding, mime=mime, type=0, desc="", data=one.picture))
        made.append(
            id3.CHAP(
                element_id=names[number],
                start_time=one.start_ms,
                end_time=one.end_ms,
                start_offset=_NO_OFFSET,
                end_offset=_NO_OFFSET,
                sub_frames=told,
            )
        )
    if not made:
        return []
    table = id3.CTOC(
        element_id="toc", flags=_TOP_LEVEL_AND_ORDERED, child_element_ids=names, sub_frames=[]
    )
    return [table, *made]
