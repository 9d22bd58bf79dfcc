"""The running order: parts put elsewhere keep all that stands in them. The habits are those of
spoken radio (from memory); the invariants stand in the project's architecture page."""

import random
from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.gain import GainPoint, SetEnvelope
from airtrim.core.timeline.edits.loudness import SetLoudness
from airtrim.core.timeline.edits.markers import AddMarker
from airtrim.core.timeline.edits.parts import (
    BringBack,
    DuplicatePart,
    MovePart,
    PutAside,
    SetWantedLength,
    ThrowAway,
)
from airtrim.core.timeline.edits.restoring import Restore
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.tracks import RemoveTrack
from airtrim.core.timeline.envelope import value_at
from airtrim.core.timeline.model import CROSSFADE_FRAMES, Timeline
from airtrim.core.timeline.parts import span_of
from airtrim.core.timeline.rundown import lying_aside, running_order
from airtrim.core.timeline.speaking import Speaking
from airtrim.core.timeline.words import Word, words_on
from airtrim.errors import BadInput
from tests.core.test_editing import SECOND, check, four_tracks, random_edit, sources

STEP = SECOND // 7


def names(timeline: Timeline) -> list[str]:
    return [section.id for section in timeline.sections]


def sounding(timeline: Timeline, section_id: str) -> list[tuple]:
    """What sounds in a part every seventh of a second, with its gain, from the part's start."""
    start, end = span_of(timeline, names(timeline).index(section_id))
    return [
        (
            sources(timeline, at),
            [round(value_at(track.envelope, at), 6) for track in timeline.tracks],
        )
        for at in range(start + 1, end - 1, STEP)
    ]


def in_parts() -> Timeline:
    """Four parts with a cut, a marker and gain points in the third."""
    timeline = apply(four_tracks(), Cut(start=17 * SECOND, frames=SECOND))
    timeline = apply(timeline, AddMarker(at=18 * SECOND, name="here"))
    points = tuple(GainPoint(at=at * SECOND, db=db) for at, db in ((3, 0), (16, -6), (20, 2)))
    return apply(timeline, SetEnvelope(track=timeline.tracks[0].id, points=points))


def test_a_part_goes_to_the_front_with_all_that_stands_in_it() -> None:
    before = in_parts()
    first, second, third, last = names(before)
    after = apply(before, MovePart(section=third, before=first))
    check(after)
    assert names(after) == [third, first, second, last]
    assert after.frames == before.frames
    for part in names(before):
        assert sounding(after, part) == sounding(before, part)
    start, _ = span_of(before, 2)
    assert [m.at for m in after.markers] == [18 * SECOND - start]
    assert [c.at for c in after.cuts] == [17 * SECOND - start]
    whole = apply(after, Restore(cut=after.cuts[0].id))
    assert whole.frames == before.frames + SECOND
    assert sources(whole, 17 * SECOND - start + 100) == sources(four_tracks(), 17 * SECOND + 100)


def test_moved_there_and_back_it_is_the_same_to_the_bit_where_nothing_was_bent() -> None:
    before = apply(four_tracks(), Cut(start=17 * SECOND, frames=SECOND))
    first, _, third, last = names(before)
    there = apply(before, MovePart(section=third, before=first))
    back = apply(there, MovePart(section=third, before=last))
    assert back.tracks == before.tracks
    assert back.sections == before.sections
    assert back.cuts == before.cuts


def test_where_two_meet_that_did_not_they_are_crossfaded_and_nowhere_else() -> None:
    before = four_tracks()
    first, _, third, _ = names(before)
    after = apply(before, MovePart(section=third, before=first))
    music = next(t for t in after.tracks if t.name == "Music")
    seams = [c.at for c in music.clips if c.fade_in]
    starts = [s.at for s in after.sections]
    assert set(seams) <= set(starts)
    # The music begins a second into the first part: nothing to fade there, but at the other two.
    assert seams == [starts[3]]
    host = after.tracks[0]
    assert [c.fade_in for c in host.clips if c.at == starts[1]] == [CROSSFADE_FRAMES]


def test_aside_and_back_nothing_is_lost() -> None:
    before = in_parts()
    first, _, third, last = names(before)
    aside = apply(before, PutAside(section=third))
    check(aside)
    assert aside.frames == before.frames - (span_of(before, 2)[1] - span_of(before, 2)[0])
    assert [one.section.id for one in aside.aside] == [third]
    assert not aside.markers
    back = apply(aside, BringBack(section=third, before=last))
    assert names(back) == names(before)
    assert sounding(back, third) == sounding(before, third)
    assert back.cuts == before.cuts
    assert back.markers == before.markers
    assert not back.aside
    front = apply(aside, BringBack(section=third, before=first))
    assert sounding(front, third) == sounding(before, third)


def test_a_track_that_was_deleted_meanwhile_comes_back_with_the_part() -> None:
    before = in_parts()
    third = names(before)[2]
    aside = apply(before, PutAside(section=third))
    guest = next(t for t in aside.tracks if t.name == "Guest")
    without = apply(aside, RemoveTrack(track=guest.id))
    back = apply(without, BringBack(section=third))
    again = next(t for t in back.tracks if t.id == guest.id)
    assert (again.name, again.kind) == ("Guest", "voice")
    assert len(again.clips) == 1


def test_a_part_is_doubled_and_keeps_its_level() -> None:
    before = apply(in_parts(), SetLoudness(layout="stereo"))
    second = names(before)[1]
    after = apply(before, DuplicatePart(section=second))
    check(after)
    copy = names(after)[2]
    assert copy not in names(before)
    assert sounding(after, copy) == sounding(before, second)
    assert len(after.cuts) == len(before.cuts)


def test_gain_points_beyond_the_end_do_not_come_before_those_of_what_follows() -> None:
    """A seed of the random histories found this."""
    before = four_tracks()
    points = tuple(GainPoint(at=at * SECOND, db=db) for at, db in ((26, -3), (33, 1)))
    before = apply(before, SetEnvelope(track=before.tracks[2].id, points=points))
    assert before.frames < 33 * SECOND
    after = apply(before, DuplicatePart(section=names(before)[-1]))
    check(after)
    assert sounding(after, names(after)[-1]) == sounding(before, names(before)[-1])


@pytest.mark.parametrize(
    ("edit", "sentence"),
    [
        (MovePart(section="s1", before="s1"), "already stands there"),
        (MovePart(section="gone"), "no longer in the episode"),
        (MovePart(section="s0", before="gone"), "no longer"),
        (PutAside(section="gone"), "no longer in the episode"),
        (BringBack(section="s0"), "does not lie aside"),
        (ThrowAway(section="s0"), "does not lie aside"),
    ],
)
def test_what_does_not_fit_is_refused_with_a_sentence(edit, sentence: str) -> None:
    timeline = four_tracks()
    first = names(timeline)[0]
    edit = edit.model_copy(update={"section": first}) if edit.section == "s1" else edit
    if getattr(edit, "before", None) == "s1":
        edit = edit.model_copy(update={"before": first})
    with pytest.raises(BadInput, match=sentence):
        apply(timeline, edit)


def test_the_only_part_stays() -> None:
    timeline = apply(four_tracks(), SetSections(sections=(SectionStart(at=0),)))
    with pytest.raises(BadInput, match="only part"):
        apply(timeline, PutAside(section=timeline.sections[0].id))


def test_of_nothing_nothing_is_doubled_and_what_lay_aside_comes_back_to_it() -> None:
    aside = apply(four_tracks(), PutAside(section=names(four_tracks())[1]))
    empty = aside
    for track in aside.tracks:
        empty = apply(empty, RemoveTrack(track=track.id))
    assert empty.frames == 0
    with pytest.raises(BadInput, match="no sound"):
        apply(empty, DuplicatePart(section=empty.sections[0].id))
    back = apply(empty, BringBack(section=aside.aside[0].section.id, before=None))
    check(back)
    assert names(back) == [aside.aside[0].section.id]
    assert {track.name for track in back.tracks} == {"Host", "Guest", "Music"}


def test_a_part_that_a_cut_brings_again_can_be_put_aside_beside_itself() -> None:
    before = four_tracks()
    third = names(before)[2]
    aside = apply(apply(before, Cut(start=14 * SECOND, frames=2 * SECOND)), PutAside(section=third))
    again = apply(aside, Restore(cut=aside.cuts[0].id))
    assert third in names(again)
    twice = apply(again, PutAside(section=third))
    check(twice)
    assert len(twice.aside) == 2
    for one in twice.aside:
        twice = apply(twice, BringBack(section=one.section.id))
        check(twice)
    assert not twice.aside


def test_no_silence_at_the_end() -> None:
    """A part in which nothing sounds could not be told from the end of the episode."""
    timeline = apply(four_tracks(), Cut(start=0, frames=SECOND // 2))
    starts = (SectionStart(at=0), SectionStart(at=SECOND // 4))
    host, guest, music, _ = (t.id for t in timeline.tracks)
    timeline = apply(timeline, SetSections(sections=starts))
    silent = apply(timeline, RemoveTrack(track=host))
    silent = apply(silent, RemoveTrack(track=guest))
    assert not len(silent.track(music).clips.between(0, SECOND // 4))
    with pytest.raises(BadInput, match="without sound"):
        apply(silent, MovePart(section=silent.sections[0].id))


def test_a_wanted_length_is_kept_and_taken_away() -> None:
    timeline = apply(four_tracks(), SetWantedLength(frames=20 * SECOND))
    assert timeline.wanted_frames == 20 * SECOND
    assert apply(timeline, SetWantedLength()).wanted_frames is None


@given(st.integers(0, 2**32))
@settings(max_examples=40, deadline=None)
def test_in_any_order_every_part_sounds_as_it_did(seed: int) -> None:
    rng = random.Random(seed)
    timeline = four_tracks()
    for _ in range(8):
        try:
            timeline = apply(timeline, random_edit(timeline, rng))
        except BadInput:
            continue
    straight = all(p.shape == "straight" for t in timeline.tracks for p in t.envelope)
    for _ in range(6):
        part, other = rng.choice(names(timeline)), rng.choice(names(timeline))
        try:
            after = apply(timeline, MovePart(section=part, before=rng.choice([other, None])))
        except BadInput:
            continue
        check(after)
        assert sorted(names(after)) == sorted(names(timeline))
        for one in names(timeline) if straight else ():
            # What trails off at the end of the episode is a pause wherever else it stands.
            was, now = sounding(timeline, one), sounding(after, one)
            shorter = min(len(was), len(now)) - 1
            assert now[: max(0, shorter)] == was[: max(0, shorter)]
        timeline = after
    again = TypeAdapter(Timeline).validate_json(TypeAdapter(Timeline).dump_json(timeline))
    assert again == timeline


def word(text: str, at_s: float, kind: str = "word") -> Word:
    return Word(text, round(at_s * SECOND), round((at_s + 0.3) * SECOND), kind, 0.9)  # type: ignore[arg-type]


def test_the_running_order_tells_how_a_part_begins_and_ends_and_who_speaks() -> None:
    """As a producer writes it: in-words, out-words, who, length, runs to (common practice)."""
    timeline = four_tracks()
    spoken = ["one", "two", "three", "um", "four", "five", "six", "seven"]
    words = {
        "a": tuple(
            word(text, 1 + i / 2, "filler" if text == "um" else "word")
            for i, text in enumerate(spoken)
        ),
        "g": (word("guest", 3.0), word("speaks", 3.5), word("longer", 4.0)),  # from second 7 on
        "b": (),
        "m": (word("la", 2.0),),
    }
    rows = running_order(timeline, words)
    assert [(row.at, row.frames) for row in rows] == [
        (0, 6 * SECOND),
        (6 * SECOND, 9 * SECOND),
        (15 * SECOND, 10 * SECOND),
        (25 * SECOND, 6 * SECOND),
    ]
    assert sum(row.frames for row in rows) == timeline.frames
    first, second, third, _ = rows
    assert first.in_words == "one two three four five"
    assert first.out_words == "three four five six seven"
    assert (first.who, first.music) == (("Host",), ("Music",))
    assert (second.in_words, second.out_words) == ("guest speaks longer", "guest speaks longer")
    assert second.who == ("Guest",)
    assert (third.in_words, third.who) == ("", ())
    aside = apply(timeline, PutAside(section=second.id))
    assert len(running_order(aside, words)) == 3
    (waiting,) = lying_aside(aside, words)
    assert (waiting.at, waiting.frames) == (None, second.frames)
    assert (waiting.in_words, waiting.who, waiting.music) == (
        second.in_words,
        second.who,
        second.music,
    )


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**32))
@example(92)  # after which nothing is left
def test_who_speaks_is_counted_as_if_every_word_were_placed(seed: int) -> None:
    """Held against the placed words themselves, through edits, with speakers told apart."""
    rng = random.Random(seed)
    timeline = four_tracks()
    for _ in range(5):
        try:
            timeline = apply(timeline, random_edit(timeline, rng))
        except BadInput:
            continue
    timeline = replace(timeline, speakers={"a": ((3, "Marit"), (9, ""), (14, "Tobin"))})
    words = {
        take: tuple(word("w", at / 2) for at in range(2 * frames // SECOND))
        for take, frames in timeline.lengths.items()
    }
    assume(timeline.frames)
    start = rng.randrange(timeline.frames)
    end = rng.randrange(start, timeline.frames + 1)
    spoken = replace(timeline, tracks=tuple(t for t in timeline.tracks if t.kind == "voice"))
    names = {track.id: track.name for track in timeline.tracks}
    found = Speaking(timeline, words).within(timeline, start, end)
    # A word counts where its middle lies; those at the very ends are placed as well, clamped.
    placed = Counter(w.speaker or names[w.track] for w in words_on(spoken, words, start, end))
    ends = Counter(
        w.speaker or names[w.track]
        for w in words_on(spoken, words, start, end)
        if w.start < start + SECOND or w.end > end - SECOND
    )
    assert found <= placed
    assert placed - ends <= found
