"""Edits as values. Each room here holds some kinds; a module that is added is found by itself."""

from typing import TYPE_CHECKING, Annotated, TypeVar, Union

from pydantic import Field

from airtrim.core.modules import import_all
from airtrim.core.timeline.bounds import brought_within, held
from airtrim.core.timeline.edits.base import KINDS, EditBase
from airtrim.core.timeline.holding import laid
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.sources import Sources
from airtrim.errors import BadInput

import_all(__name__, __path__)

if TYPE_CHECKING:
    Edit = EditBase
else:
    Edit = Annotated[Union[tuple(KINDS.values())], Field(discriminator="kind")]  # noqa: UP007


def apply(timeline: Timeline, edit: Edit) -> Timeline:
    """The timeline after ``edit``. Raises BadInput, with a sentence, where it does not fit, or
    where the document would hold more than it may."""
    return held(timeline, laid(timeline, edit.apply(timeline)))


def replay(timeline: Timeline, edit: Edit) -> Timeline:
    """The same for an edit that was stored: values over the bounds of today are clamped and told,
    so that what was accepted once can always be opened."""
    return brought_within(laid(timeline, edit.apply(timeline)))


_Kind = TypeVar("_Kind", bound=EditBase)


def complete(edit: _Kind, sources: Sources, *, snap: bool) -> _Kind:
    """``edit`` with nothing left open (see ``EditBase.complete``). Raises BadInput where it needs
    sound that the episode does not have."""
    if any(sources.take_frames(take) < reach for take, reach in edit.needs()):
        raise BadInput("This episode has no such recording. Nothing was changed.")
    return edit.complete(sources, snap=snap)
