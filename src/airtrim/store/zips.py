"""ZIP files that come from elsewhere, read without trust."""

import hashlib
import json
import stat
import zipfile
from collections.abc import Callable
from pathlib import Path, PurePosixPath
from typing import Literal, TypeVar

from pydantic import BaseModel

from airtrim.errors import BadInput
from airtrim.store.packformat import MOST_MANIFEST_BYTES, PackedFile

Said = TypeVar("Said", bound=BaseModel)

READ_BYTES = 1 << 20
_MOST_FOLDED = 100
"""Sound cannot be folded to so little."""
NOTHING = "Nothing was opened."


def check_names(file: zipfile.ZipFile) -> None:
    """No path leads out of the file, and nothing in it is a link. Raises BadInput."""
    for info in file.infolist():
        path = PurePosixPath(info.filename)
        if path.is_absolute() or ".." in path.parts or "\\" in info.filename:
            raise BadInput(f"The pack names files outside itself. {NOTHING}")
        if stat.S_ISLNK(info.external_attr >> 16):
            raise BadInput(f"The pack holds links to other files. {NOTHING}")


def said_of_itself(
    file: zipfile.ZipFile,
    name: str,
    kind: type[Said],
    version: int,
    what: Literal["pack", "setup"],
) -> Said:
    """What a file says of itself, in the member of that name. Raises KeyError where there is none,
    BadInput where it cannot be read or is of a later ``version``."""
    info = file.getinfo(name)
    if info.file_size > MOST_MANIFEST_BYTES:
        raise BadInput(f"What the {what} says of itself is too long. {NOTHING}")
    try:
        said = json.loads(file.read(info))
        its_own = said.get("version") if isinstance(said, dict) else None
        if isinstance(its_own, int) and its_own > version:
            made = "packed" if what == "pack" else "made"
            raise BadInput(f"It was {made} by a newer Air Trim. Update this one first. {NOTHING}")
        return kind.model_validate(said)
    except (ValueError, RecursionError) as error:
        raise BadInput(f"What the {what} says of itself cannot be read. {NOTHING}") from error


def check_size(file: zipfile.ZipFile, told: PackedFile) -> None:
    """One is there, as long as was told, and not folded small. Raises BadInput."""
    try:
        info = file.getinfo(told.path)
    except KeyError:
        raise BadInput(f"“{told.path}” is missing from the pack. {NOTHING}") from None
    if info.file_size != told.bytes:
        raise BadInput(f"“{told.path}” is not as long as was told. {NOTHING}")
    if info.file_size > _MOST_FOLDED * info.compress_size + READ_BYTES:
        raise BadInput(f"The pack unfolds to far more than it is. {NOTHING}")


def copy_out(
    file: zipfile.ZipFile, told: PackedFile, target: Path, tell: Callable[[int], None]
) -> None:
    """Write one to ``target``, telling the bytes as they come. Raises BadInput where it is not what
    was told."""
    digest = hashlib.sha256()
    left = told.bytes
    with file.open(told.path) as data, target.open("wb") as out:
        while left and (block := data.read(min(READ_BYTES, left))):
            digest.update(block)
            out.write(block)
            left -= len(block)
            tell(len(block))
    if left or digest.hexdigest() != told.sha256:
        raise BadInput(f"“{told.path}” in the pack is damaged. {NOTHING}")
