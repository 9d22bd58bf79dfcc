"""Transcripts in and out, a script held against what was said, and corrections of many words."""

from collections.abc import Callable
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from airtrim.api.body import read_body
from airtrim.api.episodes import changed
from airtrim.api.fields import Id, Revision
from airtrim.api.models.episode import ChangedView, ChangeRequest
from airtrim.api.models.words import (
    CorrectAllRequest,
    HeldView,
    LookedAt,
    RecogniserView,
    WordsRequest,
)
from airtrim.api.models.work import JobView, job_view
from airtrim.api.state import Context, State
from airtrim.api.wanted import while_wanted
from airtrim.core.release.reading import read_transcript
from airtrim.core.release.transcript import TranscriptFormat, cues_of, written
from airtrim.core.speech.recognisers import installed, languages_of
from airtrim.core.speech.script import Held, held_against
from airtrim.core.timeline.edits.words import LONGEST_WORD, Correction, CorrectMany
from airtrim.core.timeline.finding import rewritten, same
from airtrim.core.timeline.speakers import speaker_of
from airtrim.core.timeline.words import PlacedWord, is_corrected, speakers_in, words_on
from airtrim.errors import BadInput
from airtrim.jobs.kinds.transcribing import TRANSCRIBE, TranscribeParams
from airtrim.services.revisions import edit_current
from airtrim.services.travelling import plain_name
from airtrim.store.store import Store

router = APIRouter(prefix="/api", tags=["transcript"])

_MOST_BYTES = 20_000_000
_LONGEST_HOLD_S = 30.0
_MEDIA = {
    "vtt": "text/vtt; charset=utf-8",
    "srt": "application/x-subrip; charset=utf-8",
    "txt": "text/plain; charset=utf-8",
    "json": "application/json",
}


@router.get("/episodes/{episode_id}/transcript", response_class=Response)
def transcript(
    context: Context,
    episode_id: Id,
    form: Annotated[TranscriptFormat, Query(alias="format")],
    revision: Revision,
    take: str | None = Query(default=None, max_length=80),
) -> Response:
    """The transcript as a file, timed to the edited episode; of one take as it was recorded, if one
    is named."""
    store = context.store
    timeline = store.timeline(episode_id, revision)
    episode, show = store.episode(episode_id)
    if take is None:
        words = words_on(timeline, store.words(timeline))
        title = f"{show.name} - {episode.title}"
    else:
        row = store.take(take)
        raw = store.words(timeline).get(take, ())
        fixed = timeline.corrections
        voices = speakers_in(timeline, take, raw)
        texts = [fixed.get(f"{take}:{i}", w.text) for i, w in enumerate(raw)]
        words = [
            PlacedWord(
                "",
                take,
                i,
                text,
                w.start,
                w.end,
                w.kind,
                w.confidence,
                False,
                speaker_of(voices, i),
            )
            for i, (w, text) in enumerate(zip(raw, texts, strict=True))
            if text
        ]
        title = row.name
    names = {track.id: track.name for track in timeline.tracks}
    body = written(cues_of(words, names), form)
    saved_as = f"attachment; filename*=UTF-8''{quote(f'{plain_name(title)}.{form}')}"
    return Response(body, media_type=_MEDIA[form], headers={"Content-Disposition": saved_as})


@router.put("/takes/{take_id}/transcript", status_code=202)
async def attach(
    context: Context, request: Request, take_id: str, name: str = Query(max_length=255)
) -> JobView:
    """Take the words of a recording from a transcript made elsewhere; they are aligned with its
    sound in the background."""
    data = await read_body(request, _MOST_BYTES, "A transcript is not larger than 20 MB.")

    def put_in() -> JobView:
        take = context.store.take(take_id)
        cues = read_transcript(data, name)
        return _reworded(context, take.episode_id, TranscribeParams(take=take_id, cues=tuple(cues)))

    return await run_in_threadpool(put_in)


@router.put("/episodes/{episode_id}/looked-at", status_code=204)
def look_at(context: Context, episode_id: Id, request: LookedAt) -> None:
    """Tell where a host looks, while words are being written down: they are written there first."""
    store = context.store
    timeline = store.timeline(episode_id, request.revision)
    written_down = store.words(timeline)
    for track in timeline.tracks:
        for clip in track.clips:
            inside = clip.at <= request.at < clip.at + clip.frames
            if inside and clip.take not in written_down:
                store.look_at(clip.take, clip.start + request.at - clip.at)


@router.get("/recognisers")
def recognisers(context: Context) -> list[RecogniserView]:
    """What can write down words on this machine, and in which languages."""
    named = context.settings.speech_model
    return [
        RecogniserView(name=one, languages=list(languages_of(one, named))) for one in installed()
    ]


@router.post("/takes/{take_id}/words", status_code=202)
def write_anew(context: Context, take_id: str, request: WordsRequest) -> JobView:
    """Write the words of a recording down anew; those it has now are kept beside them."""
    take = context.store.take(take_id)
    if request.recogniser not in installed():
        raise BadInput("That recogniser is not installed on this machine.")
    known = languages_of(request.recogniser, context.settings.speech_model)
    if request.language and request.language not in known:
        raise BadInput(f"That recogniser does not know the language “{request.language}”.")
    params = TranscribeParams(
        take=take_id, recogniser=request.recogniser, language=request.language
    )
    return _reworded(context, take.episode_id, params)


@router.post("/takes/{take_id}/words/back", status_code=202)
def bring_back(context: Context, take_id: str) -> JobView:
    """Bring back the words that a recording had before; those it has now are kept instead."""
    take = context.store.take(take_id)
    context.store.words_before(take_id)
    return _reworded(context, take.episode_id, TranscribeParams(take=take_id, back=True))


def _reworded(context: State, episode_id: int, params: TranscribeParams) -> JobView:
    _check_uncorrected(context.store, episode_id, params.take)
    return job_view(context.start(TRANSCRIBE, episode_id, params))


def _check_uncorrected(store: Store, episode_id: int, take_id: str) -> None:
    """Corrections and speakers' names count the words of a take, and would be lost."""
    timeline = store.current(episode_id)
    if take_id in timeline.speakers:
        raise BadInput(
            "Speakers were named in this recording, and their names would be lost. Give its words "
            "back to the track’s name first, or go on with the words as they are."
        )
    if is_corrected(timeline, take_id):
        raise BadInput(
            "Words of this recording were corrected by hand, and would be lost. Undo the "
            "corrections first, or go on with the words as they are."
        )


@router.get("/episodes/{episode_id}/script/held")
async def held(context: Context, request: Request, episode_id: Id, revision: Revision) -> HeldView:
    """The script held against what is said."""

    def hold(check: Callable[[], None]) -> Held:
        timeline = context.store.timeline(episode_id, revision)
        words = words_on(timeline, context.store.words(timeline))
        return held_against(timeline.script, words, check)

    found = await while_wanted(request, hold, _LONGEST_HOLD_S)
    return HeldView(
        shared=found.shared, differences=list(found.differences), spelling=len(found.spelling)
    )


@router.post("/episodes/{episode_id}/script/spelling", response_model=ChangedView)
def take_spelling(context: Context, episode_id: Id, request: ChangeRequest) -> Response:
    """Write the words that were said as the script writes them."""
    store = context.store

    def make(current: int) -> CorrectMany:
        timeline = store.timeline(episode_id, current)
        words = [w for w in words_on(timeline, store.words(timeline)) if w.kind == "word"]
        found = held_against(timeline.script, words)
        if not found.spelling:
            raise BadInput("Every word is written as the script writes it already.")
        corrections = tuple(
            Correction(take=words[i].take, word=words[i].word, text=text)
            for i, text in sorted(found.spelling.items())
        )
        return CorrectMany(words=corrections, name="Took over the script’s spelling")

    edit_current(store, episode_id, request.revision, make)
    return changed(context, episode_id, request)


@router.post("/episodes/{episode_id}/correct-all", response_model=ChangedView)
def correct_all(context: Context, episode_id: Id, request: CorrectAllRequest) -> Response:
    """Correct every word that is written like one; punctuation and capitals stay."""
    store = context.store

    def make(current: int) -> CorrectMany:
        timeline = store.timeline(episode_id, current)
        found = same(words_on(timeline, store.words(timeline)), request.old)
        if not found:
            raise BadInput(f"“{request.old}” is not written anywhere.")
        corrections = []
        for word in found:
            text = rewritten(word.text, request.new)
            if len(text) > LONGEST_WORD:
                raise BadInput(
                    f"“{text[:40]}…” would be longer than {LONGEST_WORD} characters. Nothing was "
                    "changed."
                )
            corrections.append(Correction(take=word.take, word=word.word, text=text))
        count = "1 word" if len(found) == 1 else f"{len(found)} words"
        name = f"Corrected {count} to “{request.new}”"[:120]
        return CorrectMany(words=tuple(corrections), name=name)

    edit_current(store, episode_id, request.revision, make)
    return changed(context, episode_id, request)
