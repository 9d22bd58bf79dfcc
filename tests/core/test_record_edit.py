"""Where a recording lands in the document, and that nothing already there is lost by it."""

from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from airtrim.core.timeline.edits import (
    Cut,
    MarkerAt,
    Record,
    RecordedTake,
    RemoveMarker,
    Restore,
    apply,
    describe,
)
from airtrim.core.timeline.model import Timeline
from airtrim.errors import BadInput
from tests.core.test_timeline import SECOND, source_at, two_tracks


def recorded(frames: int, *tracks: str, **more: object) -> Record:
    takes = tuple(RecordedTake(take=f"new-{track}", track_name=track) for track in tracks)
    return Record.model_validate({"takes": takes, "frames": frames, **more})


def test_a_recording_goes_after_what_is_there() -> None:
    before = two_tracks()
    edit = recorded(3 * SECOND, "Host", markers=(MarkerAt(at=SECOND, name="again"),))
    after = apply(before, edit)
    assert after.frames == before.frames + 3 * SECOND
    assert source_at(after, 0, before.frames + 5) == ("new-Host", 5)
    assert [(m.at, m.kind, m.name) for m in after.markers] == [
        (before.frames + SECOND, "flag", "again")
    ]
    assert describe(before, edit) == "Recorded: 3.0 s on Host"


def test_two_microphones_land_in_sync_and_a_new_track_is_made() -> None:
    after = apply(Timeline(), recorded(5 * SECOND, "Tobin", "Marit"))
    assert [track.name for track in after.tracks] == ["Tobin", "Marit"]
    assert [track.clips[0].at for track in after.tracks] == [0, 0]


@given(st.integers(0, 17 * SECOND), st.integers(1, 4 * SECOND))
@settings(max_examples=100, deadline=None)
def test_in_the_middle_everything_later_makes_room(at: int, frames: int) -> None:
    before = two_tracks()
    after = apply(before, recorded(frames, "Host", at=at))
    assert after.frames == before.frames + frames
    assert source_at(after, 0, at) == ("new-Host", 0)
    for frame in range(0, before.frames, 9001):
        moved = frame + frames if frame >= at else frame
        for track in (0, 1):
            assert source_at(after, track, moved) == source_at(before, track, frame)
    for track in after.tracks:
        assert all(left.end <= right.at for left, right in pairwise(track.clips))
    assert after.sections[0].at == 0


@given(st.integers(0, 15 * SECOND), st.integers(1, 3 * SECOND), st.integers(1, 4 * SECOND))
@settings(max_examples=100, deadline=None)
def test_what_is_recorded_over_can_be_put_back(at: int, replacing: int, frames: int) -> None:
    before = two_tracks()
    after = apply(before, recorded(frames, "Host", at=at, replacing=replacing))
    gone = min(replacing, before.frames - at)
    assert after.frames == before.frames - gone + frames
    assert after.trimmed == gone
    (mark,) = after.cuts
    back = apply(after, Restore(cut=mark.id))
    for frame in range(0, before.frames, 9001):
        moved = frame + frames if frame >= at + gone else frame
        for track in (0, 1):
            assert source_at(back, track, moved) == source_at(before, track, frame)


def test_alongside_nothing_moves_and_nothing_is_covered() -> None:
    before = two_tracks()
    after = apply(before, recorded(2 * SECOND, "Guest", at=10 * SECOND, alongside=True))
    assert after.frames == before.frames
    assert source_at(after, 1, 10 * SECOND) == ("new-Guest", 0)
    with pytest.raises(BadInput, match="already there"):
        apply(before, recorded(2 * SECOND, "Guest", at=4 * SECOND, alongside=True))


def test_markers_move_with_the_sound_they_mark() -> None:
    marks = (MarkerAt(at=SECOND), MarkerAt(at=3 * SECOND, kind="gap", name="lost"))
    timeline = apply(Timeline(), recorded(5 * SECOND, "Host", markers=marks))
    shorter = apply(timeline, Cut(start=0, frames=SECOND // 2))
    assert [m.at for m in shorter.markers] == [SECOND // 2, 5 * SECOND // 2]
    gone = apply(timeline, Cut(start=SECOND // 2, frames=SECOND))
    assert [m.kind for m in gone.markers] == ["gap"]
    back = apply(gone, Restore(cut=gone.cuts[0].id))
    assert back.markers == timeline.markers
    fewer = apply(timeline, RemoveMarker(marker=timeline.markers[0].id))
    assert fewer.markers == timeline.markers[1:]
    with pytest.raises(BadInput, match="no longer"):
        apply(fewer, RemoveMarker(marker=timeline.markers[0].id))
