"""What a document may hold, kept by every edit; the limits are the project's own."""

from dataclasses import replace

import pytest
from pydantic import TypeAdapter, ValidationError

from airtrim.core.timeline.bounds import MOST_FRAMES, brought_within
from airtrim.core.timeline.edits import Edit, apply, replay
from airtrim.core.timeline.edits.cutting import Paste
from airtrim.core.timeline.edits.gain import GainSpan
from airtrim.core.timeline.edits.loudness import EvenOut
from airtrim.core.timeline.edits.placing import Place, Record, RecordedTake
from airtrim.core.timeline.edits.room_tone import AddAir
from airtrim.core.timeline.edits.snags import SpanToLevel, Tidy
from airtrim.core.timeline.envelope import Point
from airtrim.core.timeline.model import Timeline
from airtrim.errors import BadInput

SECOND = 48_000
HOUR = 3600 * SECOND
_EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)


def one_take(frames: int = 60 * SECOND) -> Timeline:
    return apply(Timeline(), Place(take="a", take_frames=frames))


def louder(timeline: Timeline, times: int) -> Timeline:
    for _ in range(times):
        timeline = apply(timeline, GainSpan(start=SECOND, frames=SECOND, by_db=1.0))
    return timeline


def test_a_gain_goes_up_to_24_db_and_no_further() -> None:
    at_the_top = louder(one_take(), 24)
    assert max(p.db for p in at_the_top.tracks[0].envelope) == 24.0
    with pytest.raises(BadInput, match=r"\+25.0 dB there; it goes up to \+24 dB"):
        louder(at_the_top, 1)


def test_a_dip_made_twice_ends_at_the_floor() -> None:
    dip = GainSpan(start=SECOND, frames=SECOND, by_db=-60.0)
    twice = apply(apply(one_take(), dip), dip)
    assert min(p.db for p in twice.tracks[0].envelope) == -72.0


def test_tidying_levels_stops_at_the_top_and_settles_the_rest() -> None:
    timeline = one_take()
    level = SpanToLevel(track=timeline.tracks[0].id, start=SECOND, frames=SECOND, by_db=20.0)
    edit = Tidy(levels=(level, level), cuts=())
    assert max(p.db for p in apply(timeline, edit).tracks[0].envelope) == 24.0


def test_no_episode_grows_over_a_day_and_one_that_did_can_be_shortened() -> None:
    timeline = one_take(12 * HOUR)
    copy = Paste(revision=1, start=0, frames=12 * HOUR, at=0, copied=None)
    from airtrim.core.timeline.edits.cutting import CopiedTrack, Cut

    part = CopiedTrack(track=timeline.tracks[0].id, clips=tuple(timeline.tracks[0].clips))
    full = apply(timeline, copy.model_copy(update={"copied": (part,)}))
    assert full.frames == MOST_FRAMES
    with pytest.raises(BadInput, match="24 hours"):
        apply(full, AddAir(at=0, frames=SECOND, tones={}))
    beyond = replay(full, AddAir(at=0, frames=10 * SECOND, tones={}))
    assert beyond.frames > MOST_FRAMES
    assert apply(beyond, Cut(start=0, frames=SECOND)).frames == beyond.frames - SECOND


def test_a_stored_gain_over_the_top_is_held_there_and_told() -> None:
    at_the_top = louder(one_take(), 24)
    opened = replay(at_the_top, GainSpan(start=SECOND, frames=SECOND, by_db=1.0))
    assert max(p.db for p in opened.tracks[0].envelope) == 24.0
    assert opened.notices[0].startswith("A gain of +25.0 dB on “Voice” at 0:01.0")


def test_a_kept_document_over_the_top_is_held_there_and_told() -> None:
    timeline = one_take()
    (track,) = timeline.tracks
    loud = replace(track, envelope=(Point(0, 30.0), Point(SECOND, 0.0)))
    found = brought_within(replace(timeline, tracks=(loud,)))
    assert found.tracks[0].envelope[0].db == 24.0
    assert len(found.notices) == 1


@pytest.mark.parametrize("number", [float("nan"), float("inf"), -float("inf")])
def test_no_edit_takes_a_number_that_is_not_finite(number: float) -> None:
    with pytest.raises(ValidationError):
        EvenOut(section_gains_db=(number,), gain_db=0.0)
    with pytest.raises(ValidationError):
        EvenOut(section_gains_db=(0.0,), gain_db=number)
    with pytest.raises(ValidationError):
        RecordedTake(take="a", track_name="Voice", gain_db=number)


def test_every_number_of_every_edit_is_bounded() -> None:
    """Read off the schema that the edits have, so that a new one cannot be forgotten."""
    schema = _EDIT.json_schema()
    unbounded = []

    def look(node: object, path: str) -> None:
        if isinstance(node, dict):
            low = {"minimum", "exclusiveMinimum"} & node.keys()
            high = {"maximum", "exclusiveMaximum"} & node.keys()
            if node.get("type") in ("integer", "number") and not (low and high):
                unbounded.append(path)
            for key, value in node.items():
                if key != "default":
                    look(value, f"{path}.{key}")
        elif isinstance(node, list):
            for value in node:
                look(value, path)

    look(schema["$defs"], "")
    # What was copied is put in by the server, from a document that is within its bounds.
    assert [path for path in unbounded if ".CopiedTrack" not in path and ".Clip." not in path
            and ".Point." not in path] == []  # fmt: skip


def test_a_recording_cannot_claim_more_than_a_day() -> None:
    take = RecordedTake(take="a", track_name="Voice")
    with pytest.raises(ValidationError):
        Record(takes=(take,), frames=2**63)
