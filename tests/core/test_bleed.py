"""Words heard at two microphones in one room stand with who said them."""

import numpy as np
import pytest

from airtrim.core.speech.bleed import bled
from airtrim.core.timeline.words import Word

FRAME = 48


def said(text: str, begin_s: float) -> list[Word]:
    """A word every half second, 0.4 s long."""
    return [
        Word(
            one,
            round((begin_s + n / 2) * 48_000),
            round((begin_s + n / 2 + 0.4) * 48_000),
            "word",
            0.9,
        )
        for n, one in enumerate(text.split())
    ]


def levels(*spans: tuple[float, float, float]):
    """A level of −70 dBFS but between seconds for which another is told."""

    def level(start: int, end: int) -> float:
        power = [10 ** (db / 10) for a, b, db in spans if a * 48_000 <= start and end <= b * 48_000]
        return float(10 * np.log10(sum(power) + 1e-7))

    return level


HOST = "the boat leaves at six and comes back late"
GUEST = "we know all of that by heart"


@pytest.mark.parametrize("turned_up_db", [0.0, 15.0, -10.0])
def test_each_keeps_what_was_said_at_their_own(turned_up_db: float) -> None:
    """The host speaks for 4.5 s, then the guest; 14 dB softer at the other's microphone, whichever
    way the guest's is turned."""
    host_level = levels((0, 4.5, -20), (5, 9, -34))
    guest_level = levels((0, 4.5, -34 + turned_up_db), (5, 9, -20 + turned_up_db))
    at_host = [*said(HOST, 0), *said("we know all of that by hard", 5)]
    at_guest = [*said("the vote leaves at six and comes late", 0), *said(GUEST, 5)]
    softer = bled(at_host, host_level, at_guest, guest_level)
    assert softer <= set(range(9, 16))
    assert len(softer) >= 5
    theirs = bled(at_guest, guest_level, at_host, host_level)
    assert theirs <= set(range(8))
    assert len(theirs) >= 6


def test_two_who_speak_at_once_keep_their_words() -> None:
    loud = levels((0, 9, -20))
    assert bled(said(HOST, 0), loud, said(GUEST, 0), loud) == set()
    assert bled(said("yes yes", 0), loud, said("yes yes", 0), loud) == set()


def test_a_soft_word_that_nobody_else_says_stays() -> None:
    own = levels((0, 4.5, -20), (6, 7, -45))
    words = [*said(HOST, 0), *said("perhaps", 6.1)]
    assert bled(words, own, said(GUEST, 10), levels((10, 14, -20))) == set()
    assert bled(words, own, [], own) == set()
