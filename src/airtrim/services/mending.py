"""Recordings that are damaged on the disk: found before they go out, and made anew."""

from airtrim.core.progress import Progress
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tone import is_tone
from airtrim.errors import Damaged
from airtrim.store.store import Store


def check_takes(store: Store, timeline: Timeline, progress: Progress) -> None:
    """Hold every recording that sounds against its checksum; one that is damaged is made anew.
    Raises Damaged where it cannot be."""
    used = sorted({t for track in timeline.tracks for t in track.clips.takes if not is_tone(t)})
    for number, take_id in enumerate(used):
        take = store.take(take_id)

        def done(fraction: float, before: int = number) -> None:
            progress((before + fraction) / len(used), "Checking the recordings")

        if not store.soundness.is_whole(take, done):
            store.reader(take_id)  # says so where it is missing
            try:
                store.soundness.mend(take, done)
            except Damaged as error:
                raise Damaged(
                    f"{error} Nothing was exported: where it is damaged there would be silence."
                ) from error


def mend_take(store: Store, take_id: str, progress: Progress) -> None:
    """Make a recording anew from the file it came from. Raises Damaged where that cannot be."""
    take = store.take(take_id)
    store.soundness.mend(take, lambda f: progress(f, "Making a damaged recording anew"))
    store.touch(take.episode_id)
