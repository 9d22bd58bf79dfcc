"""The clips of a track: a sequence of ``Clip``, kept as columns of numbers.

An edit near the start of a long episode moves every clip after it; as columns that is one
addition, where thousands of separate values would take longer than the eye forgives.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Sequence
from typing import Literal, NamedTuple, overload

import numpy as np
from numpy.typing import NDArray
from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

Shape = Literal["round", "straight", "soft"]
"""How a fade goes: ``round`` a quarter sine (two that cross keep the power of unrelated sound),
``straight`` a line, ``soft`` a raised cosine (two that cross keep the level of alike sound)."""

SHAPES: tuple[Shape, ...] = ("round", "straight", "soft")

Rows = NDArray[np.int64]
_TAKE, _START, _FRAMES, _AT, _GAIN, _IN, _OUT, _SHAPE_IN, _SHAPE_OUT, _APART = range(10)
"""Columns of a row. The gain is kept as the bits of its float, so that all are whole numbers and
a row is copied in one go."""


def _bits(gain_db: float) -> int:
    return int(np.float64(gain_db).view(np.int64)) if gain_db else 0


def _gain(bits: int) -> float:
    return float(np.int64(bits).view(np.float64)) if bits else 0.0


class Clip(NamedTuple):
    """``frames`` of ``take`` from frame ``start``, placed at frame ``at`` of the timeline.

    ``fade_in`` of a clip that touches the one before it is the length of the crossfade. ``apart``:
    the host split it from the clip before, so the two are never joined without being asked."""

    take: str
    start: int
    frames: int
    at: int
    gain_db: float = 0.0
    fade_in: int = 0
    fade_out: int = 0
    shape_in: Shape = "round"
    shape_out: Shape = "round"
    apart: bool = False

    @property
    def end(self) -> int:
        """First timeline frame after the clip."""
        return self.at + self.frames

    def continues_into(self, right: "Clip") -> bool:
        """Whether ``right`` goes on in this take just where this clip leaves off."""
        return (
            self.take == right.take
            and self.end == right.at
            and self.start + self.frames == right.start
            and self.gain_db == right.gain_db
        )


class Clips(Sequence[Clip]):
    """Clips in order of time, none over another. Immutable."""

    __slots__ = ("_rows", "_takes")

    def __init__(self, clips: Iterable[Clip] = ()) -> None:
        numbers: dict[str, int] = {}
        rows = [_row(clip, numbers.setdefault(clip.take, len(numbers))) for clip in clips]
        self._rows: Rows = np.array(rows, np.int64).reshape(-1, 10)
        self._takes: tuple[str, ...] = tuple(numbers)

    @classmethod
    def _of(cls, rows: Rows, takes: tuple[str, ...]) -> "Clips":
        made = cls.__new__(cls)
        made._rows, made._takes = rows, takes
        return made

    def _clip(self, row: list[int]) -> Clip:
        take, start, frames, at, gain, fade_in, fade_out, shape_in, shape_out, apart = row
        return Clip(
            self._takes[take],
            start,
            frames,
            at,
            _gain(gain),
            fade_in,
            fade_out,
            SHAPES[shape_in],
            SHAPES[shape_out],
            bool(apart),
        )

    def __len__(self) -> int:
        return len(self._rows)

    @overload
    def __getitem__(self, index: int) -> Clip: ...

    @overload
    def __getitem__(self, index: slice) -> "Clips": ...

    def __getitem__(self, index: int | slice) -> "Clip | Clips":
        if isinstance(index, slice):
            return self._of(self._rows[index], self._takes)
        return self._clip(self._rows[index].tolist())

    def __iter__(self) -> Iterator[Clip]:
        return map(self._clip, self._rows.tolist())

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Clips):
            return NotImplemented
        if self._takes == other._takes:
            return np.array_equal(self._rows, other._rows)
        return len(self) == len(other) and list(self) == list(other)

    __hash__ = None  # type: ignore[assignment]

    def __repr__(self) -> str:
        return f"Clips({list(self)!r})"

    @property
    def at(self) -> NDArray[np.int64]:
        """Where each begins."""
        return self._rows[:, _AT]

    @property
    def ends(self) -> NDArray[np.int64]:
        """First frame after each."""
        return np.asarray(self._rows[:, _AT] + self._rows[:, _FRAMES])

    @property
    def takes(self) -> set[str]:
        """The takes that they are of."""
        return {self._takes[number] for number in np.unique(self._rows[:, _TAKE])}

    def of(self, take: str) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
        """Those of one take as columns: rows of start in the take, frames, place; and gains in
        dB."""
        rows = self._rows[self._rows[:, _TAKE] == self._takes.index(take)]
        return rows[:, [_START, _FRAMES, _AT]].T, rows[:, _GAIN].copy().view(np.float64)

    def first_sounding(self, frame: int) -> int:
        """Index of the first clip that ends after ``frame``."""
        before = bisect_right(self._rows[:, _AT], frame) - 1
        if before < 0:
            return 0
        return before + (self[before].end <= frame)

    def first_from(self, frame: int) -> int:
        """Index of the first clip that begins at ``frame`` or later."""
        return bisect_left(self._rows[:, _AT], frame)

    def between(self, start: int, end: int) -> "Clips":
        """The clips that sound between two frames, whole."""
        return self[self.first_sounding(start) : self.first_from(end)]

    def moved(self, by: int) -> "Clips":
        """All of them ``by`` frames later; a copy."""
        rows = self._rows.copy()
        rows[:, _AT] += by
        return self._of(rows, self._takes)

    def with_one(self, index: int, clip: Clip) -> "Clips":
        """The same with another clip in place of one."""
        takes = self._takes if clip.take in self._takes else (*self._takes, clip.take)
        rows = self._rows.copy()
        rows[index] = _row(clip, takes.index(clip.take))
        return self._of(rows, takes)

    def touching(self) -> int:
        """How many from the first on follow each other without a pause."""
        gaps = np.flatnonzero(self.ends[:-1] != self.at[1:])
        return int(gaps[0]) + 1 if len(gaps) else len(self)

    @classmethod
    def __get_pydantic_core_schema__(
        cls, source: object, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        plain = handler(list[Clip])
        return core_schema.no_info_after_validator_function(
            cls,
            plain,
            serialization=core_schema.plain_serializer_function_ser_schema(
                list, return_schema=plain
            ),
        )


def _row(clip: Clip, take: int) -> tuple[int, ...]:
    return (
        take,
        clip.start,
        clip.frames,
        clip.at,
        _bits(clip.gain_db),
        clip.fade_in,
        clip.fade_out,
        SHAPES.index(clip.shape_in),
        SHAPES.index(clip.shape_out),
        clip.apart,
    )


NONE = Clips()


def joined(*parts: Clips | Sequence[Clip]) -> Clips:
    """Parts one after another."""
    several = [part if isinstance(part, Clips) else Clips(part) for part in parts if len(part)]
    if not several:
        return NONE
    if len(several) == 1:
        return several[0]
    takes = several[0]._takes
    rows = [several[0]._rows]
    for part in several[1:]:
        if part._takes == takes:
            rows.append(part._rows)
            continue
        more = [take for take in part._takes if take not in takes]
        takes = (*takes, *more)
        numbers = np.array([takes.index(take) for take in part._takes])
        renumbered = part._rows.copy()
        renumbered[:, _TAKE] = numbers[renumbered[:, _TAKE]]
        rows.append(renumbered)
    return Clips._of(np.concatenate(rows), takes)
