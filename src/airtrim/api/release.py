"""Loudness and release: measuring, evening out, artwork, export, download."""

from bisect import bisect_left
from typing import Annotated, Literal
from urllib.parse import quote

import numpy as np
from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import FileResponse
from starlette.concurrency import run_in_threadpool

from airtrim.api.body import read_body
from airtrim.api.episodes import changed
from airtrim.api.fields import Id, Revision
from airtrim.api.models.episode import ChangedView, ChangeRequest, RevisionRequest
from airtrim.api.models.loudness import LevelsView, OverView, RideRequest, SpeakerView
from airtrim.api.models.release import (
    ArtworkView,
    DescriptionRequest,
    DescriptionView,
    ExportRequest,
    FormatView,
)
from airtrim.api.models.work import JobView, job_view
from airtrim.api.page import FOREVER
from airtrim.api.state import Context, State
from airtrim.core.loudness.levelling import GainCurve, gain_curve, peaks_over, verdict
from airtrim.core.loudness.meter import integrated_loudness
from airtrim.core.loudness.riding import cells_of, phrase_loudness, spread_lu
from airtrim.core.release.artwork import (
    ARTWORK_MOST_BYTES,
    ARTWORK_TOO_LARGE,
    check_artwork,
    fitted_artwork,
    picture_type,
)
from airtrim.core.release.chapters import as_json, as_times, chapters_of
from airtrim.core.release.description import as_html
from airtrim.core.release.formats.base import format_named, offered
from airtrim.core.release.proposing import ProposedChapter, proposed_chapters
from airtrim.core.render.graph import section_ramps
from airtrim.core.render.solo import phrases_by_speaker
from airtrim.core.timeline.edits.sections import SetSections
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.sectioning import found_sections
from airtrim.core.timeline.words import TakeWords, words_on
from airtrim.errors import BadInput, NotFound, empty_episode, file_gone
from airtrim.jobs.kinds.exporting import EXPORT, ExportParams
from airtrim.jobs.kinds.measuring import MEASURE, MeasureParams
from airtrim.jobs.kinds.riding import RIDE, RideParams
from airtrim.jobs.kinds.shelving_exports import SHELVE_EXPORT, ShelveExportParams
from airtrim.services import levelling
from airtrim.services.checking import credits_of
from airtrim.services.exporting import called
from airtrim.services.measuring import energies_of, mix_profile
from airtrim.services.revisions import edit_current
from airtrim.services.travelling import plain_name
from airtrim.store.store import Store
from airtrim.store.tables import UNFINISHED, JobRow

router = APIRouter(prefix="/api", tags=["release"])

FileNumber = Annotated[int, Query(ge=0, le=7)]
"""Which of the files of an export."""
_MOST_OVERS = 200


@router.post("/episodes/{episode_id}/measure", status_code=202)
def measure(context: Context, episode_id: Id, request: RevisionRequest) -> JobView:
    """Measure the episode in the background; ``levels`` tells the result."""
    context.store.timeline(episode_id, request.revision)
    params = MeasureParams(revision=request.revision)
    return job_view(context.start(MEASURE, episode_id, params))


@router.get("/episodes/{episode_id}/levels")
def levels(context: Context, episode_id: Id, revision: Revision) -> LevelsView:
    """Loudness before and after the gains of the document."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    profile = mix_profile(store, timeline)
    if profile is None:
        return LevelsView(revision=revision, measured=False)
    words = store.words(timeline)
    ramps = section_ramps(timeline, words)
    gains = [section.gain_db for section in timeline.sections]
    whole, ceiling = timeline.loudness.gain_db, timeline.loudness.ceiling_dbtp
    found = levelling.foreseen(timeline, words, profile)
    overs = peaks_over(profile, ramps, gains, whole, ceiling)
    spoken = {(word.start, word.end) for word in words_on(timeline, words)} if overs else set()
    places = [at for at, _ in overs]
    words_over = sum(bisect_left(places, start) < bisect_left(places, end) for start, end in spoken)
    return LevelsView(
        revision=revision,
        measured=True,
        before=found.before,
        after=found.after,
        most_limiting_db=found.most_limiting_db,
        limiter_heard=found.limiter_heard,
        even=found.even(timeline.loudness.target),
        sections_before=list(found.sections_before),
        sections_after=list(found.sections_after),
        curve_before=[round(float(value), 2) for value in found.curve_before],
        curve_after=[round(float(value), 2) for value in found.curve_after],
        momentary_after=[round(float(value), 2) for value in found.momentary_after],
        overs=[
            OverView(at=at, over_db=db)
            for at, db in sorted(overs, key=lambda one: -one[1])[:_MOST_OVERS]
        ],
        verdict=verdict(found, words_over, timeline.loudness.target, ceiling),
        speakers=_speakers(store, timeline, words, gain_curve(gains, ramps, whole)),
    )


def _speakers(
    store: Store, timeline: Timeline, words: TakeWords, curve: GainCurve
) -> list[SpeakerView]:
    """Each voice that was measured, before and after what the sections add; those who speak on one
    track each by themselves."""
    out = []
    for track, energy in energies_of(store, timeline).items():
        gained = (energy * curve.of_cells(0, len(energy)) ** 2).astype(np.float32)
        turns = phrases_by_speaker(timeline, words, track)
        names = sorted({speaker for _, _, speaker in turns})
        for name in names or [""]:
            own = [(start, end) for start, end, speaker in turns if speaker == name]
            loud = phrase_loudness(energy, own)
            here = slice(None) if len(names) < 2 else cells_of(own)
            view = SpeakerView(
                track=track,
                name=name,
                before=integrated_loudness(energy[here]),
                after=integrated_loudness(gained[here]),
                spread_lu=round(spread_lu(loud[loud > -70.0]), 2),
            )
            out.append(view)
    return out


@router.post("/episodes/{episode_id}/ride", status_code=202)
def ride(context: Context, episode_id: Id, request: RideRequest) -> JobView:
    """Ride the gain in the background: it ends in one edit of the document."""
    timeline = context.store.timeline(episode_id, request.revision)
    if timeline.frames == 0:
        raise empty_episode("there is nothing to even out")
    params = RideParams(revision=request.revision, riding=request.riding, bed=request.bed)
    return job_view(context.start(RIDE, episode_id, params))


@router.post("/episodes/{episode_id}/even-out", response_model=ChangedView)
def even_out(context: Context, episode_id: Id, request: ChangeRequest) -> Response:
    """Bring every section, then the whole, to the target. Needs a measurement of this revision."""
    levelling.even_out(context.store, episode_id, request.revision)
    return changed(context, episode_id, request)


@router.post("/episodes/{episode_id}/sections", response_model=ChangedView)
def find_sections(context: Context, episode_id: Id, request: ChangeRequest) -> Response:
    """Set sections by who speaks, from which recording, by music and noted places."""
    store = context.store

    def make(current: int) -> SetSections:
        timeline = store.timeline(episode_id, current)
        found = SetSections(sections=found_sections(timeline, store.words(timeline)))
        if [(s.at, s.name) for s in timeline.sections] == [(s.at, s.name) for s in found.sections]:
            raise BadInput("These are the sections that are found. Nothing was changed.")
        return found

    edit_current(store, episode_id, request.revision, make, "Found sections")
    return changed(context, episode_id, request)


@router.get("/episodes/{episode_id}/proposed-chapters")
def propose_chapters(context: Context, episode_id: Id, revision: Revision) -> list[ProposedChapter]:
    """Chapters by the parts, and within long ones where the talk turns to something else."""
    timeline = context.store.timeline(episode_id, revision)
    if timeline.frames == 0:
        return []
    return proposed_chapters(timeline, words_on(timeline, context.store.words(timeline)))


@router.get("/episodes/{episode_id}/chapters", response_class=Response)
def chapters(
    context: Context,
    episode_id: Id,
    revision: Revision,
    form: Annotated[Literal["json", "txt"], Query()] = "json",
) -> Response:
    """The chapters as a file: JSON chapters 1.2, or lines of times for a description."""
    found = chapters_of(context.store.timeline(episode_id, revision))
    episode, _ = context.store.episode(episode_id)
    body, media = (
        (as_json(found), "application/json+chapters")
        if form == "json"
        else (as_times(found), "text/plain; charset=utf-8")
    )
    name = quote(f"{plain_name(episode.title)}-chapters.{form}")
    saved_as = f"attachment; filename*=UTF-8''{name}"
    return Response(body, media_type=media, headers={"Content-Disposition": saved_as})


@router.post("/episodes/{episode_id}/description")
def description(context: Context, episode_id: Id, request: DescriptionRequest) -> DescriptionView:
    """What apps show of a description, and what can be put into it by one press."""
    timeline = context.store.timeline(episode_id, request.revision)
    return DescriptionView(
        html=as_html(request.text),
        times=as_times(chapters_of(timeline)),
        credits=credits_of(context.store, episode_id, timeline),
    )


@router.post("/artwork", status_code=201)
async def add_artwork(
    context: Context, request: Request, chapter: bool = False, fit: bool = False
) -> ArtworkView:
    """Keep a cover (the raw bytes of a JPEG or PNG), or a picture of a chapter, which need not be
    square; with ``fit`` a cover made of any picture."""
    data = await read_body(request, ARTWORK_MOST_BYTES, ARTWORK_TOO_LARGE)

    def keep() -> ArtworkView:
        picture = fitted_artwork(data) if fit else data
        picture_type(picture) if chapter else check_artwork(picture)
        return ArtworkView(artwork=context.store.files.keep_artwork(picture))

    return await run_in_threadpool(keep)


@router.get("/artwork/{sha256}", response_class=Response)
def artwork(context: Context, sha256: str) -> Response:
    """A cover."""
    data = context.store.files.artwork(sha256).read_bytes()
    return Response(data, media_type=picture_type(data), headers=FOREVER)


@router.get("/episodes/{episode_id}/formats")
def formats(context: Context, episode_id: Id) -> list[FormatView]:
    """What the episode can be written as, in which rates, and about how large it will be."""
    timeline = context.store.current(episode_id)
    cover = 0
    if timeline.artwork:
        cover = context.store.files.artwork(timeline.artwork).stat().st_size
    frames, channels = timeline.frames, timeline.loudness.channels
    return [
        FormatView(
            format=form.name,
            kbits=kbits,
            label=form.label(kbits),
            words=form.words(timeline.loudness.layout, kbits),
            to_keep=form.to_keep,
            usual=form.usual and kbits == form.usual_kbits(timeline.loudness.layout),
            bytes=cover + form.size_bytes(frames=frames, channels=channels, kbits=kbits),
        )
        for form in offered()
        for kbits in form.kbits or (None,)
    ]


@router.post("/episodes/{episode_id}/exports", status_code=202)
def export(context: Context, episode_id: Id, request: ExportRequest) -> JobView:
    """Write the episode out in the background."""
    timeline = context.store.timeline(episode_id, request.revision)
    if timeline.frames == 0:
        raise empty_episode("there is nothing to export")
    for one in request.files:
        format_named(one.format).check_kbits(one.kbits)
    params = ExportParams.of(
        request.revision,
        request.files,
        called(context.store, episode_id, timeline),
        despite_damage=request.despite_damage,
    )
    return job_view(context.start(EXPORT, episode_id, params))


def _finished(context: State, job_id: str) -> JobRow:
    """The job of an export that is done. Raises NotFound."""
    job = context.store.job(job_id)
    if job.kind != EXPORT.name or job.state != "done":
        raise NotFound("That file is not finished.")
    return job


@router.post("/exports/{job_id}/sound", status_code=202)
def keep_as_sound(context: Context, job_id: str, number: FileNumber = 0) -> JobView:
    """Put a finished file on the shelf of sounds of its show, in the background, to be used in
    other episodes."""
    job = _finished(context, job_id)
    episode, _ = context.store.episode(job.episode_id)
    params = ShelveExportParams(job=job_id, file=number, name=episode.title[:120])
    return job_view(context.start(SHELVE_EXPORT, job.episode_id, params))


@router.delete("/exports/{job_id}", status_code=204)
def delete_files(context: Context, job_id: str) -> None:
    """Delete the files of an export that has ended. They can be made again."""
    job = context.store.job(job_id)
    if job.kind != EXPORT.name or job.state in UNFINISHED:
        raise NotFound("There are no files of that kind.")
    context.store.remove_job(job_id)
    context.store.files.remove_export(job_id)


@router.get("/exports/{job_id}/file", response_class=FileResponse)
def download(context: Context, job_id: str, number: FileNumber = 0) -> FileResponse:
    """A finished file."""
    params = EXPORT.params_of(_finished(context, job_id))
    path = context.store.files.export(job_id) / params.file(number).name
    if not path.exists():
        raise file_gone()
    return FileResponse(path, filename=f"{params.file_name}{path.suffix}")
