"""Takes: recordings, their sound and their pictures."""

from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from pydantic import TypeAdapter
from sqlmodel import Session, col, select

from airtrim.core.media.peaks import Columns, NoPeaks, Peaks
from airtrim.core.media.take import TakeReader
from airtrim.core.sound.fill import FillPeaks, RoomToneFill, made_up
from airtrim.core.timeline.tone import is_tone, tone_of
from airtrim.core.timeline.words import Word
from airtrim.errors import AirTrimError, BadInput, NotFound
from airtrim.store.cache import stamp, stamp_of
from airtrim.store.database import reading
from airtrim.store.rows import row_of
from airtrim.store.shelf import Shelf
from airtrim.store.soundness import Soundness
from airtrim.store.tables import TakeRow

_WORDS = TypeAdapter(tuple[Word, ...])


_READER_BYTES = 64_000
"""What an open file takes in memory, roughly."""


@dataclass(frozen=True, slots=True)
class TakeSummary:
    """A recording without its words; ``transcribed`` says whether they have been written down,
    ``missing`` whether its sound is gone from the disk, ``damaged`` whether it is not as it was,
    ``reworded`` whether it had other words."""

    id: str
    name: str
    frames: int
    channels: int
    notice: str | None
    transcribed: bool
    missing: bool
    damaged: bool
    reworded: bool
    language: str
    recogniser: str


class Takes(Shelf):
    """Recordings, and what lies beside them on the disk as it was recorded."""

    def __init__(self, root: Path, keep_free_bytes: int = 0, *, adopt: bool = False) -> None:
        super().__init__(root, keep_free_bytes, adopt=adopt)
        self.soundness = Soundness(self.files)

    def takes(self, episode_id: int) -> list[TakeSummary]:
        """All recordings of an episode, without their words."""
        with reading(self.engine) as session:
            return self._takes(session, episode_id)

    def _takes(self, session: Session, episode_id: int) -> list[TakeSummary]:
        columns = (
            *(TakeRow.id, TakeRow.name, TakeRow.frames, TakeRow.channels, TakeRow.notice),
            *(TakeRow.language, TakeRow.recogniser),
        )
        query = select(*columns, col(TakeRow.words).is_not(None)).where(  # type: ignore[call-overload]
            TakeRow.episode_id == episode_id
        )
        found: list[TakeSummary] = []
        for row in session.exec(query).all():
            take, name, frames, channels, notice, language, recogniser, transcribed = row
            missing = not (self.files.take(take) / "sound").exists()
            damaged = self.soundness.looks_damaged(take, frames, channels)
            reworded = self.files.words_before(take).exists()
            found.append(
                TakeSummary(
                    *(take, name, frames, channels, notice, transcribed, missing, damaged),
                    *(reworded, language, recogniser),
                )
            )
        return found

    def take(self, take_id: str) -> TakeRow:
        """One recording."""
        with reading(self.engine) as session:
            return row_of(session, TakeRow, take_id, "That recording is not here.")

    def words_before(self, take_id: str) -> tuple[Word, ...]:
        """The words that a take had before it was given others."""
        kept = self.files.words_before(take_id)
        if not kept.exists():
            raise BadInput("This recording had no other words before.")
        return _WORDS.validate_json(kept.read_bytes())

    def _reader(self, take_id: str) -> TakeReader:
        path = self.files.take(take_id) / "sound"
        try:
            key = ("sound", *stamp(path))
            return self.cache.of(key, lambda: TakeReader(path), lambda _: _READER_BYTES)
        except FileNotFoundError:
            raise NotFound(
                f"The sound of “{self.take(take_id).name}” is missing from the disk. Put it back "
                "into the folder of takes, or cut what is left of it from the episode.",
                place="edit",
            ) from None

    def _fill(self, take_id: str) -> RoomToneFill:
        source = tone_of(take_id)[0].take
        key = ("fill", take_id, *stamp_of(self.files.take(source) / "sound"))
        return self.cache.of(
            key, lambda: made_up(take_id, self._reader), lambda _: 4 * _READER_BYTES
        )

    def peaks(self, take_id: str) -> Columns:
        """What a picture of a take is drawn from; nothing where its sound is missing."""
        if is_tone(take_id):
            return FillPeaks(self._fill(take_id))
        folder = self.files.take(take_id)
        if not (folder / "sound").exists():
            return NoPeaks()
        key = ("peaks", *stamp_of(folder / "peaks"), *stamp_of(folder / "sound"))
        known: Columns | None = self.cache.get(key)
        if known is None:
            known = self._open_peaks(take_id)
            # What was broken is another file now.
            key = ("peaks", *stamp_of(folder / "peaks"), *stamp_of(folder / "sound"))
            self.cache.put(key, known, _READER_BYTES)
        return known

    def _open_peaks(self, take_id: str) -> Columns:
        """Peaks of a take; made again where they are missing or broken."""
        path, frames = self.files.take(take_id) / "peaks", self.take(take_id).frames
        with suppress(OSError, ValueError):
            return Peaks(path, frames)
        try:
            self.soundness.mend_peaks(take_id)
            return Peaks(path, frames)
        except (OSError, ValueError, RuntimeError, AirTrimError):  # its sound is broken too
            return NoPeaks()
