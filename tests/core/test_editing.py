"""Every edit, over random histories on several tracks (Hypothesis): the document is never broken.

The invariants are the project's own (they stand in its architecture page): no clip over another, no
clip outside its take, tracks in sync under what acts on all of them, undo by going back.
"""

import random
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from airtrim.core.timeline.chain import Band, Chain, Noise
from airtrim.core.timeline.clips import Clip, Clips, joined
from airtrim.core.timeline.edits import Edit, apply
from airtrim.core.timeline.edits.clips import Join, MoveClip, SetClip, Split, TrimClip
from airtrim.core.timeline.edits.cutting import (
    CopiedTrack,
    Cut,
    CutAlone,
    CutMany,
    KeepOnly,
    Move,
    Paste,
)
from airtrim.core.timeline.edits.fields import SpanToCut, Tone
from airtrim.core.timeline.edits.gain import FadeSpan, GainPoint, GainSpan, SetEnvelope
from airtrim.core.timeline.edits.loudness import EvenOut
from airtrim.core.timeline.edits.markers import AddMarker, ChangeMarker
from airtrim.core.timeline.edits.parts import (
    BringBack,
    DuplicatePart,
    MovePart,
    PutAside,
    ThrowAway,
)
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.restoring import MoveEdges, Restore, RestoreAll, SetSplice
from airtrim.core.timeline.edits.room_tone import AddAir, Cover, SetAir, Silence, Uncover
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.tracks import (
    AddTrack,
    OrderTracks,
    RemoveTrack,
    SetChain,
    SetTrack,
)
from airtrim.core.timeline.envelope import Point, value_at
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tone import is_tone
from airtrim.errors import BadInput

SECOND = 48_000
LENGTHS = {"a": 20 * SECOND, "g": 12 * SECOND, "b": 8 * SECOND, "m": 30 * SECOND}
TONE = Tone(take="a", start=SECOND, frames=SECOND)
_TIMELINE = TypeAdapter(Timeline)


def four_tracks() -> Timeline:
    """Host, guest, a second take of the host, music under all of it."""
    timeline = Timeline()
    for take, track, kind, at in (
        ("a", "Host", "voice", 0),
        ("g", "Guest", "voice", 4 * SECOND),
        ("b", "Host", "voice", 22 * SECOND),
        ("m", "Music", "music", SECOND),
    ):
        timeline = apply(
            timeline,
            Place(take=take, take_frames=LENGTHS[take], track_name=track, track_kind=kind, at=at),
        )
    timeline = apply(timeline, AddTrack(name="Spare"))
    starts = tuple(SectionStart(at=at * SECOND) for at in (0, 6, 15, 25))
    return apply(timeline, SetSections(sections=starts))


def check(timeline: Timeline) -> None:
    """All that has to hold of a document at any time."""
    for track in timeline.tracks:
        for clip in track.clips:
            assert clip.frames > 0
            assert clip.at >= 0
            assert clip.start >= 0
            assert clip.fade_in >= 0
            assert clip.fade_out >= 0
            if not is_tone(clip.take):
                assert clip.start + clip.frames <= LENGTHS[clip.take]
        for left, right in pairwise(track.clips):
            assert left.end <= right.at
        assert [p.at for p in track.envelope] == sorted(p.at for p in track.envelope)
        assert all(-72 <= p.db <= 24 and 0 <= p.at <= 24 * 3600 * SECOND for p in track.envelope)
    starts = [s.at for s in timeline.sections]
    assert starts == sorted(set(starts))
    assert starts[0] == 0
    assert all(at == 0 or at < timeline.frames for at in starts)
    assert len({s.id for s in timeline.sections}) == len(starts)
    assert len({one.section.id for one in timeline.aside}) == len(timeline.aside)
    marks = [c.at for c in timeline.cuts]
    assert marks == sorted(marks)
    assert all(at >= 0 for at in marks)  # beyond the end where a pause stood before what was cut
    assert len({c.id for c in timeline.cuts}) == len(marks)
    places = [m.at for m in timeline.markers]
    assert places == sorted(places)
    assert all(at >= 0 for at in places)


def random_edit(timeline: Timeline, rng: random.Random) -> Edit:
    """Any edit of the Page, with values that mostly fit and sometimes do not."""
    total = timeline.frames
    grid = rng.choice([1, 480, SECOND // 2])

    def frame() -> int:
        return rng.randint(0, (total + SECOND) // grid) * grid

    start = frame()
    frames = max(1, rng.choice([rng.randint(1, 3 * SECOND), SECOND, grid]))
    track = rng.choice(timeline.tracks) if timeline.tracks else None
    name = track.id if track else "none"
    clip = rng.choice(list(track.clips)) if track and len(track.clips) else None
    at = clip.at if clip else start
    cut = rng.choice(list(timeline.cuts)).id if len(timeline.cuts) else 99
    tones = {t.id: TONE for t in timeline.tracks if t.kind == "voice"}
    some = tuple(rng.sample([t.id for t in timeline.tracks], rng.randint(0, len(timeline.tracks))))
    marker = rng.choice(timeline.markers).id if timeline.markers else "none"
    shape = rng.choice(["round", "straight", "soft"])
    end = min(start + frames, total)
    copy = tuple(
        CopiedTrack(track=t.id, clips=tuple(edits_copy(timeline, t.id, start, end)))
        for t in timeline.tracks
        if end > start
    )
    part, other = (rng.choice(timeline.sections).id for _ in range(2))
    loose = rng.choice(timeline.aside).section.id if timeline.aside else "none"
    starts = {0, *(rng.randint(0, max(0, total - 1)) for _ in range(3))}
    return rng.choice(
        [
            lambda: Cut(start=start, frames=frames),
            lambda: Cut(start=start, frames=frames, crossfade_frames=rng.choice([0, 480, 4800])),
            lambda: CutMany(spans=tuple(SpanToCut(start=frame(), frames=frames) for _ in range(3))),
            lambda: Restore(cut=cut),
            lambda: RestoreAll(start=start, frames=frames),
            lambda: MoveEdges(
                cut=cut,
                left=rng.randint(-SECOND, SECOND),
                right=rng.randint(-SECOND, SECOND),
            ),
            lambda: KeepOnly(start=start, frames=frames * 8),
            lambda: CutAlone(track=name, start=start, frames=frames),
            lambda: Silence(tracks=some, start=start, frames=frames),
            lambda: Cover(track=name, start=start, frames=frames, tone=TONE),
            lambda: Uncover(track=name, at=at),
            lambda: AddAir(at=start, frames=frames, tones=tones),
            lambda: SetAir(
                start=start, frames=frames, to_frames=rng.randint(1, SECOND), tones=tones
            ),
            lambda: Move(start=start, frames=frames, to=frame()),
            lambda: Paste(revision=0, start=start, frames=frames, at=frame(), copied=copy),
            lambda: GainSpan(
                tracks=some,
                start=start,
                frames=frames,
                by_db=rng.choice([rng.uniform(-20, 10), 24.0, -60.0]),
            ),
            lambda: SetEnvelope(
                track=name,
                points=tuple(
                    GainPoint(at=frame(), db=rng.uniform(-20, 5), shape=shape) for _ in range(4)
                ),
            ),
            lambda: FadeSpan(
                tracks=some, start=start, frames=frames, inwards=rng.random() < 0.5, shape=shape
            ),
            lambda: Split(at=start, tracks=some),
            lambda: Join(start=start, frames=frames),
            lambda: MoveClip(
                track=name, at=at, to_track=rng.choice(timeline.tracks).id, to=frame()
            ),
            lambda: TrimClip(track=name, at=at, start=frame(), end=frame()),
            lambda: SetClip(track=name, at=at, fade_in=frames, gain_db=-3.0, shape_out=shape),
            lambda: SetSplice(at=at, crossfade_frames=rng.choice([0, 960]), shape=shape),
            lambda: AddMarker(at=start, name="m"),
            lambda: ChangeMarker(marker=marker, at=frame()),
            lambda: SetTrack(track=name, gain_db=-2.0, muted=True),
            lambda: SetChain(
                track=name,
                chain=Chain(
                    noise=Noise(rng.random() < 0.5, rng.random()),
                    bands=(Band("peak", rng.uniform(50, 9000), rng.uniform(-6, 6)),),
                ),
            ),
            lambda: OrderTracks(tracks=tuple(t.id for t in reversed(timeline.tracks))),
            lambda: SetSections(sections=tuple(SectionStart(at=s) for s in sorted(starts))),
            lambda: MovePart(section=part, before=rng.choice([other, None])),
            lambda: DuplicatePart(section=part),
            lambda: PutAside(section=part),
            lambda: BringBack(section=loose, before=rng.choice([other, None])),
            lambda: ThrowAway(section=loose),
        ]
    )()


def edits_copy(timeline: Timeline, track: str, start: int, end: int) -> list[Clip]:
    from airtrim.core.timeline.cutting import copied

    piece = copied(timeline, start, end)
    return list(piece.clips[piece.tracks.index(track)])


@given(st.integers(0, 2**32))
@settings(max_examples=60, deadline=None)
def test_no_history_breaks_the_document(seed: int) -> None:
    rng = random.Random(seed)
    timeline = four_tracks()
    for _ in range(25):
        edit = random_edit(timeline, rng)
        try:
            after = apply(timeline, edit)
        except BadInput:
            continue
        check(after)
        assert edit.describe(timeline)
        timeline = after
    again = _TIMELINE.validate_json(_TIMELINE.dump_json(timeline))
    assert again == timeline, "a snapshot is not what was kept"


@given(st.integers(0, 2**32))
@settings(max_examples=30, deadline=None)
def test_a_cut_put_back_at_once_leaves_all_as_it_was(seed: int) -> None:
    rng = random.Random(seed)
    timeline = four_tracks()
    for _ in range(12):
        try:
            timeline = apply(timeline, random_edit(timeline, rng))
        except BadInput:
            continue
    start = rng.randint(0, max(0, timeline.frames - 1))
    cut = Cut(start=start, frames=rng.randint(1, 4 * SECOND))
    if timeline.frames == 0:
        return
    after = apply(timeline, cut)
    back = apply(after, Restore(cut=timeline.next_id))
    assert [t.clips for t in back.tracks] == [t.clips for t in timeline.tracks]
    assert [t.envelope for t in back.tracks] == [t.envelope for t in timeline.tracks]
    assert back.sections == timeline.sections
    assert back.cuts == timeline.cuts
    assert {m.id: m.at for m in back.markers} == {m.id: m.at for m in timeline.markers}


def sources(timeline: Timeline, frame: int) -> list[tuple[str, int] | None]:
    """What sounds on each track at a frame."""
    out: list[tuple[str, int] | None] = []
    for track in timeline.tracks:
        near = track.clips.between(frame, frame + 1)
        found = (near[0].take, near[0].start + frame - near[0].at) if len(near) else None
        out.append(found)
    return out


def test_moving_a_span_takes_every_track_along() -> None:
    before = four_tracks()
    after = apply(before, Move(start=10 * SECOND, frames=2 * SECOND, to=SECOND))
    assert after.frames == before.frames
    for offset in (0, SECOND, 2 * SECOND - 1):
        assert sources(after, SECOND + offset) == sources(before, 10 * SECOND + offset)
    for frame in (0, SECOND - 1, 12 * SECOND, 20 * SECOND):
        assert sources(after, frame) == sources(before, frame)
    assert sources(after, 3 * SECOND) == sources(before, SECOND)


def test_keeping_only_a_span_cuts_both_sides() -> None:
    before = four_tracks()
    after = apply(before, KeepOnly(start=5 * SECOND, frames=4 * SECOND))
    assert after.frames == 4 * SECOND
    assert sources(after, SECOND) == sources(before, 6 * SECOND)
    assert len(after.cuts) == 2
    whole = apply(after, RestoreAll(start=0, frames=after.frames))
    assert [t.clips for t in whole.tracks] == [t.clips for t in before.tracks]


def test_a_cover_keeps_the_timing_and_the_other_tracks() -> None:
    before = four_tracks()
    host = before.tracks[0].id
    after = apply(before, Cover(track=host, start=5 * SECOND, frames=SECOND, tone=TONE))
    assert after.frames == before.frames
    assert after.tracks[1:] == before.tracks[1:]
    covered = after.tracks[0].clips.between(5 * SECOND, 6 * SECOND)
    assert len(covered) == 1
    assert is_tone(covered[0].take)
    assert apply(after, Uncover(track=host, at=5 * SECOND)).tracks == before.tracks


def test_two_covers_are_not_the_same_stretch_of_room_tone() -> None:
    timeline = four_tracks()
    for start in (5, 9):
        cover = Cover(track=timeline.tracks[0].id, start=start * SECOND, frames=SECOND, tone=TONE)
        timeline = apply(timeline, cover)
    names = [c.take for c in timeline.tracks[0].clips if is_tone(c.take)]
    assert len(set(names)) == 2


def test_air_is_set_to_a_length_either_way() -> None:
    before = four_tracks()
    tones = {before.tracks[0].id: TONE}
    air = {"start": 10 * SECOND, "frames": 4 * SECOND}
    shorter = apply(before, SetAir(**air, to_frames=round(0.6 * SECOND)))
    assert before.frames - shorter.frames == round(3.4 * SECOND)
    longer = apply(before, SetAir(**air, to_frames=5 * SECOND, tones=tones))
    assert longer.frames - before.frames == SECOND
    assert is_tone(sources(longer, 12 * SECOND + 100)[0][0])


def test_a_clip_laid_over_another_becomes_a_crossfade() -> None:
    timeline = apply(Timeline(), Place(take="a", take_frames=LENGTHS["a"], track_name="Host"))
    timeline = apply(
        timeline, Place(take="b", take_frames=LENGTHS["b"], track_name="Host", at=25 * SECOND)
    )
    host = timeline.tracks[0].id
    moved = apply(timeline, MoveClip(track=host, at=25 * SECOND, to_track=host, to=19 * SECOND))
    left, right = moved.tracks[0].clips
    assert left.end == right.at == 19 * SECOND + SECOND // 2
    assert right.fade_in == SECOND
    assert right.start == SECOND // 2
    with pytest.raises(BadInput, match="whole clip"):
        apply(timeline, MoveClip(track=host, at=25 * SECOND, to_track=host, to=3 * SECOND))


def test_the_edges_of_a_cut_move_and_give_back_what_was_cut() -> None:
    before = four_tracks()
    cut = apply(before, Cut(start=5 * SECOND, frames=2 * SECOND))
    number = cut.cuts[0].id
    moved = apply(cut, MoveEdges(cut=number, left=480, right=-4800))
    assert moved.cuts[0].id == number
    assert moved.cuts[0].at == 5 * SECOND + 480
    assert moved.cuts[0].piece.frames == 2 * SECOND - 480 - 4800
    assert sources(moved, 5 * SECOND + 479) == sources(before, 5 * SECOND + 479)
    assert sources(moved, 5 * SECOND + 480) == sources(before, 7 * SECOND - 4800)


def test_gain_over_a_span_has_ramps_outside_it() -> None:
    timeline = four_tracks()
    host = timeline.tracks[0].id
    span = {"start": 5 * SECOND, "frames": SECOND}
    louder = apply(timeline, GainSpan(tracks=(host,), **span, by_db=6.0, ramp_frames=4800))
    points = louder.tracks[0].envelope
    assert [(p.at - 5 * SECOND, p.db) for p in points] == [
        (-4800, 0.0),
        (0, 6.0),
        (SECOND, 6.0),
        (SECOND + 4800, 0.0),
    ]
    back = apply(louder, GainSpan(tracks=(host,), **span, by_db=-6.0, ramp_frames=4800))
    assert back.tracks == timeline.tracks


def test_the_gain_on_either_side_of_a_cut_stays_as_it_was() -> None:
    timeline = four_tracks()
    host = timeline.tracks[0].id
    points = (GainPoint(at=2 * SECOND, db=0), GainPoint(at=12 * SECOND, db=-10))
    sloping = apply(timeline, SetEnvelope(track=host, points=points))
    cut = apply(sloping, Cut(start=5 * SECOND, frames=2 * SECOND))
    envelope = cut.tracks[0].envelope
    assert value_at(envelope, 4 * SECOND) == pytest.approx(-2.0)
    assert value_at(envelope, 5 * SECOND, before=True) == pytest.approx(-3.0)
    assert value_at(envelope, 5 * SECOND) == pytest.approx(-5.0)
    assert value_at(envelope, 8 * SECOND) == pytest.approx(-8.0)


def test_soft_points_go_slowly_at_both_ends() -> None:
    soft = (Point(0, 0.0, "soft"), Point(100, -10.0))
    assert value_at(soft, 50) == pytest.approx(-5.0)
    assert value_at(soft, 10) > -1.0 > value_at((Point(0, 0.0), Point(100, -10.0)), 15)


def test_a_split_stays_until_it_is_joined() -> None:
    before = four_tracks()
    parted = apply(before, Split(at=8 * SECOND))
    assert len(parted.tracks[0].clips) == len(before.tracks[0].clips) + 1
    cut = apply(parted, Cut(start=3 * SECOND, frames=SECOND))
    back = apply(cut, Restore(cut=cut.cuts[0].id))
    assert [t.clips for t in back.tracks] == [t.clips for t in parted.tracks]
    assert apply(parted, Join(start=7 * SECOND, frames=2 * SECOND)).tracks == before.tracks


def test_tracks_are_renamed_and_deleted_with_what_is_on_them() -> None:
    timeline = four_tracks()
    music = next(t for t in timeline.tracks if t.kind == "music")
    named = apply(timeline, SetTrack(track=music.id, name="Sting", colour="rose"))
    assert named.track(music.id).name == "Sting"
    with pytest.raises(BadInput, match="already"):
        apply(named, SetTrack(track=music.id, name="Host"))
    without = apply(timeline, RemoveTrack(track=music.id))
    assert [t.name for t in without.tracks] == ["Host", "Guest", "Spare"]
    check(without)


def test_a_moved_boundary_keeps_its_section_and_gain() -> None:
    timeline = four_tracks()
    timeline = apply(timeline, EvenOut(section_gains_db=(1, 2, 3, 4), gain_db=0))
    second = timeline.sections[1]
    starts = [SectionStart(id=s.id, at=s.at, name=s.name) for s in timeline.sections]
    starts[1] = SectionStart(id=second.id, at=second.at + SECOND, name="Quay")
    moved = apply(timeline, SetSections(sections=tuple(starts)))
    assert [s.gain_db for s in moved.sections] == [1, 2, 3, 4]
    assert moved.sections[1].name == "Quay"


@pytest.mark.parametrize(
    "values",
    [
        {"kind": "cut", "start": -1, "frames": 5},
        {"kind": "cut", "start": 0, "frames": -5},
        {"kind": "cut", "start": 0, "frames": 10**15},
        {"kind": "cut", "start": float("nan"), "frames": 5},
        {"kind": "gain_span", "start": 0, "frames": 5, "by_db": float("nan")},
        {"kind": "gain_span", "start": 0, "frames": 5, "by_db": float("inf")},
        {"kind": "set_track", "track": "t1", "gain_db": float("nan")},
        {"kind": "set_envelope", "track": "t1", "points": [{"at": 0, "db": float("nan")}]},
        {"kind": "add_air", "at": 0, "frames": -1},
        {"kind": "move", "start": 0, "frames": 1, "to": -1},
    ],
)
def test_values_that_cannot_be_are_no_edit(values: dict) -> None:
    with pytest.raises(ValidationError):
        TypeAdapter(Edit).validate_python(values)


@pytest.mark.parametrize(
    "edit",
    [
        Cut(start=900 * SECOND, frames=5),
        Move(start=0, frames=SECOND, to=SECOND // 2),
        KeepOnly(start=0, frames=900 * SECOND),
        Cover(track="t1", start=900 * SECOND, frames=5, tone=TONE),
        Silence(tracks=("t99",), start=0, frames=5),
        Paste(revision=0, start=0, frames=5, at=0, copied=()),
        MoveClip(track="t1", at=5, to_track="t1", to=0),
        TrimClip(track="t1", at=0, start=SECOND, end=SECOND),
        OrderTracks(tracks=("t1",)),
        SetSplice(at=77, crossfade_frames=5),
        Join(start=0, frames=SECOND),
        Uncover(track="t1", at=SECOND),
        RestoreAll(start=0, frames=SECOND),
    ],
)
def test_what_cannot_be_done_is_refused_with_a_sentence(edit: Edit) -> None:
    with pytest.raises(BadInput, match=r"\.$"):
        apply(four_tracks(), edit)


def test_clips_are_a_sequence_of_values() -> None:
    clips = Clips([Clip("a", 0, 5, 0), Clip("b", 2, 5, 5, shape_in="soft")])
    assert list(joined(clips[:1], clips[1:])) == list(clips)
    assert clips.moved(7)[1].at == 12
    assert clips == joined([clips[0]], Clips([Clip("b", 2, 5, 5, shape_in="soft")]))
    assert clips != clips.moved(1)
    assert clips.between(4, 6) == clips
    assert len(clips.between(10, 11)) == 0
