"""The host's token, exchanged once for a session that a cookie holds.

A session is the time it was begun, signed with a key made from the token: it outlives a restart,
and ends with the token, or after thirty days.
"""

import hashlib
import hmac
import time
from secrets import compare_digest, token_hex

from starlette.responses import Response

LEAST_TOKEN = 16
"""Characters that a token has at least."""
_LASTS_S = 30 * 24 * 3600


class Sessions:
    """Sessions under one token."""

    COOKIE = "airtrim-session"

    def __init__(self, token: str) -> None:
        self._token = token.encode()
        self._key = hashlib.sha256(b"airtrim session" + self._token).digest()

    def is_token(self, given: str) -> bool:
        """Whether this is the token."""
        return bool(self._token) and compare_digest(given.encode(), self._token)

    def begin(self) -> str:
        """A new session."""
        begun = f"{int(time.time())}.{token_hex(8)}"
        return f"{begun}.{self._sign(begun)}"

    def holds(self, session: str) -> bool:
        """Whether this is a session of ours that has not ended."""
        begun, _, signature = session.rpartition(".")
        if not begun or not compare_digest(signature.encode(), self._sign(begun).encode()):
            return False
        age = time.time() - int(begun.partition(".")[0])
        return age + 60 >= 0 and age < _LASTS_S

    def _sign(self, text: str) -> str:
        return hmac.new(self._key, text.encode(), hashlib.sha256).hexdigest()

    def set_on(self, response: Response, *, secure: bool) -> None:
        """Send a new session with an answer; ``secure`` where the connection is encrypted."""
        response.set_cookie(
            self.COOKIE,
            self.begin(),
            max_age=_LASTS_S,
            httponly=True,
            samesite="strict",
            secure=secure,
        )
