"""Pairs of a change in one store and a read in another on the same data."""

import random
from pathlib import Path

import numpy as np
import soundfile

from airtrim.core.media.take import TakeInfo, make_peaks
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.cleaned import Cleaning, cleaned_name
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.tracks import AddTrack
from airtrim.core.timeline.words import Word
from airtrim.errors import NotFound
from airtrim.store.purging import Bin
from airtrim.store.store import Store

RATE = 48_000


def _write_take(store: Store, take: str, level: float) -> None:
    """Replace the sound and the peaks of a take, as a repair does."""
    folder = store.files.take(take)
    folder.mkdir(exist_ok=True)
    with store.files.beside() as scratch:
        sound = np.full((RATE // 4, 1), level, np.float32)
        soundfile.write(scratch / "sound", sound, RATE, "FLOAT", format="RF64")
        make_peaks(scratch / "sound", scratch / "peaks")
        (scratch / "sound").replace(folder / "sound")
        (scratch / "peaks").replace(folder / "peaks")


class Pairs:
    """Random changes in the first store, each followed by a read in the second one."""

    def __init__(self, root: Path, seed: int) -> None:
        self.writer, self.reader = Store(root), Store(root)
        self._chance = random.Random(seed)
        self._show = self.writer.add_show("Slow Crossing").id or 0
        self._begin()

    def close(self) -> None:
        self.writer.close()
        self.reader.close()

    def _begin(self) -> None:
        self._episode = self.writer.add_episode(self._show, "One").id or 0
        self._take = f"take-{self._episode}"
        _write_take(self.writer, self._take, 0.5)
        info = TakeInfo(RATE // 4, 1, "", None)
        self.writer.add_take(self._take, self._episode, "One", info)
        placed = Place(take=self._take, take_frames=RATE // 4)
        self._revision = self.writer.edit(self._episode, None, placed)

    def run(self) -> str | None:
        """Make one pair. Returns what was stale, if anything was."""
        kind = self._chance.choice(["sound", "words", "room tone", "edit", "purge", "cleaned"])
        return getattr(self, f"_{kind.replace(' ', '_')}")()

    def _sound(self) -> str | None:
        level = self._chance.choice([0.1, 0.2, 0.3, 0.4, 0.6])
        self._read()
        _write_take(self.writer, self._take, level)
        sound = float(self.reader.reader(self._take).read(1000, 1)[0, 0])
        peak = float(self._peaks()[0, 0])
        fresh = abs(sound - level) < 1e-6 and abs(peak - level) < 0.01
        return None if fresh else f"sound {sound} and peak {peak} instead of {level}"

    def _read(self) -> None:
        self.reader.reader(self._take).read(0, 10)
        self._peaks()

    def _peaks(self) -> np.ndarray:
        ends = np.array([RATE // 4])
        return self.reader.peaks(self._take).columns(np.array([0]), ends)

    def _words(self) -> str | None:
        timeline = self.reader.timeline(self._episode, self._revision)
        self.reader.words(timeline)
        self.reader.known_snags(self._episode, self._revision)
        text = f"word{self._chance.randrange(10**6)}"
        self.writer.set_words(self._take, (Word(text, 0, 100, "word", 0.9),))
        found = self.reader.words(timeline)[self._take][0].text
        return None if found == text else f"word {found} instead of {text}"

    def _room_tone(self) -> str | None:
        self.reader.room_tone(self._take)
        start = self._chance.randrange(10_000)
        self.writer.keep_room_tone(self._take, RoomTone(start, 4800, -60.0))
        found = self.reader.room_tone(self._take)
        return None if found and found.start == start else f"room tone {found}"

    def _edit(self) -> str | None:
        self.reader.current(self._episode)
        name = f"Track {self._chance.randrange(10**9)}"
        if len(self.writer.current(self._episode).tracks) > 8:
            self.writer.undo(self._episode, self._head())
            same = self.reader.current(self._episode) == self.writer.current(self._episode)
            return None if same else "an undone document"
        self.writer.edit(self._episode, None, AddTrack(name=name))
        found = self.reader.current(self._episode).tracks[-1].name
        return None if found == name else f"track {found} instead of {name}"

    def _head(self) -> int:
        return self.writer.episode(self._episode)[0].head_id or 0

    def _purge(self) -> str | None:
        gone, revision = self._episode, self._revision
        self.reader.timeline(gone, revision)
        self.writer.change_episode(gone, deleted=True)
        Bin(self.writer).empty(all_now=True)
        self._begin()
        if self._episode == gone:
            return "an id that was used before"
        try:
            self.reader.timeline(gone, revision)
        except NotFound:
            return None
        return "a document of a deleted episode"

    def _cleaned(self) -> str | None:
        """The file of a cleaned take is replaced under its name."""
        folder = self.writer.files.take(self._take)
        name = cleaned_name(Cleaning(self._take, None, dry=True), 1.0)
        for level in self._chance.sample([0.1, 0.2, 0.3, 0.4], 2):
            sound = np.full((RATE // 4, 1), level, np.float32)
            soundfile.write(folder / "part", sound, RATE, "FLOAT", format="RF64")
            (folder / "part").replace(folder / "cleaned-dry")
            found = float(self.reader.reader(name).read(1000, 1)[0, 0])
            if abs(found - level) > 1e-6:
                return f"cleaned sound {found} instead of {level}"
        return None
