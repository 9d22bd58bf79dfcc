"""Places to part at. Pauses and changes of speaker are common practice in spoken radio."""

from dataclasses import replace
from itertools import pairwise

import pytest

from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.markers import AddMarker
from airtrim.core.timeline.edits.parting import NotePlaces, PartAtPlaces
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.parting import NEAR_FRAMES, PAUSE_FRAMES, proposed
from airtrim.core.timeline.parts import only, span_of
from airtrim.core.timeline.words import Word
from airtrim.errors import BadInput
from tests.core.test_editing import LENGTHS, SECOND, check, four_tracks, sources


def whole() -> Timeline:
    return apply(four_tracks(), SetSections(sections=(SectionStart(at=0, name="Talk"),)))


def places(timeline: Timeline) -> list[int]:
    return [marker.at for marker in timeline.markers if marker.kind == "part"]


def test_an_episode_is_parted_at_four_places_in_one_step() -> None:
    timeline = whole()
    before = [sources(timeline, at) for at in range(0, timeline.frames, SECOND)]
    timeline = apply(timeline, AddMarker(at=4 * SECOND, name="stays"))
    noted = apply(timeline, NotePlaces(places=tuple(at * SECOND for at in (20, 5, 11, 16))))
    assert places(noted) == [5 * SECOND, 11 * SECOND, 16 * SECOND, 20 * SECOND]
    parted = apply(noted, PartAtPlaces())
    check(parted)
    assert [(s.at // SECOND, s.name) for s in parted.sections] == [
        (0, "Talk"),
        (5, "Talk, part 2"),
        (11, "Talk, part 3"),
        (16, "Talk, part 4"),
        (20, "Talk, part 5"),
    ]
    assert [marker.name for marker in parted.markers] == ["stays"]
    assert [sources(parted, at) for at in range(0, parted.frames, SECOND)] == before
    assert NotePlaces(places=(1, 2)).describe(timeline) == "Noted 2 places to part at"
    assert PartAtPlaces().describe(noted) == "Parted at 4 places"


def test_what_cannot_be_parted_is_refused() -> None:
    timeline = whole()
    for edit in (PartAtPlaces(),):
        with pytest.raises(BadInput, match="Note a place"):
            apply(timeline, edit)
    noted = apply(timeline, NotePlaces(places=(SECOND,)))
    with pytest.raises(BadInput, match="noted already"):
        apply(noted, NotePlaces(places=(SECOND,)))
    for useless in (0, timeline.frames):
        with pytest.raises(BadInput, match="Note a place"):
            apply(apply(timeline, NotePlaces(places=(useless,))), PartAtPlaces())


def test_a_part_alone_sounds_as_it_did_in_the_episode() -> None:
    timeline = four_tracks()
    for index in range(len(timeline.sections)):
        start, end = span_of(timeline, index)
        alone = only(timeline, index)
        check(alone)
        assert len(alone.sections) == 1
        assert alone.frames <= end - start
        for at in range(0, alone.frames, SECOND // 3):
            assert sources(alone, at) == sources(timeline, start + at)


def test_places_are_proposed_at_long_pauses_and_changes_of_speaker_and_nowhere_twice() -> None:
    timeline = whole()
    timeline = apply(timeline, SetSections(sections=(SectionStart(at=0, name="Talk"),)))
    words = {
        # A pause of four seconds in the middle of the host, while the guest says nothing.
        "a": tuple(
            Word("w", at, at + SECOND // 2, "word", 0.9)
            for at in range(0, LENGTHS["a"] - SECOND, SECOND)
            if not 10 * SECOND <= at < 14 * SECOND
        ),
        "g": (),
        "b": (),
    }
    # Music would not be air: it is left out.
    voices = tuple(track for track in timeline.tracks if track.kind == "voice")
    timeline = replace(timeline, tracks=voices)
    found = proposed(timeline, words)
    pause = [place for place in found if place.why == "pause"]
    assert [place.at // SECOND for place in pause][:1] == [11]
    assert PAUSE_FRAMES <= 4 * SECOND
    noted = apply(timeline, NotePlaces(places=tuple(place.at for place in found)))
    assert proposed(noted, words) == ()
    every = sorted([0, timeline.frames, *(place.at for place in found)])
    assert all(b - a >= NEAR_FRAMES for a, b in pairwise(every))
