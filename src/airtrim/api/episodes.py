"""An episode's document: reading it, editing it, going back and forth."""

from base64 import b64encode
from contextlib import suppress

from fastapi import APIRouter, Query, Response

from airtrim.api.fields import Id, Revision
from airtrim.api.largebodies import LargeBodies
from airtrim.api.models.episode import (
    LONGEST_STRETCH_FRAMES,
    MOST_COLUMNS,
    ChangedView,
    ChangeRequest,
    EditRequest,
    EpisodeView,
    HistoryItem,
    JumpRequest,
    LoudnessView,
    Mark,
    MarkerView,
    Marks,
    MarksView,
    MarkView,
    SectionView,
    Stretch,
    StretchView,
    TakeView,
    TrackView,
)
from airtrim.api.models.words import ScriptView
from airtrim.api.page import page_view, skyline_of
from airtrim.api.state import Context, State
from airtrim.core.timeline.edits.gain import GainPoint
from airtrim.core.timeline.model import Marker, Timeline, Track
from airtrim.errors import StoreFull
from airtrim.jobs.kinds.mending import MEND, MendParams
from airtrim.services.editing import make_edit
from airtrim.services.revisions import moved

router = APIRouter(prefix="/api/episodes/{episode_id}", tags=["episode"], route_class=LargeBodies)


def episode_view(state: State, episode_id: int, revision: int | None = None) -> EpisodeView:
    """An episode as it stands now, or as its document was at a revision."""
    opened = state.store.opened(episode_id)
    episode, show, timeline = opened.episode, opened.show, opened.timeline
    if revision is not None:
        timeline = state.store.timeline(episode_id, revision)
    for take in opened.takes:
        if take.damaged:
            _have_mended(state, episode_id, take.id)
    music = {
        take for track in timeline.tracks if track.kind == "music" for take in track.clips.takes
    }
    return EpisodeView(
        id=episode_id,
        title=episode.title,
        show_id=show.id or 0,
        show=show.name,
        revision=(episode.head_id or 0) if revision is None else revision,
        frames=timeline.frames,
        trimmed=timeline.trimmed,
        cuts=len(timeline.cuts),
        tracks=[_track(t) for t in timeline.tracks],
        sections=_sections(timeline),
        markers=[_marker(m, timeline.frames) for m in timeline.markers],
        speakers=sorted({n for of in timeline.speakers.values() for _, n in of if n}),
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
                transcribed=take.transcribed,
                music=take.id in music,
                missing=take.missing,
                damaged=take.damaged,
                reworded=take.reworded,
                language=take.language,
                recogniser=take.recogniser,
            )
            for take in opened.takes
        ],
        undo=opened.undo,
        redo=opened.redo,
        before=opened.before,
        notices=list(timeline.notices),
        content=state.store.content_key(timeline),
    )


def _have_mended(state: State, episode_id: int, take_id: str) -> None:
    """Have a damaged recording made anew from its original, once for every time it is damaged."""
    sound = state.store.files.take(take_id) / "sound"
    with suppress(OSError, StoreFull):
        job_id = f"mend-{take_id[:40]}-{sound.stat().st_mtime_ns}"
        state.start(MEND, episode_id, MendParams(take=take_id), job_id)


def _marker(marker: Marker, end: int) -> MarkerView:
    at = min(marker.at, end)
    return MarkerView(
        id=marker.id,
        at=at,
        kind=marker.kind,
        name=marker.name,
        link=marker.link,
        artwork=marker.artwork,
    )


def _track(track: Track) -> TrackView:
    return TrackView(
        id=track.id,
        name=track.name,
        kind=track.kind,
        gain_db=track.gain_db,
        muted=track.muted,
        soloed=track.soloed,
        colour=track.colour,
        frames=track.frames,
        envelope=[
            # What the document holds has been held to the bounds already; telling it never fails.
            GainPoint.model_construct(at=p.at, db=p.db, shape=p.shape)
            for p in track.envelope
        ],
        chain=track.chain,
        held=track.held,
    )


def _sections(timeline: Timeline) -> list[SectionView]:
    return [
        SectionView(id=s.id, at=s.at, frames=max(0, end - s.at), name=s.name, gain_db=s.gain_db)
        for s, end in timeline.parts
    ]


@router.get("")
def episode(
    context: Context,
    episode_id: Id,
    revision: Revision | None = None,
) -> EpisodeView:
    """The episode as it stands, or as its document was at ``revision``."""
    return episode_view(context, episode_id, revision)


@router.get("/opening", response_model=ChangedView)
def opening(
    context: Context,
    episode_id: Id,
    frames: int = Query(gt=0, le=LONGEST_STRETCH_FRAMES),
    columns: int = Query(gt=0, le=MOST_COLUMNS),
) -> Response:
    """The episode as it stands with the first stretch of its Page, all that is drawn at first."""
    first = Stretch(start=0, frames=frames, columns=columns)
    return changed(context, episode_id, ChangeRequest(revision=0, shown=[first]))


def changed(context: State, episode_id: int, request: ChangeRequest) -> Response:
    """The answer to a change: the episode after it, and what of it the browser shows."""
    view = episode_view(context, episode_id)
    stretches = []
    for shown in request.shown:
        place = context.store, episode_id, view.revision, shown.start, shown.frames
        sky = skyline_of(*place, shown.columns)
        stretches.append(
            StretchView(
                page=page_view(*place), columns=shown.columns, skyline=b64encode(sky).decode()
            )
        )
    marks = _marks(context, episode_id, view.revision, request.marks)
    answer = ChangedView.model_construct(**dict(view), stretches=stretches, marks=marks)
    return Response(answer.model_dump_json(), media_type="application/json")


def _marks(
    context: State, episode_id: int, revision: int, marks: list[Mark]
) -> list[MarkView | None]:
    found = moved(
        context.store,
        episode_id,
        revision,
        [(mark.revision, mark.start, mark.frames) for mark in marks],
    )
    return [None if one is None else MarkView(start=one[0], frames=one[1]) for one in found]


@router.post("/marks")
def map_marks(context: Context, episode_id: Id, request: Marks) -> MarksView:
    """Where selection and playhead of an earlier revision are in the current document."""
    episode, _ = context.store.episode(episode_id)
    revision = episode.head_id or 0
    marks = _marks(context, episode_id, revision, request.marks)
    return MarksView(revision=revision, marks=marks)


@router.post("/edits", response_model=ChangedView)
def edit(context: Context, episode_id: Id, request: EditRequest) -> Response:
    """Make an edit on the current document. 409 when what it refers to has changed since
    ``revision``."""
    make_edit(
        context.store,
        episode_id,
        request.revision,
        request.edit,
        snap=request.snap,
        own=request.own,
    )
    return changed(context, episode_id, request)


@router.post("/undo", response_model=ChangedView)
def undo(context: Context, episode_id: Id, request: ChangeRequest) -> Response:
    """Step back."""
    context.store.undo(episode_id, request.revision)
    return changed(context, episode_id, request)


@router.post("/redo", response_model=ChangedView)
def redo(context: Context, episode_id: Id, request: ChangeRequest) -> Response:
    """Step forward."""
    context.store.redo(episode_id, request.revision)
    return changed(context, episode_id, request)


@router.post("/jump", response_model=ChangedView)
def jump(context: Context, episode_id: Id, request: JumpRequest) -> Response:
    """Go to any state of the history."""
    context.store.jump(episode_id, request.revision, request.to)
    return changed(context, episode_id, request)


@router.get("/history")
def history(context: Context, episode_id: Id) -> list[HistoryItem]:
    """The named edits, first to last."""
    return [
        HistoryItem(
            revision=entry.revision, name=entry.name, done=entry.done, made_at=entry.made_at
        )
        for entry in context.store.history(episode_id)
    ]


@router.get("/script")
def script(context: Context, episode_id: Id, revision: Revision) -> ScriptView:
    """The script, or the notes."""
    return ScriptView(text=context.store.timeline(episode_id, revision).script)
