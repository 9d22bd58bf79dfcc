"""The document and its edits. Properties are held over many random histories (Hypothesis)."""

from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.loudness import EvenOut, SetLoudness
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.restoring import Restore
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.words import CorrectWord
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import Air, Word, air_between, gap_near, words_on
from airtrim.errors import BadInput

SECOND = 48_000


def made(*placed: tuple[str, str, int, int | None]) -> Timeline:
    timeline = Timeline()
    for take, track, frames, at in placed:
        timeline = apply(timeline, Place(take=take, take_frames=frames, track_name=track, at=at))
    return timeline


def two_tracks() -> Timeline:
    """Host throughout, guest in the middle, a second host take after the first."""
    timeline = made(
        ("a", "Host", 10 * SECOND, None),
        ("g", "Guest", 6 * SECOND, 3 * SECOND),
        ("b", "Host", 5 * SECOND, 12 * SECOND),
    )
    sections = (SectionStart(at=0), SectionStart(at=4 * SECOND), SectionStart(at=12 * SECOND))
    return apply(timeline, SetSections(sections=sections))


def source_at(timeline: Timeline, track: int, frame: int) -> tuple[str, int] | None:
    """Which take and which of its frames sounds on a track."""
    for clip in timeline.tracks[track].clips:
        if clip.at <= frame < clip.end:
            return clip.take, clip.start + frame - clip.at
    return None


cuts = st.lists(
    st.tuples(st.integers(0, 16 * SECOND), st.integers(1, 3 * SECOND)), min_size=1, max_size=12
)


def with_cuts(timeline: Timeline, spans: list[tuple[int, int]]) -> Timeline:
    for start, frames in spans:
        if start < timeline.frames:
            timeline = apply(timeline, Cut(start=start, frames=frames))
    return timeline


def test_cut_closes_up_every_track() -> None:
    before = two_tracks()
    after = apply(before, Cut(start=5 * SECOND, frames=SECOND))
    assert after.frames == before.frames - SECOND
    for frame in (0, 4 * SECOND, 5 * SECOND - 1):
        for track in (0, 1):
            assert source_at(after, track, frame) == source_at(before, track, frame)
    for frame in (5 * SECOND, 7 * SECOND, 13 * SECOND):
        for track in (0, 1):
            assert source_at(after, track, frame) == source_at(before, track, frame + SECOND)


@given(cuts)
@settings(max_examples=150, deadline=None)
def test_tracks_stay_in_sync_and_nothing_overlaps(spans: list[tuple[int, int]]) -> None:
    timeline = with_cuts(two_tracks(), spans)
    for track in timeline.tracks:
        for left, right in pairwise(track.clips):
            assert left.end <= right.at
        for clip in track.clips:
            length = {"a": 10, "g": 6, "b": 5}[clip.take] * SECOND
            assert clip.frames > 0
            assert clip.start >= 0
            assert clip.start + clip.frames <= length
    for frame in range(0, timeline.frames, 7001):
        host, guest = source_at(timeline, 0, frame), source_at(timeline, 1, frame)
        if host and guest:
            assert host[0] == "a"
            assert host[1] - guest[1] == 3 * SECOND
    assert timeline.frames + timeline.trimmed == two_tracks().frames
    assert [s.at for s in timeline.sections] == sorted({s.at for s in timeline.sections})
    assert timeline.sections[0].at == 0
    assert all(0 <= cut.at <= timeline.frames for cut in timeline.cuts)


@given(cuts, st.integers(0, 14 * SECOND), st.integers(1, 4 * SECOND))
@settings(max_examples=150, deadline=None)
def test_a_cut_put_back_leaves_the_document_as_it_was(
    spans: list[tuple[int, int]], start: int, frames: int
) -> None:
    before = with_cuts(two_tracks(), spans)
    if start >= before.frames:
        return
    after = apply(before, Cut(start=start, frames=frames))
    mark = next(cut for cut in after.cuts if cut.id == before.next_id)
    back = apply(after, Restore(cut=mark.id))
    assert back.tracks == before.tracks
    assert back.sections == before.sections
    assert back.cuts == before.cuts


@given(cuts, st.randoms(use_true_random=False))
@settings(max_examples=100, deadline=None)
def test_all_cuts_put_back_in_any_order_give_the_raw_episode(spans, random) -> None:
    raw = two_tracks()
    timeline = with_cuts(raw, spans)
    while timeline.cuts:
        timeline = apply(timeline, Restore(cut=random.choice(timeline.cuts).id))
    assert [t.clips for t in timeline.tracks] == [t.clips for t in raw.tracks]
    assert timeline.trimmed == 0


def test_everything_can_be_cut_and_put_back() -> None:
    raw = two_tracks()
    empty = apply(raw, Cut(start=0, frames=10**9))
    assert empty.frames == 0
    assert apply(empty, Restore(cut=empty.cuts[0].id)).tracks == raw.tracks


@pytest.mark.parametrize(
    "edit",
    [
        Cut(start=17 * SECOND, frames=5),
        Restore(cut=99),
        Place(take="x", take_frames=SECOND, track_name="Host", at=SECOND),
        SetSections(sections=(SectionStart(at=5),)),
        SetSections(sections=(SectionStart(at=0), SectionStart(at=0))),
        SetSections(sections=(SectionStart(at=0), SectionStart(at=99 * SECOND))),
        EvenOut(section_gains_db=(1.0,), gain_db=0.0),
    ],
)
def test_what_does_not_fit_is_refused_with_a_sentence(edit) -> None:
    with pytest.raises(BadInput, match=r"\.$"):
        apply(two_tracks(), edit)


def test_a_new_recording_lands_after_what_is_there() -> None:
    timeline = apply(two_tracks(), Place(take="n", take_frames=SECOND, track_name="Host"))
    assert timeline.tracks[0].clips[-1].at == 17 * SECOND


def test_sections_keep_their_gain_when_others_change() -> None:
    timeline = apply(two_tracks(), EvenOut(section_gains_db=(1.0, 2.0, 3.0), gain_db=0.5))
    starts = (SectionStart(at=0), SectionStart(at=6 * SECOND), SectionStart(at=12 * SECOND))
    changed = apply(timeline, SetSections(sections=starts))
    assert [s.gain_db for s in changed.sections] == [1.0, 2.0, 3.0]


def test_a_cut_across_a_boundary_moves_the_boundary_to_the_splice() -> None:
    timeline = apply(two_tracks(), Cut(start=3 * SECOND, frames=2 * SECOND))
    assert [s.at for s in timeline.sections] == [0, 3 * SECOND, 10 * SECOND]


def test_targets_follow_the_layout_unless_set() -> None:
    timeline = Timeline()
    assert timeline.loudness.target == -19.0
    stereo = apply(timeline, SetLoudness(layout="stereo"))
    assert stereo.loudness.target == -16.0
    assert apply(stereo, SetLoudness(layout="mono", target_lufs=-14)).loudness.target == -14


def word(text: str, start_s: float, end_s: float) -> Word:
    return Word(text, round(start_s * SECOND), round(end_s * SECOND), "word", 0.9)


WORDS = {
    "a": tuple(word(f"a{i}", i + 0.1, i + 0.8) for i in range(10)),
    "g": tuple(word(f"g{i}", i + 0.2, i + 0.9) for i in range(6)),
}


@given(cuts)
@settings(max_examples=80, deadline=None)
def test_words_are_where_they_sound(spans: list[tuple[int, int]]) -> None:
    timeline = with_cuts(two_tracks(), spans)
    for placed in words_on(timeline, WORDS):
        original = WORDS[placed.take][placed.word]
        track = next(i for i, t in enumerate(timeline.tracks) if t.id == placed.track)
        middle = (placed.start + placed.end) // 2
        source = source_at(timeline, track, middle)
        assert source is not None
        assert source[0] == placed.take
        assert original.start <= source[1] <= original.end


def test_cutting_a_word_removes_it_and_only_it() -> None:
    timeline = two_tracks()
    target = next(w for w in words_on(timeline, WORDS) if w.text == "a1")
    after = apply(timeline, Cut(start=target.start, frames=target.end - target.start))
    texts = [w.text for w in words_on(after, WORDS)]
    assert texts == [w.text for w in words_on(timeline, WORDS) if w.text != "a1"]


def test_correcting_a_word_moves_no_sound() -> None:
    before = two_tracks()
    after = apply(before, CorrectWord(take="a", word=2, text="Norrey"))
    assert after.tracks == before.tracks
    (changed,) = [w for w in words_on(after, WORDS) if w.corrected]
    assert (changed.text, changed.word) == ("Norrey", 2)
    assert CorrectWord(take="a", word=2, text="Norrey").describe(before) == (
        "Corrected a word to “Norrey”"
    )


def test_long_air_is_where_nobody_speaks() -> None:
    """10 s of host words, then 2 s of nothing, then a take without words but heard."""
    timeline = two_tracks()
    heard = {**WORDS, "b": ()}
    spans = air_between(timeline, heard, 0, timeline.frames, 72_000)
    host, guest = (track.id for track in timeline.tracks)
    assert spans == [Air(host, round(9.8 * SECOND), 17 * SECOND)]
    assert air_between(timeline, WORDS, 0, timeline.frames, 72_000) == [
        Air(host, round(9.8 * SECOND), 12 * SECOND)
    ]
    last_said = Word("bye", round(5.9 * SECOND), 6 * SECOND, "word", 1.0)
    (cut_short,) = air_between(
        timeline, {"a": WORDS["a"][:9], "g": (last_said,), "b": ()}, 0, timeline.frames, 72_000
    )
    assert cut_short == Air(guest, 9 * SECOND, 17 * SECOND)


def test_the_gap_nearest_to_a_boundary_is_found() -> None:
    placed = words_on(two_tracks(), {"a": WORDS["a"]})
    start, end = gap_near(placed, round(3.5 * SECOND), 2 * SECOND)
    assert (start, end) in [
        (round(2.8 * SECOND), round(3.1 * SECOND)),
        (round(3.8 * SECOND), round(4.1 * SECOND)),
    ]
