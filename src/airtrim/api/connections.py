"""Connections whose request does not come: bounded in time and in bytes."""

import asyncio
from typing import Any

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEADERS_WITHIN_S = 15.0
MOST_HEADER_BYTES = 65_536
MOST_CONNECTIONS = 400


class BoundedHttp(HttpToolsProtocol):
    """uvicorn's own protocol; a request's headers have to come within seconds, and fit."""

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Begin to wait for the first request."""
        super().connection_made(transport)
        self._waiting: asyncio.TimerHandle | None = None
        self._header_bytes = 0
        self._expect_headers()

    def data_received(self, data: bytes) -> None:
        """Take what comes; too much of it without a whole request ends the connection."""
        if self._waiting is None and (self.cycle is None or self.cycle.response_complete):
            self._expect_headers()
        if self._waiting is not None:
            self._header_bytes += len(data)
        super().data_received(data)
        # Looked at afterwards: what comes at once may be headers and much of a body.
        if self._waiting is not None and self._header_bytes > MOST_HEADER_BYTES:
            self.transport.close()

    def on_headers_complete(self) -> None:
        """The request is here."""
        self._arrived()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        """Nothing is waited for any more."""
        self._arrived()
        super().connection_lost(exc)

    def _expect_headers(self) -> None:
        self._header_bytes = 0
        self._waiting = self.loop.call_later(HEADERS_WITHIN_S, self._close)

    def _arrived(self, *_: Any) -> None:
        if self._waiting is not None:
            self._waiting.cancel()
            self._waiting = None

    def _close(self) -> None:
        self._waiting = None
        if self.transport is not None and not self.transport.is_closing():
            self.transport.close()
