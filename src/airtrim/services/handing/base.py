"""What a way of handing over is: how bytes get there, and how they are read back."""

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator, Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, ClassVar

from pydantic import BaseModel, Field

from airtrim.errors import AirTrimError, BadInput

PIECE_BYTES = 256 * 1024

WAYS: "dict[str, Way]" = {}
"""Every way there is, by its name. One is registered when its class is defined."""


class HandOverError(AirTrimError):
    """The other side refused for good: trying again as it is would not help."""

    status = 502


class Interrupted(AirTrimError):
    """The other side could not be reached, or broke off: it can be gone on with."""

    status = 503


class Address(BaseModel):
    """Where a destination is. ``url``: ``https://…`` of a host, ``ftp://``, ``ftps://`` or
    ``sftp://`` with a path, or the path of a folder; ``user`` for those that ask for one,
    ``fingerprint`` of a server's key. Of a feed: ``base`` is where its folder is served, ``about``
    what the show is, with the owner's ``email`` and its ``category``."""

    url: str = Field(min_length=1, max_length=2000)
    user: str = Field(default="", max_length=200)
    fingerprint: str = Field(default="", max_length=200)
    base: str = Field(default="", max_length=2000)
    about: str = Field(default="", max_length=4000)
    email: str = Field(default="", max_length=200)
    category: str = Field(default="", max_length=100)


@dataclass(frozen=True, slots=True)
class File:
    """A file to hand over: what it is, what it is called there, and what it says of itself.
    ``guid`` names the episode for good; a file of the same one takes the older one's place. A feed
    needs more: ``about`` by the names of ``release.site.Item``, small files beside it (``extras``,
    by their names), and the ``cover``."""

    path: Path
    name: str
    sha256: str
    media_type: str
    guid: str
    title: str
    description: str = ""
    about: Mapping[str, Any] = field(default_factory=dict)
    extras: Mapping[str, bytes] = field(default_factory=dict)
    cover: bytes | None = None

    @property
    def size(self) -> int:
        """How many bytes it has."""
        return self.path.stat().st_size

    @property
    def part(self) -> str:
        """What it is called there until all of it has arrived."""
        return f".{self.sha256[:16]}-{self.name}.part"

    def copy(self, write: Callable[[bytes], object], told: "Told", start: int = 0) -> None:
        """Give its bytes from a place on to ``write``, telling how far it is."""
        done = start
        for piece in self.pieces(start):
            write(piece)
            done += len(piece)
            told(done)

    def pieces(self, start: int) -> Iterator[bytes]:
        """Its bytes from a place on, in pieces."""
        with self.path.open("rb") as file:
            file.seek(start)
            while piece := file.read(PIECE_BYTES):
                yield piece


@dataclass(frozen=True, slots=True)
class Arrived:
    """What stands there now: its name on the other side, a page to look at it, and whether
    everybody can get it already."""

    remote: str
    page: str = ""
    live: bool = False


Told = Callable[[int], None]
"""Called with how many bytes have arrived."""


class Door(ABC):
    """An open connection to a destination."""

    @abstractmethod
    def send(self, file: File, told: Told) -> Arrived:
        """Bring a file there, going on where an earlier attempt broke off. Doing so twice is the
        same as once. Raises Interrupted where it can be gone on with, HandOverError where not."""

    @abstractmethod
    def read_back(self, file: File, arrived: Arrived) -> Iterator[bytes]:
        """The bytes that arrived, in pieces."""

    def publish(self, arrived: Arrived) -> Arrived:
        """Make a draft public. Doing so twice is the same as once."""
        raise BadInput("What is handed over there is public as soon as it has arrived.")


class Way(ABC):
    """A way of handing over. ``name`` stands in rows, ``title`` on the screen; ``drafts``: what is
    handed over is not public until that is asked for; ``needs_secret``: a token or a password."""

    name: ClassVar[str]
    title: ClassVar[str]
    drafts: ClassVar[bool] = False
    needs_secret: ClassVar[bool] = True

    def __init_subclass__(cls) -> None:
        WAYS[cls.name] = cls()

    @abstractmethod
    def check(self, address: Address, allowed: "Allowed") -> None:
        """Raises BadInput, with a sentence, for an address that is none of this way, or is not
        allowed."""

    @abstractmethod
    def open(self, address: Address, secret: str) -> AbstractContextManager[Door]:
        """A connection. Raises Interrupted or HandOverError."""


@dataclass(frozen=True, slots=True)
class Allowed:
    """What an address may be that points into this machine: origins by settings, and the folder of
    data, into which nothing is ever handed over."""

    origins: tuple[str, ...]
    data_dir: Path


def way_named(name: str) -> Way:
    """Raises BadInput."""
    if name not in WAYS:
        raise BadInput("There is no such way of handing over.")
    return WAYS[name]
