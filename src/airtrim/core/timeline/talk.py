"""Where somebody speaks, as the document knows it: spans of takes, kept as columns of numbers.

A sound that holds on to the talk is laid anew after every edit, also when a history is read again
years later; so the document keeps where the words were, whatever becomes of the words.
"""

from collections.abc import Iterable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.clips import Clips

Spans = NDArray[np.int64]
"""Rows of first frame and first frame after, in order, none over another."""

BREATH_FRAMES = FRAME_RATE // 20
"""Words less than 50 ms apart are one stretch of talk."""

SLIVER_FRAMES = FRAME_RATE // 12
"""The edges of a cut settle within 30 ms of where a word ends: less than 83 ms of a word that is
cut through is what that left of it."""

MOST_STRETCHES = 200_000
"""In one take; a day of speech has about half as many words (common practice: 150 a minute)."""


class Talk:
    """The stretches of a take in which somebody speaks. Immutable."""

    __slots__ = ("_spans",)

    def __init__(self, spans: Iterable[Sequence[int]] = ()) -> None:
        self._spans = joined(np.array([tuple(s) for s in spans], np.int64).reshape(-1, 2), 0)

    @classmethod
    def of_words(cls, words: Iterable[tuple[int, int]]) -> "Talk":
        """Of words as spans of the take.

        >>> list(Talk.of_words([(0, 4800), (5000, 9600), (48000, 52800)]))
        [(0, 9600), (48000, 52800)]
        """
        made = cls.__new__(cls)
        made._spans = joined(np.array(list(words), np.int64).reshape(-1, 2), BREATH_FRAMES)
        return made

    def __len__(self) -> int:
        return len(self._spans)

    def __iter__(self) -> Iterator[tuple[int, int]]:
        return ((start, end) for start, end in self._spans.tolist())

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Talk):
            return NotImplemented
        return np.array_equal(self._spans, other._spans)

    __hash__ = None  # type: ignore[assignment]

    def __repr__(self) -> str:
        return f"Talk({list(self)!r})"

    def heard_in(self, starts: Spans, frames: Spans, at: Spans) -> Spans:
        """Where it sounds on the timeline, in clips of the take given as columns, within them. What
        an edge left of a word, less than ``SLIVER_FRAMES``, is no talk."""
        first = np.searchsorted(self._spans[:, 1], starts, side="right")
        last = np.searchsorted(self._spans[:, 0], starts + frames, side="left")
        counts = np.maximum(last - first, 0)
        clip = np.repeat(np.arange(len(starts)), counts)
        before = np.concatenate(([0], np.cumsum(counts)[:-1])) if len(counts) else counts
        which = first[clip] + np.arange(len(clip)) - before[clip]
        later = (at - starts)[clip][:, None]
        spans = self._spans[which] + later
        within = np.clip(spans, at[clip][:, None], (at + frames)[clip][:, None])
        whole = (within == spans).all(axis=1)
        return np.asarray(within[whole | (within[:, 1] - within[:, 0] >= SLIVER_FRAMES)])

    @classmethod
    def __get_pydantic_core_schema__(
        cls, source: object, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        plain = core_schema.list_schema(
            core_schema.tuple_schema([core_schema.int_schema(ge=0, lt=2**53)] * 2),
            max_length=MOST_STRETCHES,
        )
        return core_schema.no_info_after_validator_function(
            lambda spans: spans if isinstance(spans, cls) else cls(spans),
            core_schema.union_schema([core_schema.is_instance_schema(cls), plain]),
            serialization=core_schema.plain_serializer_function_ser_schema(
                list, return_schema=plain
            ),
        )


def joined(spans: Spans, gap: int) -> Spans:
    """Spans in order of their starts, those that touch or lie less than ``gap`` apart made one.

    >>> joined(np.array([[20, 30], [0, 10], [12, 15]]), 5).tolist()
    [[0, 15], [20, 30]]
    """
    if not len(spans):
        return spans
    spans = spans[np.argsort(spans[:, 0], kind="stable")]
    ends = np.maximum.accumulate(spans[:, 1])
    fresh = np.concatenate(([True], spans[1:, 0] - ends[:-1] >= max(gap, 1)))
    last = np.concatenate((np.flatnonzero(fresh)[1:] - 1, [len(spans) - 1]))
    return np.column_stack((spans[fresh, 0], ends[last]))


def spoken_between(voices: Iterable[Clips], talk: dict[str, Talk], start: int, end: int) -> Spans:
    """Where anybody speaks on the timeline between two frames: what touches them, clipped to them;
    ``voices`` are the clips of each voice."""
    found = [np.zeros((0, 2), np.int64)]
    for clips in voices:
        here = clips.between(start, end)
        for take in here.takes & talk.keys():
            (starts, frames, at), _ = here.of(take)
            found.append(talk[take].heard_in(starts, frames, at))
    spans = np.clip(np.concatenate(found), start, end)
    return joined(spans[spans[:, 1] > spans[:, 0]], 0)
