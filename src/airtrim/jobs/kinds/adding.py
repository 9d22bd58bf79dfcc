"""Putting a recording into its episode."""

from collections.abc import Sequence

from pydantic import BaseModel

from airtrim.jobs.base import Kind, Result, Work
from airtrim.jobs.kinds.transcribing import first_words
from airtrim.services.adding import add_recording
from airtrim.store.recordings import Landing, Recordings
from airtrim.store.store import Store


class RecordParams(BaseModel):
    """A recording to put into its episode, where, and the guests' recordings that go beside it."""

    recording: str
    landing: Landing
    guests: tuple[str, ...] = ()


def _run(work: Work, params: RecordParams) -> Result:
    takes = add_recording(
        work.store, params.recording, params.guests, params.landing, work.progress
    )
    return Result(next=tuple(first_words(work, take) for take in takes))


def _free_others(store: Store, unended: Sequence[RecordParams]) -> None:
    """Open what is said to be being added, but by no work."""
    Recordings(store).free({one for p in unended for one in (p.recording, *p.guests)})


RECORD = Kind(
    "record",
    "Adding the recording",
    RecordParams,
    _run,
    changes=("episode", "unfinished"),
    let_go=_free_others,
)
