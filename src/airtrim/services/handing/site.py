"""A show's own feed and pages, in a folder that a web server serves."""

import json
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from airtrim.core.release.site import Item, Site, language_of, write_site
from airtrim.core.release.webpages import put_all
from airtrim.errors import BadInput
from airtrim.services.handing.addresses import checked_url
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
from airtrim.services.handing.folder import Folder, lay_down

_STATE = ".airtrim-site.json"
"""What is public and what is a draft, beside what everybody sees; web servers leave out names that
begin with a point."""


_BROKEN = f"“{_STATE}” in that folder is damaged. Put back a copy, or choose another folder."


class _Site(Door):
    def __init__(self, folder: Path, address: Address) -> None:
        self._folder, self._address = folder, address

    def send(self, file: File, told: Told) -> Arrived:
        name = _plain(file.guid)
        ending = file.path.suffix
        sound = f"{file.sha256[:12]}{ending}"
        there = self._folder / name
        try:
            there.mkdir(exist_ok=True)
            lay_down(file, there / sound, told)
            extras = {}
            for extra, data in file.extras.items():
                own = f"{file.sha256[:12]}-{extra}"
                (there / own).write_bytes(data)
                extras[extra] = own
            state = self._read()
            state["drafts"][name] = {
                **file.about,
                "guid": file.guid,
                "folder": name,
                "file": sound,
                "title": file.title,
                "description": file.description,
                "bytes": file.size,
                "media_type": file.media_type,
                "transcript": extras.get("transcript.vtt", ""),
                "chapters": extras.get("chapters.json", ""),
            }
            if file.cover is not None:
                (there / ".cover").write_bytes(file.cover)
            self._write(state)
        except OSError as error:
            raise Interrupted("The folder cannot be written to, or has no room.") from error
        return Arrived(f"{name}/{sound}")

    def read_back(self, file: File, arrived: Arrived) -> Iterator[bytes]:
        try:
            with (self._folder / arrived.remote).open("rb") as there:
                while piece := there.read(PIECE_BYTES):
                    yield piece
        except OSError as error:
            raise Interrupted("What was written there cannot be read.") from error

    def publish(self, arrived: Arrived) -> Arrived:
        name = arrived.remote.split("/")[0]
        state = self._read()
        draft = state["drafts"].pop(name, None)
        if draft is not None:
            before = state["public"].get(name, {})
            # An episode keeps its day when it is replaced.
            at = before.get("published_at") or datetime.now(UTC).replace(microsecond=0).isoformat()
            state["public"][name] = {**draft, "published_at": at}
        elif name not in state["public"]:
            raise HandOverError(
                "The draft is not in the folder any more. Hand it over again.", place="over"
            )
        try:
            items = [Item.model_validate(one) for one in state["public"].values()]
        except ValidationError as error:
            raise HandOverError(_BROKEN) from error
        cover = self._folder / name / ".cover"
        try:
            with suppress(FileNotFoundError):
                state["cover"] = name if cover.exists() else state.get("cover")
            kept = self._folder / str(state.get("cover") or name) / ".cover"
            data = kept.read_bytes() if kept.exists() else None
            write_site(
                self._folder, self._site(state), items, cover=data, beside={_STATE: _json(state)}
            )
            self._sweep(state, name)
        except OSError as error:
            raise Interrupted("The folder cannot be written to, or has no room.") from error
        return Arrived(arrived.remote, f"{self._address.base}{name}/", live=True)

    def _site(self, state: dict[str, Any]) -> Site:
        newest = max(state["public"].values(), key=lambda one: str(one["published_at"]))
        told = self._address
        return Site(
            title=str(newest.get("show") or "Podcast"),
            base=told.base,
            description=told.about,
            author=str(newest.get("author") or ""),
            email=told.email,
            category=told.category,
            language=language_of(str(newest.get("language") or "")),
            explicit=any(one.get("explicit") for one in state["public"].values()),
        )

    def _sweep(self, state: dict[str, Any], name: str) -> None:
        """Remove what an older file of the episode left behind."""
        told = state["public"][name]
        used = {told["file"], told["transcript"], told["chapters"], "index.html", ".cover"}
        for path in (self._folder / name).iterdir():
            if path.name not in used:
                with suppress(OSError):  # the episode is public by now
                    path.unlink()

    def _read(self) -> dict[str, Any]:
        try:
            found: dict[str, Any] = json.loads((self._folder / _STATE).read_text())
        except FileNotFoundError:
            return {"public": {}, "drafts": {}}
        except ValueError as error:
            raise HandOverError(_BROKEN) from error
        if not all(isinstance(found.get(part), dict) for part in ("public", "drafts")):
            raise HandOverError(_BROKEN)
        return found

    def _write(self, state: dict[str, Any]) -> None:
        put_all(self._folder, {_STATE: _json(state)})


class SiteFolder(Way):
    """Nothing is listed before it is published; then feed and pages are written anew, as far as
    they change."""

    name = "site"
    title = "Feed and pages in a folder"
    drafts = True
    needs_secret = False

    def check(self, address: Address, allowed: Allowed) -> None:
        Folder().check(address, allowed)
        if not address.base.endswith("/"):
            raise BadInput("Write the address under which the folder is served, ending in /.")
        if not address.base.startswith("http://localhost"):
            checked_url(address.base, ("https", "http"), allowed)

    @contextmanager
    def open(self, address: Address, secret: str) -> Iterator[Door]:
        folder = Path(address.url)
        if not folder.is_dir():
            raise HandOverError(f"The folder “{address.url[:120]}” is not there any more.")
        yield _Site(folder, address)


def _json(state: dict[str, Any]) -> bytes:
    return json.dumps(state, indent=1, sort_keys=True).encode()


def _plain(guid: str) -> str:
    return "".join(c if c.isalnum() else "-" for c in guid)[:100]
