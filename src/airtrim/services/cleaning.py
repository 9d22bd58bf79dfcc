"""Taking the room out of recordings, as far as a document asks for it."""

from airtrim.core.progress import Progress
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tone import is_tone
from airtrim.services.finding import room_tone
from airtrim.store.store import Store


def clean_missing(store: Store, timeline: Timeline, progress: Progress) -> int:
    """Make what a document needs of cleaned takes and does not have; returns how many that were."""
    for track in timeline.tracks:
        for take in track.clips.takes if track.chain.noise.on else ():
            if not is_tone(take):
                room_tone(store, take)  # by which it is cleaned
    missing = store.cleaned.missing(timeline)
    for number, (take, tone) in enumerate(missing):

        def report(fraction: float, before: int = number) -> None:
            progress((before + fraction) / len(missing), "Taking the room out")

        store.cleaned.make(take, tone, report)
    return len(missing)
