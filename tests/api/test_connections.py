"""Connections whose request does not come, and ones whose request comes all at once."""

import socket
import time
from collections.abc import Iterator

import pytest

from airtrim.api import connections
from tests.serving import ForkedServer


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[ForkedServer]:
    server = ForkedServer(tmp_path_factory.mktemp("connections") / "data")
    yield server
    server.stop()


def sent(server: ForkedServer, data: bytes, most_s: float = 30.0) -> bytes:
    """What comes back, until the connection is closed."""
    with socket.create_connection(("127.0.0.1", server.port)) as connection:
        connection.settimeout(most_s)
        answer = b""
        try:
            connection.sendall(data)
            while more := connection.recv(65536):
                answer += more
        except ConnectionError:
            pass
        return answer


def head(server: ForkedServer, line: str, *headers: str) -> bytes:
    lines = (line, f"Host: 127.0.0.1:{server.port}", "Connection: close", *headers)
    return ("\r\n".join(lines) + "\r\n\r\n").encode()


def test_a_large_body_that_comes_with_its_headers_is_taken(server: ForkedServer) -> None:
    """Both in one piece, as a quick browser on a busy machine sends them."""
    body = b" " * 1_500_000 + b'{"name": "Show"}'
    request = head(
        server,
        "POST /api/shows HTTP/1.1",
        "Content-Type: application/json",
        f"Content-Length: {len(body)}",
    )
    for _ in range(5):
        assert sent(server, request + body).startswith(b"HTTP/1.1 201")


def test_headers_without_end_are_cut_off(server: ForkedServer) -> None:
    request = head(server, "GET /api/shows HTTP/1.1")[:-2]
    endless = b"X-More: " + b"x" * 8000 + b"\r\n"
    assert not sent(server, request + endless * 40).startswith(b"HTTP/1.1 200")


def test_half_a_request_is_waited_for_some_seconds_only(server: ForkedServer) -> None:
    begun = time.monotonic()
    assert sent(server, b"GET /api/shows HT", connections.HEADERS_WITHIN_S + 15) == b""
    assert time.monotonic() - begun >= connections.HEADERS_WITHIN_S - 1
    assert server.client.get("/api/shows").status_code == 200


def test_a_connection_is_used_for_many_requests(server: ForkedServer) -> None:
    with socket.create_connection(("127.0.0.1", server.port)) as connection:
        connection.settimeout(20)
        request = f"GET /api/clock HTTP/1.1\r\nHost: 127.0.0.1:{server.port}\r\n\r\n".encode()
        for _ in range(20):
            connection.sendall(request)
            answer = b""
            while not answer.endswith(b"}"):
                answer += connection.recv(65536)
            assert answer.startswith(b"HTTP/1.1 200")
