"""A host that takes drafts over HTTP. The protocol is described in ``docs/host.md``."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import httpx

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

_TIMEOUT_S = 30.0
_SENT_AT_ONCE = 4 * 1024 * 1024


class _Host(Door):
    def __init__(self, client: httpx.Client) -> None:
        self._client = client

    def send(self, file: File, told: Told) -> Arrived:
        about = {
            "guid": file.guid,
            "name": file.name,
            "title": file.title,
            "description": file.description,
            "bytes": file.size,
            "sha256": file.sha256,
            "media_type": file.media_type,
        }
        draft = self._asked("POST", "/api/drafts", json=about).json()
        address = f"/api/drafts/{draft['id']}"
        done = int(draft["offset"])
        told(done)
        while done < file.size:
            piece = b"".join(_at_most(file.pieces(done), _SENT_AT_ONCE))
            answer = self._asked(
                "PATCH", address, content=piece, headers={"Upload-Offset": str(done)}
            )
            done = int(answer.headers["Upload-Offset"])
            told(done)
        return _arrived(draft["id"], self._asked("GET", address).json())

    def read_back(self, file: File, arrived: Arrived) -> Iterator[bytes]:
        try:
            with self._client.stream("GET", f"/api/drafts/{arrived.remote}/file") as answer:
                _check(answer)
                yield from answer.iter_bytes(PIECE_BYTES)
        except httpx.HTTPError as error:
            raise _broken(error) from error

    def publish(self, arrived: Arrived) -> Arrived:
        answer = self._asked("POST", f"/api/drafts/{arrived.remote}/publish")
        return _arrived(arrived.remote, answer.json())

    def _asked(self, method: str, path: str, **more: Any) -> httpx.Response:
        try:
            answer = self._client.request(method, path, **more)
        except httpx.HTTPError as error:
            raise _broken(error) from error
        _check(answer)
        return answer


def _arrived(draft: str, told: dict[str, Any]) -> Arrived:
    return Arrived(str(draft), str(told.get("page", "")), told.get("state") == "published")


def _at_most(pieces: Iterator[bytes], count: int) -> Iterator[bytes]:
    for piece in pieces:
        yield piece
        count -= len(piece)
        if count <= 0:
            return


def _broken(error: httpx.HTTPError) -> Interrupted | HandOverError:
    if "CERTIFICATE" in str(error).upper():
        return HandOverError("The host's certificate is not one this machine trusts.")
    return Interrupted("The host does not answer, or broke off.")


def _check(answer: httpx.Response) -> None:
    """Raises where it was refused: for good, or so that it can be tried again."""
    if answer.is_success:
        return
    if answer.status_code in (401, 403):
        raise HandOverError("The host does not know that token. Enter it again.", place="over")
    if answer.status_code == 507:
        raise HandOverError("The host has no room left.")
    if answer.status_code == 413:
        raise HandOverError("The file is larger than the host takes.")
    if answer.status_code in (408, 409, 425, 429) or answer.status_code >= 500:
        raise Interrupted(f"The host could not take it just now ({answer.status_code}).")
    raise HandOverError(f"The host refused it ({answer.status_code}).")


class HttpHost(Way):
    """Drafts, which nobody sees before they are published."""

    name = "host"
    title = "Host over HTTP"
    drafts = True

    def check(self, address: Address, allowed: Allowed) -> None:
        checked_url(address.url, ("https", "http"), allowed)

    @contextmanager
    def open(self, address: Address, secret: str) -> Iterator[Door]:
        headers = {"Authorization": f"Bearer {secret}"}
        # No redirects: the token is for this host and no other.
        with httpx.Client(
            base_url=address.url.rstrip("/"),
            headers=headers,
            timeout=_TIMEOUT_S,
            follow_redirects=False,
        ) as client:
            yield _Host(client)
