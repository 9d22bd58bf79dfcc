"""Recordings with their room taken out, kept beside the takes they were made of.

One cleaned take serves every strength; which room tone it was made by is told by its name.
"""

from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

from airtrim.core.media.take import TakeReader, checksum
from airtrim.core.sound.cleaning import made_clean
from airtrim.core.sound.denoise import Cleaned, share_of
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.cleaned import cleaned_of
from airtrim.core.timeline.model import Span, Timeline
from airtrim.core.timeline.tone import is_tone
from airtrim.errors import Damaged
from airtrim.store.files import Files, settle


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
        take, tone, strength = cleaned_of(name)
        path = self._path(take, tone)
        if not path.exists():
            return self._take(take)
        try:
            clean = self._open(path)
        except Damaged:  # it is made anew when it is next needed
            path.unlink(missing_ok=True)
            return self._take(take)
        return Cleaned(self._take(take), clean, share_of(strength))

    def drop_broken(self, timeline: Timeline) -> None:
        """Throw away what cannot be read of what a document needs, so that it is made anew."""
        for track in timeline.tracks:
            for take in track.clips.takes if track.chain.noise.on else ():
                if is_tone(take):
                    continue
                path = self._path(take, timeline.room_tones.get(take))
                if path.exists() and checksum(path) is None:
                    path.unlink(missing_ok=True)
                    self._open.cache_clear()

    def missing(self, timeline: Timeline) -> list[tuple[str, Span | None]]:
        """What a document needs that is not there yet: takes, and their room tone if chosen."""
        found: dict[str, Span | None] = {}
        for track in timeline.tracks:
            if not track.chain.noise.on:
                continue
            for take in track.clips.takes:
                tone = timeline.room_tones.get(take)
                here = (self._files.take(take) / "sound").exists() if not is_tone(take) else False
                if here and not self._path(take, tone).exists():
                    found[take] = tone
        return sorted(found.items())

    def make(
        self, take_id: str, tone: Span | None, progress: Callable[[float], None] = lambda _: None
    ) -> None:
        """Make one; those of the same take by another room tone are thrown away."""
        take = self._take(take_id)
        known = tone or self._room_tone(take_id)
        path = self._path(take_id, tone)
        self._files.need(take.frames * take.channels * 3)

        with self._files.beside() as folder:
            made_clean(take, known, folder / "clean", progress)
            settle(folder / "clean", path)
        for other in path.parent.glob("clean*-*"):
            if other != path:
                other.unlink()

    def _path(self, take: str, tone: Span | None) -> Path:
        known = tone or self._room_tone(take)
        by = f"{known.start}-{known.frames}" if known else "guess"
        return self._files.take(take) / f"cleaned-{by}"
