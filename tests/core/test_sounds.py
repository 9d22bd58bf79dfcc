"""Placed sounds: each is where its rule says, whatever is edited. Reference: the rule worked out
anew from every single word, by hand."""

import random
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from airtrim.core.timeline.beside import outdated
from airtrim.core.timeline.clips import Clip
from airtrim.core.timeline.ducking import ducked
from airtrim.core.timeline.edits import Edit, apply, complete
from airtrim.core.timeline.edits.clips import MoveClip
from airtrim.core.timeline.edits.cutting import Cut, KeepOnly
from airtrim.core.timeline.edits.gain import GainPoint, SetEnvelope
from airtrim.core.timeline.edits.parts import (
    BringBack,
    DuplicatePart,
    MovePart,
    PutAside,
    ThrowAway,
)
from airtrim.core.timeline.edits.restoring import Restore
from airtrim.core.timeline.edits.room_tone import Silence
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.sounds import (
    ChangeSound,
    HearTalk,
    HoldOn,
    LetGo,
    LevelSounds,
    PlaceSound,
    TakeSoundOut,
)
from airtrim.core.timeline.edits.tracks import RemoveTrack, SetTrack
from airtrim.core.timeline.envelope import value_at
from airtrim.core.timeline.holding import MOST_REPEATS, spot_of
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.placed import Duck, Hold, Placed
from airtrim.core.timeline.talk import Talk
from airtrim.core.timeline.words import Word
from airtrim.errors import BadInput
from tests.core.test_editing import LENGTHS, SECOND, check, four_tracks, random_edit

WORDS = {
    take: tuple(
        Word("w", at, at + SECOND // 4, "word", 0.9)
        for at in range(SECOND // 2, LENGTHS[take] - SECOND // 2, SECOND // 3)
        # A breath every few words, and nothing said in the middle of the guest's take.
        if at // (SECOND // 3) % 7 and not (take == "g" and 5 * SECOND < at < 8 * SECOND)
    )
    for take in ("a", "b", "g")
}
TALK = {take: Talk.of_words((w.start, w.end) for w in words) for take, words in WORDS.items()}
KINDS = ("before_talk", "after_talk", "under", "between", "time")


def placing(hold: HoldOn, **more: object) -> PlaceSound:
    told = {"take": "m", "take_frames": LENGTHS["m"], "name": "Bed", "frames": 3 * SECOND}
    return PlaceSound(**{**told, "hold": hold, "gain_db": -6.0, "talk": TALK, **more})


def on_sounds(timeline: Timeline) -> list[Clip]:
    return [clip for track in timeline.tracks if track.held for clip in track.clips]


def spoken(timeline: Timeline, start: int, end: int) -> list[tuple[int, int]]:
    """Every word of every voice, by hand: where some of it sounds between two frames."""
    out = []
    for track in timeline.tracks:
        if track.kind != "voice":
            continue
        for clip in track.clips:
            for word in WORDS.get(clip.take, ()):
                begins = word.start - clip.start + clip.at
                low, high = max(clip.at, begins), min(clip.end, begins + word.end - word.start)
                if high - low < word.end - word.start and high - low < SECOND // 12:
                    continue  # a sliver that a cut left
                low, high = max(low, start), min(high, end)
                if low < high:
                    out.append((low, high))
    return sorted(out)


def ends_of(timeline: Timeline, index: int) -> tuple[int, int]:
    own = max((t.frames for t in timeline.tracks if not t.held), default=0)
    starts = [*(s.at for s in timeline.sections), max(own, timeline.sections[-1].at)]
    return starts[index], starts[index + 1]


def by_the_rule(timeline: Timeline, one: Placed) -> tuple[int, int] | None:
    """First and last frame of where a sound has to be."""
    hold, long = one.hold, one.frames
    if hold.kind == "time":
        return hold.at, hold.at + long
    index = next((i for i, s in enumerate(timeline.sections) if s.id == hold.part), None)
    if index is None:
        return None
    start, end = ends_of(timeline, index)
    talk = spoken(timeline, start, end)
    if hold.kind == "under":
        return start, end
    if hold.kind == "before_talk":
        stops = (talk[0][0] if talk else start) + hold.offset
        return max(0, stops - long), stops
    last = max(high for _, high in talk) if talk else end
    if hold.kind == "after_talk":
        begins = max(0, last + hold.offset)
        return begins, begins + long
    after = end
    if index + 1 < len(timeline.sections):
        following = spoken(timeline, *ends_of(timeline, index + 1))
        after = following[0][0] if following else end
    begins = max(0, (last + after) // 2 - long // 2)
    return begins, begins + long


def check_sounds(timeline: Timeline) -> None:
    """Each is where its rule says, and its clips are there; nothing else stands on their tracks."""
    check(timeline)
    spans = []
    for one in timeline.placed:
        span = by_the_rule(timeline, one)
        spot = spot_of(timeline, one)
        if span is None or span[1] <= span[0]:
            assert spot is None or spot.frames <= 0
            continue
        assert spot is not None
        assert (spot.at, spot.at + spot.frames) == span
        spans.append(span)
    covered = {f for low, high in spans for f in range(low, high, SECOND // 10)}
    clips = on_sounds(timeline)
    assert sum(c.frames for c in clips) == sum(high - low for low, high in spans)
    assert all(any(c.at <= f < c.end for c in clips) for f in covered)


def in_episode() -> Timeline:
    timeline = four_tracks()
    for kind in KINDS:
        part = timeline.sections[1].id
        hold = HoldOn(kind=kind, part=None if kind == "time" else part, at=7 * SECOND)
        timeline = apply(timeline, placing(hold))
    return timeline


def test_the_opening_ends_where_the_talk_begins_and_follows_a_cut() -> None:
    """As it is done in radio: music alone, then under the first words (common practice)."""
    before = four_tracks()
    opening = placing(
        HoldOn(kind="before_talk", part=before.sections[0].id, offset=2 * SECOND),
        frames=6 * SECOND,
        alone_frames=4 * SECOND,
        fade_out=SECOND,
        duck=Duck(18.0, SECOND // 2, SECOND, SECOND),
    )
    after = apply(before, opening)
    check_sounds(after)
    # Half a second of room stood there already, before the first word.
    assert after.frames == before.frames + 4 * SECOND - SECOND // 2
    assert [s.at for s in after.sections[:2]] == [0, 6 * SECOND + 4 * SECOND - SECOND // 2]
    (clip,) = on_sounds(after)
    assert (clip.at, clip.end) == (0, 6 * SECOND)
    assert (clip.fade_out, clip.gain_db) == (SECOND, -6.0)
    (sounds,) = [t for t in after.tracks if t.held]
    assert value_at(sounds.envelope, 4 * SECOND) == -18.0
    assert value_at(sounds.envelope, 4 * SECOND - SECOND // 2) == 0.0
    # The first two seconds of words go, and what is left is taken up by the music.
    cut = apply(after, Cut(start=4 * SECOND, frames=2 * SECOND + 5))
    check_sounds(cut)
    (moved,) = on_sounds(cut)
    first = spoken(cut, 0, cut.frames)[0][0]
    assert moved.end == first + 2 * SECOND


def test_a_sound_goes_with_its_part_lies_aside_with_it_and_comes_back() -> None:
    timeline = in_episode()
    check_sounds(timeline)
    part = timeline.sections[1].id
    first = timeline.sections[0].id
    front = apply(timeline, MovePart(section=part, before=first))
    check_sounds(front)
    under = next(one for one in front.placed if one.hold.kind == "under")
    spot = spot_of(front, under)
    assert spot is not None
    assert spot.at == 0
    aside = apply(timeline, PutAside(section=part))
    check_sounds(aside)
    assert len(on_sounds(aside)) == 1  # the one that holds to a time
    assert apply(aside, BringBack(section=part, before=timeline.sections[2].id)).placed == (
        timeline.placed
    )
    thrown = apply(aside, ThrowAway(section=part))
    assert [one.hold.kind for one in thrown.placed] == ["time"]


def test_a_doubled_part_has_its_sounds_too() -> None:
    timeline = in_episode()
    part = timeline.sections[1].id
    twice = apply(timeline, DuplicatePart(section=part))
    check_sounds(twice)
    double = twice.sections[2].id
    kinds = [one.hold.kind for one in timeline.placed if one.hold.part == part]
    assert [one.hold.kind for one in twice.placed if one.hold.part == double] == kinds
    assert len({one.id for one in twice.placed}) == len(twice.placed)
    # Each goes its own way from here on.
    gone = apply(twice, PutAside(section=part))
    check_sounds(gone)
    assert [one.hold.part for one in gone.placed].count(double) == len(kinds)


def test_a_part_that_is_cut_takes_its_sounds_along_and_brings_them_back() -> None:
    timeline = in_episode()
    start, end = ends_of(timeline, 1)
    without = apply(timeline, Cut(start=start, frames=end - start))
    check_sounds(without)
    assert [clip.at for clip in on_sounds(without)] == [7 * SECOND]  # the one that holds to a time
    assert without.placed == timeline.placed
    back = apply(without, Restore(cut=without.cuts[-1].id))
    check_sounds(back)
    assert [t.clips for t in back.tracks if not t.held] == [
        t.clips for t in timeline.tracks if not t.held
    ]
    # Of an episode that was cut to its beginning nothing stays behind at its old time.
    short = apply(timeline, KeepOnly(start=0, frames=3 * SECOND))
    assert short.frames == max(3 * SECOND, 10 * SECOND)


def test_what_it_held_on_to_is_gone_and_it_keeps_to_its_time_and_says_so() -> None:
    timeline = in_episode()
    where = {one.id: spot_of(timeline, one) for one in timeline.placed}
    starts = tuple(
        SectionStart(id=s.id, at=s.at, name=s.name)
        for s in timeline.sections
        if s.id != timeline.sections[1].id
    )
    merged = apply(timeline, SetSections(sections=starts))
    check_sounds(merged)
    for one in merged.placed:
        spot, old = spot_of(merged, one), where[one.id]
        assert spot is not None
        assert old is not None
        assert (one.hold.kind, one.hold.lost) == ("time", one.id != timeline.placed[-1].id)
        assert spot.at == old.at
        assert ("keeps to its time" in spot.notice) == one.hold.lost


def test_without_words_it_holds_to_where_the_part_begins_and_says_so() -> None:
    timeline = four_tracks()
    part = timeline.sections[1].id
    for kind in ("before_talk", "after_talk", "between"):
        timeline = apply(timeline, placing(HoldOn(kind=kind, part=part), talk=None))
    start, end = ends_of(timeline, 1)
    spots = [spot_of(timeline, one) for one in timeline.placed]
    assert all(spot is not None and "No words are known" in spot.notice for spot in spots)
    assert [spot.at for spot in spots if spot] == [start - 3 * SECOND, end, end - 3 * SECOND // 2]
    heard = apply(timeline, HearTalk(talk=TALK))
    check_sounds(heard)


def test_a_sound_longer_than_the_room_before_it_begins_later_and_one_under_a_part_again() -> None:
    timeline = four_tracks()
    first = timeline.sections[0].id
    long = apply(timeline, placing(HoldOn(kind="before_talk", part=first), frames=5 * SECOND))
    (clip,) = on_sounds(long)
    assert (clip.at, clip.start, clip.frames) == (0, 5 * SECOND - SECOND // 2, SECOND // 2)
    spot = spot_of(long, long.placed[0])
    assert spot is not None
    assert "less room" in spot.notice
    again = apply(timeline, placing(HoldOn(kind="under", part=first), frames=4 * SECOND, start=9))
    assert [(c.at, c.start, c.frames) for c in on_sounds(again)] == [
        (0, 9, 4 * SECOND),
        (4 * SECOND, 9, 2 * SECOND),
    ]


def test_a_frame_of_sound_does_not_become_millions_of_clips() -> None:
    timeline = four_tracks()
    under = HoldOn(kind="under", part=timeline.sections[2].id)
    many = apply(timeline, placing(under, frames=1))
    assert len(on_sounds(many)) == MOST_REPEATS
    spot = spot_of(many, many.placed[0])
    assert spot is not None
    assert "too short" in spot.notice


def test_its_track_is_not_edited_by_hand_and_goes_with_the_last_of_them() -> None:
    timeline = in_episode()
    held = next(track for track in timeline.tracks if track.held)
    for edit in (
        MoveClip(track=held.id, at=held.clips[0].at, to_track=held.id, to=SECOND),
        SetEnvelope(track=held.id, points=(GainPoint(at=0, db=-3),)),
        Silence(tracks=(held.id,), start=held.clips[0].at, frames=SECOND),
    ):
        with pytest.raises(BadInput, match="hold on to the talk"):
            apply(timeline, edit)
    with pytest.raises(BadInput, match="Take them out in the Rundown"):
        apply(timeline, RemoveTrack(track=held.id))
    softer = apply(timeline, SetTrack(track=held.id, gain_db=-3.0))
    assert next(t for t in softer.tracks if t.held).gain_db == -3.0
    check_sounds(apply(softer, Silence(start=SECOND, frames=SECOND)))
    for one in softer.placed:
        softer = apply(softer, TakeSoundOut(sound=one.id))
        check_sounds(softer)
    assert not any(track.held for track in softer.tracks)


def test_let_go_it_sounds_the_same_and_can_be_edited() -> None:
    timeline = four_tracks()
    duck = Duck(12.0, SECOND // 4, SECOND // 4, SECOND // 4)
    hold = HoldOn(kind="under", part=timeline.sections[1].id)
    timeline = apply(timeline, placing(hold, duck=duck, fade_in=SECOND))
    (held,) = [t for t in timeline.tracks if t.held]
    free = apply(timeline, LetGo(sound=timeline.placed[0].id))
    check_sounds(free)
    assert not free.placed
    track = free.tracks[-1]
    assert (track.name, track.kind, track.held) == ("Bed", "music", False)
    assert list(track.clips) == list(held.clips)
    for at in range(held.clips[0].at, held.clips[-1].end, SECOND // 7):
        assert value_at(track.envelope, at) == pytest.approx(value_at(held.envelope, at))
    apply(free, SetEnvelope(track=track.id, points=()))


def test_what_does_not_fit_is_refused_in_a_sentence() -> None:
    timeline = in_episode()
    last = timeline.sections[-1].id
    for edit, sentence in (
        (placing(HoldOn(kind="under", part="s999")), "no longer in the episode"),
        (placing(HoldOn(kind="under")), "which part"),
        (placing(HoldOn(kind="time"), start=LENGTHS["m"] - SECOND), "not that long"),
        (placing(HoldOn(kind="between", part=last), alone_frames=SECOND), "No part comes after"),
        (ChangeSound(sound="p999", level_lu=-3), "no longer in the episode"),
        (ChangeSound(sound=timeline.placed[0].id, frames=10**9), "not that long"),
        (LetGo(sound="p999"), "no longer in the episode"),
    ):
        with pytest.raises(BadInput, match=sentence):
            apply(timeline, edit)


def test_a_change_keeps_what_is_not_told() -> None:
    timeline = in_episode()
    one = timeline.placed[0]
    after = apply(timeline, ChangeSound(sound=one.id, fade_in=SECOND, duck=Duck(9.0)))
    assert after.placed[0] == replace(one, fade_in=SECOND, duck=Duck(9.0))
    check_sounds(after)
    hold = HoldOn(kind="between", part=timeline.sections[0].id)
    moved = apply(after, ChangeSound(sound=one.id, hold=hold, duck=Duck(0.0)))
    assert moved.placed[0].hold == Hold("between", timeline.sections[0].id)
    assert moved.placed[0].duck is None
    check_sounds(moved)


class Beside:
    """What lies beside the document; the sound is at -20 LUFS and the voices are at -25."""

    def __init__(self, timeline: Timeline) -> None:
        self.timeline = timeline

    def numbered(self, take: str) -> int:
        return len(self.words(self.timeline).get(take, ()))

    def take_frames(self, take: str) -> int:
        return LENGTHS[take]

    def talk(self, timeline: Timeline) -> dict[str, Talk]:
        return TALK

    def loudness(self, timeline: Timeline, start: int, end: int) -> float | None:
        (kind, *_) = {track.kind for track in timeline.tracks}
        return -25.0 if kind == "voice" else -20.0


def test_its_level_and_the_talk_are_worked_out_when_it_is_placed() -> None:
    timeline = four_tracks()
    wanted = PlaceSound(
        take="m",
        take_frames=LENGTHS["m"],
        name="Bed",
        frames=SECOND,
        hold=HoldOn(kind="under", part=timeline.sections[0].id),
        level_lu=-18,
    )
    whole = complete(wanted, Beside(timeline), snap=False)
    assert whole.gain_db == -25 - 18 + 20
    assert whole.talk == TALK
    after = apply(timeline, whole)
    # It is known now, and not told again.
    assert complete(wanted, Beside(after), snap=False).talk is None
    louder = ChangeSound(sound=after.placed[0].id, level_lu=-12)
    assert complete(louder, Beside(after), snap=False).gain_db == -17
    only_name = ChangeSound(sound=after.placed[0].id, name="Quay")
    assert complete(only_name, Beside(after), snap=False).gain_db is None


def test_a_voice_that_is_set_otherwise_makes_its_level_old_and_one_press_new() -> None:
    timeline = four_tracks()
    for part in (timeline.sections[0].id, None):
        hold = HoldOn(kind="under", part=part) if part else HoldOn(kind="time", at=0)
        timeline = apply(timeline, placing(hold, level_lu=-18, frames=SECOND))
    assert not any(outdated(timeline, one) for one in timeline.placed)
    louder = apply(timeline, SetTrack(track=timeline.tracks[0].id, gain_db=6.0))
    assert all(outdated(louder, one) for one in louder.placed)
    again = complete(LevelSounds(), Beside(louder), snap=False)
    after = apply(louder, again)
    assert [one.gain_db for one in after.placed] == [-25 - 18 + 20] * 2
    assert not any(outdated(after, one) for one in after.placed)
    assert again.describe(louder) == "Set the level of 2 sounds again"
    with pytest.raises(BadInput, match="already"):
        complete(LevelSounds(), Beside(after), snap=False)
    with pytest.raises(BadInput, match="no longer"):
        apply(after, LevelSounds(gains={"nowhere": 0.0}))
    # A voice that comes untouched is none that was set otherwise, and music is no voice.
    music = next(t for t in after.tracks if t.kind == "music" and not t.held)
    for edit in (SetTrack(track=music.id, gain_db=3.0), SetSections(sections=PARTS)):
        assert not any(outdated(apply(after, edit), one) for one in after.placed)


PARTS = (SectionStart(at=0, name="Whole"),)


def test_the_talk_is_told_beside_an_edit_which_keeps_its_name() -> None:
    timeline = four_tracks()
    part = timeline.sections[0].id
    timeline = apply(timeline, placing(HoldOn(kind="before_talk", part=part), talk=None))
    cut = Cut(start=10 * SECOND, frames=SECOND)
    both = HearTalk(talk=TALK, edit=cut.model_dump(mode="json"))
    assert both.describe(timeline) == cut.describe(timeline)
    together, one_by_one = apply(timeline, both), apply(apply(timeline, HearTalk(talk=TALK)), cut)
    assert together.talk == one_by_one.talk == TALK
    assert [t.clips for t in together.tracks] == [t.clips for t in one_by_one.tracks]
    foreign = PlaceSound.model_validate({**placing(HoldOn(kind="time")).model_dump(), "take": "x"})
    hidden = HearTalk(talk=TALK, edit=foreign.model_dump(mode="json"))
    assert list(hidden.needs()) == list(foreign.needs())
    for odd in ({"kind": "no_such"}, {"kind": "cut"}, both.model_dump(mode="json")):
        with pytest.raises(BadInput, match="cannot be read"):
            apply(timeline, HearTalk(talk=TALK, edit=odd))


def twelve_sounds(rng: random.Random) -> Timeline:
    timeline = four_tracks()
    for number in range(12):
        kind = KINDS[number % len(KINDS)]
        part = rng.choice(timeline.sections).id
        hold = HoldOn(
            kind=kind,
            part=None if kind == "time" else part,
            offset=rng.randrange(-SECOND, SECOND) if kind.endswith("_talk") else 0,
            at=rng.randrange(timeline.frames),
        )
        duck = Duck(12.0, SECOND // 3, SECOND, SECOND) if number % 2 else None
        more = {"frames": rng.randrange(SECOND, 5 * SECOND), "start": rng.randrange(SECOND)}
        timeline = apply(timeline, placing(hold, duck=duck, fade_out=SECOND, **more))
    return timeline


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 2**32))
def test_after_any_edit_each_is_where_its_rule_says_and_the_history_makes_it_again(
    seed: int,
) -> None:
    rng = random.Random(seed)
    timeline = first = twelve_sounds(rng)
    check_sounds(timeline)
    made: list[Edit] = []
    for _ in range(25):
        edit = random_edit(timeline, rng)
        try:
            timeline = apply(timeline, edit)
        except BadInput:
            continue
        made.append(edit)
        check_sounds(timeline)
    again = TypeAdapter(Timeline).validate_json(TypeAdapter(Timeline).dump_json(first))
    assert again == first
    for edit in made:
        again = apply(again, TypeAdapter(Edit).validate_json(TypeAdapter(Edit).dump_json(edit)))
    assert again == timeline


def test_it_never_pumps_and_rises_as_it_is_set_to() -> None:
    """Depth, onset and release as set; a pause shorter than the hold changes nothing."""
    duck = Duck(14.0, attack=2_400, hold=24_000, release=48_000)
    talk = np.array([[100_000, 200_000], [220_000, 300_000], [500_000, 600_000]])
    points = ducked(talk, 0, 900_000, duck)
    assert value_at(points, 100_000) == -14.0
    assert value_at(points, 97_600) == 0.0
    assert all(value_at(points, at) == -14.0 for at in range(100_000, 324_000, 500))
    assert value_at(points, 324_000 + 48_000) == 0.0
    assert value_at(points, 324_000 + 24_000) == pytest.approx(-7.0)
    assert value_at(points, 500_000) == -14.0
    # Begun in the middle of talk it is down from its first frame on.
    assert ducked(talk, 150_000, 160_000, duck)[0].db == -14.0
