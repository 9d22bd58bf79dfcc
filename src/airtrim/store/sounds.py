"""The shelf of sounds that each show keeps."""

import os
import shutil
from contextlib import suppress
from pathlib import Path

from sqlmodel import Session, col, select

from airtrim.core.media.take import TakeInfo
from airtrim.errors import NotFound
from airtrim.store.database import reading, writing
from airtrim.store.files import settle
from airtrim.store.rows import Rows, row_of
from airtrim.store.tables import ShowRow, SoundRow, TakeRow, now

_FILES = "original", "peaks", "sound"
_GONE = "That sound is not on the shelf any more."


class Sounds(Rows):
    """Sounds on shelves, each with a copy of its own of what it was made from."""

    def sounds(self, show_id: int) -> list[SoundRow]:
        """Those of a show, by kind and name."""
        with reading(self.engine) as session:
            row_of(session, ShowRow, show_id, "That show is not on the shelf.")
            query = select(SoundRow).where(
                SoundRow.show_id == show_id, col(SoundRow.deleted_at).is_(None)
            )
            rows = list(session.exec(query).all())
        return sorted(rows, key=lambda row: (row.kind, row.name))

    def sound(self, sound_id: str) -> SoundRow:
        """One of them. Raises NotFound where it was taken off its shelf."""
        with reading(self.engine) as session:
            row = row_of(session, SoundRow, sound_id, _GONE)
        if row.deleted_at is not None:
            raise NotFound(_GONE)
        return row

    def add_sound(self, row: SoundRow) -> SoundRow:
        """Put one on a shelf, its files being there already."""
        with writing(self.engine) as session:
            row_of(session, ShowRow, row.show_id, "That show is not on the shelf.")
            session.add(row)
        return row

    def change_sound(self, sound_id: str, **values: object) -> SoundRow:
        """Set some of its columns; ``deleted`` takes it off its shelf or brings it back."""
        deleted = values.pop("deleted", None)
        with writing(self.engine) as session:
            row = row_of(session, SoundRow, sound_id, _GONE)
            if (key := values.pop("at_key", None)) is not None:
                self._give_key(session, row, key or None)
            for name, value in values.items():
                setattr(row, name, value)
            if deleted is not None:
                row.deleted_at = now() if deleted else None
                row.at_key = None
        return row

    @staticmethod
    def _give_key(session: Session, row: SoundRow, key: object) -> None:
        """Let a key play it in; the sound that had it gets this one's."""
        query = select(SoundRow).where(
            SoundRow.show_id == row.show_id,
            SoundRow.at_key == key,
            col(SoundRow.deleted_at).is_(None),
        )
        for other in session.exec(query).all() if key else ():
            other.at_key = row.at_key
        row.at_key = key if isinstance(key, int) else None

    def take_like(self, episode_id: int, sound: SoundRow) -> TakeRow | None:
        """The recording of an episode that is the same sound, if it has it already."""
        with reading(self.engine) as session:
            query = select(TakeRow).where(
                TakeRow.episode_id == episode_id, TakeRow.sha256 == sound.sha256
            )
            return session.exec(query).first()

    def add_take(self, take_id: str, episode_id: int, name: str, info: TakeInfo) -> TakeRow:
        """A recording that is in no document yet, its files being there already. Nobody speaks in
        it, as far as is known: its words are not waited for."""
        with writing(self.engine) as session:
            row = TakeRow.of(take_id, episode_id, name, info)
            row.words = "[]"
            session.add(row)
        return row

    def copy_files(self, take_id: str, new_id: str) -> None:
        """A second set of the files of a recording or a sound, on the disk only once where that can
        be."""
        source = self.files.take(take_id)
        if not (source / "sound").exists():
            raise NotFound("Its sound is missing from the disk.")
        with self.files.beside() as folder:
            copy = folder / "take"
            copy.mkdir()
            for name in _FILES:
                with suppress(FileNotFoundError):
                    _linked(source / name, copy / name)
            settle(copy, self.files.take(new_id))


def _linked(source: Path, target: Path) -> None:
    try:
        os.link(source, target)
    except FileNotFoundError:
        raise
    except OSError:
        shutil.copyfile(source, target)
