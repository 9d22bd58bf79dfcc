"""Who is let in: this machine, or whoever has the token; guests by the token in their link."""

from typing import Literal
from urllib.parse import urlsplit

from starlette.datastructures import MutableHeaders
from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from airtrim.api.answers import sentence
from airtrim.api.calls import CLOSED_LINK
from airtrim.api.sessions import Sessions
from airtrim.api.strangers import Strangers
from airtrim.settings import Settings

_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; "
    "style-src 'self' 'unsafe-inline'; script-src 'self'; connect-src 'self'; "
    "font-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; "
    "form-action 'self'"
)
_HEADERS = {
    "Content-Security-Policy": _POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}
_HTTPS_ONLY = "max-age=31536000"
"""RFC 6797; a year. Only sent over TLS, where it has a meaning."""
_LOOPBACK = {"127.0.0.1", "localhost", "::1"}
_GUESTS = ("/api/join/", "/api/clock", "/api/standins/")
"""What a guest may ask for without the host's token: their own link says who they are."""


class Door:
    """Middleware that turns away what is not let in, and adds the headers of safety to whatever is
    answered."""

    def __init__(self, app: ASGIApp, settings: Settings, strangers: Strangers) -> None:
        self.app = app
        self._settings = settings
        self._sessions = Sessions(settings.token)
        self._strangers = strangers

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in, or answer it here."""
        if scope["type"] == "websocket":
            await self._socket(scope, receive, send)
            return
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        request = HTTPConnection(scope)
        path = request.url.path
        address = scope["client"][0] if scope.get("client") else ""

        async def sent(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers.update(_HEADERS)
                if scope.get("scheme") == "https":
                    headers["Strict-Transport-Security"] = _HTTPS_ONLY
                if message["status"] in (404, 410) and path.startswith("/api/join/"):
                    self._strangers.failed(address)
            await send(message)

        guest = path.startswith(_GUESTS)
        if guest and self._strangers.shut_out(address):
            wait = sentence("Too many links that lead nowhere were tried. Wait a minute.", 429)
            await wait(scope, receive, sent)
            return
        problem = self._refusal(request, address)
        if problem:
            await sentence(problem, 403)(scope, receive, sent)
            return
        await self.app(scope, receive, sent)

    async def _socket(self, scope: Scope, receive: Receive, send: Send) -> None:
        """A guest's socket: wrong links count like those of requests."""
        address = scope["client"][0] if scope.get("client") else ""
        guest = str(scope["path"]).startswith("/api/join/")

        async def sent(message: Message) -> None:
            if guest and message.get("code") == CLOSED_LINK:
                self._strangers.failed(address)
            await send(message)

        if guest and self._strangers.shut_out(address):
            # Refused before it is accepted: the browser sees a connection that failed.
            await send({"type": "websocket.close", "code": 1008})
            return
        await self.app(scope, receive, sent)

    def _refusal(self, request: HTTPConnection, address: str) -> str | None:
        problem = refusal(request, self._settings)
        path = request.url.path
        if problem or not self._settings.token or not path.startswith("/api/"):
            return problem
        if path.startswith(_GUESTS):
            return None
        known = known_by(request, self._sessions, self._strangers, address)
        return None if known == "yes" else _NOT_KNOWN[known]


Known = Literal["yes", "no", "wrong", "shut out"]
_NOT_KNOWN = {
    "no": "This Air Trim asks for a token.",
    "wrong": "That is not the token of this Air Trim.",
    "shut out": "Too many wrong tokens came from here. Wait a minute.",
}


def known_by(
    request: HTTPConnection, sessions: Sessions, strangers: Strangers, address: str
) -> Known:
    """Whether a request comes from somebody with the token, or a session it was exchanged for."""
    if sessions.holds(request.cookies.get(Sessions.COOKIE, "")):
        return "yes"
    given = request.headers.get("authorization", "").removeprefix("Bearer ")
    if not given:
        return "no"
    if strangers.shut_out(address):
        return "shut out"
    if sessions.is_token(given):
        return "yes"
    strangers.failed(address)
    return "wrong"


def refusal(request: HTTPConnection, settings: Settings) -> str | None:
    """Why a request is not let in, whoever sends it: a foreign or broken Host, or another site."""
    address = request.headers.get("host", "")
    try:
        host = urlsplit(f"//{address}").hostname or ""
        origin = request.headers.get("origin")
        foreign = origin is not None and urlsplit(origin).netloc != address
    except ValueError:
        return "This request does not say rightly where it is sent."
    if not settings.token and host not in _LOOPBACK | {settings.host}:
        return "Air Trim answers on this machine only."
    # Browsers tell which site a request comes from; another one may neither ask nor play.
    site = request.headers.get("sec-fetch-site", "none")
    if request.url.path.startswith("/api/") and site not in ("same-origin", "none"):
        foreign = True
    return "This request came from another site and was not carried out." if foreign else None


def may_call(connection: HTTPConnection, settings: Settings, *, guest: bool) -> str | None:
    """The same for the socket of a call; a guest's link has been looked at already."""
    problem = refusal(connection, settings)
    if problem or guest or not settings.token:
        return problem
    if Sessions(settings.token).holds(connection.cookies.get(Sessions.COOKIE, "")):
        return None
    return _NOT_KNOWN["no"]
