"""Starting the server: every reason why it cannot is a sentence with what to do."""

import errno
import os
import socket
from collections.abc import Callable

import uvicorn

from airtrim.api.app import WEB, create_app, server_options
from airtrim.api.sessions import LEAST_TOKEN
from airtrim.errors import CannotStart
from airtrim.settings import Settings
from airtrim.store.lock import FolderLock

_LOOPBACK = ("127.0.0.1", "localhost", "::1")


def serve(settings: Settings, announce: Callable[[str], None]) -> None:
    """Serve until told to stop; ``announce`` is told the address once it is open.

    Raises CannotStart, or Busy where another server has the folder.
    """
    _check(settings)
    try:
        lock = FolderLock(settings.data_dir)
        app = create_app(settings)
    except OSError as error:
        raise CannotStart(_folder_problem(settings, error)) from error
    with _bound(settings) as listening:
        scheme = "https" if settings.tls_certificate else "http"
        host = f"[{settings.host}]" if ":" in settings.host else settings.host
        address = f"{scheme}://{host}:{listening.getsockname()[1]}"
        config = uvicorn.Config(app, **server_options(settings))
        _Server(config, lambda: announce(address)).run(sockets=[listening])
    lock.release()


class _Server(uvicorn.Server):
    """Tells when it is open."""

    def __init__(self, config: uvicorn.Config, opened: Callable[[], None]) -> None:
        super().__init__(config)
        self._opened = opened

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Open, then tell."""
        await super().startup(sockets)
        if not self.should_exit:
            self._opened()


def _check(settings: Settings) -> None:
    if settings.host not in _LOOPBACK and not settings.token:
        raise CannotStart("On this address Air Trim needs a token: set AIRTRIM_TOKEN.")
    if settings.token and len(settings.token) < LEAST_TOKEN:
        raise CannotStart(
            f"The token in AIRTRIM_TOKEN has to be {LEAST_TOKEN} characters or more. "
            "“python3 -c 'import secrets; print(secrets.token_urlsafe(24))'” makes one."
        )
    if not WEB.exists():
        raise CannotStart("The interface is not built yet. Run “make setup” first.")
    tls = settings.tls_certificate is not None
    for path in (settings.tls_certificate, settings.tls_key):
        if tls and (path is None or not path.is_file()):
            raise CannotStart("For https, name both: AIRTRIM_TLS_CERTIFICATE and AIRTRIM_TLS_KEY.")


def _folder_problem(settings: Settings, error: OSError) -> str:
    folder = settings.data_dir
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return f"The disk of “{folder}” is full. Make room and start again."
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS) or not os.access(folder, os.W_OK):
        return (
            f"“{folder}” cannot be written to. Let this user write there, or name another folder "
            "with --data or AIRTRIM_DATA_DIR."
        )
    return f"“{folder}” cannot be used as the folder of data: {error.strerror}."


def _bound(settings: Settings) -> socket.socket:
    """A socket at the address. Raises CannotStart where it is taken, or none of this machine."""
    family = socket.AF_INET6 if ":" in settings.host else socket.AF_INET
    listening = socket.socket(family, socket.SOCK_STREAM)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((settings.host, settings.port))
    except (OSError, OverflowError) as error:
        listening.close()
        if isinstance(error, OSError) and error.errno == errno.EADDRINUSE:
            raise CannotStart(
                f"Port {settings.port} is in use, perhaps by another Air Trim. End that, or name "
                "another port with --port."
            ) from error
        raise CannotStart(
            f"Nothing can be served at {settings.host}, port {settings.port}: {error}."
        ) from error
    return listening
