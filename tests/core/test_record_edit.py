"""Where a recording lands in the document, and that nothing already there is lost by it."""

from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.markers import RemoveMarker
from airtrim.core.timeline.edits.placing import (
    ChooseTake,
    MarkerAt,
    PlayedIn,
    Record,
    RecordedTake,
)
from airtrim.core.timeline.edits.restoring import Restore
from airtrim.core.timeline.edits.room_tone import ChooseRoomTone, FindRoomTone
from airtrim.core.timeline.edits.words import SetScript
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
    assert edit.describe(before) == "Recorded: 3.0 s on Host"


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


def sources(timeline: Timeline) -> list[list[tuple[str, int] | None]]:
    step = 4001
    frames = range(0, timeline.frames, step)
    return [[source_at(timeline, t, f) for f in frames] for t in range(len(timeline.tracks))]


def test_old_and_new_take_are_exchanged_in_one_step_and_back() -> None:
    before = two_tracks()
    retake = recorded(3 * SECOND, "Host", at=5 * SECOND, replacing=2 * SECOND)
    new = apply(before, retake)
    (mark,) = new.cuts
    old = apply(new, ChooseTake(cut=mark.id))
    assert old.frames == before.frames
    assert sources(old)[:2] == sources(before)[:2]
    (mark,) = old.cuts
    again = apply(old, ChooseTake(cut=mark.id))
    assert sources(again) == sources(new)
    assert ChooseTake(cut=mark.id).describe(old) == "Chose the other take"


@given(
    st.integers(0, 14 * SECOND),
    st.integers(1, 3 * SECOND),
    st.integers(SECOND // 2, 4 * SECOND),
    st.lists(st.tuples(st.integers(0, 18 * SECOND), st.integers(1, SECOND)), max_size=4),
)
@settings(max_examples=150, deadline=None)
def test_exchanged_twice_is_what_it_was_whatever_was_cut_since(
    at: int, replacing: int, frames: int, more: list[tuple[int, int]]
) -> None:
    timeline = apply(two_tracks(), recorded(frames, "Host", "Guest", at=at, replacing=replacing))
    for start, length in more:
        if start < timeline.frames:
            timeline = apply(timeline, Cut(start=start, frames=length))
    marks = [mark for mark in timeline.cuts if mark.instead]
    for mark in marks:
        try:
            other = apply(timeline, ChooseTake(cut=mark.id))
        except BadInput:
            continue  # all of what stood in its place has been cut since
        back = next(m for m in other.cuts if m.instead)
        assert sources(apply(other, ChooseTake(cut=back.id))) == sources(timeline)
        assert other.trimmed + other.frames == timeline.trimmed + timeline.frames


def test_a_cut_that_was_no_retake_has_no_other_take() -> None:
    timeline = apply(two_tracks(), Cut(start=SECOND, frames=SECOND))
    with pytest.raises(BadInput, match="no other recording"):
        apply(timeline, ChooseTake(cut=timeline.cuts[0].id))


def test_the_delay_of_what_was_played_along_is_left_out() -> None:
    edit = recorded(2 * SECOND, "Voice", at=0, alongside=True, skip=4800,
                    markers=(MarkerAt(at=SECOND),))  # fmt: skip
    after = apply(two_tracks(), edit)
    assert source_at(after, 2, 0) == ("new-Voice", 4800)
    assert after.tracks[2].clips[0].frames == 2 * SECOND - 4800
    assert after.markers[0].at == SECOND - 4800
    with pytest.raises(BadInput, match="shorter than the delay"):
        apply(Timeline(), recorded(100, "Voice", skip=4800))


def test_room_tone_is_chosen_by_hand_and_left_to_be_found_again() -> None:
    before = apply(two_tracks(), Cut(start=0, frames=SECOND))
    after = apply(before, ChooseRoomTone(start=3 * SECOND, frames=SECOND))
    assert after.room_tones["a"] == ("a", 4 * SECOND, SECOND)
    assert after.room_tones["g"] == ("g", SECOND, SECOND)
    assert set(apply(after, FindRoomTone(take="a")).room_tones) == {"g"}
    with pytest.raises(BadInput, match="half a second"):
        apply(before, ChooseRoomTone(start=0, frames=1000))
    with pytest.raises(BadInput, match="No one recording"):
        apply(before, ChooseRoomTone(start=8 * SECOND, frames=4 * SECOND))


def test_the_script_is_part_of_the_document() -> None:
    assert apply(two_tracks(), SetScript(text="Good morning.")).script == "Good morning."


def played(take: str, at: int, frames: int, **more: object) -> PlayedIn:
    told = {"take": take, "take_frames": 20 * SECOND, "frames": frames, "at": at, **more}
    return PlayedIn.model_validate(told)


def test_sounds_played_in_lie_on_their_own_track_at_their_frames() -> None:
    before = two_tracks()
    sounds = (
        played("sting", 2 * SECOND, 9 * SECOND, start=SECOND, gain_db=-6.0),
        played("bed", 4 * SECOND, 15 * SECOND),
        played("late", 12 * SECOND, SECOND),  # the recording is over by then
    )
    edit = recorded(6 * SECOND, "Host", at=5 * SECOND, played=sounds)
    after = apply(before, edit)
    (track,) = [track for track in after.tracks if track.name == "Played in"]
    assert track.kind == "music"
    first, second = track.clips
    # Each ends where the next begins, and the last where the recording ends.
    assert (first.take, first.start, first.at, first.frames, first.gain_db) == (
        "sting", SECOND, 7 * SECOND, 2 * SECOND, -6.0
    )  # fmt: skip
    assert (second.take, second.at, second.end) == ("bed", 9 * SECOND, 11 * SECOND)
    # What was broken off is faded, what rang out is not.
    assert first.fade_out > 0
    whole = apply(before, recorded(6 * SECOND, "Host", played=(played("s", 0, 2 * SECOND),)))
    assert whole.tracks[-1].clips[0].fade_out == 0
    assert after.frames == before.frames + 6 * SECOND
    assert {("sting", 20 * SECOND), ("bed", 20 * SECOND)} <= set(edit.needs())


def test_sounds_played_in_follow_the_delay_that_is_left_out() -> None:
    sounds = (played("early", 0, 3 * SECOND), played("later", 4 * SECOND, SECOND))
    after = apply(Timeline(), recorded(6 * SECOND, "Host", skip=SECOND, played=sounds))
    first, second = after.tracks[-1].clips
    assert (first.start, first.at, first.frames) == (SECOND, 0, 2 * SECOND)
    assert second.at == 3 * SECOND


def test_sounds_played_in_never_keep_a_recording_from_being_added() -> None:
    sounds = (played("sting", 0, 2 * SECOND),)
    timeline = apply(Timeline(), recorded(6 * SECOND, "Host", played=sounds))
    # Beside what is there: the place on the track is taken, so it gets another.
    beside = recorded(3 * SECOND, "Guest", at=0, alongside=True, played=sounds)
    beside = beside.model_copy(update={"frames": 3 * SECOND})
    after = apply(timeline, beside)
    assert [t.name for t in after.tracks] == ["Host", "Played in", "Guest", "Played in 2"]
    # After it, the same track goes on.
    again = apply(timeline, recorded(6 * SECOND, "Host", played=sounds))
    assert [clip.at for clip in again.tracks[1].clips] == [0, 6 * SECOND]


@given(
    st.lists(
        st.tuples(st.integers(0, 7 * SECOND), st.integers(1, 9 * SECOND)),
        unique_by=lambda one: one[0],
        max_size=8,
    ),
    st.integers(0, 2 * SECOND),
)
@settings(max_examples=150, deadline=None)
def test_no_sound_played_in_lies_over_another(keys: list[tuple[int, int]], skip: int) -> None:
    sounds = tuple(played("s", at, frames) for at, frames in keys)
    after = apply(Timeline(), recorded(6 * SECOND, "Host", skip=skip, played=sounds))
    assert after.frames == 6 * SECOND - skip
    for track in after.tracks[1:]:
        assert all(left.end <= right.at for left, right in pairwise(track.clips))
        at = {clip.at: clip.start for clip in track.clips}
        for pressed, _ in keys:
            if skip < pressed < 6 * SECOND:
                assert at[pressed - skip] == 0
