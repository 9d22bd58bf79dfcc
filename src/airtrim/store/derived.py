"""What is derived of recordings and documents, kept: words, room tone, snags, measurements. What
is not there is found by services."""

import hashlib
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from zipfile import BadZipFile

import numpy as np
from pydantic import TypeAdapter, ValidationError
from sqlmodel import Session, col, select

from airtrim.core.loudness.meter import Profile
from airtrim.core.media.take import TakeReader
from airtrim.core.snags.base import Snag
from airtrim.core.snags.listen import Listened
from airtrim.core.sound.choosing import Heard
from airtrim.core.sound.denoise import Cleaned
from airtrim.core.sound.fill import RoomToneFill
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.cleaned import is_cleaned
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.talk import Talk
from airtrim.core.timeline.tone import is_tone
from airtrim.core.timeline.words import TakeWords, Word, talk_in
from airtrim.store.cache import Key, stamp, stamp_of
from airtrim.store.cleaned import CleanedTakes
from airtrim.store.database import reading, writing
from airtrim.store.documents import Documents
from airtrim.store.rows import row_of
from airtrim.store.tables import TakeRow, now
from airtrim.store.takes import Takes


@dataclass(frozen=True, slots=True)
class Coming:
    """Words of a take that is still being heard; the first ``numbered`` of them keep their numbers,
    since all words before them are known."""

    words: tuple[Word, ...]
    numbered: int


_WORD_BYTES, _SNAG_BYTES = 300, 600
"""What a word and a snag take in memory, roughly."""
_WORDS = TypeAdapter(tuple[Word, ...])
_LISTENED = TypeAdapter(Listened)
_HEARD = TypeAdapter(Heard)
_COMING = TypeAdapter(Coming)
_ROOM_TONE: TypeAdapter[RoomTone | None] = TypeAdapter(RoomTone | None)


class Derived(Documents, Takes):
    """Kept beside what it was derived of, and remembered until that changes."""

    def __init__(self, root: Path, keep_free_bytes: int = 0, *, adopt: bool = False) -> None:
        super().__init__(root, keep_free_bytes, adopt=adopt)
        self.cleaned = CleanedTakes(self.files, self._reader, self.room_tone, self.cache)

    def set_words(
        self, take_id: str, words: tuple[Word, ...], language: str = "", recogniser: str = ""
    ) -> None:
        """Keep the words of a take, in which language they are and what wrote them; those it had
        before are kept beside it."""
        self.files.need(0)
        with writing(self.engine) as session:
            row = row_of(session, TakeRow, take_id, "That recording is not here.")
            written = _WORDS.dump_json(words).decode()
            # A job that is done twice must not take the new words for those of before.
            if row.words not in (None, written):
                self.files.keep(self.files.words_before(take_id), row.words.encode())
            row.words, row.language, row.recogniser = written, language, recogniser
            row.words_version += 1
            episode = self._episode(session, row.episode_id)
            episode.updated_at = now()
        self.drop_coming(take_id)

    def keep_coming(self, take_id: str, coming: Coming) -> None:
        """Keep the words of a take that are known, while the rest is still being heard."""
        self.files.keep(self.files.words_coming(take_id), _COMING.dump_json(coming))

    def coming(self, take_id: str) -> Coming | None:
        """The words of a take that is still being heard."""
        try:
            return _COMING.validate_json(self.files.words_coming(take_id).read_bytes())
        except (OSError, ValidationError):
            return None

    def drop_coming(self, take_id: str) -> None:
        """Forget them: all are written down now, or will not be."""
        self.files.words_coming(take_id).unlink(missing_ok=True)
        self.files.looked_at(take_id).unlink(missing_ok=True)

    def look_at(self, take_id: str, frame: int) -> None:
        """Note which frame of a take a host looks at, while its words are being written down."""
        self.files.keep(self.files.looked_at(take_id), str(frame).encode())

    def looked_at(self, take_id: str) -> int | None:
        """Which frame that is; None where nobody looks."""
        try:
            return int(self.files.looked_at(take_id).read_bytes())
        except (OSError, ValueError):
            return None

    def words_so_far(self, timeline: Timeline) -> TakeWords:
        """The words of all takes in use, and those that have come of takes that are still being
        heard. What is found by where nobody speaks needs ``words``."""
        found = dict(self.words(timeline))
        for take in timeline.takes():
            if take not in found:
                coming = self.coming(take)
                if coming is not None:
                    found[take] = coming.words
        return found

    def words_of(self, take_id: str) -> tuple[Word, ...] | None:
        """The words of one take; None where they are not written down."""
        row = self.take(take_id)
        return None if row.words is None else _WORDS.validate_json(row.words)

    def words(self, timeline: Timeline) -> TakeWords:
        """The words of all takes in use; takes that are not transcribed yet have none."""
        with reading(self.engine) as session:
            versions = self._word_versions(session, timeline)
            known = {take: self.cache.get(("words", take, v)) for take, v in versions.items()}
            missing = [take for take, words in known.items() if words is None]
            rows = session.exec(select(TakeRow).where(col(TakeRow.id).in_(missing))).all()
        for row in rows if missing else ():
            if row.words is not None:
                words = known[row.id] = _WORDS.validate_json(row.words)
                size = _WORD_BYTES * len(words) + 100
                self.cache.put(("words", row.id, row.words_version), words, size)
        return {take: words for take, words in known.items() if words is not None}

    @staticmethod
    def _word_versions(session: Session, timeline: Timeline) -> dict[str, int]:
        """How often the words of each transcribed take in use were written."""
        query = select(TakeRow.id, TakeRow.words_version).where(
            col(TakeRow.id).in_(timeline.takes()), col(TakeRow.words).is_not(None)
        )
        return dict(session.exec(query).all())

    def talk(self, timeline: Timeline) -> dict[str, Talk]:
        """Where somebody speaks in the takes in use that are transcribed."""
        with reading(self.engine) as session:
            versions = self._word_versions(session, timeline)
        words = self.words(timeline)
        return {
            take: self.cache.of(
                ("talk", take, versions.get(take), len(spoken)),
                partial(talk_in, spoken),
                lambda talk: 100 + 80 * len(talk),
            )
            for take, spoken in words.items()
        }

    def reader(self, take_id: str) -> TakeReader | RoomToneFill | Cleaned:
        """Random access to a take's sound; room tone that was made up is a take as well, and so is
        a recording with its room taken out."""
        if is_cleaned(take_id):
            return self.cleaned.reader(take_id)
        return self._fill(take_id) if is_tone(take_id) else self._reader(take_id)

    def knows_room_tone(self, take_id: str) -> bool:
        """Whether room tone was looked for, whatever was found."""
        return self._room_tone(take_id) is not None

    def room_tone(self, take_id: str) -> RoomTone | None:
        """The room tone that was found in a take; None where there is none, or it is not known."""
        known = self._room_tone(take_id)
        return known[0] if known else None

    def _room_tone(self, take_id: str) -> tuple[RoomTone | None] | None:
        path = self.files.room_tone(take_id)
        with suppress(OSError, ValidationError):
            return self.cache.of(
                ("room tone", *stamp(path)),
                lambda: (_ROOM_TONE.validate_json(path.read_bytes()),),
                lambda _: 300,
            )
        return None

    def keep_room_tone(self, take_id: str, found: RoomTone | None) -> None:
        """Keep what was found beside the take."""
        self.files.keep(self.files.room_tone(take_id), _ROOM_TONE.dump_json(found))

    def noise(self, take_id: str) -> Heard | None:
        """What the noise in a take is like; None where nobody has listened to it."""
        with suppress(OSError, ValidationError):
            return _HEARD.validate_json(self.files.noise(take_id).read_bytes())
        return None

    def keep_noise(self, take_id: str, heard: Heard) -> None:
        """Keep what was heard beside the take."""
        self.files.keep(self.files.noise(take_id), _HEARD.dump_json(heard))

    def listened(self, take_id: str) -> Listened | None:
        """What sounds in a take besides its words; None where it is not known."""
        path = self.files.listened(take_id)
        with suppress(OSError, ValidationError):
            key = ("listened", *stamp(path))
            size = 4 * path.stat().st_size
            return self.cache.of(
                key, lambda: _LISTENED.validate_json(path.read_bytes()), lambda _: size
            )
        return None

    def keep_listened(self, take_id: str, found: Listened) -> None:
        """Keep what was found beside the take."""
        self.files.keep(self.files.listened(take_id), _LISTENED.dump_json(found))

    def known_snags(self, episode_id: int, revision: int) -> tuple[Snag, ...] | None:
        """The snags of an episode's document at a revision, in order of time, if they were found
        in its words as they are now."""
        found: tuple[Snag, ...] | None = self.cache.get(self.snags_key(episode_id, revision))
        return found

    def remember_snags(self, episode_id: int, revision: int, found: tuple[Snag, ...]) -> None:
        """Keep what was found, here or by another process."""
        key = self.snags_key(episode_id, revision)
        self.cache.put(key, found, 100 + _SNAG_BYTES * len(found))

    def content_key(self, timeline: Timeline) -> str:
        """Digest of everything that the sound and the picture of a document depend on besides the
        document: this store, the files of the takes in use, and their words."""
        with reading(self.engine) as session:
            versions = self._word_versions(session, timeline)
        takes = sorted(take for take in timeline.takes() if not is_tone(take))
        files = [stamp_of(self.files.take(take) / "sound")[1:] for take in takes]
        inputs = (self.identity.generation, takes, files, sorted(versions.items()))
        return hashlib.sha256(repr(inputs).encode()).hexdigest()[:16]

    def is_damaged(self, timeline: Timeline) -> bool:
        """Whether a part of a take in use could not be read since it was opened, and is silent."""
        takes = (take for take in timeline.takes() if not is_tone(take))
        return any(self._reader(take).damaged for take in takes)

    def snags_key(self, episode_id: int, revision: int) -> Key:
        """Everything that the snags of a revision depend on."""
        timeline = self.timeline(episode_id, revision)
        with reading(self.engine) as session:
            versions = self._word_versions(session, timeline)
        inputs = [
            (take, version, stamp_of(self.files.listened(take)))
            for take, version in sorted(versions.items())
        ]
        return ("snags", episode_id, revision, tuple(inputs))

    def profile(self, key: str) -> Profile | None:
        """A measured profile, if it is there."""
        path = self.files.profile(key)
        if not path.exists():
            return None
        try:
            with np.load(path) as data:
                return Profile(data["energy"], data["peak"], float(data["sample_peak"]))
        except (OSError, ValueError, KeyError, BadZipFile):  # broken: it is measured anew
            path.unlink(missing_ok=True)
            return None

    def save_profile(self, key: str, profile: Profile) -> None:
        """Keep a measured profile."""
        with self.files.beside() as folder:
            np.savez(
                folder / "p.npz",
                energy=profile.energy,
                peak=profile.peak,
                sample_peak=profile.sample_peak,
            )
            (folder / "p.npz").replace(self.files.profile(key))
