"""Taking the room out of recordings, as far as a document asks for it."""

from airtrim.compute.order import told
from airtrim.core.progress import Progress
from airtrim.core.sound.choosing import Heard, heard_in, most_restless
from airtrim.core.timeline.cleaned import needed
from airtrim.core.timeline.model import Timeline, Track
from airtrim.core.timeline.tone import is_tone
from airtrim.services.finding import room_tone
from airtrim.store.store import Store


def clean_missing(store: Store, timeline: Timeline, progress: Progress) -> int:
    """Make what a document needs of cleaned takes and does not have; returns how many that were."""
    for how in needed(timeline):
        if how.method == "steady":
            room_tone(store, how.take)  # by which it is cleaned
    missing = store.cleaned.missing(timeline)
    for number, how in enumerate(missing):

        def report(fraction: float, before: int = number) -> None:
            doing = told("Taking the room out", store.compute)
            progress((before + fraction) / len(missing), doing)

        store.cleaned.make(how, report, store.compute)
    return len(missing)


_MOST_TAKES = 3
"""Of a track are listened to, those that most of it is made of."""


def noise_on(store: Store, track: Track) -> Heard | None:
    """What the room on a track is like: of its longest takes the one whose noise changes most. None
    where there is no recording on it."""
    lengths: dict[str, int] = {}
    for clip in track.clips:
        if not is_tone(clip.take):
            lengths[clip.take] = lengths.get(clip.take, 0) + clip.frames
    found = [
        _noise_in(store, take)
        for take in sorted(lengths, key=lambda one: -lengths[one])[:_MOST_TAKES]
        if (store.files.take(take) / "sound").exists()
    ]
    return most_restless(found)


def _noise_in(store: Store, take: str) -> Heard:
    heard = store.noise(take)
    if heard is None:
        heard = heard_in(store.reader(take))
        store.keep_noise(take, heard)
    return heard
