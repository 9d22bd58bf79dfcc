"""What may be said in a phrase: its words in order, with or without a filler beside each.

A grammar is a finite-state graph. Before the word at a place is the state twice that place, or the
one after it where a filler came first.
"""

from collections.abc import Iterator, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from typing import Literal

FILLERS = {"um": "AH M", "uh": "AH"}
"""Fillers and the phones they are said with (ARPAbet)."""

FILLER_SIGN = "zz"
"""What tells a filler of the grammar from a word of the same name."""

Slot = tuple[Literal["before", "instead"], int]
"""Where a filler may stand: before a word, or instead of a doubtful one."""

Transition = tuple[int, int, float, str] | tuple[int, int, float]
"""From state, to state, weight, and the word that is said on the way, if any."""


@dataclass(frozen=True, slots=True)
class _Weights:
    """How likely what the recogniser did not write is, beside what it wrote (0–1)."""

    filler: float = 0.1
    """That a filler stands before a word."""
    misrecognised: float = 0.2
    """That a doubtful word is a filler."""
    missing: float = 0.1
    """That a word is not there at all."""


_WEIGHTS = _Weights()


@dataclass(frozen=True, slots=True)
class Token:
    """A dictionary word of a phrase, and which of the recogniser's words it is part of."""

    text: str
    word: int
    doubtful: bool
    """It may be a filler that the recogniser took for a word."""
    start: int
    end: int
    """Where the recogniser has the word, in frames of the take."""
    missing: bool = False
    """It may not be there at all."""

    @property
    def optional(self) -> bool:
        """Whether the phrase may be aligned without it."""
        return self.doubtful or self.missing


@dataclass(frozen=True, slots=True)
class Segment:
    """A word or filler that the decoder found: its hops from the start of the audio."""

    text: str
    start: int
    end: int


def transitions(tokens: Sequence[Token], closed: AbstractSet[Slot]) -> Iterator[Transition]:
    """The graph of a phrase, with no filler in the slots that are ``closed``."""
    fillers = [(FILLER_SIGN + name, 1 / len(FILLERS)) for name in FILLERS]
    for place, token in enumerate([*tokens, None]):
        here, after = 2 * place, 2 * place + 2
        open_here = ("before", place) not in closed
        plain = 1 / (1 + _WEIGHTS.filler) if open_here else 1.0
        if open_here:
            for name, share in fillers:
                yield here, here + 1, _WEIGHTS.filler * plain * share, name
        for state, weight in ((here, plain), (here + 1, 1.0)):
            if token is None:
                yield state, after, weight
                continue
            if token.doubtful and ("instead", place) not in closed:
                weight /= 1 + _WEIGHTS.misrecognised
                for name, share in fillers:
                    yield state, after, weight * _WEIGHTS.misrecognised * share, name
            yield state, after, weight, token.text
            if token.missing:
                yield state, after, weight * _WEIGHTS.missing
