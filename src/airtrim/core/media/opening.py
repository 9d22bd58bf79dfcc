"""Opening a file somebody gave: only the kinds of file that the product offers, only that file."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, BinaryIO, NoReturn

import av
from av.container import InputContainer

DEMUXERS = ("wav", "w64", "aiff", "flac", "mp3", "mov", "ogg", "aac", "matroska")
"""WAV and RF64, Wave64, AIFF, FLAC, MP3, MP4 and M4A, Ogg and Opus, AAC, WebM."""
_OPTIONS = {
    "format_whitelist": ",".join(DEMUXERS),
    "protocol_whitelist": "none",
    "enable_drefs": "0",
    "use_absolute_path": "0",
}


@contextmanager
def opened(path: Path) -> Iterator[InputContainer]:
    """A media file as FFmpeg reads it. FFmpeg is given bytes and no name, so that nothing in it can
    lead to another file or to the network. Raises an ``av.FFmpegError`` for any other kind."""
    with (
        path.open("rb") as file,
        av.open(
            _Bytes(file),
            mode="r",
            options=dict(_OPTIONS),
            metadata_errors="replace",
            io_open=_refused,
        ) as container,
    ):
        yield container


class _Bytes:
    """The bytes of a file. A broken header sends FFmpeg to places that no file has: it is told that
    they are not there, as it expects."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self.read, self.tell = file.read, file.tell

    def seek(self, offset: int, whence: int = 0) -> int:
        """As of a file; −1 where there is no such place."""
        try:
            return self._file.seek(offset, whence)
        except (OSError, ValueError, OverflowError):
            return -1


def _refused(*_: Any, **__: Any) -> NoReturn:
    raise PermissionError("a media file refers to another one")
