"""Writing down the words of a recording."""

from pydantic import BaseModel

from airtrim.core.release.transcript import Cue
from airtrim.jobs.base import Kind, Result, Work
from airtrim.services.transcribing import write_down


class TranscribeParams(BaseModel):
    """A take to write the words of; ``cues``: a transcript made elsewhere, to be aligned instead of
    recognised; ``back``: the words that it had before are brought back."""

    take: str
    cues: tuple[Cue, ...] = ()
    back: bool = False


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
