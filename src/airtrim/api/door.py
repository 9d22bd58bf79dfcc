"""Who is let in: this machine, or whoever has the token; guests by the token in their link."""

from secrets import compare_digest
from urllib.parse import urlsplit

from fastapi.responses import JSONResponse
from starlette.datastructures import MutableHeaders
from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from airtrim.settings import Settings

_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; "
    "script-src 'self'; connect-src 'self'; font-src 'self'; object-src 'none'; "
    "base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)
_HEADERS = {
    "Content-Security-Policy": _POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
}
_LOOPBACK = {"127.0.0.1", "localhost", "::1"}
_GUESTS = ("/api/join/", "/api/clock", "/api/standins/")
"""What a guest may ask for without the host's token: their own link says who they are."""


class Door:
    """Middleware that turns away what is not let in, and adds the headers of safety."""

    def __init__(self, app: ASGIApp, settings: Settings) -> None:
        self.app = app
        self.settings = settings

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in, or answer it here."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        problem = refusal(HTTPConnection(scope), self.settings)
        if problem:
            await JSONResponse({"sentence": problem}, status_code=403)(scope, receive, send)
            return

        async def sent(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).update(_HEADERS)
            await send(message)

        await self.app(scope, receive, sent)


def refusal(request: HTTPConnection, settings: Settings) -> str | None:
    """Why a request is not let in: a foreign Host or Origin, or no token where one is asked."""
    host = urlsplit(f"//{request.headers.get('host', '')}").hostname or ""
    if not settings.token and host not in _LOOPBACK | {settings.host, "testserver"}:
        return "Air Trim answers on this machine only."
    origin = request.headers.get("origin")
    if origin and urlsplit(origin).netloc != request.headers.get("host"):
        return "This request came from another site and was not carried out."
    if settings.token:
        given = request.headers.get("authorization", "").removeprefix("Bearer ")
        given = given or request.cookies.get("airtrim", "")
        known = compare_digest(given.encode(), settings.token.encode())
        path = request.url.path
        if not known and path.startswith("/api/") and not path.startswith(_GUESTS):
            return "This Air Trim asks for a token."
    return None
