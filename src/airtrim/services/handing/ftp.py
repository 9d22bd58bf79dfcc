"""A folder on a server, by FTP, or FTP over TLS."""

import ftplib
import ssl
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from urllib.parse import unquote, urlsplit

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
_NO_ROOM = ("452", "552")


class _Ftp(Door):
    def __init__(self, ftp: ftplib.FTP) -> None:
        self._ftp = ftp

    def send(self, file: File, told: Told) -> Arrived:
        part = file.part
        try:
            done = self._size(part)
            if done > file.size:
                done = 0
            with self._ftp.transfercmd(f"STOR {part}", rest=done or None) as connection:
                file.copy(connection.sendall, told, done)
            self._ftp.voidresp()
            if self._size(part) != file.size:
                raise Interrupted("Not all of it arrived.")
            with suppress(ftplib.error_perm):  # there was none of that name
                self._ftp.delete(file.name)
            self._ftp.rename(part, file.name)
        except ftplib.all_errors as error:
            raise _told(error) from error
        return Arrived(file.name, live=True)

    def read_back(self, file: File, arrived: Arrived) -> Iterator[bytes]:
        try:
            with self._ftp.transfercmd(f"RETR {arrived.remote}") as connection:
                while piece := connection.recv(PIECE_BYTES):
                    yield piece
            self._ftp.voidresp()
        except ftplib.all_errors as error:
            raise _told(error) from error

    def _size(self, name: str) -> int:
        try:
            return self._ftp.size(name) or 0
        except ftplib.error_perm:
            return 0


def _told(error: Exception) -> Interrupted | HandOverError:
    words = str(error)
    if words.startswith("530"):
        return HandOverError("The server does not know that user and password.")
    if words.startswith(_NO_ROOM):
        return HandOverError("The server has no room left.")
    if isinstance(error, ssl.SSLCertVerificationError):
        return HandOverError("The server's certificate is not one this machine trusts.")
    if isinstance(error, ftplib.error_perm):
        return HandOverError(f"The server refused it ({words[:3]}).")
    return Interrupted("The server does not answer, or broke off.")


class Ftp(Way):
    """What arrives is under its name at once: there are no drafts."""

    name = "ftp"
    title = "Folder by FTP"

    def check(self, address: Address, allowed: Allowed) -> None:
        checked_url(address.url, ("ftp", "ftps"), allowed)

    @contextmanager
    def open(self, address: Address, secret: str) -> Iterator[Door]:
        parts = urlsplit(address.url)
        safe = parts.scheme == "ftps"
        ftp = ftplib.FTP_TLS(context=ssl.create_default_context()) if safe else ftplib.FTP()
        try:
            ftp.connect(parts.hostname or "", parts.port or 21, timeout=_TIMEOUT_S)
            ftp.login(address.user, secret)
            if isinstance(ftp, ftplib.FTP_TLS):
                ftp.prot_p()
            ftp.voidcmd("TYPE I")
            if folder := unquote(parts.path).strip("/"):
                ftp.cwd(folder)
        except ftplib.all_errors as error:
            ftp.close()
            raise _told(error) from error
        except ValueError as error:  # ftplib refuses to send a line break within a command
            ftp.close()
            raise HandOverError(
                "User, password or folder contains a line break. Nothing was sent."
            ) from error
        try:
            yield _Ftp(ftp)
        finally:
            with suppress(*ftplib.all_errors):
                ftp.quit()
            ftp.close()
