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
    if any(ord(character) < 32 for character in url):
        raise BadInput("An address contains no line breaks or control characters.")
    if parts.username or parts.password:
        raise BadInput("Leave user and password out of the address; they have fields of their own.")
    origin = f"{parts.scheme}://{parts.hostname}" + (f":{port}" if port else "")
    if origin in allowed.origins:
        return
    if parts.scheme == "http":
        raise BadInput("Use https://: over http:// anybody on the way can read the token.")
    if "%" in parts.hostname or inside(parts.hostname):  # a scope is of this machine's network
        raise BadInput(_INSIDE.format(host=parts.hostname))


def inside(host: str) -> bool:
    """Whether a name leads to an address that is not on the open network. One that cannot be looked
    up is not known to, and fails when it is used."""
    try:
        found = {str(info[4][0]) for info in socket.getaddrinfo(host, None)}
    except (OSError, UnicodeError):
        return host.rstrip(".").lower() == "localhost"
    return any(_is_inside(address) for address in found)


_NAT64 = ipaddress.IPv6Network("64:ff9b::/96")


def _is_inside(address: str) -> bool:
    """Whether an address, or the IPv4 address that it carries, is not a public one.

    Sources: RFC 6052 (NAT64), RFC 3056 (6to4), RFC 4380 (Teredo), RFC 4291 (mapped, link-local).

    >>> _is_inside("64:ff9b::7f00:1"), _is_inside("2002:7f00:1::"), _is_inside("9.9.9.9")
    (True, True, False)
    """
    address, _, scope = address.partition("%")
    found = ipaddress.ip_address(address)
    if scope or found.is_multicast or not found.is_global:
        return True
    if isinstance(found, ipaddress.IPv4Address):
        return False
    carried = [found.ipv4_mapped, found.sixtofour, *(found.teredo or ())]
    if found in _NAT64:
        carried.append(ipaddress.IPv4Address(int(found) & 0xFFFFFFFF))
    return any(one is not None and not one.is_global for one in carried)
