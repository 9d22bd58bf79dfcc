"""Stand-ins for what is outside: a host to try releasing on."""

import json
import os
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Annotated

import typer

from airtrim.cli.base import app, errors, fail

HOST_PORT, FTP_PORT = 8766, 8721
HOST_TOKEN = "a-token-for-the-stand-in"  # of a host on this machine, to try things on
FTP_USER = FTP_PASSWORD = "ferry"


@app.command()
def standin_host(
    port: Annotated[int, typer.Option(help="Port of this machine.")] = HOST_PORT,
    ftp_port: Annotated[int, typer.Option(help="Port of its FTP door.")] = FTP_PORT,
    folder: Annotated[Path, typer.Option(help="What it holds.")] = Path(".demo-host"),
) -> None:
    """Start a small podcast host on this machine, to try releasing on."""
    with running_host(folder, port, ftp_port) as opened:
        if not opened:
            fail(f"Port {port} or {ftp_port} is in use. Choose others by --port and --ftp-port.")
        with suppress(KeyboardInterrupt):
            threading.Event().wait()


@contextmanager
def running_host(folder: Path, port: int = HOST_PORT, ftp_port: int = FTP_PORT) -> Iterator[bool]:
    """The stand-in host while something else is done; False where its ports are in use."""
    import uvicorn

    from airtrim.standins.host import create_host, ftp_door

    made = create_host(folder, HOST_TOKEN)
    server = uvicorn.Server(
        uvicorn.Config(made, host="127.0.0.1", port=port, log_level="critical", lifespan="off")
    )
    try:
        _, close = ftp_door(folder / "live", ftp_port, FTP_USER, FTP_PASSWORD)
    except OSError:
        yield False
        return
    thread = threading.Thread(target=_run, args=(server,), daemon=True)
    thread.start()
    while thread.is_alive() and not server.started:
        thread.join(0.05)
    if server.started:
        errors.print(f"The stand-in host is at http://127.0.0.1:{port}; its token: {HOST_TOKEN}")
        errors.print(f"Its FTP door: ftp://127.0.0.1:{ftp_port}; user and password: {FTP_USER}")
    try:
        yield server.started
    finally:
        server.should_exit = True
        thread.join(10)
        close()


def _run(server: object) -> None:
    with suppress(SystemExit):  # its port is in use
        server.run()  # type: ignore[attr-defined]


def known_to_demo(data: Path) -> None:
    """Let Air Trim hand over to the stand-in, and keep it as destinations of the demo's show."""
    from airtrim.services.handing.base import Address, Allowed
    from airtrim.services.handing.over import keep_destination
    from airtrim.store.store import Store

    web, ftp = f"http://127.0.0.1:{HOST_PORT}", f"ftp://127.0.0.1:{FTP_PORT}"
    os.environ.setdefault("AIRTRIM_ALLOWED_HOSTS", json.dumps([web, ftp]))
    store = Store(data)
    try:
        shows = [show for show, _ in store.shows()]
        if not shows or store.destinations(shows[0].id or 0):
            return
        allowed = Allowed((web, ftp), data)
        for name, way, address, secret in (
            ("Stand-in host", "host", Address(url=web), HOST_TOKEN),
            ("Stand-in, by FTP", "ftp", Address(url=ftp, user=FTP_USER), FTP_PASSWORD),
        ):
            keep_destination(
                store, allowed, shows[0].id or 0, name=name, way=way, address=address, secret=secret
            )
    finally:
        store.close()
