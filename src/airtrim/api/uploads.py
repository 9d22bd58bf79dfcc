"""Uploads by the open tus protocol 1.0.0 (https://tus.io): core, creation, termination, expiration,
and checksum with SHA-256."""

import asyncio
import hmac
import time
from base64 import b64decode
from collections.abc import Callable
from email.utils import formatdate
from typing import Any

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from airtrim.api.bodies import SILENT_S
from airtrim.api.state import Context, State
from airtrim.errors import BadInput, ChecksumMismatch, Locked, OutOfPlace, TooLarge
from airtrim.jobs.base import Kind
from airtrim.jobs.kinds.batching import BATCH
from airtrim.jobs.kinds.importing import IMPORT
from airtrim.jobs.kinds.shelving import SHELVE
from airtrim.jobs.kinds.travelling import UNPACK
from airtrim.jobs.queue import Queue
from airtrim.store.store import Store
from airtrim.store.uploads import EXPIRE_S, Part, Upload, Uploads

router = APIRouter(prefix="/api/uploads", include_in_schema=False)

VERSION = "1.0.0"
_WRITE_BYTES = 1 << 20
_PART_BYTES = 32 << 20
"""What comes without a checksum is kept this often, so that little is lost when it breaks off."""
_MOST_METADATA = 8000


@router.options("")
@router.options("/")
@router.options("/{upload_id}")
async def offers(context: Context) -> Response:
    """What is spoken here."""
    return _answer(
        204,
        **{
            "Tus-Version": VERSION,
            "Tus-Extension": "creation,termination,expiration,checksum",
            "Tus-Checksum-Algorithm": "sha256",
            "Tus-Max-Size": str(context.settings.max_upload_bytes),
        },
    )


@router.post("")
@router.post("/")
def create(context: Context, request: Request) -> Response:
    """Begin an upload."""
    _check_version(request)
    size = _whole_number(request, "upload-length")
    if size == 0:
        raise BadInput("That file is empty (0 bytes), so there is nothing to add.")
    metadata = _metadata(request.headers.get("upload-metadata", ""))
    if size > context.settings.max_upload_bytes:
        name = metadata.get("filename", "That file")
        raise TooLarge(f"“{name}” is {size / 1e9:.1f} GB; that is more than Air Trim takes.")
    wanted_work(metadata, "x")
    context.store.episode(int(metadata["episode"]))
    upload_id = _uploads(context).create(size, metadata)
    return _answer(201, **{"Location": f"/api/uploads/{upload_id}", "Upload-Offset": "0"})


@router.head("/{upload_id}")
def how_far(context: Context, upload_id: str, request: Request) -> Response:
    """How much of an upload is safe."""
    _check_version(request)
    uploads = _uploads(context)
    offset = uploads.offset(upload_id)  # first: while it is brought in, it goes
    upload = uploads.get(upload_id)
    if offset == upload.size:  # what was to follow may have failed
        begin_import(context.store, context.queue, upload_id, upload.metadata)
    headers = {
        "Upload-Offset": str(offset),
        "Upload-Length": str(upload.size),
        "Upload-Expires": formatdate(time.time() + EXPIRE_S, usegmt=True),
    }
    return _answer(200, **headers)


@router.patch("/{upload_id}")
async def go_on(context: Context, upload_id: str, request: Request) -> Response:
    """Take more of an upload; answered when it is on disk. With a checksum the whole request counts
    or none of it; without, what came before it broke off does."""
    _check_version(request)
    if request.headers.get("content-type") != "application/offset+octet-stream":
        raise BadInput("A part of an upload is sent as application/offset+octet-stream.")
    told_offset = _whole_number(request, "upload-offset")
    wanted = _checksum(request)
    if upload_id in context.sending:
        raise Locked("This upload is being sent from somewhere else just now. Try again soon.")
    context.sending.add(upload_id)
    try:
        uploads = _uploads(context)
        offset = await run_in_threadpool(uploads.offset, upload_id)
        upload = await run_in_threadpool(uploads.get, upload_id)
        if told_offset != offset:
            raise OutOfPlace("That part does not follow the one before it.", offset)
        reached = await _receive(context, request, upload_id, upload, offset, wanted)
    finally:
        context.sending.discard(upload_id)
    if reached == upload.size:
        await run_in_threadpool(
            begin_import, context.store, context.queue, upload_id, upload.metadata
        )
    return _answer(204, **{"Upload-Offset": str(reached)})


@router.delete("/{upload_id}")
def give_up(context: Context, upload_id: str, request: Request) -> Response:
    """Throw an upload away that is not whole yet."""
    _check_version(request)
    uploads = _uploads(context)
    offset = uploads.offset(upload_id)
    if offset == uploads.get(upload_id).size:
        raise BadInput("All of it has come already, and it is being brought in.")
    if upload_id in context.sending:
        raise Locked("This upload is being sent from somewhere else just now. Try again soon.")
    uploads.remove(upload_id)
    return _answer(204)


async def _receive(
    context: State,
    request: Request,
    upload_id: str,
    upload: Upload,
    offset: int,
    wanted: bytes | None,
) -> int:
    """Take the body onto the end of an upload; returns how far it is then."""
    uploads, files = _uploads(context), context.store.files
    if int(request.headers.get("content-length", "0") or 0) > upload.size - offset:
        raise TooLarge("More was sent than the upload was said to be long.")
    part: Part | None = None
    held = bytearray()

    async def write() -> None:
        nonlocal part
        data = bytes(held)
        held.clear()
        with files.told_when_full():
            await run_in_threadpool(files.need, len(data))
            if part is None:
                part = await run_in_threadpool(uploads.part, upload_id, offset)
            await run_in_threadpool(part.write, data)

    async def keep() -> int:
        nonlocal part, offset
        if part is not None:
            with files.told_when_full():
                offset = await run_in_threadpool(part.keep)
            part = None
        return offset

    try:
        stream = aiter(request.stream())
        while True:
            try:
                async with asyncio.timeout(SILENT_S):
                    data = await anext(stream, b"")
            except (ClientDisconnect, TimeoutError) as error:
                if wanted is None:
                    await write()
                    await keep()
                raise BadInput("The upload broke off. It can go on from there.") from error
            sent = (part.length if part else 0) + len(held) + len(data)
            if offset + sent > upload.size:
                raise TooLarge("More was sent than the upload was said to be long.")
            held += data
            if len(held) >= _WRITE_BYTES or (held and not data):
                await write()
            if not data:
                break
            if wanted is None and part is not None and part.length >= _PART_BYTES:
                await keep()
        if wanted is not None and not hmac.compare_digest(part.sha256 if part else b"", wanted):
            raise ChecksumMismatch("What came is not what was sent. It has to be sent again.")
        return await keep()
    finally:
        if part is not None:
            part.drop()


def _uploads(state: State) -> Uploads:
    return Uploads(state.store.files)


def _answer(status: int, **headers: str) -> Response:
    headers = {"Tus-Resumable": VERSION, "Cache-Control": "no-store", **headers}
    return Response(status_code=status, headers=headers)


def _check_version(request: Request) -> None:
    if request.headers.get("tus-resumable") != VERSION:
        raise BadInput(f"Uploads are sent by tus {VERSION}.")


def _whole_number(request: Request, header: str) -> int:
    value = request.headers.get(header, "")
    if not (value.isascii() and value.isdigit() and len(value) <= 15):
        raise BadInput(f"The upload does not say rightly what its {header} is.")
    return int(value)


def _checksum(request: Request) -> bytes | None:
    header = request.headers.get("upload-checksum")
    if header is None:
        return None
    algorithm, _, value = header.partition(" ")
    try:
        digest = b64decode(value, validate=True)
    except ValueError as error:
        raise BadInput("The upload’s checksum cannot be read.") from error
    if algorithm != "sha256" or len(digest) != 32:
        raise BadInput("The upload’s checksum has to be a SHA-256.")
    return digest


def _metadata(header: str) -> dict[str, str]:
    """Names and values; values are in base 64."""
    if len(header) > _MOST_METADATA:
        raise BadInput("The upload says more of itself than is read here.")
    found: dict[str, str] = {}
    for pair in header.split(","):
        key, _, value = pair.strip().partition(" ")
        try:
            text = b64decode(value, validate=True).decode()
        except ValueError as error:
            raise BadInput("What the upload says of itself cannot be read.") from error
        if key:
            found[key] = "".join(c if c.isprintable() else " " for c in text).strip()
    return found


def wanted_work(metadata: dict[str, str], upload: str) -> tuple[Kind[Any], BaseModel]:
    """What is to be done with an upload by what it says of itself: it goes to the shelf of sounds,
    is opened as an episode, becomes one in a batch, or is brought into its episode."""
    name = (metadata.get("filename") or "Recording")[:200]
    episode = metadata.get("episode", "")
    if not (episode.isascii() and episode.isdigit() and len(episode) <= 15):
        raise BadInput("The upload does not say which episode it is for.")
    kind, names = next((one for key, one in _WORK.items() if metadata.get(key)), _IMPORTED)
    given = {field: metadata[name] for field, name in names.items() if metadata.get(name)}
    try:
        return kind, kind.params.model_validate({"upload": upload, "name": name, **given})
    except ValidationError as error:
        raise BadInput("The upload does not say rightly where it is to go.") from error


Wanted = tuple[Kind[Any], dict[str, str]]
"""A kind of work, and which of its fields are told under which names."""

_IMPORTED: Wanted = (
    IMPORT,
    {
        "track_name": "track",
        "track_kind": "kind",
        "at": "at",
        "insert": "insert",
        "as_part": "part",
    },
)
_WORK: dict[str, Wanted] = {
    "shelf": (SHELVE, {"sound_kind": "shelf"}),
    "pack": (UNPACK, {}),
    "batch": (BATCH, {"batch": "batch", "recipe": "recipe"}),
}
"""By what an upload says of itself; what says nothing of this is brought into its episode."""


def begin_import(store: Store, queue: Queue, upload: str, metadata: dict[str, str]) -> None:
    """Bring a finished upload to where it goes; doing so twice is the same as once."""
    kind, params = wanted_work(metadata, upload)
    job = kind.queued(store, int(metadata["episode"]), params, upload)
    if job.state == "queued":
        queue.wake(job.id)


def finish_uploads(store: Store, queue: Queue, problem: Callable[[str], None]) -> None:
    """Begin the import of uploads that were whole when the server was stopped. One that cannot be
    is told as a ``problem`` and left where it is."""
    for upload_id, upload in Uploads(store.files).whole():
        try:
            begin_import(store, queue, upload_id, upload.metadata)
        except Exception as error:
            problem(f"The upload {upload_id} could not be brought in: {error}")
