"""A folder on a server, by SFTP."""

import base64
import hashlib
import io
import stat
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from urllib.parse import unquote, urlsplit

import paramiko

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

_TIMEOUT_S = 30.0
_PRIVATE_KEY = "-----BEGIN"
"""A secret that begins like this is a private key, any other a password."""
_KINDS = (paramiko.Ed25519Key, paramiko.ECDSAKey, paramiko.RSAKey)
_ERRORS = (paramiko.SSHException, OSError, EOFError)


class _Sftp(Door):
    def __init__(self, sftp: paramiko.SFTPClient) -> None:
        self._sftp = sftp

    def send(self, file: File, told: Told) -> Arrived:
        part = file.part
        try:
            done = self._size(part)
            if done > file.size:
                done = 0
            with self._sftp.open(part, "ab" if done else "wb") as there:
                there.set_pipelined(True)
                file.copy(there.write, told, done)
            if self._size(part) != file.size:
                raise Interrupted("Not all of it arrived.")
            self._sftp.posix_rename(part, file.name)
        except _ERRORS as error:
            raise _told(error) from error
        return Arrived(file.name, live=True)

    def read_back(self, file: File, arrived: Arrived) -> Iterator[bytes]:
        try:
            with self._sftp.open(arrived.remote, "rb") as there:
                there.prefetch(file.size)
                while piece := there.read(PIECE_BYTES):
                    yield piece
        except _ERRORS as error:
            raise _told(error) from error

    def _size(self, name: str) -> int:
        try:
            found = self._sftp.stat(name)
        except FileNotFoundError:
            return 0
        if not stat.S_ISREG(found.st_mode or 0):
            raise HandOverError(f"“{name}” there is no file.")
        return found.st_size or 0


def _told(error: Exception) -> Interrupted | HandOverError:
    if isinstance(error, paramiko.AuthenticationException):
        return HandOverError("The server does not know that user and password.")
    if isinstance(error, PermissionError):
        return HandOverError("The server does not let that user write there.")
    if isinstance(error, FileNotFoundError):
        return HandOverError("There is no such folder on the server.")
    return Interrupted("The server does not answer, or broke off.")


def _key_of(text: str) -> paramiko.PKey:
    """A private key as it is pasted. Raises HandOverError."""
    for kind in _KINDS:
        with suppress(paramiko.SSHException, ValueError):
            return kind.from_private_key(io.StringIO(text.strip() + "\n"))
    raise HandOverError("That private key cannot be read. One with a passphrase cannot be used.")


def fingerprint_of(key: paramiko.PKey) -> str:
    """As OpenSSH shows it: SHA-256 in base64 without its padding."""
    digest = hashlib.sha256(key.asbytes()).digest()
    return "SHA256:" + base64.b64encode(digest).decode().rstrip("=")


class Sftp(Way):
    """What arrives is under its name at once. The server is known by the fingerprint of its key,
    which the host enters: without it anybody could stand in for it."""

    name = "sftp"
    title = "Folder by SFTP"

    def check(self, address: Address, allowed: Allowed) -> None:
        checked_url(address.url, ("sftp",), allowed)
        if not address.fingerprint.startswith("SHA256:"):
            raise BadInput(
                "Enter the fingerprint of the server's key; it begins with SHA256: and your "
                "provider tells it."
            )

    @contextmanager
    def open(self, address: Address, secret: str) -> Iterator[Door]:
        parts = urlsplit(address.url)
        transport = None
        try:
            transport = paramiko.Transport((parts.hostname or "", parts.port or 22))
            transport.banner_timeout = transport.auth_timeout = _TIMEOUT_S
            transport.start_client(timeout=_TIMEOUT_S)
            if fingerprint_of(transport.get_remote_server_key()) != address.fingerprint.strip():
                raise HandOverError(
                    "The server is not the one it was: its key has another fingerprint. "
                    "Ask your provider before you enter the new one."
                )
            if secret.lstrip().startswith(_PRIVATE_KEY):
                transport.auth_publickey(address.user, _key_of(secret))
            else:
                transport.auth_password(address.user, secret)
            sftp = paramiko.SFTPClient.from_transport(transport)
            if sftp is None:
                raise Interrupted("The server does not answer, or broke off.")
            if folder := unquote(parts.path):
                sftp.chdir(folder)
        except _ERRORS as error:
            if transport is not None:
                transport.close()
            raise _told(error) from error
        except BaseException:
            if transport is not None:
                transport.close()
            raise
        try:
            yield _Sftp(sftp)
        finally:
            with suppress(*_ERRORS):
                sftp.close()
            transport.close()
