"""Recordings with their room taken out, kept beside the takes they were made of.

One cleaned take serves every strength; how it was made, and by which room tone, its name tells.
One without noise can be made of one without echo.
"""

from collections.abc import Callable
from pathlib import Path

from airtrim.compute.inline import INLINE
from airtrim.compute.order import Compute
from airtrim.core.media.take import TakeReader, checksum
from airtrim.core.sound.cleaning import made_clean
from airtrim.core.sound.denoise import Cleaned, share_of
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.cleaned import Cleaning, cleaned_of, needed
from airtrim.core.timeline.model import Span, Timeline
from airtrim.errors import Damaged
from airtrim.store.cache import Cache, stamp
from airtrim.store.files import Files, settle


class CleanedTakes:
    """Reads, finds missing, and makes them. ``take`` opens a recording, ``room_tone`` tells what
    was found in it."""

    def __init__(
        self,
        files: Files,
        take: Callable[[str], TakeReader],
        room_tone: Callable[[str], RoomTone | None],
        cache: Cache,
    ) -> None:
        self._files = files
        self._cache = cache
        self._take = take
        self._room_tone = room_tone

    def reader(self, name: str) -> Cleaned | TakeReader:
        """A cleaned take at the strength that its name tells; untouched while it is not made."""
        how, strength = cleaned_of(name)
        source, clean = self._source(how), self._whole(how)
        if clean is None or source is None:
            return source or self._take(how.take)
        return Cleaned(source, clean, share_of(strength)) if how.method else clean

    def _source(self, how: Cleaning) -> TakeReader | None:
        """What one is made of; None where that is not made yet."""
        return self._whole(how.before) if how.before else self._take(how.take)

    def _whole(self, how: Cleaning) -> TakeReader | None:
        """One as it was made; None where it is not, or cannot be read."""
        path = self._path(how)
        try:
            key = ("cleaned", *stamp(path))
            return self._cache.of(key, lambda: TakeReader(path), lambda _: 64_000)
        except FileNotFoundError:
            return None
        except Damaged:  # it is computed again when it is next needed
            path.unlink(missing_ok=True)
            return None

    def drop_broken(self, timeline: Timeline) -> None:
        """Throw away what cannot be read of what a document needs, so that it is made anew."""
        for how in needed(timeline):
            path = self._path(how)
            if path.exists() and checksum(path) is None:
                path.unlink(missing_ok=True)

    def missing(self, timeline: Timeline) -> list[Cleaning]:
        """What a document needs that is not there yet."""
        return [
            how
            for how in needed(timeline)
            if (self._files.take(how.take) / "sound").exists() and not self._path(how).exists()
        ]

    def make(
        self,
        how: Cleaning,
        progress: Callable[[float], None] = lambda _: None,
        compute: Compute = INLINE,
    ) -> None:
        """Make one, and before it what it is made of; those of the same take by another room tone
        are thrown away."""
        if how.before and self._source(how) is None:
            self.make(how.before, progress, compute)
        path, source = self._path(how), self._source(how) or self._take(how.take)
        self._files.need(source.frames * source.channels * 3)
        with self._files.beside() as folder:
            tone = self._tone(how) if how.method else None
            made_clean(source, how.method, tone, folder / "clean", progress, compute)
            settle(folder / "clean", path)
        if how.method == "steady":
            for other in path.parent.glob(f"{self._mark(how)}-[0-9g]*"):
                if other != path:
                    other.unlink()

    def _tone(self, how: Cleaning) -> RoomTone | Span | None:
        return how.tone or self._room_tone(how.take)

    def _path(self, how: Cleaning) -> Path:
        folder, mark = self._files.take(how.take), self._mark(how)
        if how.method != "steady":
            return folder / (f"{mark}-{how.method}" if how.method else mark)
        known = self._tone(how)
        return folder / (f"{mark}-" + (f"{known.start}-{known.frames}" if known else "guess"))

    @staticmethod
    def _mark(how: Cleaning) -> str:
        return "cleaned-dry" if how.dry else "cleaned"
