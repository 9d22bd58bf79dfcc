"""Recordings with their room taken out, kept beside the takes they were made of.

One cleaned take serves every strength; how it was made, and by which room tone, its name tells.
"""

from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

from airtrim.core.media.take import TakeReader, checksum
from airtrim.core.sound.cleaning import made_clean
from airtrim.core.sound.denoise import Cleaned, share_of
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.cleaned import Cleaning, cleaned_of, needed
from airtrim.core.timeline.model import Span, Timeline
from airtrim.errors import Damaged
from airtrim.store.files import Files, settle

_LEARNT = "cleaned-learnt"


class CleanedTakes:
    """Reads, finds missing, and makes them. ``take`` opens a recording, ``room_tone`` tells what
    was found in it."""

    def __init__(
        self,
        files: Files,
        take: Callable[[str], TakeReader],
        room_tone: Callable[[str], RoomTone | None],
    ) -> None:
        self._files = files
        self._take = take
        self._room_tone = room_tone
        self._open = lru_cache(maxsize=64)(TakeReader)

    def reader(self, name: str) -> Cleaned | TakeReader:
        """A cleaned take at the strength that its name tells; untouched while it is not made."""
        how, strength = cleaned_of(name)
        path = self._path(how)
        if not path.exists():
            return self._take(how.take)
        try:
            clean = self._open(path)
        except Damaged:  # it is made anew when it is next needed
            path.unlink(missing_ok=True)
            return self._take(how.take)
        return Cleaned(self._take(how.take), clean, share_of(strength))

    def drop_broken(self, timeline: Timeline) -> None:
        """Throw away what cannot be read of what a document needs, so that it is made anew."""
        for how in needed(timeline):
            path = self._path(how)
            if path.exists() and checksum(path) is None:
                path.unlink(missing_ok=True)
                self._open.cache_clear()

    def missing(self, timeline: Timeline) -> list[Cleaning]:
        """What a document needs that is not there yet."""
        return [
            how
            for how in needed(timeline)
            if (self._files.take(how.take) / "sound").exists() and not self._path(how).exists()
        ]

    def make(self, how: Cleaning, progress: Callable[[float], None] = lambda _: None) -> None:
        """Make one; those of the same take by another room tone are thrown away."""
        take, path = self._take(how.take), self._path(how)
        self._files.need(take.frames * take.channels * 3)
        with self._files.beside() as folder:
            made_clean(take, how.method, self._tone(how), folder / "clean", progress)
            settle(folder / "clean", path)
        if how.method == "steady":
            for other in path.parent.glob("clean*-*"):
                if other not in (path, path.parent / _LEARNT):
                    other.unlink()

    def _tone(self, how: Cleaning) -> RoomTone | Span | None:
        return how.tone or self._room_tone(how.take)

    def _path(self, how: Cleaning) -> Path:
        folder = self._files.take(how.take)
        if how.method == "learnt":
            return folder / _LEARNT
        known = self._tone(how)
        return folder / ("cleaned-" + (f"{known.start}-{known.frames}" if known else "guess"))
