"""Opening an episode that was packed: all of it is looked at before anything is kept, and a broken
or hostile file leaves nothing."""

import hashlib
import json
import shutil
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from uuid import uuid4

from pydantic import TypeAdapter, ValidationError
from sqlmodel import Session

from airtrim.core.media.take import looks_whole, make_peaks
from airtrim.core.progress import Progress
from airtrim.core.release.artwork import picture_type
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.bounds import MOST_FRAMES
from airtrim.core.timeline.edits import Edit
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import Word
from airtrim.errors import BadInput
from airtrim.store.database import writing
from airtrim.store.documents import copy_to_shelf, is_kept, replayed
from airtrim.store.files import settle
from airtrim.store.packformat import (
    HISTORY,
    MANIFEST,
    MOST_EDITS,
    MOST_LINE_BYTES,
    VERSION,
    Manifest,
    PackedEdit,
    PackedFile,
    PackedTake,
    take_path,
)
from airtrim.store.rows import row_of
from airtrim.store.store import Store
from airtrim.store.tables import EditRow, EpisodeRow, ShowRow, TakeRow
from airtrim.store.zips import NOTHING, check_names, check_size, copy_out, said_of_itself

_MOST_JSON_BYTES = 64_000_000
_WORDS = TypeAdapter(tuple[Word, ...])
_TONE: TypeAdapter[RoomTone | None] = TypeAdapter(RoomTone | None)
_TIMELINE = TypeAdapter(Timeline)
_EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)


@dataclass(frozen=True, slots=True)
class Unpacked:
    """The episode that was made, and how many recordings and edits it has."""

    episode_id: int
    title: str
    takes: int
    edits: int


def unpack(
    store: Store,
    source: Path,
    show_id: int | None,
    progress: Progress,
    *,
    into: int | None = None,
) -> Unpacked:
    """Make an episode of a pack, in a show, or in the one of its name, which is made where there is
    none; or fill an empty one with it. Opened again it is another episode.

    Raises BadInput, in a sentence, for what is no pack, is broken, names files outside itself,
    unfolds to more than it is, or was made by a newer version; StoreFull where there is no room.
    """
    try:
        with zipfile.ZipFile(source) as file:
            return _Unpacking(store, file, show_id, progress, into).run()
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError) as error:
        raise BadInput(f"That is no packed episode, or it is broken. {NOTHING}") from error
    except FileNotFoundError as error:
        raise BadInput(f"“{source}” is not there. {NOTHING}") from error


@dataclass(slots=True)
class _History:
    """Edits by their numbers in the pack, each with that of what it was made on, in order; and the
    document that the episode stands at."""

    rows: list[tuple[int, int | None, EditRow]] = field(default_factory=list)
    head: Timeline = field(default_factory=Timeline)


class _Unpacking:
    def __init__(
        self,
        store: Store,
        file: zipfile.ZipFile,
        show_id: int | None,
        progress: Progress,
        into: int | None,
    ) -> None:
        self._store, self._file, self._show_id, self._into = store, file, show_id, into
        self._progress = progress
        self._done = self._total = 0
        self._files: dict[str, PackedFile] = {}
        self._settled: list[Path] = []

    def run(self) -> Unpacked:
        check_names(self._file)
        manifest = self._manifest()
        self._files = {one.path: one for one in manifest.files}
        self._total = sum(one.bytes for one in manifest.files) or 1
        for one in manifest.files:
            check_size(self._file, one)
        self._store.files.need(2 * self._total)
        names = self._new_names(manifest.takes)
        with self._store.files.beside() as folder:
            words = {take.id: self._take(take, folder / names[take.id]) for take in manifest.takes}
            covers = self._covers(folder)
            history = self._made_again(list(self._edits(names)), manifest)
            try:
                for take in manifest.takes:
                    target = self._store.files.take(names[take.id])
                    settle(folder / names[take.id], target)
                    self._settled.append(target)
                for sha256 in covers:
                    if not self._store.files.has_artwork(sha256):
                        self._store.files.save_artwork(sha256, (folder / sha256).read_bytes())
                        self._settled.append(self._store.files.artwork(sha256))
                return self._rows(manifest, names, words, history)
            except BaseException:
                for left in self._settled:
                    if left.is_dir():
                        shutil.rmtree(left, ignore_errors=True)
                    else:
                        left.unlink(missing_ok=True)
                raise

    # --- what is told ---

    def _manifest(self) -> Manifest:
        try:
            return said_of_itself(self._file, MANIFEST, Manifest, VERSION, "pack")
        except KeyError:
            raise BadInput(f"That is no packed episode. {NOTHING}") from None

    def _new_names(self, takes: list[PackedTake]) -> dict[str, str]:
        """Recordings keep their names where these are free here."""
        names: dict[str, str] = {}
        for take in takes:
            if take.id in names:
                raise BadInput(f"The pack holds one recording twice. {NOTHING}")
            free = not self._store.files.take(take.id).exists()
            names[take.id] = take.id if free else uuid4().hex
        return names

    # --- files ---

    def _copied(self, path: str, target: Path) -> None:
        def tell(count: int) -> None:
            self._done += count
            self._progress(0.9 * self._done / self._total, "Opening the episode")

        copy_out(self._file, self._told(path), target, tell)

    def _told(self, path: str) -> PackedFile:
        if path not in self._files:
            raise BadInput(f"“{path}” is missing from the pack. {NOTHING}")
        return self._files[path]

    def _small(self, path: str, scratch: Path) -> bytes:
        if self._told(path).bytes > _MOST_JSON_BYTES:
            raise BadInput(f"“{path}” in the pack is too long. {NOTHING}")
        self._copied(path, scratch)
        data = scratch.read_bytes()
        scratch.unlink()
        return data

    def _take(self, take: PackedTake, folder: Path) -> str | None:
        """The files of a recording, and its words."""
        folder.mkdir()
        self._copied(take_path(take.id, "sound"), folder / "sound")
        if not looks_whole(folder / "sound", take.frames, take.channels):
            raise BadInput(f"The sound of “{take.name}” in the pack is damaged. {NOTHING}")
        make_peaks(folder / "sound", folder / "peaks")
        try:
            if (tone := take_path(take.id, "room-tone.json")) in self._files:
                data = self._small(tone, folder / "tone")
                _TONE.validate_json(data)
                (folder / "room-tone.json").write_bytes(data)
            if (path := take_path(take.id, "words.json")) in self._files:
                words = _WORDS.validate_json(self._small(path, folder / "words"))
                if any(not 0 <= w.start <= w.end <= MOST_FRAMES for w in words):
                    raise ValueError
                return _WORDS.dump_json(words).decode()
        except ValueError as error:
            raise BadInput(
                f"What the pack says of “{take.name}” cannot be read. {NOTHING}"
            ) from error
        return None

    def _covers(self, folder: Path) -> list[str]:
        found = []
        for path in self._files:
            if path.startswith("artwork/"):
                sha256 = path.removeprefix("artwork/")
                data = self._small(path, folder / "cover")
                if hashlib.sha256(data).hexdigest() != sha256:
                    raise BadInput(f"A cover in the pack is damaged. {NOTHING}")
                picture_type(data)
                (folder / sha256).write_bytes(data)
                found.append(sha256)
        return found

    # --- history ---

    def _edits(self, names: dict[str, str]) -> Iterator[PackedEdit]:
        told = self._told(HISTORY)
        digest = hashlib.sha256()
        count = 0
        with self._file.open(HISTORY) as lines:
            while line := lines.readline(MOST_LINE_BYTES + 1):
                count += 1
                if len(line) > MOST_LINE_BYTES or count > MOST_EDITS:
                    raise BadInput(f"The history in the pack is too long. {NOTHING}")
                digest.update(line)
                try:
                    edit = PackedEdit.model_validate_json(line)
                except (ValidationError, RecursionError) as error:
                    raise BadInput(f"The history in the pack cannot be read. {NOTHING}") from error
                yield edit.model_copy(update={"edit": renamed(edit.edit, names)})
        if digest.hexdigest() != told.sha256:
            raise BadInput(f"The history in the pack is damaged. {NOTHING}")

    def _rows(
        self,
        manifest: Manifest,
        names: dict[str, str],
        words: dict[str, str | None],
        history: "_History",
    ) -> Unpacked:
        with writing(self._store.engine) as session:
            episode = self._episode(session, manifest)
            for take in manifest.takes:
                row = TakeRow(**take.model_dump(), episode_id=episode.id or 0)
                row.id, row.words = names[take.id], words[take.id]
                session.add(row)
            session.flush()
            ids: dict[int | None, int | None] = {None: None}
            for number, parent, edit in history.rows:
                edit.episode_id, edit.parent_id = episode.id or 0, ids[parent]
                session.add(edit)
                session.flush()
                ids[number] = edit.id
            episode.head_id, episode.tip_id = ids[manifest.head], ids[manifest.tip]
            copy_to_shelf(episode, history.head)
            session.flush()
            done = episode.id or 0
        return Unpacked(done, manifest.title, len(manifest.takes), len(history.rows))

    def _episode(self, session: Session, manifest: Manifest) -> EpisodeRow:
        if self._into is not None:
            gone = "That episode is not on the shelf."
            episode = row_of(session, EpisodeRow, self._into, gone)
            episode.title = manifest.title
            return episode
        episode = EpisodeRow(show_id=self._show(session, manifest.show), title=manifest.title)
        session.add(episode)
        session.flush()
        return episode

    def _show(self, session: Session, name: str) -> int:
        if self._show_id is not None:
            gone = "That show is not on the shelf."
            return row_of(session, ShowRow, self._show_id, gone).id or 0
        for show, _ in self._store.shows():
            if show.name == name:
                return show.id or 0
        made = ShowRow(name=name)
        session.add(made)
        session.flush()
        return made.id or 0

    def _made_again(self, edits: list[PackedEdit], manifest: Manifest) -> "_History":
        """Every edit made again, each on what it was made on."""
        waiting: dict[int | None, int] = {}
        for edit in edits:
            waiting[edit.parent] = waiting.get(edit.parent, 0) + 1
        states: dict[int | None, tuple[Timeline, int]] = {None: (Timeline(), 0)}
        seen: set[int | None] = {None}
        made = _History()
        for number, edit in enumerate(edits):
            if edit.parent not in states or edit.id in seen:
                raise BadInput(f"The history in the pack does not hold together. {NOTHING}")
            before, depth = states[edit.parent]
            row = EditRow(
                episode_id=0,
                depth=depth + 1,
                name=edit.name,
                edit=json.dumps(edit.edit, ensure_ascii=False, separators=(",", ":")),
                created_at=edit.made_at,
            )
            after = replayed(before, row)
            if len(after.notices) > len(before.notices) and "cannot be read" in after.notices[-1]:
                raise BadInput(f"{after.notices[-1]} Update Air Trim first. {NOTHING}")
            if is_kept(before, after, row.depth):
                row.snapshot = _TIMELINE.dump_json(after).decode()
            made.rows.append((edit.id, edit.parent, row))
            seen.add(edit.id)
            if edit.id == manifest.head:
                made.head = after
            waiting[edit.parent] -= 1
            if not waiting[edit.parent]:
                del states[edit.parent]
            if waiting.get(edit.id):
                states[edit.id] = after, row.depth
            self._progress(0.9 + 0.1 * (number + 1) / len(edits), "Making the edits again")
        if not {manifest.head, manifest.tip} <= seen:
            raise BadInput(f"The episode stands at a change that is not there. {NOTHING}")
        return made


def renamed(value: Any, names: dict[str, str]) -> Any:
    """A value of JSON with recordings called otherwise: where one is named, in the names of what
    is made of it (``tone/<take>/…``), and in the keys of words (``<take>:<number>``)."""
    if isinstance(value, str):
        if value in names:
            return names[value]
        kind, slash, rest = value.partition("/")
        take, more, tail = rest.partition("/")
        if slash and more and kind in ("tone", "clean") and take in names:
            return f"{kind}/{names[take]}/{tail}"
        take, colon, number = value.rpartition(":")
        if colon and number.isdigit() and take in names:
            return f"{names[take]}:{number}"
        return value
    if isinstance(value, list):
        return [renamed(one, names) for one in value]
    if isinstance(value, dict):
        return {renamed(key, names): renamed(one, names) for key, one in value.items()}
    return value
