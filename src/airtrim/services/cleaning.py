"""Taking the room out of recordings, as far as a document asks for it."""

from airtrim.core.progress import Progress
from airtrim.core.timeline.model import Timeline
from airtrim.store.store import Store


def clean_missing(store: Store, timeline: Timeline, progress: Progress) -> int:
    """Make what a document needs of cleaned takes and does not have; returns how many that were."""
    missing = store.cleaned.missing(timeline)
    for number, (take, tone) in enumerate(missing):

        def told(fraction: float, before: int = number) -> None:
            progress((before + fraction) / len(missing), "Taking the room out")

        store.cleaned.make(take, tone, told)
    return len(missing)
