"""A folder on this machine, which a web server or a synchroniser may look after."""

import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from airtrim.errors import BadInput
from airtrim.services.handing.base import (
    PIECE_BYTES,
    Address,
    Allowed,
    Arrived,
    Door,
    File,
    HandOverError,
    Interrupted,
    Told,
    Way,
)


def lay_down(file: File, path: Path, told: Told) -> None:
    """Write a file to a path, whole or not at all."""
    part = path.with_name(f".{path.name}.part")
    try:
        with part.open("wb") as out:
            file.copy(out.write, told)
            out.flush()
            os.fsync(out.fileno())
        part.replace(path)
    except OSError:
        part.unlink(missing_ok=True)
        raise


class _Folder(Door):
    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def send(self, file: File, told: Told) -> Arrived:
        try:
            lay_down(file, self._folder / file.name, told)
        except OSError as error:
            room = shutil.disk_usage(self._folder).free < file.size
            why = "has no room" if room else "cannot be written to"
            raise Interrupted(f"The folder “{self._folder}” {why}.") from error
        return Arrived(str(self._folder / file.name), live=True)

    def read_back(self, file: File, arrived: Arrived) -> Iterator[bytes]:
        try:
            with Path(arrived.remote).open("rb") as there:
                while piece := there.read(PIECE_BYTES):
                    yield piece
        except OSError as error:
            raise Interrupted("What was written there cannot be read.") from error


class Folder(Way):
    """Written beside its name first, so that nobody sees half of it."""

    name = "folder"
    title = "Folder on this machine"
    needs_secret = False

    def check(self, address: Address, allowed: Allowed) -> None:
        folder = Path(address.url)
        if not folder.is_absolute():
            raise BadInput("Write the whole path of the folder, from the root on.")
        if not folder.is_dir():
            raise BadInput(f"There is no folder “{address.url[:120]}” on this machine.")
        if folder.resolve().is_relative_to(allowed.data_dir.resolve()):
            raise BadInput("That folder is Air Trim's own. Choose one outside of its data.")

    @contextmanager
    def open(self, address: Address, secret: str) -> Iterator[Door]:
        folder = Path(address.url)
        if not folder.is_dir():
            raise HandOverError(f"The folder “{address.url[:120]}” is not there any more.")
        yield _Folder(folder)
