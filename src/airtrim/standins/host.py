"""A small podcast host to try releasing on: drafts over HTTP, a folder that is live at once over
FTP, a public page and a feed. Its protocol is described in ``docs/host.md``.

It can be told to misbehave: ``POST /faults``.
"""

import asyncio
import hashlib
import json
import threading
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any

from fastapi import Depends, FastAPI, Header, HTTPException, Request, Response
from fastapi.responses import FileResponse, HTMLResponse
from feedgen.feed import FeedGenerator
from jinja2 import Environment
from pydantic import BaseModel, Field
from pyftpdlib.authorizers import DummyAuthorizer
from pyftpdlib.handlers import FTPHandler
from pyftpdlib.servers import FTPServer

from airtrim.core.release.xmltext import xml_text

_PAGE = Environment(autoescape=True).from_string("""<!doctype html>
<html lang="en"><meta charset="utf-8"><title>{{ title }}</title>
<meta name="viewport" content="width=device-width">
<style>
body { font: 17px/1.5 Georgia, serif; max-width: 42rem; margin: 3rem auto; padding: 0 1rem;
  background: #f7f4ed; color: #1d2526 }
@media (prefers-color-scheme: dark) { body { background: #14191a; color: #e9e5db } }
article { border-top: 1px solid #8886; padding: 1rem 0 } audio { width: 100% }
.draft { font: 700 13px sans-serif; color: #a33 } a { color: inherit }
</style>
<h1>{{ title }}</h1>
{% for one in items %}
<article id="{{ one.guid }}">
  <h2>{{ one.title }}</h2>
  {% if one.state != "published" %}<p class="draft">Draft: nobody else sees this</p>{% endif %}
  <p>{{ one.description }}</p>
  <audio controls preload="none" src="{{ one.media }}"></audio>
</article>
{% else %}<p>Nothing is public yet.</p>{% endfor %}
<p><a href="/feed.xml">Feed</a></p>
</html>
""")


class NewDraft(BaseModel):
    """What a draft says of itself. ``guid`` names the episode for good."""

    guid: str = Field(min_length=1, max_length=200)
    name: str = Field(min_length=1, max_length=300)
    title: str = Field(max_length=500)
    description: str = Field(default="", max_length=100_000)
    bytes: int = Field(gt=0, le=8_000_000_000)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    media_type: str = Field(max_length=100)


class Faults(BaseModel):
    """How it misbehaves: waits before each answer, answers with a status instead, keeps only so
    many bytes of each piece and then breaks off (``breaks`` times), or loses one byte."""

    slow_s: float = Field(default=0.0, ge=0, le=60)
    refuse: int | None = Field(default=None, ge=400, le=599)
    break_after_bytes: int | None = Field(default=None, ge=0)
    breaks: int = Field(default=0, ge=0)
    lose_byte: bool = False


class Host:
    """Drafts and what is public, in a folder."""

    def __init__(self, folder: Path, token: str) -> None:
        self.folder, self.token = folder, token
        self.faults = Faults()
        self.live = folder / "live"
        for one in (folder / "drafts", self.live):
            one.mkdir(parents=True, exist_ok=True)

    def add(self, draft: NewDraft) -> dict[str, Any]:
        """A draft; the same one again where it is there already."""
        name = hashlib.sha256(f"{draft.guid} {draft.sha256}".encode()).hexdigest()[:20]
        about = self._about(name)
        if not about.exists():
            about.parent.mkdir(exist_ok=True)
            told = {**draft.model_dump(), "id": name, "state": "draft", "at": _now()}
            about.write_text(json.dumps(told))
            self.file(name).touch()
        return self.told(name)

    def told(self, name: str) -> dict[str, Any]:
        """What a draft is, and how much of it is there. Raises 404."""
        about = self._about(name)
        if not name.isalnum() or not about.exists():
            raise HTTPException(404, "There is no such draft.")
        found: dict[str, Any] = json.loads(about.read_text())
        page = "/" if found["state"] == "published" else f"/drafts/{name}"
        return {**found, "offset": self.file(name).stat().st_size, "page": page}

    def file(self, name: str) -> Path:
        """Where its bytes are."""
        return self._about(name).with_name("file")

    def publish(self, name: str) -> dict[str, Any]:
        """Make a draft public, in place of an older file of its episode. Raises 409 where it is
        not whole."""
        told = self.told(name)
        if told["offset"] != told["bytes"]:
            raise HTTPException(409, "Not all of it is here.")
        for other in self.all():
            if other["guid"] == told["guid"] and other["id"] != name:
                self._set(other["id"], state="replaced")
        if told["state"] != "published":
            self._set(name, state="published", published=_now())
        return self.told(name)

    def all(self) -> list[dict[str, Any]]:
        """Every draft and all that is public, newest first."""
        found = [self.told(path.parent.name) for path in self.folder.glob("drafts/*/about.json")]
        return sorted(found, key=lambda one: str(one["at"]), reverse=True)

    def published(self) -> list[dict[str, Any]]:
        """What everybody sees."""
        return [one for one in self.all() if one["state"] == "published"]

    def _set(self, name: str, **values: str) -> None:
        about = self._about(name)
        told = json.loads(about.read_text()) | values
        part = about.with_suffix(".part")
        part.write_text(json.dumps(told))
        part.replace(about)

    def _about(self, name: str) -> Path:
        return self.folder / "drafts" / name / "about.json"


def create_host(folder: Path, token: str) -> FastAPI:
    """The stand-in as an application."""
    host = Host(folder, token)
    app = FastAPI(title="Stand-in host")
    app.state.host = host

    async def allowed(authorization: Annotated[str, Header()] = "") -> None:
        await asyncio.sleep(host.faults.slow_s)
        if host.faults.refuse:
            raise HTTPException(host.faults.refuse, "Not today.")
        if authorization != f"Bearer {token}":
            raise HTTPException(401, "Who are you?")

    guarded = [Depends(allowed)]

    @app.post("/faults")
    def set_faults(faults: Faults) -> Faults:
        host.faults = faults
        return faults

    @app.post("/api/drafts", status_code=201, dependencies=guarded)
    def add(draft: NewDraft) -> dict[str, Any]:
        return host.add(draft)

    @app.get("/api/drafts/{name}", dependencies=guarded)
    def told(name: str) -> dict[str, Any]:
        return host.told(name)

    @app.patch("/api/drafts/{name}", status_code=204, dependencies=guarded)
    async def take(
        name: str, request: Request, upload_offset: Annotated[int, Header()]
    ) -> Response:
        there = host.told(name)
        if upload_offset != there["offset"]:
            raise HTTPException(409, "It goes on elsewhere.")
        data = await request.body()
        faults = host.faults
        broken = faults.break_after_bytes is not None and faults.breaks > 0
        if broken:
            faults.breaks -= 1
            data = data[: faults.break_after_bytes]
        if faults.lose_byte and data:
            data = data[:-1] + bytes([data[-1] ^ 1])
        with host.file(name).open("ab") as file:
            file.write(data[: max(0, there["bytes"] - there["offset"])])
        if broken:
            raise HTTPException(503, "It broke off.")
        offset = str(host.file(name).stat().st_size)
        return Response(status_code=204, headers={"Upload-Offset": offset})

    @app.get("/api/drafts/{name}/file", dependencies=guarded)
    def read_back(name: str) -> FileResponse:
        host.told(name)
        return FileResponse(host.file(name))

    @app.post("/api/drafts/{name}/publish", dependencies=guarded)
    def publish(name: str) -> dict[str, Any]:
        return host.publish(name)

    _add_public(app, host)
    return app


def _add_public(app: FastAPI, host: Host) -> None:
    """What everybody sees."""

    def page(title: str, items: list[dict[str, Any]]) -> str:
        shown = [{**one, "media": f"/media/{one['id']}"} for one in items]
        return _PAGE.render(title=title, items=shown)

    @app.get("/", response_class=HTMLResponse)
    def front() -> str:
        return page("On air", host.published())

    @app.get("/drafts/{name}", response_class=HTMLResponse)
    def draft(name: str) -> str:
        return page("A draft", [host.told(name)])

    @app.get("/media/{name}")
    def media(name: str) -> FileResponse:
        told = host.told(name)
        return FileResponse(host.file(name), media_type=told["media_type"])

    @app.get("/feed.xml")
    def feed(request: Request) -> Response:
        return Response(_feed(host, str(request.base_url)), media_type="application/rss+xml")


def _feed(host: Host, base: str) -> bytes:
    made = FeedGenerator()
    made.title("On air")
    made.link(href=base)
    made.description("What was released on the stand-in host.")
    for one in reversed(host.published()):
        entry = made.add_entry()
        entry.guid(one["guid"])
        entry.title(xml_text(one["title"] or one["name"]))
        entry.description(xml_text(one["description"] or one["title"]))
        entry.enclosure(f"{base}media/{one['id']}", str(one["bytes"]), one["media_type"])
        entry.pubDate(one["published"])
    found: bytes = made.rss_str(pretty=True)
    return found


def ftp_door(folder: Path, port: int, user: str, password: str) -> tuple[int, Callable[[], None]]:
    """Open the FTP door on a port of this machine (0: a free one): its port, and what closes it.
    What arrives there is live at once."""
    authorizer = DummyAuthorizer()
    authorizer.add_user(user, password, str(folder), perm="elradfmw")
    handler = type("Handler", (FTPHandler,), {"authorizer": authorizer, "banner": "Stand-in"})
    server = FTPServer(("127.0.0.1", port), handler)
    thread = threading.Thread(target=server.serve_forever, name="ftp door", daemon=True)
    thread.start()

    def close() -> None:
        server.close_all()
        thread.join(5)

    return int(server.address[1]), close


def _now() -> str:
    return datetime.now(UTC).isoformat()
