"""What an edit is: a frozen value that knows what it does to a document, and what it is called."""

from abc import ABC, abstractmethod
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any, ClassVar, Self

from airtrim.core.timeline.edits.fields import Part
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.sources import Sources

KINDS: "dict[str, type[EditBase]]" = {}
"""Every kind of edit there is, by its name. A class is registered when it is defined."""


class EditBase(Part, ABC):
    """A change of the document.

    A kind of edit is a class with a ``kind``, its fields, ``apply`` and ``describe``; and, where it
    takes sound or may leave something open, ``needs`` and ``complete``.
    """

    if TYPE_CHECKING:
        kind: str

    has_span: ClassVar[bool] = False
    """Whether ``start`` and ``frames`` are a span of the episode."""
    point_fields: ClassVar[tuple[str, ...]] = ()
    """Names of fields that hold a frame of the episode, or None."""

    @classmethod
    def __pydantic_init_subclass__(cls, **more: Any) -> None:
        super().__pydantic_init_subclass__(**more)
        if "kind" in cls.model_fields:
            KINDS[cls.model_fields["kind"].default] = cls

    @abstractmethod
    def apply(self, timeline: Timeline) -> Timeline:
        """The document after it. Raises BadInput, with a sentence, where it does not fit."""

    @abstractmethod
    def describe(self, timeline: Timeline) -> str:
        """Its name in the history, of the document it is applied to."""

    def relocated(self, frames: FrameMap) -> Self:
        """Return the same edit for the current document.

        The host made it on an earlier document. A kind with frames in other fields, or with a whole
        list or value, overrides this. Raises Unmappable where what the edit refers to has changed.
        """
        update: dict[str, Any] = {}
        given = self.__dict__
        if self.has_span:
            start, length = frames.span(given["start"], given["frames"])
            update |= {"start": start, "frames": length}
        named = [name for name in self.point_fields if given[name] is not None]
        update |= dict(zip(named, frames.points([given[n] for n in named]), strict=True))
        return self.model_copy(update=update)

    def needs(self) -> Iterable[tuple[str, int]]:
        """The takes it brings in, and up to which frame."""
        return ()

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        """The same with nothing left open. A browser says what the host meant; here it becomes
        which room tone, what was copied and, with ``snap``, edges that will not be heard."""
        return self
