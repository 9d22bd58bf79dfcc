"""Edits made on an earlier document land on the audio that the host saw, or are refused."""

import random as random_module
from collections.abc import Sequence
from typing import get_args, get_type_hints

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from airtrim.core.timeline.chain import Chain, LowCut
from airtrim.core.timeline.edits import Edit, apply, replay
from airtrim.core.timeline.edits.base import KINDS, EditBase
from airtrim.core.timeline.edits.clips import MoveClip, SetClip, Split
from airtrim.core.timeline.edits.cutting import Cut, CutAlone, CutMany, Move
from airtrim.core.timeline.edits.fields import SpanToCut
from airtrim.core.timeline.edits.gain import GainPoint, GainSpan, SetEnvelope
from airtrim.core.timeline.edits.markers import AddMarker, ChapterAt, SetChapters
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.edits.restoring import Restore
from airtrim.core.timeline.edits.room_tone import AddAir, Silence
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.snags import SetSnagRules
from airtrim.core.timeline.edits.tracks import SetChain, SetTrack
from airtrim.core.timeline.frames import FrameMap, Unmappable
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tags import Tags
from airtrim.errors import BadInput
from tests.core.test_timeline import SECOND, source_at, two_tracks


def mapped(seen: Timeline, edits: Sequence[Edit], own: Timeline | None = None) -> FrameMap:
    def through(timeline: Timeline) -> Timeline:
        for edit in edits:
            timeline = replay(timeline, edit)
        return timeline

    return FrameMap(seen, through(seen), through, own)


def audible(timeline: Timeline, start: int, frames: int) -> list[object]:
    """What sounds on each track, every 10 ms and at both edges of a span."""
    at = [*range(start, start + frames, SECOND // 100), start + frames - 1]
    return [source_at(timeline, track, f) for track in range(len(timeline.tracks)) for f in at]


def test_the_second_of_two_quick_cuts_removes_what_was_selected() -> None:
    seen = two_tracks()
    first, second = Cut(start=SECOND, frames=SECOND), Cut(start=5 * SECOND, frames=SECOND)
    placed = second.relocated(mapped(seen, [first]))
    assert (placed.start, placed.frames) == (4 * SECOND, SECOND)
    with pytest.raises(Unmappable):  # half of it is gone already
        Cut(start=SECOND // 2, frames=SECOND).relocated(mapped(seen, [first]))


frames = st.integers(0, 17 * SECOND)
lengths = st.integers(1, 3 * SECOND)
edits = st.lists(
    st.one_of(
        st.builds(Cut, start=frames, frames=lengths),
        st.builds(Move, start=frames, frames=lengths, to=frames),
        st.builds(AddAir, at=frames, frames=lengths, tones=st.just({})),
        st.builds(Split, at=frames),
        st.builds(GainSpan, start=frames, frames=lengths, by_db=st.just(-6.0)),
        st.builds(Restore, cut=st.integers(0, 12)),
        st.builds(Silence, start=frames, frames=lengths, tracks=st.just(())),
        st.builds(CutAlone, track=st.sampled_from(["t1", "t2"]), start=frames, frames=lengths),
        st.builds(AddMarker, at=frames),
    ),
    max_size=6,
)


def made_in_turn(timeline: Timeline, wanted: Sequence[Edit]) -> tuple[Timeline, list[Edit]]:
    """The document after those of the edits that fit, and these."""
    done: list[Edit] = []
    for edit in wanted:
        try:
            timeline = apply(timeline, edit)
        except BadInput:
            continue
        done.append(edit)
    return timeline, done


@given(edits, edits, frames, lengths)
@settings(max_examples=400, deadline=None)
def test_a_mapped_span_sounds_as_the_host_saw_it(
    before: list[Edit], between: list[Edit], start: int, length: int
) -> None:
    seen, _ = made_in_turn(two_tracks(), before)
    now, done = made_in_turn(seen, between)
    length = min(length, seen.frames - start)
    if length <= 0:
        return
    try:
        at, there = mapped(seen, done).span(start, length)
    except Unmappable:
        return
    assert there == length
    assert audible(now, at, length) == audible(seen, start, length)


@given(edits, frames)
@settings(max_examples=300, deadline=None)
def test_a_mapped_point_touches_the_audio_that_it_touched(between: list[Edit], at: int) -> None:
    seen = two_tracks()
    now, done = made_in_turn(seen, between)
    at = min(at, seen.frames)
    try:
        there = mapped(seen, done).point(at)
    except Unmappable:
        return
    sides = [(at + by, there + by) for by in (0, -1)]
    same = [
        [source_at(now, track, after) for track in (0, 1)]
        == [source_at(seen, track, before) for track in (0, 1)]
        for before, after in sides
    ]
    # Audio that was silenced or moved on one track alone leaves the other track as evidence.
    one_track = any(isinstance(edit, (Silence, CutAlone)) for edit in done)
    assert any(same) or one_track or at in (0, seen.frames)


@given(edits)
@settings(max_examples=100, deadline=None)
def test_what_no_edit_touched_is_always_found(between: list[Edit]) -> None:
    """Only edits before 12 s: what is after must never be refused."""
    seen = two_tracks()
    early = [
        edit
        for edit in between
        if max(getattr(edit, "start", 0) + getattr(edit, "frames", 0), getattr(edit, "to", 0))
        <= 11 * SECOND
        and getattr(edit, "at", 0) <= 11 * SECOND
        and not isinstance(edit, (Move, CutAlone, Silence))
    ]
    now, done = made_in_turn(seen, early)
    at, length = mapped(seen, done).span(13 * SECOND, SECOND)
    assert audible(now, at, length) == audible(seen, 13 * SECOND, SECOND)


@pytest.mark.parametrize("seed", range(20))
def test_several_spans_map_as_one_by_one(seed: int) -> None:
    random = random_module.Random(seed)
    seen = two_tracks()
    cut = Cut(start=random.randrange(8 * SECOND), frames=SECOND // 2)
    spans = [(random.randrange(16 * SECOND), SECOND // 4) for _ in range(5)]
    frames_now = mapped(seen, [cut])
    single = []
    for span in spans:
        try:
            single.append(frames_now.span(*span))
        except Unmappable:
            single.append(None)
    many = CutMany(spans=tuple(SpanToCut(start=s, frames=f) for s, f in spans))
    if None in single:
        with pytest.raises(Unmappable):
            many.relocated(frames_now)
    else:
        assert [(s.start, s.frames) for s in many.relocated(frames_now).spans] == single


def test_an_insertion_after_a_cut_at_the_same_place_goes_to_the_splice() -> None:
    seen = two_tracks()
    placed = AddAir(at=5 * SECOND, frames=SECOND).relocated(
        mapped(seen, [Cut(start=5 * SECOND, frames=SECOND)])
    )
    assert placed.at == 5 * SECOND
    with pytest.raises(Unmappable):
        AddAir(at=5 * SECOND + 100, frames=SECOND).relocated(
            mapped(seen, [Cut(start=5 * SECOND, frames=SECOND)])
        )


def test_a_clip_is_found_by_what_it_plays() -> None:
    seen = two_tracks()
    host = seen.tracks[0].id
    later = mapped(seen, [Cut(start=SECOND, frames=SECOND)])
    placed = SetClip(track=host, at=12 * SECOND, fade_in=100).relocated(later)
    assert placed.at == 11 * SECOND
    moved = mapped(seen, [MoveClip(track=host, at=12 * SECOND, to_track=host, to=14 * SECOND)])
    with pytest.raises(Unmappable):
        SetClip(track=host, at=9 * SECOND, fade_in=100).relocated(moved)


# --- whole lists and values ---


def points(timeline: Timeline, track: int = 0) -> list[tuple[int, float]]:
    return [(point.at, point.db) for point in timeline.tracks[track].envelope]


def test_two_quick_changes_of_a_gain_line_are_both_made() -> None:
    seen = two_tracks()
    track = seen.tracks[0].id
    first = SetEnvelope(track=track, points=(GainPoint(at=SECOND, db=-3.0),))
    second = SetEnvelope(track=track, points=(GainPoint(at=8 * SECOND, db=-6.0),))
    now = apply(seen, first)
    both = apply(now, second.relocated(mapped(seen, [first])))
    assert points(both) == [(SECOND, -3.0), (8 * SECOND, -6.0)]


def test_a_changed_gain_point_is_not_changed_twice() -> None:
    seen = apply(
        two_tracks(),
        SetEnvelope(track=two_tracks().tracks[0].id, points=(GainPoint(at=SECOND, db=-3.0),)),
    )
    track = seen.tracks[0].id
    gone = SetEnvelope(track=track, points=())
    moved = SetEnvelope(track=track, points=(GainPoint(at=SECOND, db=-9.0),))
    with pytest.raises(Unmappable):
        moved.relocated(mapped(seen, [gone]))


def test_two_quick_changes_of_sections_are_both_made() -> None:
    seen = two_tracks()
    of = [SectionStart(id=s.id, at=s.at, name=s.name) for s in seen.sections]
    first = SetSections(sections=(*of, SectionStart(at=14 * SECOND, name="Late")))
    second = SetSections(sections=(*of, SectionStart(at=SECOND, name="Early")))
    now = apply(seen, first)
    both = apply(now, second.relocated(mapped(seen, [first])))
    assert [s.name for s in both.sections if s.name in ("Early", "Late")] == ["Early", "Late"]
    assert len(both.sections) == len(seen.sections) + 2


def test_two_quick_changes_of_chapters_are_both_made() -> None:
    seen = two_tracks()
    first = SetChapters(chapters=(ChapterAt(at=0, title="One"),))
    second = SetChapters(chapters=(ChapterAt(at=6 * SECOND, title="Two"),))
    both = apply(apply(seen, first), second.relocated(mapped(seen, [first])))
    assert [m.name for m in both.markers] == ["One", "Two"]


def test_tags_and_rules_keep_what_another_window_set() -> None:
    seen = two_tracks()
    first = SetTags(tags=Tags(title="A title"))
    second = SetTags(tags=Tags(description="A text"))
    placed = second.relocated(mapped(seen, [first]))
    assert (placed.tags.title, placed.tags.description) == ("A title", "A text")
    with pytest.raises(Unmappable):
        SetTags(tags=Tags(title="Another")).relocated(mapped(seen, [first]))
    limit = SetSnagRules(air_limit_s=3.0)
    own = SetSnagRules(air_limit_s=seen.snag_rules.air_limit_s)
    assert own.relocated(mapped(seen, [limit])).air_limit_s == 3.0


def test_a_value_that_the_same_client_set_twice_is_no_conflict() -> None:
    seen = two_tracks()
    track = seen.tracks[0].id
    first = SetChain(track=track, chain=Chain(low_cut=LowCut(hz=90.0)))
    second = SetChain(track=track, chain=Chain(low_cut=LowCut(hz=100.0)))
    now = apply(seen, first)
    assert second.relocated(mapped(seen, [first], own=now)) == second
    with pytest.raises(Unmappable):  # set in another window
        second.relocated(mapped(seen, [first]))


def test_edits_without_frames_fit_every_later_document() -> None:
    seen = two_tracks()
    rename = SetTrack(track=seen.tracks[0].id, name="Ada")
    assert rename.relocated(mapped(seen, [Cut(start=0, frames=SECOND)])) == rename


def _frame_fields(kind: type[EditBase]) -> set[str]:
    """Names of fields of a kind that could hold frames of the episode."""
    hints = get_type_hints(kind, include_extras=False)
    found = set()
    for name in kind.model_fields:
        whole = hints[name] is int or int in get_args(hints[name])
        if name in ("start", "at", "to") and whole:
            found.add(name)
    return found


@pytest.mark.parametrize("kind", KINDS.values(), ids=KINDS)
def test_a_kind_with_frames_says_how_they_move(kind: type[EditBase]) -> None:
    overrides = "relocated" in vars(kind)
    covered = set(kind.point_fields) | ({"start"} if kind.has_span else set())
    # Their ``start`` counts frames of a take, or of the revision that was copied from.
    elsewhere = {"place_sound": {"start"}, "change_sound": {"start"}, "paste": {"start"}}
    covered |= elsewhere.get(kind.model_fields["kind"].default, set())
    assert overrides or _frame_fields(kind) <= covered, _frame_fields(kind) - covered
