"""Backups: the database as SQLite copies it, files by their checksums, and back again.

A folder of backups holds every file once, under its SHA-256 (``files/ab/ab…``), and for each backup
a folder with the database and a list of which file is which (``snapshots/<time>/``). So a second
backup copies only what is new. A zip holds one backup, with the files under their own names.

The database is copied first and files after it, since rows name files that are there already. Where
a file went meanwhile, since what was recorded became a take, all is looked at once more.
"""

import hashlib
import json
import os
import shutil
import sqlite3
import zipfile
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path, PurePosixPath
from typing import BinaryIO
from uuid import uuid4

from pydantic import BaseModel, ValidationError

from airtrim.core.progress import Progress
from airtrim.errors import BadInput, Busy
from airtrim.store.database import copy_database
from airtrim.store.files import Files
from airtrim.store.full import is_full
from airtrim.store.identity import write_mark
from airtrim.store.lock import FolderLock

_FORMAT = 1
_MOST_PASSES = 5
_READ_BYTES = 1 << 20
_SYNC_BYTES = 8 << 20
_DERIVED = ("clean-", "cleaned-", "damaged")
_FOLDERS = ("takes", "recordings", "exports", "artwork", "uploads")
_FIRST = (".parts", "log")


class Entry(BaseModel):
    """A file of a backup. Size and time of change tell whether it has to be read again."""

    path: str
    sha256: str
    size: int
    changed_ns: int


class Manifest(BaseModel):
    """A backup: when it was made, of what, the checksum of its database, and its files."""

    format: int = _FORMAT
    made_at: datetime
    database_sha256: str
    files: list[Entry]


@dataclass(frozen=True, slots=True)
class BackedUp:
    """What a backup came to."""

    made_at: datetime
    files: int
    bytes: int
    copied_files: int
    copied_bytes: int


def back_up(root: Path, target: Path, progress: Progress = lambda _f, _d: None) -> BackedUp:
    """Back up the data in ``root``, also while a server works on them, into the folder ``target``,
    or into the file ``target`` where its name ends in ``.zip``.

    Raises BadInput where there is nothing to back up, or no room.
    """
    if not (root / "airtrim.db").exists():
        raise BadInput(f"There are no data of Air Trim in “{root}”.")
    target = target.absolute()
    if target.is_relative_to(root.absolute()):
        raise BadInput("A backup cannot lie within the data it is a backup of.")
    try:
        into = _Zip(target) if target.suffix.lower() == ".zip" else _Folder(target)
        done = _Making(root, into, progress).make()
    except OSError as error:
        what = "is full" if is_full(error, 1 << 40) else f"cannot be written to ({error.strerror})"
        raise BadInput(f"“{target}” {what}. Earlier backups there are whole.") from error
    _note(root, done)
    return done


def last_backup(root: Path) -> datetime | None:
    """When the data in ``root`` were backed up last."""
    try:
        recorded = json.loads((root / "last-backup.json").read_text())
        return datetime.fromisoformat(recorded["made_at"])
    except (OSError, ValueError, KeyError, TypeError):
        return None


def restore(
    source: Path, root: Path, *, replace: bool, progress: Progress = lambda _f, _d: None
) -> int:
    """Put the newest backup of ``source`` into the folder ``root``; returns how many files.

    What was there is moved aside where ``replace`` says so, else refused. Every file is held
    against its checksum; raises BadInput, and leaves what was there, where one is wrong.
    """
    from_ = _ZipSource(source) if source.is_file() else _FolderSource(source)
    manifest = from_.manifest()
    lock = FolderLock(root)
    try:
        if not replace and any(path.name != "lock" for path in root.iterdir()):
            raise Busy(
                f"“{root}” holds data already. Name an empty folder with --data, or say --replace: "
                "then what is there is moved aside."
            )
        return _restored(from_, manifest, source, root, progress)
    finally:
        lock.release()


def _restored(
    from_: "_FolderSource | _ZipSource",
    manifest: Manifest,
    source: Path,
    root: Path,
    progress: Progress,
) -> int:
    made = root.with_name(f"{root.name}-being-restored")
    shutil.rmtree(made, ignore_errors=True)
    made.mkdir(parents=True)
    try:
        with from_.database() as data, (made / "airtrim.db").open("wb") as file:
            if _copied(data, file) != manifest.database_sha256:
                raise BadInput(f"The database in “{source}” is damaged. Nothing was restored.")
        total = sum(entry.size for entry in manifest.files) or 1
        done = 0
        for entry in manifest.files:
            path = made / _inside(entry.path)
            path.parent.mkdir(parents=True, exist_ok=True)
            with from_.file(entry) as data, path.open("wb") as file:
                if _copied(data, file) != entry.sha256:
                    raise BadInput(
                        f"“{entry.path}” in “{source}” is damaged. Nothing was restored."
                    )
            done += entry.size
            progress(done / total, "Restoring")
    except (OSError, KeyError, zipfile.BadZipFile) as error:
        shutil.rmtree(made, ignore_errors=True)
        raise BadInput(
            f"The backup “{source}” cannot be read whole ({error}). Nothing was restored."
        ) from error
    except BadInput:
        shutil.rmtree(made, ignore_errors=True)
        raise
    _begin_generation(made)
    if any(path.name != "lock" for path in root.iterdir()):
        stamp = datetime.now(UTC).strftime("%Y%m%dT%H%M%SZ")
        root.rename(root.with_name(f"{root.name}-before-{stamp}"))
    else:
        shutil.rmtree(root)
    made.rename(root)
    return len(manifest.files)


def _begin_generation(root: Path) -> None:
    """Give a restored database a new generation and the folder its mark.

    Ids that were given after the backup are free again. Without a new generation a browser would
    show its cached answers for them. A database from before there were marks gets both when it is
    migrated.
    """
    with closing(sqlite3.connect(root / "airtrim.db")) as connection, connection:
        tables = connection.execute("SELECT 1 FROM sqlite_master WHERE name = 'identity'")
        if tables.fetchone() is None:
            return
        connection.execute("UPDATE identity SET generation = ?", (uuid4().hex[:12],))
        (folder,) = connection.execute("SELECT folder FROM identity").fetchone()
    write_mark(root, folder)


class _Making:
    """One backup while it is made."""

    def __init__(self, root: Path, into: "_Folder | _Zip", progress: Progress) -> None:
        self._root, self._into, self._progress = root, into, progress
        self._copied_files = self._copied_bytes = 0

    def make(self) -> BackedUp:
        made_at = datetime.now(UTC)
        known = self._into.known()
        for number in range(_MOST_PASSES):
            copy = self._into.scratch / "airtrim.db"
            copy_database(self._root / "airtrim.db", copy)
            entries, went = self._files(known)
            if not went or number == _MOST_PASSES - 1:
                break
            known = {entry.path: entry for entry in entries}
        with copy.open("rb") as file:
            sha256 = hashlib.file_digest(file, "sha256").hexdigest()
        manifest = Manifest(made_at=made_at, database_sha256=sha256, files=entries)
        self._into.finish(copy, manifest)
        size = sum(entry.size for entry in entries)
        return BackedUp(made_at, len(entries), size, self._copied_files, self._copied_bytes)

    def _files(self, known: dict[str, Entry]) -> tuple[list[Entry], bool]:
        """Take in every file; also whether one went while this was done."""
        # What tells how much of a file counts comes before the file, which may grow meanwhile.
        paths = sorted(_kept(self._root), key=lambda one: not one[0].name.endswith(_FIRST))
        total = sum(size for _, size in paths) or 1
        done, went = 0, False
        entries: list[Entry] = []
        for path, size in paths:
            try:
                entries.append(self._take_in(path, known))
            except FileNotFoundError:
                went = True
            done += size
            self._progress(min(1.0, done / total), "Backing up")
        return entries, went

    def _take_in(self, path: Path, known: dict[str, Entry]) -> Entry:
        name = path.relative_to(self._root).as_posix()
        found = path.stat()
        old = known.get(name)
        same = old is not None and (old.size, old.changed_ns) == (found.st_size, found.st_mtime_ns)
        if old is not None and same and self._into.has(old):
            return old
        with path.open("rb") as file:
            sha256, size, new = self._into.add(name, file)
        if new:
            self._copied_files += 1
            self._copied_bytes += size
        return Entry(path=name, sha256=sha256, size=size, changed_ns=found.st_mtime_ns)


class _Folder:
    """A folder of backups."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        if folder.exists() and not folder.is_dir():
            raise BadInput(f"“{folder}” is a file. Name a folder, or a file that ends in .zip.")
        if folder.is_dir() and any(folder.iterdir()) and not (folder / "snapshots").is_dir():
            raise BadInput(f"“{folder}” holds something that is no backup. Name another folder.")
        self.scratch = folder / "being-made"
        shutil.rmtree(self.scratch, ignore_errors=True)
        self.scratch.mkdir(parents=True)
        (folder / "snapshots").mkdir(exist_ok=True)

    def known(self) -> dict[str, Entry]:
        """The files of the backup before."""
        try:
            manifest = _FolderSource(self._folder).manifest()
        except BadInput:
            return {}
        return {entry.path: entry for entry in manifest.files}

    def has(self, entry: Entry) -> bool:
        """Whether a file is here already."""
        return _of_checksum(self._folder, entry.sha256).exists()

    def add(self, name: str, file: BinaryIO) -> tuple[str, int, bool]:
        """Take a file in; its checksum, its size, and whether it is new here."""
        part = self.scratch / "file"
        with part.open("wb") as out:
            sha256 = _copied(file, out)
            size = out.tell()
            out.flush()
            os.fsync(out.fileno())
        path = _of_checksum(self._folder, sha256)
        if path.exists():
            return sha256, size, False
        path.parent.mkdir(parents=True, exist_ok=True)
        part.replace(path)
        return sha256, size, True

    def finish(self, database: Path, manifest: Manifest) -> None:
        """The backup is there once its folder has its name."""
        (self.scratch / "file").unlink(missing_ok=True)
        (self.scratch / "manifest.json").write_text(manifest.model_dump_json())
        stamp = manifest.made_at.strftime("%Y%m%dT%H%M%S.%fZ")
        self.scratch.rename(self._folder / "snapshots" / stamp)


class _Zip:
    """One backup in a zip."""

    def __init__(self, path: Path) -> None:
        self._path = path
        path.parent.mkdir(parents=True, exist_ok=True)
        self.scratch = path.with_name(f".{path.name}.being-made")
        shutil.rmtree(self.scratch, ignore_errors=True)
        self.scratch.mkdir()
        self._written: dict[str, Entry] = {}
        self._zip = zipfile.ZipFile(self.scratch / "zip", "w", zipfile.ZIP_STORED, allowZip64=True)

    def known(self) -> dict[str, Entry]:
        """Nothing: a zip is made anew."""
        return {}

    def has(self, entry: Entry) -> bool:
        """Whether this very file is in it, from an earlier pass."""
        return entry.path in self._written

    def add(self, name: str, file: BinaryIO) -> tuple[str, int, bool]:
        """Take a file in; what was taken in under its name before is left aside."""
        digest, size = hashlib.sha256(), 0
        recorded = name if name not in self._written else f"{name}~{len(self._written)}"
        with self._zip.open(zipfile.ZipInfo(f"files/{recorded}"), "w", force_zip64=True) as out:
            while data := file.read(_READ_BYTES):
                digest.update(data)
                out.write(data)
                size += len(data)
        self._written[name] = Entry(
            path=recorded, sha256=digest.hexdigest(), size=size, changed_ns=0
        )
        return digest.hexdigest(), size, True

    def finish(self, database: Path, manifest: Manifest) -> None:
        """The zip is there once it has its name."""
        names = {name: entry.path for name, entry in self._written.items()}
        self._zip.write(database, "airtrim.db")
        self._zip.writestr("names.json", json.dumps(names))
        self._zip.writestr("manifest.json", manifest.model_dump_json())
        self._zip.close()
        (self.scratch / "zip").replace(self._path)
        shutil.rmtree(self.scratch)


class _FolderSource:
    """The newest backup of a folder."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        if not folder.exists():
            raise BadInput(f"There is no backup “{folder}”.")

    def manifest(self) -> Manifest:
        """What it holds."""
        snapshots = sorted((self._folder / "snapshots").glob("*/manifest.json"))
        if not snapshots:
            raise BadInput(f"“{self._folder}” is no folder of backups.")
        self._newest = snapshots[-1].parent
        return _read_manifest(snapshots[-1].read_bytes(), self._folder)

    def database(self) -> BinaryIO:
        """Its database."""
        return (self._newest / "airtrim.db").open("rb")

    def file(self, entry: Entry) -> BinaryIO:
        """One of its files."""
        return _of_checksum(self._folder, entry.sha256).open("rb")


class _ZipSource:
    """The backup in a zip."""

    def __init__(self, path: Path) -> None:
        self._path = path
        try:
            self._zip = zipfile.ZipFile(path)
            self._names = json.loads(self._zip.read("names.json"))
        except (zipfile.BadZipFile, KeyError, ValueError, OSError) as error:
            raise BadInput(f"“{path}” is no backup of Air Trim.") from error

    def manifest(self) -> Manifest:
        """What it holds."""
        try:
            return _read_manifest(self._zip.read("manifest.json"), self._path)
        except (KeyError, zipfile.BadZipFile) as error:
            raise BadInput(f"“{self._path}” is no backup of Air Trim.") from error

    def database(self) -> BinaryIO:
        """Its database."""
        return self._zip.open("airtrim.db")  # type: ignore[return-value]

    def file(self, entry: Entry) -> BinaryIO:
        """One of its files."""
        return self._zip.open(f"files/{self._names[entry.path]}")  # type: ignore[return-value]


def _read_manifest(data: bytes, source: Path) -> Manifest:
    try:
        manifest = Manifest.model_validate_json(data)
    except ValidationError as error:
        raise BadInput(f"What the backup “{source}” holds cannot be read.") from error
    if manifest.format != _FORMAT:
        raise BadInput(f"The backup “{source}” was made by a newer Air Trim. Restore it with that.")
    return manifest


def _kept(root: Path) -> Iterator[tuple[Path, int]]:
    """Every file that cannot be made anew, with its size."""
    for folder in _FOLDERS:
        for path in (root / folder).rglob("*"):
            if path.is_file() and path.name != "lock" and not path.name.startswith(_DERIVED):
                yield path, path.stat().st_size


def _of_checksum(folder: Path, sha256: str) -> Path:
    if len(sha256) != 64 or not sha256.isalnum():
        raise BadInput("What the backup holds cannot be read.")
    return folder / "files" / sha256[:2] / sha256


def _inside(name: str) -> Path:
    """A path of a backup, which has to lie within the folder it is restored to."""
    path = PurePosixPath(name)
    if path.is_absolute() or ".." in path.parts or path.parts[:1] not in [(f,) for f in _FOLDERS]:
        raise BadInput("The backup names a file that is none of Air Trim's. Nothing was restored.")
    return Path(*path.parts)


def _copied(file: BinaryIO, out: BinaryIO) -> str:
    """Copy all of a file; its checksum. What was written goes to the disk piece by piece: whoever
    syncs a little meanwhile, as a recording does, would wait for all of a large file."""
    digest = hashlib.sha256()
    unsynced = 0
    while data := file.read(_READ_BYTES):
        digest.update(data)
        out.write(data)
        unsynced += len(data)
        if unsynced >= _SYNC_BYTES:
            out.flush()
            os.fsync(out.fileno())
            unsynced = 0
    return digest.hexdigest()


def _note(root: Path, done: BackedUp) -> None:
    Files(root).keep(
        root / "last-backup.json", json.dumps({"made_at": done.made_at.isoformat()}).encode()
    )
