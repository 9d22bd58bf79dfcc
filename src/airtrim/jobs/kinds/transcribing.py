"""Writing down the words of a recording."""

from pydantic import BaseModel

from airtrim.core.release.transcript import Cue
from airtrim.core.speech.recognisers import Recogniser
from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.transcribing import write_down


class TranscribeParams(BaseModel):
    """A take to write the words of; ``cues``: a transcript made elsewhere, to be aligned instead of
    recognised; ``back``: the words that it had before are brought back. By which ``recogniser``,
    and in which ``language`` (ISO 639-1; empty: found by itself)."""

    take: str
    cues: tuple[Cue, ...] = ()
    back: bool = False
    recogniser: Recogniser | None = None
    language: str = ""


class TranscribeResult(Result):
    """How many words were written down."""

    words: int


def _run(work: Work, params: TranscribeParams) -> TranscribeResult:
    words = write_down(
        work.store,
        work.settings,
        params.take,
        work.progress,
        cues=params.cues,
        back=params.back,
        recogniser=params.recogniser,
        language=params.language,
    )
    return TranscribeResult(words=words)


TRANSCRIBE = Kind(
    "transcribe",
    "Writing down the words",
    TranscribeParams,
    _run,
    changes=("episode", "page", "snags", "rundown"),
    shows=("page",),
)


def first_words(work: Work, take_id: str) -> str:
    """Have a new recording's words written down after this job; returns that job's id."""
    return work.follow(TRANSCRIBE, TranscribeParams(take=take_id), f"words-{take_id}")
