"""One tree of errors. Each carries a plain sentence for the host and one HTTP status."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pydantic import ValidationError


def first_fault(error: "ValidationError") -> str:
    """What is wrong first with values that were given, and with which of them."""
    first = error.errors()[0]
    return f"{'.'.join(map(str, first['loc']))}: {first['msg']}."


class AirTrimError(Exception):
    """Base of all errors a host may see; ``str(error)`` is a sentence to show as it is."""

    status = 500


class BadInput(AirTrimError):
    """What was given cannot be used; nothing was changed."""

    status = 422


class NotFound(AirTrimError):
    """The thing asked for is not there (or was deleted)."""

    status = 404


class Gone(AirTrimError):
    """A link that does not lead here any more."""

    status = 410


class Stale(AirTrimError):
    """An edit was made on a document that has moved on since."""

    status = 409

    def __init__(self, sentence: str, revision: int) -> None:
        super().__init__(sentence)
        self.revision = revision


class OutOfPlace(AirTrimError):
    """A piece of a recording that is not the one to come next, ``wanted``; nothing was changed."""

    status = 409

    def __init__(self, sentence: str, wanted: int) -> None:
        super().__init__(sentence)
        self.wanted = wanted


class Locked(AirTrimError):
    """Somebody else is writing just there; it can be tried again."""

    status = 423


class ChecksumMismatch(AirTrimError):
    """What arrived is not what was sent (460 is the tus protocol's own status)."""

    status = 460


class Damaged(AirTrimError):
    """A recording is not on the disk as it was kept."""

    status = 409


class Busy(AirTrimError):
    """Something else is at work where this would be."""

    status = 409


class TooLarge(AirTrimError):
    """The upload is over the size or length limit."""

    status = 413


class StoreFull(AirTrimError):
    """The disk has no room; nothing was kept half-written."""

    status = 507


class EndedWorker(AirTrimError):
    """A stretch of work ended each process that did it."""

    def __init__(self) -> None:
        super().__init__("It ended the process that worked on it, each time; it was set aside.")


class CannotStart(AirTrimError):
    """Air Trim cannot begin to work here; the sentence says what to do."""


class Cancelled(AirTrimError):
    """A job was cancelled by the host."""

    status = 409
