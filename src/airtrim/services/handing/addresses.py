"""Which addresses a file may be sent to: none inside this machine or its network, unless settings
say so."""

import ipaddress
import socket
from urllib.parse import urlsplit

from airtrim.errors import BadInput
from airtrim.services.handing.base import Allowed

_INSIDE = (
    "“{host}” is inside this machine or its network. Where that is meant, name it in "
    "AIRTRIM_ALLOWED_HOSTS."
)


def checked_url(url: str, schemes: tuple[str, ...], allowed: Allowed) -> None:
    """Raises BadInput for an address of another scheme, one with a password in it, or one that
    leads inside without being allowed."""
    try:
        parts = urlsplit(url)
        port = parts.port
    except ValueError as error:
        raise BadInput(f"“{url[:80]}” is no address.") from error
    if parts.scheme not in schemes or not parts.hostname:
        wanted = " or ".join(f"{scheme}://" for scheme in schemes)
        raise BadInput(f"The address has to begin with {wanted} and name a host.")
    if parts.username or parts.password:
        raise BadInput("Leave user and password out of the address; they have fields of their own.")
    origin = f"{parts.scheme}://{parts.hostname}" + (f":{port}" if port else "")
    if origin in allowed.origins:
        return
    if parts.scheme == "http":
        raise BadInput("Use https://: over http:// anybody on the way can read the token.")
    if inside(parts.hostname):
        raise BadInput(_INSIDE.format(host=parts.hostname))


def inside(host: str) -> bool:
    """Whether a name leads to an address that is not on the open network. One that cannot be looked
    up is not known to, and fails when it is used."""
    try:
        found = {info[4][0] for info in socket.getaddrinfo(host, None)}
    except (OSError, UnicodeError):
        return False
    return any(not ipaddress.ip_address(str(one).split("%")[0]).is_global for one in found)
