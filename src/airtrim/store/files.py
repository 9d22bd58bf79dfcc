"""Files beside the database. Names come from us alone, never from a user."""

import hashlib
import os
import re
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Literal
from uuid import uuid4

from airtrim.errors import BadInput, NotFound, StoreFull
from airtrim.store.full import is_full
from airtrim.store.reserve import Reserve

FULL = "The disk is full. Make room and try again; nothing was changed."
_FOLDERS = ("takes", "recordings", "exports", "artwork", "profiles", "uploads", "tmp")


Owner = Literal["server", "worker"]


class Files:
    """The folder of data. Server and worker write to it at once; each knows its own scratch."""

    def __init__(self, root: Path, keep_free_bytes: int = 0) -> None:
        self.root = root
        self.owner: Owner = "server"
        self._keep_free_bytes = keep_free_bytes
        for name in _FOLDERS:
            (root / name).mkdir(parents=True, exist_ok=True)
        self.reserve = Reserve(root / "reserve")
        self.reserve.restore(self.free())

    def take(self, take_id: str) -> Path:
        """Folder of a take."""
        return self.root / "takes" / _plain(take_id)

    def room_tone(self, take_id: str) -> Path:
        """File of the room tone found in a take."""
        return self.take(take_id) / "room-tone.json"

    def noise(self, take_id: str) -> Path:
        """File of what the noise in a take is like."""
        return self.take(take_id) / "noise.json"

    def listened(self, take_id: str) -> Path:
        """File of what was heard in a take besides its words."""
        return self.take(take_id) / "listened.json"

    def words_before(self, take_id: str) -> Path:
        """File of the words that a take had before it was given others."""
        return self.take(take_id) / "words-before.json"

    def words_coming(self, take_id: str) -> Path:
        """File of the words that are known while the rest of a take is still being heard."""
        return self.take(take_id) / "words-coming.json"

    def looked_at(self, take_id: str) -> Path:
        """Where a host looks while the words of a take are being written down."""
        return self.take(take_id) / "looked-at.json"

    def recording(self, recording_id: str) -> Path:
        """Folder of a recording's pieces."""
        return self.root / "recordings" / _plain(recording_id)

    def export(self, job_id: str) -> Path:
        """Folder of an export."""
        return self.root / "exports" / _plain(job_id)

    def remove_export(self, job_id: str) -> None:
        """Remove the files of an export, if there are any."""
        shutil.rmtree(self.export(job_id), ignore_errors=True)

    def profile(self, key: str) -> Path:
        """File of a measured profile."""
        return self.root / "profiles" / f"{_plain(key)}.npz"

    def upload(self, upload_id: str) -> Path:
        """File of a finished upload."""
        return self.root / "uploads" / _plain(upload_id)

    def artwork(self, sha256: str) -> Path:
        """File of a cover."""
        path = self.root / "artwork" / _plain(sha256)
        if not path.exists():
            raise NotFound("That artwork is not here any more.")
        return path

    def has_artwork(self, sha256: str) -> bool:
        """Whether a cover is kept."""
        return (self.root / "artwork" / _plain(sha256)).exists()

    def save_artwork(self, sha256: str, data: bytes) -> None:
        """Keep a cover under its checksum."""
        path = self.root / "artwork" / _plain(sha256)
        if not path.exists():
            with self.beside() as folder:
                (folder / "cover").write_bytes(data)
                settle(folder / "cover", path)

    def keep_artwork(self, data: bytes) -> str:
        """Keep a cover; returns its checksum. Raises StoreFull where there is no room for it."""
        sha256 = hashlib.sha256(data).hexdigest()
        self.need(len(data))
        self.save_artwork(sha256, data)
        return sha256

    def free(self) -> int:
        """Bytes that are free on the disk."""
        return shutil.disk_usage(self.root).free

    def room(self) -> int:
        """Bytes that may still be written."""
        return max(0, self.free() - self._keep_free_bytes)

    def writable(self) -> bool:
        """Whether anything can be written at all."""
        return os.access(self.root, os.W_OK) and os.access(self.root / "tmp", os.W_OK)

    def need(self, size: int) -> None:
        """Raise StoreFull unless ``size`` more bytes fit, with some room to spare."""
        if self.free() - size < self._keep_free_bytes + self.reserve.missing_bytes:
            wanted = f": {size / 1e6:.0f} MB needed, {self.room() / 1e6:.0f} MB to spare"
            raise StoreFull(
                f"The disk is nearly full{wanted if size else ''}. "
                "Make room and try again; nothing was changed."
            )

    @property
    def uploads(self) -> Path:
        """Folder of uploads that come in."""
        return self.root / "uploads"

    @contextmanager
    def told_when_full(self) -> Iterator[None]:
        """A full disk raises StoreFull."""
        try:
            yield
        except Exception as error:
            if is_full(error, self.free()):
                raise StoreFull(FULL) from error
            raise

    @contextmanager
    def beside(self) -> Iterator[Path]:
        """A scratch folder on the same disk, gone afterwards. A full disk raises StoreFull."""
        self.need(0)
        folder = self.root / "tmp" / f"{self.owner}-{uuid4().hex}"
        try:
            with self.told_when_full():
                folder.mkdir()
                yield folder
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def keep(self, path: Path, data: bytes) -> None:
        """Write a small file whole, or leave what was there."""
        with self.beside() as folder:
            (folder / "kept").write_bytes(data)
            settle(folder / "kept", path)

    def sweep(self, *, everything: bool = False) -> None:
        """Remove scratch folders that an owner of this kind left behind, or ``everything`` once
        all owners have ended. A folder that another kind is writing to stays."""
        for left in (self.root / "tmp").iterdir():
            owner, dash, _ = left.name.partition("-")
            if everything or owner == self.owner or not dash:  # old folders name no owner
                shutil.rmtree(left, ignore_errors=True)


def settle(source: Path, target: Path) -> None:
    """Move a finished file or folder into its place, its bytes on disk before its name."""
    for path in [source, *source.rglob("*")] if source.is_dir() else [source]:
        descriptor = os.open(path, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)
    if target.is_dir():
        shutil.rmtree(target)
    source.replace(target)
    descriptor = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def is_plain(name: str) -> bool:
    """Whether something could be called so here: what is kept has plain names alone."""
    return bool(re.fullmatch(r"[0-9A-Za-z_-]{1,80}", name))


def _plain(name: str) -> str:
    if not is_plain(name):
        raise BadInput("That is not a name of ours.")
    return name
