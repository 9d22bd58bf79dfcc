"""A setup as one file, ``NAME.airtrim-setup.zip``: a plain ZIP like that of an episode.

``setup.json`` holds the setup, its sounds and the SHA-256 of every file; a sound lies in
``sounds/<sha256>`` as FLAC or RF64, the cover in ``artwork/<sha256>``. Described in
``docs/formats.md``, and by the JSON Schema that is made from ``SetupFile``.
"""

import hashlib
import zipfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Literal
from uuid import uuid4

from pydantic import Field

from airtrim.core.media.take import checksum, looks_whole, make_peaks
from airtrim.core.release.artwork import check_artwork
from airtrim.core.timeline.bounds import MOST_FRAMES
from airtrim.core.timeline.setup import Setup, Sha256
from airtrim.core.timeline.waiting import Name, Told
from airtrim.errors import BadInput
from airtrim.store.files import settle
from airtrim.store.packformat import PackedFile, artwork_path
from airtrim.store.packing import Entry
from airtrim.store.store import Store
from airtrim.store.tables import SoundRow
from airtrim.store.zips import (
    NOTHING,
    READ_BYTES,
    check_names,
    check_size,
    copy_out,
    said_of_itself,
)

VERSION = 1
"""Of the format. A reader refuses what is newer than itself."""
TOLD = "setup.json"
MOST_SOUNDS = 500

Spot = Annotated[int, Field(ge=0, le=MOST_FRAMES)]


class SetupFileSound(Told):
    """A sound of the setup: the SHA-256 of its samples, and what the shelf says of it."""

    sha256: Sha256
    name: Name
    kind: Annotated[str, Field(max_length=20)]
    frames: Annotated[int, Field(gt=0, le=MOST_FRAMES)]
    channels: Literal[1, 2]
    start: Spot
    end: Spot
    lufs: Annotated[float, Field(allow_inf_nan=False)] | None = None
    credit: Annotated[str, Field(max_length=200)] = ""
    licence: Annotated[str, Field(max_length=80)] = ""


class SetupFile(Told):
    """What the file holds."""

    format: Literal["airtrim-setup"] = "airtrim-setup"
    version: int = Field(default=VERSION, ge=1)
    made_at: datetime
    name: Name
    setup: Setup
    sounds: tuple[SetupFileSound, ...] = Field(default=(), max_length=MOST_SOUNDS)
    files: tuple[PackedFile, ...] = Field(max_length=MOST_SOUNDS + 1)


def sound_path(sha256: str) -> str:
    """Where a sound lies in the file."""
    return f"sounds/{sha256}"


def write_setup(store: Store, setup_id: int, target: Path) -> None:
    """Write a setup and its sounds to the file ``target``. Sounds that are on the shelf no more
    stay out."""
    row = store.setup(setup_id)
    setup = Setup.model_validate_json(row.setup)
    wanted = sounds_of(setup)
    shelf = {one.sha256: one for one in store.sounds(row.show_id) if one.sha256 in wanted}
    files: list[PackedFile] = []
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED, allowZip64=True) as file:

        def add(path: str, source: Path) -> None:
            with source.open("rb") as data, Entry(file, path, files.append) as write:
                while block := data.read(READ_BYTES):
                    write(block)

        for sha256, sound in sorted(shelf.items()):
            add(sound_path(sha256), store.files.take(sound.id) / "sound")
        if setup.artwork and store.files.has_artwork(setup.artwork):
            add(artwork_path(setup.artwork), store.files.artwork(setup.artwork))
        told = SetupFile(
            made_at=datetime.now(UTC),
            name=row.name,
            setup=setup,
            sounds=tuple(
                SetupFileSound.model_validate(one, from_attributes=True) for one in shelf.values()
            ),
            files=tuple(files),
        )
        file.writestr(TOLD, told.model_dump_json(indent=1))


def sounds_of(setup: Setup) -> set[str]:
    """The SHA-256 of every sound that a setup names."""
    return {sound.sound for row in setup.rows for sound in row.sounds}


def read_setup(store: Store, source: Path) -> tuple[SetupFile, list[SoundRow]]:
    """What a file says, and rows for its sounds, whose files are in their places by then; they
    belong to no show yet.

    Raises BadInput, in a sentence, for what is no setup, is broken or hostile, or newer."""
    try:
        with zipfile.ZipFile(source) as file:
            check_names(file)
            told = said_of_itself(file, TOLD, SetupFile, VERSION, "setup")
            return told, _brought_in(store, file, told)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, KeyError) as error:
        raise BadInput(f"That is no setup, or it is broken. {NOTHING}") from error


def _brought_in(store: Store, file: zipfile.ZipFile, told: SetupFile) -> list[SoundRow]:
    files = {one.path: one for one in told.files}
    for one in told.files:
        check_size(file, one)
    store.files.need(2 * sum(one.bytes for one in told.files))
    with store.files.beside() as folder:
        made = []
        for sound in told.sounds:
            row = SoundRow(
                id=uuid4().hex, show_id=0, **sound.model_dump(exclude={"start", "end"}),
                start=min(sound.start, sound.frames - 1),
                end=min(max(sound.end, sound.start + 1), sound.frames),
            )  # fmt: skip
            take = folder / row.id
            take.mkdir()
            copy_out(file, files[sound_path(sound.sha256)], take / "sound", lambda _: None)
            whole = looks_whole(take / "sound", sound.frames, sound.channels)
            if not whole or checksum(take / "sound") != sound.sha256:
                raise BadInput(f"“{sound.name}” in the setup is damaged. {NOTHING}")
            make_peaks(take / "sound", take / "peaks")
            made.append((row, take))
        cover = told.setup.artwork
        if cover and artwork_path(cover) in files and not store.files.has_artwork(cover):
            copy_out(file, files[artwork_path(cover)], folder / "cover", lambda _: None)
            data = (folder / "cover").read_bytes()
            check_artwork(data)
            if hashlib.sha256(data).hexdigest() != cover:
                raise BadInput(f"The cover in the setup is damaged. {NOTHING}")
            store.files.save_artwork(cover, data)
        for row, take in made:
            settle(take, store.files.take(row.id))
        return [row for row, _ in made]
