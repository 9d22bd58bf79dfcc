"""Long pauses over a bed: as they would be without it, but where the bed is heard alone."""

from dataclasses import replace

from airtrim.core.timeline.beds import ALONE_FRAMES
from airtrim.core.timeline.clips import Clip, Clips
from airtrim.core.timeline.holding import laid
from airtrim.core.timeline.model import Section, Timeline, Track
from airtrim.core.timeline.placed import Hold, Placed
from airtrim.core.timeline.words import Word, air_between

S = 48_000
LIMIT = 2 * S


def talk(*words_s: float) -> tuple[Timeline, dict[str, tuple[Word, ...]]]:
    """A minute in which a word of half a second is said at each of some seconds, in one part from
    its second second on."""
    words = tuple(Word("w", round(at * S), round((at + 0.5) * S), "word", 0.9) for at in words_s)
    voice = Track("v", "Voice", "voice", Clips((Clip("t", 0, 60 * S, 0),)))
    sections = Section("s1", 0, "Before"), Section("s2", 2 * S, "Talk")
    return Timeline(tracks=(voice,), sections=sections, next_id=10), {"t": words}


def with_bed(timeline: Timeline, hold: Hold = Hold("under", part="s2")) -> Timeline:
    bed = Placed("p1", "Bed", "m", 0, 7 * S, hold)
    return laid(timeline, replace(timeline, placed=(bed,)))


def airs(timeline: Timeline, words: dict[str, tuple[Word, ...]]) -> list[tuple[float, float]]:
    found = air_between(timeline, words, 0, timeline.frames, LIMIT)
    return [(one.start / S, one.end / S) for one in found]


def test_a_pause_in_the_talk_over_a_bed_is_a_pause() -> None:
    timeline, words = talk(3, 8, 9, 14, 30, 31, 57)
    bedded = with_bed(timeline)
    assert sum(len(track.clips) for track in bedded.tracks if track.held) > 5
    pauses = [(3.5, 8.0), (9.5, 14.0)]
    assert set(pauses) < set(airs(timeline, words))
    # Alone before the first word of its part and after the last, and for longer than a pause lasts.
    assert airs(bedded, words) == pauses
    assert all((b - a) * S <= ALONE_FRAMES for a, b in pauses)


def test_what_is_asked_for_in_stretches_is_the_same() -> None:
    timeline, words = talk(3, 8, 9, 14, 30, 31, 57)
    bedded = with_bed(timeline)
    parts = [air_between(bedded, words, at * S, (at + 6) * S, LIMIT) for at in range(0, 60, 6)]
    assert [one for part in parts for one in part] == air_between(
        bedded, words, 0, bedded.frames, LIMIT
    )


def test_music_that_is_no_bed_is_no_pause() -> None:
    timeline, words = talk(3, 8, 9)
    music = with_bed(timeline, Hold("time", at=3 * S))
    assert (3.5, 8.0) in airs(timeline, words)
    assert airs(music, words) == [(0.0, 3.0), (10.0, 60.0)]
