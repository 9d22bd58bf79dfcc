"""Writing an episode out as one file, in a stream: every file is read once, and the list of them
with their checksums comes last."""

import hashlib
import io
import json
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, BinaryIO

from sqlmodel import col, select

from airtrim.core.progress import Progress
from airtrim.errors import BadInput, NotFound
from airtrim.store.database import reading
from airtrim.store.full import is_full
from airtrim.store.packformat import (
    HISTORY,
    MANIFEST,
    Manifest,
    PackedEdit,
    PackedFile,
    PackedTake,
    artwork_path,
    take_path,
)
from airtrim.store.store import Store
from airtrim.store.tables import EditRow, TakeRow
from airtrim.store.zips import READ_BYTES

_ROOM_TONE = "room-tone.json"


@dataclass(frozen=True, slots=True)
class Packed:
    """What a pack came to: recordings, edits, and bytes of it all."""

    takes: int
    edits: int
    bytes: int


def pack(store: Store, episode_id: int, target: Path, progress: Progress) -> Packed:
    """Write an episode, with its whole history, to the file ``target``; all of it is there, or
    nothing.

    Raises NotFound where a recording is missing from the disk, BadInput where ``target`` cannot be
    written.
    """
    part = target.with_name(f"{target.name}.part")
    try:
        with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED, allowZip64=True) as file:
            done = _Packing(store, episode_id, file, progress).write()
        part.replace(target)
    except OSError as error:
        what = "is full" if is_full(error, 1 << 40) else f"cannot be written to ({error.strerror})"
        raise BadInput(f"“{target}” {what}. Nothing was written.") from error
    finally:
        part.unlink(missing_ok=True)
    return done


class _Packing:
    def __init__(
        self, store: Store, episode_id: int, file: zipfile.ZipFile, progress: Progress
    ) -> None:
        self._store, self._episode_id = store, episode_id
        self._file, self._progress = file, progress
        self._files: list[PackedFile] = []
        self._done = self._total = 0

    def write(self) -> Packed:
        episode, show = self._store.episode(self._episode_id)
        with reading(self._store.engine) as session:
            of = TakeRow.episode_id == self._episode_id
            takes = list(session.exec(select(TakeRow).where(of).order_by(col(TakeRow.id))).all())
            self._total = sum(self._sound(take).stat().st_size for take in takes) or 1
            history = select(EditRow).where(EditRow.episode_id == self._episode_id)
            rows = session.exec(history.order_by(col(EditRow.id))).all()
            edits = len(rows)
            covers = self._history(rows)
        for take in takes:
            self._take(take)
        for sha256 in sorted(covers):
            self._add(artwork_path(sha256), self._store.files.artwork(sha256).open("rb"))
        manifest = Manifest(
            made_at=datetime.now(UTC),
            show=show.name,
            title=episode.title,
            head=episode.head_id,
            tip=episode.tip_id,
            takes=[_told(take) for take in takes],
            files=self._files,
        )
        self._file.writestr(MANIFEST, manifest.model_dump_json(indent=1))
        return Packed(len(takes), edits, sum(one.bytes for one in self._files))

    def _sound(self, take: TakeRow) -> Path:
        path = self._store.files.take(take.id) / "sound"
        if not path.exists():
            raise NotFound(
                f"The sound of “{take.name}” is missing from the disk, so the episode cannot be "
                "packed whole. Put it back, or restore it from a backup."
            )
        return path

    def _history(self, rows: Sequence[EditRow]) -> set[str]:
        """Write down every edit; which pictures they name, as far as those are kept."""
        named: set[str] = set()
        with self._entry(HISTORY) as write:
            for row in rows:
                edit = json.loads(row.edit)
                named |= {one for one in _pictures(edit) if self._store.files.has_artwork(one)}
                line = PackedEdit(
                    id=row.id or 0,
                    parent=row.parent_id,
                    name=row.name,
                    made_at=row.created_at,
                    edit=edit,
                )
                write(line.model_dump_json().encode() + b"\n")
        return named

    def _take(self, take: TakeRow) -> None:
        folder = self._store.files.take(take.id)
        self._add(take_path(take.id, "sound"), self._sound(take).open("rb"), take.name)
        if take.words is not None:
            self._add(take_path(take.id, "words.json"), io.BytesIO(take.words.encode()))
        tone = folder / _ROOM_TONE
        if tone.exists():
            self._add(take_path(take.id, _ROOM_TONE), tone.open("rb"))

    def _add(self, path: str, source: BinaryIO, name: str = "") -> None:
        with source, self._entry(path) as write:
            while data := source.read(READ_BYTES):
                write(data)
                if name:
                    self._done += len(data)
                    self._progress(min(1.0, self._done / self._total), f"Packing “{name}”")

    def _entry(self, path: str) -> "Entry":
        return Entry(self._file, path, self._files.append)


class Entry:
    """A file of the pack while it is written; its size and checksum are told when it ends."""

    def __init__(
        self, file: zipfile.ZipFile, path: str, tell: Callable[[PackedFile], None]
    ) -> None:
        self._out = file.open(path, "w", force_zip64=True)
        self._path, self._tell = path, tell
        self._digest, self._bytes = hashlib.sha256(), 0

    def __enter__(self) -> Callable[[bytes], None]:
        return self._write

    def _write(self, data: bytes) -> None:
        self._digest.update(data)
        self._bytes += len(data)
        self._out.write(data)

    def __exit__(self, kind: object, *_: object) -> None:
        self._out.close()
        if kind is None:
            sha256 = self._digest.hexdigest()
            self._tell(PackedFile(path=self._path, bytes=self._bytes, sha256=sha256))


def _told(take: TakeRow) -> PackedTake:
    return PackedTake(
        id=take.id,
        name=take.name,
        frames=take.frames,
        channels=take.channels,
        sha256=take.sha256,
        notice=take.notice,
        language=take.language,
        recogniser=take.recogniser,
    )


def _pictures(edit: Any) -> set[str]:
    """The pictures that an edit names, however deep: covers and those of chapters."""
    if isinstance(edit, list):
        return {sha256 for one in edit for sha256 in _pictures(one)}
    if not isinstance(edit, dict):
        return set()
    own = edit.get("artwork")
    found = {own} if isinstance(own, str) and len(own) == 64 else set()
    return found | {sha256 for one in edit.values() for sha256 in _pictures(one)}
