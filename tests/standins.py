"""The stand-in host on a port of its own, for tests."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import httpx
import uvicorn

from airtrim.standins.host import Host, create_host
from tests.waiting import eventually

TOKEN = "a token of the test"


@dataclass
class StandIn:
    """Where it is, and what it holds."""

    url: str
    host: Host

    def faults(self, **told: object) -> None:
        """Have it misbehave."""
        httpx.post(f"{self.url}/faults", json=told).raise_for_status()


@contextmanager
def standin(folder: Path, **tls: str) -> Iterator[StandIn]:
    """Started, and stopped at the end; over TLS with ``ssl_keyfile`` and ``ssl_certfile``."""
    made = create_host(folder, TOKEN)
    config = uvicorn.Config(made, host="127.0.0.1", port=0, log_level="critical", **tls)
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    eventually(lambda: server.started)
    port = server.servers[0].sockets[0].getsockname()[1]
    try:
        yield StandIn(f"http{'s' if tls else ''}://127.0.0.1:{port}", made.state.host)
    finally:
        server.should_exit = True
        thread.join(10)
