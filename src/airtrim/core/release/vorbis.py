"""Vorbis comments, of FLAC and Opus files: tags, cover and chapters."""

import base64
from typing import Any

from mutagen.flac import FLAC, Picture
from mutagen.oggopus import OggOpus

from airtrim.core.release.artwork import picture_type, side_px
from airtrim.core.release.chapters import as_vorbis
from airtrim.core.release.labels import Labels

_FRONT_COVER = 3


def write_comments(file: FLAC | OggOpus, labels: Labels) -> None:
    """Write what a file says of itself into it (names of the Vorbis comment specification, and for
    what it has none common practice). Raises BadInput for bad artwork."""
    tags = labels.tags
    told = {
        "TITLE": tags.title,
        "ALBUM": tags.show,
        "ARTIST": tags.artist,
        "ALBUMARTIST": tags.album_artist,
        "DISCNUMBER": tags.season,
        "TRACKNUMBER": tags.episode,
        "DATE": tags.year,
        "GENRE": tags.genre,
        "DESCRIPTION": tags.description,
        "LANGUAGE": tags.language,
        "COPYRIGHT": tags.copyright,
        "LINK": tags.link,
    }
    opened: Any = file  # mutagen sets its tags when it reads, which its types do not say
    if opened.tags is None:
        opened.add_tags()
    opened.tags.clear()
    if isinstance(file, FLAC):
        file.clear_pictures()
    for name, value in told.items():
        if value not in (None, ""):
            file[name] = str(value)
    for name, text in as_vorbis(labels.chapters):
        file[name] = text
    if labels.artwork is not None:
        picture = Picture()
        picture.type, picture.data = _FRONT_COVER, labels.artwork
        picture.mime = picture_type(labels.artwork)
        picture.width = picture.height = side_px(labels.artwork)
        picture.depth = 24
        if isinstance(file, FLAC):
            file.add_picture(picture)
        else:
            file["METADATA_BLOCK_PICTURE"] = base64.b64encode(picture.write()).decode()
    file.save()
