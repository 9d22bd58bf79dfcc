"""One tree of errors. Each carries a plain sentence for the host and one HTTP status."""

from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from pydantic import ValidationError


def first_fault(error: "ValidationError") -> str:
    """What is wrong first with values that were given, and with which of them."""
    first = error.errors()[0]
    return f"{'.'.join(map(str, first['loc']))}: {first['msg']}."


Place = Literal[
    "record",
    "edit",
    "snags",
    "sound",
    "rundown",
    "loudness",
    "label",
    "files",
    "over",
    "space",
]
"""Where on the screen something is put right: a stage, or a step or a panel of one (``over``: where
files are handed over), or what episodes take on the disk."""


class AirTrimError(Exception):
    """Base of all errors a host may see; ``str(error)`` is a sentence to show as it is, ``place``
    where it is put right, if there is one."""

    status = 500
    place: Place | None = None

    def __init__(self, *told: object, place: Place | None = None) -> None:
        super().__init__(*told)
        if place is not None:
            self.place = place


class BadInput(AirTrimError):
    """What was given cannot be used; nothing was changed."""

    status = 422


def empty_episode(so: str) -> BadInput:
    """There is no sound yet for what was asked; ``so`` says what cannot be done.

    >>> str(empty_episode("there is nothing to check"))
    'There is nothing in this episode yet, so there is nothing to check.'
    """
    return BadInput(f"There is nothing in this episode yet, so {so}.", place="record")


class NotFound(AirTrimError):
    """The thing asked for is not there (or was deleted)."""

    status = 404


class Gone(AirTrimError):
    """A link that does not lead here any more."""

    status = 410


def file_gone() -> NotFound:
    """A finished file is not on the disk any more.

    >>> file_gone().place
    'files'
    """
    return NotFound("That file is gone. Make it again.", place="files")


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
    place = "edit"


class Busy(AirTrimError):
    """Something else is at work where this would be."""

    status = 409


class TooLarge(AirTrimError):
    """The upload is over the size or length limit."""

    status = 413


class StoreFull(AirTrimError):
    """The disk has no room; nothing was kept half-written."""

    status = 507
    place = "space"


class EndedWorker(AirTrimError):
    """A stretch of work ended each process that did it."""

    def __init__(self) -> None:
        super().__init__("It ended the process that worked on it, each time; it was set aside.")


class CannotStart(AirTrimError):
    """Air Trim cannot begin to work here; the sentence says what to do."""


class Cancelled(AirTrimError):
    """A job was cancelled by the host."""

    status = 409
