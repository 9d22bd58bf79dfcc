"""Sections found from voices, recordings, music and markers."""

from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.markers import AddMarker
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.sections import SetSections
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.sectioning import found_sections
from airtrim.core.timeline.words import Word
from tests.reference import RATE


def said(start: int, end: int) -> tuple[Word, ...]:
    """A word every second between two seconds."""
    return tuple(
        Word("word", s * RATE, s * RATE + RATE // 2, "word", 0.9) for s in range(start, end)
    )


def show() -> tuple[Timeline, dict[str, tuple[Word, ...]]]:
    """Music 8 s; host 40 s; guest 60 s with a question of the host's in it; host's second take;
    music."""
    places = (
        ("intro", 8, "Music", 0),
        ("host", 42, "Tobin", 8),
        ("guest", 60, "Marit", 50),
        ("question", 4, "Tobin", 80),
        ("close", 30, "Tobin", 110),
        ("outro", 10, "Music", 140),
    )
    timeline = Timeline()
    for take, seconds, track, at in places:
        kind = "music" if track == "Music" else "voice"
        timeline = apply(
            timeline,
            Place(
                take=take,
                take_frames=seconds * RATE,
                track_name=track,
                track_kind=kind,
                at=at * RATE,
            ),
        )
    words = {
        "host": said(1, 40),
        "guest": said(1, 29) + said(35, 59),
        "question": said(0, 4),
        "close": said(1, 28),
    }
    return timeline, words


def test_sections_begin_where_another_voice_or_recording_does() -> None:
    timeline, words = show()
    found = found_sections(timeline, words)
    told = [(round(one.at / RATE, 1), one.name) for one in found]
    names = ["Intro music", "Tobin", "Marit", "Tobin", "Outro music"]
    assert [name for _, name in told] == names
    assert told[0][0] == 0
    assert told[1][0] == 8.5
    assert 47.5 < told[2][0] < 51
    assert 108.5 < told[3][0] < 111
    assert 137.5 < told[4][0] < 140
    assert len(apply(timeline, SetSections(sections=found)).sections) == 5


def test_a_noted_place_names_its_section() -> None:
    timeline, words = show()
    for at, name in ((49, "Marit on the pier"), (90, "The storm"), (20, "")):
        timeline = apply(timeline, AddMarker(at=at * RATE, name=name))
    names = [one.name for one in found_sections(timeline, words)]
    assert names == [
        "Intro music", "Tobin", "Marit on the pier", "The storm", "Tobin", "Outro music",
    ]  # fmt: skip


def test_without_words_there_is_one_section() -> None:
    timeline, _ = show()
    found = found_sections(timeline, {})
    assert [(one.at, one.name) for one in found] == [(0, "Whole episode")]
