"""Setups: what an episode gives to the next, what waits there, and how it is filled."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from airtrim.core.timeline.chain import Chain, LowCut
from airtrim.core.timeline.edits import apply, complete
from airtrim.core.timeline.edits.placing import Record, RecordedTake
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.setups import DropRows, Fill, FillRows, StartFrom
from airtrim.core.timeline.edits.sounds import HoldOn, PlaceSound
from airtrim.core.timeline.edits.tracks import SetChain, SetTrack
from airtrim.core.timeline.holding import spot_of
from airtrim.core.timeline.model import Section, Span, Timeline
from airtrim.core.timeline.setup import Common, SetupTrack, matched, setup_of
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.talk import Talk
from airtrim.core.timeline.waiting import WaitingRow, WaitingSound
from airtrim.errors import BadInput
from tests.core.test_editing import SECOND, four_tracks
from tests.core.test_timeline import two_tracks

SPOKEN = [(2 * SECOND, 9 * SECOND), (31 * SECOND, 38 * SECOND)]
TALK = {"new": Talk.of_words(SPOKEN)}


class Beside:
    """What lies beside a document whose words are known."""

    def __init__(self, timeline: Timeline) -> None:
        self.timeline = timeline

    def timeline_at(self, revision: int) -> Timeline:
        return self.timeline

    def numbered(self, take: str) -> int:
        return len(self.words(self.timeline).get(take, ()))

    def take_frames(self, take: str) -> int:
        return self.timeline.lengths.get(take, 0)

    def words(self, timeline: Timeline) -> dict:
        return {}

    def talk(self, timeline: Timeline) -> dict[str, Talk]:
        return TALK

    def room_tone(self, take: str) -> Span | None:
        return None

    def loudness(self, timeline: Timeline, start: int, end: int) -> float | None:
        return -20.0


def opening(**more: object) -> WaitingSound:
    told = {
        "name": "Slipway", "take": "music", "take_frames": 18 * SECOND, "frames": 16 * SECOND,
        "holding": "before_talk", "offset": 8 * SECOND, "alone_frames": 8 * SECOND,
        "level_lu": -4.0, **more,
    }  # fmt: skip
    return WaitingSound.model_validate(told)


ROWS = (
    WaitingRow(id="r1", name="Opening", sounds=(opening(),)),
    WaitingRow(id="r2", name="Talk", sounds=(opening(name="Buoy", holding="between", offset=0,
                                                     alone_frames=16 * SECOND),)),
    WaitingRow(id="r3", name="Close", sounds=(opening(name="Low tide", holding="under", offset=0,
                                                      alone_frames=0),)),
)  # fmt: skip
COMMON = Common(
    tracks=(SetupTrack(name="Tobin", chain=Chain(low_cut=LowCut(on=True)), gain_db=-2.0),),
    layout="stereo",
    target_lufs=-14.0,
    tags=Tags(show="Slow Crossing", episode=8),
    wanted_frames=60 * SECOND,
)


def begun() -> Timeline:
    return apply(Timeline(), StartFrom(name="Weekly", common=COMMON, rows=ROWS))


def spoken(parts: int = 1) -> Timeline:
    take = RecordedTake(take="new", track_name="Tobin")
    timeline = apply(begun(), Record(takes=(take,), frames=40 * SECOND))
    starts = [SectionStart(at=n * 30 * SECOND // max(1, parts - 1), name=f"Part {n + 1}")
              for n in range(parts)]  # fmt: skip
    return apply(timeline, SetSections(sections=tuple(starts))) if parts > 1 else timeline


def test_an_empty_episode_begins_with_what_the_others_have() -> None:
    after = begun()
    assert [(t.name, t.gain_db, t.chain.low_cut.on) for t in after.tracks] == [
        ("Tobin", -2.0, True)
    ]
    assert (after.loudness.layout, after.loudness.target) == ("stereo", -14.0)
    assert after.tags.episode == 8
    assert [row.name for row in after.waiting] == ["Opening", "Talk", "Close"]
    assert len({row.id for row in after.waiting}) == 3
    assert after.frames == 0
    with pytest.raises(BadInput, match="empty"):
        apply(after, StartFrom(name="Again", common=COMMON))
    with pytest.raises(BadInput, match="empty"):
        apply(two_tracks(), StartFrom(name="Late", common=COMMON))


def test_what_is_recorded_goes_on_the_track_that_waits() -> None:
    after = spoken()
    assert [t.name for t in after.tracks] == ["Tobin"]
    assert after.tracks[0].chain.low_cut.on
    assert [row.name for row in after.waiting] == ["Opening", "Talk", "Close"]


def filled(timeline: Timeline) -> Timeline:
    pairs = matched(timeline.waiting, timeline.sections)
    fills = tuple(Fill(row=row, section=part) for row, part in pairs.items())
    edit = complete(FillRows(fills=fills), Beside(timeline), snap=False)
    return apply(timeline, edit)


def test_filled_the_sounds_are_where_the_setup_says() -> None:
    timeline = spoken(3)
    after = filled(timeline)
    assert [s.name for s in after.sections] == ["Opening", "Talk", "Close"]
    assert after.waiting == ()
    slipway, buoy, low_tide = after.placed
    # Eight seconds of music before the first word, which is 2 s into the take, and 8 s under it.
    spot = spot_of(after, slipway)
    first_word = next(c.at for c in after.tracks[0].clips if c.take == "new") + 2 * SECOND
    assert spot.at + spot.frames == first_word + 8 * SECOND
    assert spot.at == first_word - 8 * SECOND >= 0
    # Nobody speaks while the sound between two parts is heard.
    spot = spot_of(after, buoy)
    for start, end in SPOKEN:
        for clip in after.tracks[0].clips:
            low, high = max(start, clip.start), min(end, clip.start + clip.frames)
            if low < high:
                at = clip.at - clip.start
                assert spot.at + spot.frames <= at + low or at + high <= spot.at
    last = after.sections[-1]
    assert spot_of(after, low_tide).at == last.at


def test_one_part_is_opening_and_close_at_once_and_the_rest_waits() -> None:
    after = filled(spoken())
    assert [one.name for one in after.placed] == ["Slipway", "Low tide"]
    assert after.sections[0].name == "Whole episode", "two rows: it has neither's name"
    assert [row.name for row in after.waiting] == ["Talk"]
    # What is left is in the middle: it is not offered the only part as well.
    assert matched(after.waiting, after.sections) == {}


def test_a_sound_between_parts_waits_for_a_next_part() -> None:
    timeline = spoken()
    row = timeline.waiting[1]
    edit = FillRows(fills=(Fill(row=row.id, section=timeline.sections[0].id),))
    after = apply(timeline, complete(edit, Beside(timeline), snap=False))
    assert after.sections[0].name == "Talk"
    assert [one.name for one in after.waiting[1].sounds] == ["Buoy"]
    assert after.placed == ()


def test_a_row_is_done_without() -> None:
    timeline = spoken()
    edit = DropRows(rows=(timeline.waiting[0].id,))
    after = apply(timeline, edit)
    assert [row.name for row in after.waiting] == ["Talk", "Close"]
    assert edit.describe(timeline) == "Did without “Opening”"
    with pytest.raises(BadInput, match="does not wait"):
        apply(after, edit)


def test_an_episode_gives_what_others_can_have() -> None:
    timeline = four_tracks()
    timeline = apply(timeline, SetTrack(track=timeline.tracks[0].id, name="Tobin"))
    chain = Chain(low_cut=LowCut(on=True))
    timeline = apply(timeline, SetChain(track=timeline.tracks[0].id, chain=chain))
    talk = {"a": Talk.of_words([(SECOND, 2 * SECOND)])}
    for kind, more in (("under", {}), ("time", {"at": SECOND})):
        hold = HoldOn(kind=kind, part=None if kind == "time" else "s0", **more)
        place = PlaceSound(take="m", take_frames=9 * SECOND, name="Bed", frames=8 * SECOND,
                           hold=hold, gain_db=-3.0, level_lu=-18.0, talk=talk)  # fmt: skip
        timeline = apply(timeline, place)
    setup, left_out = setup_of(timeline, {"m": "ab" * 32}, None)
    assert left_out == 1, "what holds to a time is of this episode only"
    assert [row.name for row in setup.rows] == [s.name for s in timeline.sections]
    (sound,) = setup.rows[0].sounds
    assert (sound.sound, sound.holding, sound.level_lu) == ("ab" * 32, "under", -18.0)
    assert setup.tracks[0].name == "Tobin"
    assert setup.tracks[0].chain.low_cut.on
    assert not any(track.name == "Sounds" for track in setup.tracks)
    assert setup.tags.title == ""


@given(
    st.lists(st.sampled_from("abcde"), max_size=6), st.lists(st.sampled_from("abcdeF"), max_size=6)
)
@settings(max_examples=200, deadline=None)
def test_rows_are_matched_by_name_then_by_place(rows: list[str], parts: list[str]) -> None:
    waiting = tuple(
        WaitingRow(id=f"r{n}", name=name, opens=n == 0, closes=n == len(rows) - 1)
        for n, name in enumerate(rows)
    )
    sections = tuple(Section(f"s{n}", n, name) for n, name in enumerate(parts))
    found = matched(waiting, sections)
    names = {section.id: section.name for section in sections}
    assert set(found.values()) <= set(names)
    for row in waiting:
        if row.name in parts:
            assert names[found[row.id]] == row.name
    if waiting and sections:
        ends = {waiting[0].id: sections[0], waiting[-1].id: sections[-1]}
        for row, section in ends.items():
            own = next(w for w in waiting if w.id == row)
            if own.name not in parts and len(waiting) > 1:
                assert found[row] == section.id
