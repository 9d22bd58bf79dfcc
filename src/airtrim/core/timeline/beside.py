"""Whether the level of a placed sound still holds beside the voices as they sound now."""

from zlib import crc32

from airtrim.core.timeline.chain import NEUTRAL
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.placed import Placed

_UNTOUCHED = (0.0, False, NEUTRAL)


def voices_as_set(timeline: Timeline) -> int:
    """A number for what is done to the voices as a whole: another one once a chain or the gain of
    a voice is set otherwise. Gain points and single clips are left out: they say how loud a word
    is, not how loud a voice is; a voice that comes untouched changes nothing."""
    told = [
        (track.id, track.gain_db, track.muted, track.chain)
        for track in timeline.tracks
        if track.kind == "voice" and (track.gain_db, track.muted, track.chain) != _UNTOUCHED
    ]
    return 1 + crc32(repr(told).encode())


def outdated(timeline: Timeline, one: Placed) -> bool:
    """Whether the voices were set otherwise since its level was worked out."""
    return one.beside not in (0, voices_as_set(timeline))
