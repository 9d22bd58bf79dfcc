"""What may be said in a phrase: its words in order.

A grammar is a finite-state graph; before the word at a place is the state of that number.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

Transition = tuple[int, int, float, str] | tuple[int, int, float]
"""From state, to state, weight, and the word that is said on the way, if any."""

_MISSING = 0.1
"""How likely it is (0–1) that a word which may not be there is not."""


@dataclass(frozen=True, slots=True)
class Token:
    """A dictionary word of a phrase, and which of the recogniser's words it is part of."""

    text: str
    word: int
    start: int
    end: int
    """Where the recogniser has the word, in frames of the take."""
    optional: bool = False
    """It may not be there: the recogniser wrote it for a filler."""


@dataclass(frozen=True, slots=True)
class Segment:
    """A word that the decoder found: its hops from the start of the audio."""

    text: str
    start: int
    end: int


def transitions(tokens: Sequence[Token]) -> Iterator[Transition]:
    """The graph of a phrase."""
    for place, token in enumerate(tokens):
        yield place, place + 1, 1.0, token.text
        if token.optional:
            yield place, place + 1, _MISSING
