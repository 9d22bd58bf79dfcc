"""The sound of tracks: what they measure, what would help, curves to draw, and kept chains."""

from dataclasses import replace

import numpy as np
from fastapi import APIRouter

from airtrim.api.fields import Id, Revision
from airtrim.api.models.episode import RevisionRequest
from airtrim.api.models.sound import (
    ChainView,
    CurvesRequest,
    CurvesView,
    NewChain,
    ReductionRequest,
    ReductionView,
    SoundView,
)
from airtrim.api.models.work import JobView, job_view
from airtrim.api.state import Context
from airtrim.core.loudness.riding import phrases
from airtrim.core.media import FRAME_RATE
from airtrim.core.render.solo import material, reduction_history, spoken_spans
from airtrim.core.sound.choosing import chosen
from airtrim.core.sound.compressor import curve_db
from airtrim.core.sound.filters import linear_rows, response_db
from airtrim.core.sound.spectra import GRAPH_HZ
from airtrim.core.sound.study import study
from airtrim.core.sound.suggesting import first_compressor, noise_heard, suggestions
from airtrim.core.timeline.arranging import with_track
from airtrim.errors import BadInput
from airtrim.jobs.kinds.cleaning import CLEAN, CleanParams
from airtrim.services.cleaning import noise_on

router = APIRouter(prefix="/api", tags=["sound"])

_SAMPLE_FRAMES = 8 * FRAME_RATE
_CURVE_HZ = np.geomspace(20.0, 20_000.0, 481)
_LEVELS_DB = np.arange(-60.0, 0.5, 1.0)


@router.get("/episodes/{episode_id}/sound")
def sound(context: Context, episode_id: Id, track: str, revision: Revision) -> SoundView:
    """What a track measures, and the least that would help."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    one = timeline.track(track)
    if one.kind == "music":
        raise BadInput("Music is not judged here: what is said of a voice would not fit it.")
    words = store.words(timeline)
    speech, pauses = material(timeline, store.reader, words, track)
    spoken = phrases(spoken_spans(timeline, words, track))
    # Not the first words: a voice settles after them.
    begin = spoken[min(2, len(spoken) - 1)][0] if spoken else 0
    sample = min(_SAMPLE_FRAMES, timeline.frames)
    found = study(speech, pauses)
    heard = noise_on(store, one)
    found = replace(found, noise=heard)
    choice = chosen(heard) if heard and noise_heard(found) else None
    return SoundView(
        revision=revision,
        track=track,
        cleaned=not store.cleaned.missing(timeline),
        hertz=_rounded(GRAPH_HZ, 1),
        voice_db=list(found.voice_db),
        room_db=list(found.room_db),
        voice_dbfs=found.voice_dbfs,
        room_dbfs=found.room_dbfs,
        peaks_dbfs=found.peaks_dbfs,
        crest_db=found.crest_db,
        hum_hz=found.hum.hz if found.hum else None,
        whistles=found.whistles,
        notes=list(found.notes),
        noise_method=choice.method if choice else "steady",
        noise_reason=choice.reason if choice else None,
        suggestions=suggestions(found, one.chain),
        first_compressor=first_compressor(found.peaks_dbfs),
        sample_start=max(0, min(begin - FRAME_RATE // 2, timeline.frames - sample)),
        sample_frames=sample,
    )


@router.post("/sound/curves")
def curves(request: CurvesRequest) -> CurvesView:
    """What a chain does, to be drawn."""
    chain = request.chain
    # The middles of notches too, which a grid would step over.
    lines = [chain.hum.hz * n for n in range(1, chain.hum.highest + 1)] if chain.hum.on else []
    lines += [band.hz for band in chain.bands if band.on]
    hertz = np.unique(np.concatenate([_CURVE_HZ, lines]))
    static = curve_db(chain.compressor, _LEVELS_DB) + chain.compressor.make_up_db
    return CurvesView(
        hertz=_rounded(hertz, 1),
        eq_db=_rounded(response_db(linear_rows(chain), hertz)),
        level_db=_rounded(_LEVELS_DB),
        static_db=_rounded(static),
    )


def _rounded(values: np.ndarray, decimals: int = 2) -> list[float]:
    return [round(float(value), decimals) for value in values]


@router.post("/episodes/{episode_id}/sound/reduction")
def reduction(context: Context, episode_id: Id, request: ReductionRequest) -> ReductionView:
    """What a compressor does to a span of a track."""
    store = context.store
    timeline = store.timeline(episode_id, request.revision)
    with_chain = with_track(timeline, replace(timeline.track(request.track), chain=request.chain))
    history = reduction_history(
        with_chain, store.reader, request.track, request.start, request.frames
    )
    return ReductionView(
        level_dbfs=[level for level, _ in history], taken_db=[taken for _, taken in history]
    )


@router.post("/episodes/{episode_id}/clean", status_code=202)
def clean(context: Context, episode_id: Id, request: RevisionRequest) -> JobView | None:
    """Make what noise reduction needs, in the background; nothing where all is there."""
    store = context.store
    timeline = store.timeline(episode_id, request.revision)
    if not store.cleaned.missing(timeline):
        return None
    params = CleanParams(revision=request.revision)
    return job_view(context.start_once(CLEAN, episode_id, params))


@router.get("/chains")
def chains(context: Context) -> list[ChainView]:
    """All that were kept."""
    return [ChainView(id=n, name=name, chain=chain) for n, name, chain in context.store.chains()]


@router.post("/chains", status_code=201)
def keep(context: Context, request: NewChain) -> ChainView:
    """Keep a chain under a name; one of that name is replaced."""
    number = context.store.keep_chain(request.name.strip(), request.chain)
    return ChainView(id=number, name=request.name.strip(), chain=request.chain)


@router.delete("/chains/{chain_id}", status_code=204)
def remove(context: Context, chain_id: Id) -> None:
    """Take one away; it can be brought back."""
    context.store.remove_chain(chain_id)


@router.post("/chains/{chain_id}/back", status_code=204)
def bring_back(context: Context, chain_id: Id) -> None:
    """Bring one back that was taken away."""
    context.store.remove_chain(chain_id, back=True)
