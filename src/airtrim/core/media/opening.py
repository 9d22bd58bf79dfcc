"""Opening a file somebody gave: only the kinds of file that the product offers, only that file."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, BinaryIO, NoReturn

import av
from av.container import InputContainer

from airtrim.errors import BadInput

DEMUXERS = ("wav", "w64", "aiff", "flac", "mp3", "mov", "ogg", "aac", "matroska")
"""WAV and RF64, Wave64, AIFF, FLAC, MP3, MP4 and M4A, Ogg and Opus, AAC, WebM."""
_OPTIONS = {
    "format_whitelist": ",".join(DEMUXERS),
    "protocol_whitelist": "none",
    "enable_drefs": "0",
    "use_absolute_path": "0",
}


class Unreadable(BadInput):
    """FFmpeg cannot read a file, or what it is asked for in it."""


@contextmanager
def opened(path: Path, span: tuple[int, int] | None = None) -> Iterator[InputContainer]:
    """A media file as FFmpeg reads it, or the bytes ``span`` of it.

    FFmpeg receives bytes and no name, so that nothing in the file can lead to another file or to
    the network. Raises Unreadable for any other kind of file, and for every error of FFmpeg's in
    the body of the ``with`` statement: callers see our own errors only.
    """
    try:
        with (
            path.open("rb") as file,
            av.open(
                _Bytes(file, *(span or (0, path.stat().st_size))),
                mode="r",
                options=dict(_OPTIONS),
                metadata_errors="replace",
                io_open=_refused,
            ) as container,
        ):
            yield container
    except av.FFmpegError as error:
        raise Unreadable(f"“{path.name}” is not a sound file Air Trim can read.") from error


class _Bytes:
    """Bytes ``start`` to ``end`` of a file. A broken header sends FFmpeg to places that no file
    has: it learns that they are not there, as it expects."""

    def __init__(self, file: BinaryIO, start: int, end: int) -> None:
        self._file, self._start, self._end = file, start, end
        file.seek(start)

    def read(self, size: int = -1) -> bytes:
        """As of a file."""
        left = max(0, self._end - self._file.tell())
        return self._file.read(left if size < 0 else min(size, left))

    def tell(self) -> int:
        """As of a file."""
        return self._file.tell() - self._start

    def seek(self, offset: int, whence: int = 0) -> int:
        """As of a file; −1 where there is no such place."""
        base = (0, self.tell(), self._end - self._start)[whence] if whence in (0, 1, 2) else -1
        try:
            if base < 0 or base + offset < 0:
                return -1
            return self._file.seek(self._start + base + offset) - self._start
        except (OSError, ValueError, OverflowError):
            return -1


def _refused(*_: Any, **__: Any) -> NoReturn:
    raise PermissionError("a media file refers to another one")
