"""The running order of an episode."""

from fastapi import APIRouter

from airtrim.api.fields import Id, Revision
from airtrim.api.models.rundown import RowView, RundownView
from airtrim.api.state import Context
from airtrim.core.timeline.rundown import Row, lying_aside, running_order

router = APIRouter(prefix="/api", tags=["rundown"])


@router.get("/episodes/{episode_id}/rundown")
def rundown(context: Context, episode_id: Id, revision: Revision) -> RundownView:
    """The parts in order, and those that were put aside."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    words = store.words(timeline)
    return RundownView(
        revision=revision,
        rows=[_row(row) for row in running_order(timeline, words)],
        aside=[_row(row) for row in lying_aside(timeline, words)],
        frames=timeline.frames,
        wanted_frames=timeline.wanted_frames,
    )


def _row(row: Row) -> RowView:
    return RowView(
        id=row.id,
        name=row.name,
        at=row.at,
        frames=row.frames,
        in_words=row.in_words,
        out_words=row.out_words,
        who=list(row.who),
        music=list(row.music),
    )
