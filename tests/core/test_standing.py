"""How far an episode is, and which step would be next. The order of the work is that of the
product's own pages; which step is named is our own rule."""

from typing import Any

import pytest

from airtrim.core.release.standing import Known, in_a_word, next_step, steps
from airtrim.core.timeline.tags import Tags

LABELLED = Tags(title="The ramp", show="Slow Crossing", artist="Tobin", episode=3)


def known(**more: Any) -> Known:
    return Known(**{"frames": 48_000, "tags": LABELLED, **more})


@pytest.mark.parametrize(
    ("facts", "name", "press"),
    [
        ({"frames": 0}, "recorded", "Record, or add a recording"),
        ({"transcribed": False, "writing": True}, "words", "See the words come"),
        ({"transcribed": False}, "words", "Write down the words"),
        ({"snags": 1}, "snags", "Go through 1 snag"),
        ({"snags": 12}, "snags", "Go through 12 snags"),
        ({}, "even", "Even out the loudness"),
        ({"even": False, "lufs": -22.0}, "even", "Even out the loudness"),
        ({"even": True, "tags": Tags(title="x")}, "labelled", "Complete the label"),
        ({"even": True}, "file", "Make the file"),
        ({"even": True, "behind": 2}, "file", "Make the file anew"),
        ({"even": True, "behind": 0}, "handed_over", "Hand it over"),
        ({"snags": 5, "behind": 0}, "handed_over", "Hand it over"),
        ({"snags": 5, "even": True, "tags": Tags()}, "labelled", "Complete the label"),
    ],
)
def test_the_next_step_is_the_first_after_what_a_host_finished(
    facts: dict[str, Any], name: str, press: str
) -> None:
    """Snags that were gone past are not asked for again."""
    step = next_step(steps(known(**facts)))
    assert step is not None
    assert (step.name, step.press) == (name, press)


def test_nothing_is_next_of_what_was_handed_over_until_it_is_changed() -> None:
    there = {"even": True, "handed_over": "Our own pages", "public": True}
    assert next_step(steps(known(**there, behind=0))) is None
    changed = next_step(steps(known(**there, behind=1)))
    assert changed is not None
    assert changed.name == "file"


def test_each_step_says_how_it_stands() -> None:
    found = steps(known(snags=2, even=False, lufs=-21.34, tags=Tags(title="x"), behind=3))
    assert [step.says for step in found] == [
        "Recorded",
        "Words written down",
        "2 snags left",
        "−21.3 LUFS, not even",
        "Label lacks number, show, who speaks",
        "File 3 edits behind",
        "Not handed over",
    ]


@pytest.mark.parametrize(
    ("facts", "says"),
    [
        ({"frames": 0}, "Nothing recorded yet"),
        ({"transcribed": False}, "No words yet"),
        ({}, "Being edited"),
        ({"behind": 0}, "File made"),
        ({"behind": 1, "handed_over": "Host"}, "Changed since its file was made"),
        ({"behind": 0, "handed_over": "Host"}, "Draft at Host"),
        ({"behind": 0, "handed_over": "Host", "public": True}, "Public at Host"),
    ],
)
def test_a_shelf_says_it_in_a_word(facts: dict[str, Any], says: str) -> None:
    assert in_a_word(known(**facts)) == says
