"""What every kind of snag keeps to, whichever it is."""

from typing import get_args

import pytest

from airtrim.core.media import FRAME_RATE
from airtrim.core.snags.base import Attempt, Do, Kind, Snag
from airtrim.core.snags.decide import Decision, decided
from airtrim.core.snags.kinds import KINDS
from airtrim.core.timeline.model import SnagKind
from airtrim.errors import BadInput

EVERY = pytest.mark.parametrize("kind", list(KINDS.values()), ids=list(KINDS))


def one_of(kind: Kind, does: Do, choices: tuple[Do, ...]) -> Snag:
    """A snag from 1 to 2 s, of which half a second would be cut."""
    second = FRAME_RATE
    attempts = (Attempt(second, 2 * second, "the boat"), Attempt(3 * second, 4 * second, "the"))
    span = (second, 2 * second, second, 2 * second)
    cut = (second, second + second // 2)
    return Snag(kind.kind, "t1", "a", *span, "x", 0.9, "why", does, choices, *cut, attempts)


def test_the_document_knows_them_all_and_they_are_listed_in_its_order() -> None:
    assert tuple(KINDS) == get_args(SnagKind)


@EVERY
def test_names_are_words_and_fit_a_sentence(kind: Kind) -> None:
    assert kind.one == kind.one.lower() != kind.many == kind.many.lower()
    assert kind.title[0].isupper()


@EVERY
def test_a_close_pass_goes_at_least_as_far_as_a_gentle_one(kind: Kind) -> None:
    if kind.gentle is not None:
        assert kind.close is not None
        assert 0 <= kind.close <= kind.gentle <= 1


@EVERY
def test_taking_one_out_cuts_within_what_is_its_own(kind: Kind) -> None:
    snag = one_of(kind, "cut", ("cut", "trim", "keep"))
    for do in snag.choices[:2]:
        spans = kind.cuts(snag, do, -1)
        assert spans
        assert all(FRAME_RATE <= start < end <= 4 * FRAME_RATE for start, end in spans)


@EVERY
def test_it_is_kept_and_the_history_says_so(kind: Kind) -> None:
    edit = decided([Decision(one_of(kind, "keep", ("keep",)), "keep")])
    assert [(one.kind, one.take) for one in edit.keep] == [(kind.kind, "a")]
    assert edit.name.startswith("Kept ")
    assert kind.one in edit.name


@EVERY
def test_what_cannot_be_done_about_it_is_refused_by_name(kind: Kind) -> None:
    with pytest.raises(BadInput, match=kind.one):
        decided([Decision(one_of(kind, "keep", ("keep",)), "cut")])
