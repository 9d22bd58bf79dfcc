"""What every kind of edit has to have, so that one new kind is one new class."""

import re

import pytest

from airtrim.core.timeline.edits import complete
from airtrim.core.timeline.edits.base import KINDS, EditBase
from airtrim.core.timeline.edits.cutting import Cut, Paste
from airtrim.core.timeline.edits.fields import Tone
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.room_tone import AddAir, Cover, SetAir
from airtrim.core.timeline.edits.snags import SpanToCover, Tidy
from airtrim.core.timeline.model import Span, Timeline
from airtrim.errors import BadInput
from tests.core.test_editing import SECOND, four_tracks


@pytest.mark.parametrize("kind", KINDS.values(), ids=KINDS)
def test_a_kind_says_what_it_does_and_what_it_is_called(kind: type[EditBase]) -> None:
    own = vars(kind)
    assert "apply" in own
    assert "describe" in own
    assert kind.__doc__
    name = kind.model_fields["kind"].default
    assert name == re.sub(r"(?<!^)(?=[A-Z])", "_", kind.__name__).lower()
    assert next(iter(kind.model_fields)) == "kind"


class Beside:
    """What lies beside a document, with a room tone for one take only."""

    def __init__(self, timeline: Timeline, room_tones: dict[str, Span]) -> None:
        self.timeline, self.room_tones = timeline, room_tones

    def timeline_at(self, revision: int) -> Timeline:
        return self.timeline

    def numbered(self, take: str) -> int:
        return len(self.words(self.timeline).get(take, ()))

    def take_frames(self, take: str) -> int:
        return 100 * SECOND if take in self.timeline.lengths else 0

    def words(self, timeline: Timeline) -> dict:
        return {}

    def talk(self, timeline: Timeline) -> dict:
        return {}

    def room_tone(self, take: str) -> Span | None:
        return self.room_tones.get(take)

    def loudness(self, timeline: Timeline, start: int, end: int) -> float | None:
        return -23.0


@pytest.fixture
def beside() -> Beside:
    timeline = four_tracks()
    (first, *_) = timeline.tracks[0].clips
    return Beside(timeline, {first.take: Span(first.take, SECOND, SECOND)})


def test_what_a_browser_leaves_open_is_filled_in(beside: Beside) -> None:
    track = beside.timeline.tracks[0].id
    cover = complete(Cover(track=track, start=SECOND, frames=SECOND), beside, snap=False)
    assert cover.tone == Tone(
        take=beside.timeline.tracks[0].clips[0].take, start=SECOND, frames=SECOND
    )
    tidy = complete(
        Tidy(covers=(SpanToCover(track=track, start=SECOND, frames=SECOND),)), beside, snap=False
    )
    assert tidy.covers[0].tone == cover.tone
    air = complete(AddAir(at=SECOND, frames=SECOND), beside, snap=False)
    assert air.tones is not None
    assert air.tones[track] == cover.tone
    wider = SetAir(start=SECOND, frames=SECOND, to_frames=2 * SECOND)
    assert complete(wider, beside, snap=False).tones == air.tones
    paste = complete(Paste(revision=1, start=0, frames=SECOND, at=0), beside, snap=False)
    assert paste.copied
    assert complete(Cut(start=0, frames=1), beside, snap=False) == Cut(start=0, frames=1)


def test_what_cannot_be_filled_in_is_refused(beside: Beside) -> None:
    beside.room_tones = {}
    with pytest.raises(BadInput, match="No room tone is known for"):
        complete(
            Cover(track=beside.timeline.tracks[0].id, start=0, frames=SECOND), beside, snap=False
        )
    with pytest.raises(BadInput, match="nothing to paste"):
        complete(Paste(revision=1, start=10**9, frames=1, at=0), beside, snap=False)


@pytest.mark.parametrize(
    "edit",
    [
        Place(take="elsewhere", take_frames=SECOND),
        Cover(track="t1", start=0, frames=1, tone=Tone(take="elsewhere", start=0, frames=1)),
        AddAir(at=0, frames=1, tones={"t1": Tone(take="elsewhere", start=0, frames=1)}),
    ],
)
def test_sound_of_another_episode_is_refused(beside: Beside, edit: EditBase) -> None:
    with pytest.raises(BadInput, match="no such recording"):
        complete(edit, beside, snap=False)
