"""The running order of an episode."""

from fastapi import APIRouter

from airtrim.api.fields import Id, Revision
from airtrim.api.models.rundown import PlacedView, RundownView, WaitingView
from airtrim.api.state import Context
from airtrim.core.timeline.parting import Place
from airtrim.core.timeline.setup import matched
from airtrim.services.ordering import proposed_places, rundown_of

router = APIRouter(prefix="/api", tags=["rundown"])


@router.get("/episodes/{episode_id}/rundown")
def rundown(context: Context, episode_id: Id, revision: Revision) -> RundownView:
    """The parts in order, and those that were put aside."""
    found = rundown_of(context.store, episode_id, revision)
    sections = found.timeline.sections if found.timeline.frames else ()
    parts = matched(found.timeline.waiting, sections)
    return RundownView(
        revision=revision,
        rows=found.rows,
        aside=found.aside,
        sounds=tuple(PlacedView.of(found.timeline, one) for one in found.timeline.placed),
        waiting=tuple(
            WaitingView(row=row, part=parts.get(row.id)) for row in found.timeline.waiting
        ),
        frames=found.timeline.frames,
        wanted_frames=found.timeline.wanted_frames,
    )


@router.get("/episodes/{episode_id}/places")
def places(context: Context, episode_id: Id, revision: Revision) -> list[Place]:
    """Where the episode could be parted: long pauses, and changes of speaker."""
    return list(proposed_places(context.store, episode_id, revision))
