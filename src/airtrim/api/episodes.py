"""An episode's document: reading it, editing it, going back and forth."""

from fastapi import APIRouter

from airtrim.api.models import (
    EditRequest,
    EpisodeView,
    HistoryItem,
    LoudnessView,
    MarkerView,
    RevisionRequest,
    SectionView,
    TakeView,
    TrackView,
)
from airtrim.api.state import Context, State
from airtrim.core.render.graph import Mix
from airtrim.core.timeline.edits import Cut, Edit
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.snap import snapped_cut

router = APIRouter(prefix="/api/episodes/{episode_id}", tags=["episode"])


def episode_view(state: State, episode_id: int) -> EpisodeView:
    """An episode as it stands now."""
    opened = state.store.opened(episode_id)
    episode, show, timeline = opened.episode, opened.show, opened.timeline
    return EpisodeView(
        id=episode_id,
        title=episode.title,
        show_id=show.id or 0,
        show=show.name,
        revision=episode.head_id or 0,
        frames=timeline.frames,
        trimmed=timeline.trimmed,
        cuts=len(timeline.cuts),
        tracks=[TrackView(id=t.id, name=t.name, kind=t.kind) for t in timeline.tracks],
        sections=_sections(timeline),
        markers=[MarkerView(id=m.id, at=m.at, kind=m.kind, name=m.name) for m in timeline.markers],
        loudness=LoudnessView(
            layout=timeline.loudness.layout,
            target_lufs=timeline.loudness.target_lufs,
            target=timeline.loudness.target,
            usual_target=timeline.loudness.usual_target,
            ceiling_dbtp=timeline.loudness.ceiling_dbtp,
            gain_db=timeline.loudness.gain_db,
        ),
        tags=timeline.tags,
        artwork=timeline.artwork,
        takes=[
            TakeView(
                id=take.id,
                name=take.name,
                frames=take.frames,
                channels=take.channels,
                notice=take.notice,
                heard=take.heard,
            )
            for take in opened.takes
        ],
        undo=opened.undo,
        redo=opened.redo,
    )


def _sections(timeline: Timeline) -> list[SectionView]:
    ends = [*(s.at for s in timeline.sections[1:]), timeline.frames]
    return [
        SectionView(id=s.id, at=s.at, frames=max(0, end - s.at), name=s.name, gain_db=s.gain_db)
        for s, end in zip(timeline.sections, ends, strict=True)
    ]


@router.get("")
def episode(context: Context, episode_id: int) -> EpisodeView:
    """The episode as it stands."""
    return episode_view(context, episode_id)


@router.post("/edits")
def edit(context: Context, episode_id: int, request: EditRequest) -> EpisodeView:
    """Make an edit. 409 when the episode has moved on since ``revision``."""
    store = context.store
    wanted: Edit = request.edit
    if request.snap and isinstance(wanted, Cut):
        timeline = store.timeline(episode_id, request.revision)
        read = Mix(timeline, store.reader).read
        wanted = snapped_cut(wanted, timeline.frames, read)
    store.edit(episode_id, request.revision, wanted)
    return episode_view(context, episode_id)


@router.post("/undo")
def undo(context: Context, episode_id: int, request: RevisionRequest) -> EpisodeView:
    """Step back."""
    context.store.undo(episode_id, request.revision)
    return episode_view(context, episode_id)


@router.post("/redo")
def redo(context: Context, episode_id: int, request: RevisionRequest) -> EpisodeView:
    """Step forward."""
    context.store.redo(episode_id, request.revision)
    return episode_view(context, episode_id)


@router.get("/history")
def history(context: Context, episode_id: int) -> list[HistoryItem]:
    """The named edits, first to last."""
    return [
        HistoryItem(revision=entry.revision, name=entry.name, done=entry.done)
        for entry in context.store.history(episode_id)
    ]
