"""A recording gone through in stretches, several at once, which are faded into each other."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from airtrim.compute.order import Compute, in_order
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.packing import Packed, Stretch, pack, unpack
from airtrim.core.media.reading import Readable, Sound

Work = Callable[..., Sound]
"""``work(take, start, stop, *how)``: what becomes of a recording between two frames, of shape
``(stop - start, channels)``. It has to be a function of a module, to be found on any machine."""


@dataclass(frozen=True, slots=True)
class Stretches:
    """How a recording is divided, in frames. What would be left at its end goes with the last."""

    length: int = 120 * FRAME_RATE
    fade: int = FRAME_RATE // 20
    before: int = 0
    after: int = 0
    """What is heard on either side of a stretch; beyond is silence."""


def in_stretches(
    take: Readable,
    work: Work,
    *how: Any,
    by: Stretches,
    progress: Callable[[float], None],
    compute: Compute,
) -> Iterator[Sound]:
    """What ``work`` makes of all stretches of a take, in order, as long as the take and in time
    with it. ``progress`` gets fractions 0–1."""
    starts = range(0, max(min(1, take.frames), take.frames - by.length + 1), by.length)

    def stretches() -> Iterator[tuple[Any, ...]]:
        for start in starts:
            stop = take.frames if start == starts[-1] else start + by.length + by.fade
            low, high = max(0, start - by.before), min(take.frames, stop + by.after)
            packed = pack(take.read(low, high - low), FRAME_RATE)
            yield work, packed, low, take.frames, start, stop, how

    done = 0

    def look() -> None:
        progress(done / max(1, take.frames))

    rest: Sound | None = None
    for start, packed in zip(starts, in_order(compute, work_on, stretches(), look), strict=True):
        sound = unpack(packed)
        if rest is not None:
            ramp = np.linspace(0, 1, by.fade, dtype=np.float32)[:, None]
            sound[: by.fade] = sound[: by.fade] * ramp + rest * (1 - ramp)
        last = start == starts[-1]
        rest = None if last else sound[by.length :]
        out = sound if last else sound[: by.length]
        yield out
        done += len(out)
        look()


def work_on(
    work: Work, packed: Packed, at: int, frames: int, start: int, stop: int, how: tuple[Any, ...]
) -> Packed:
    """The call that travels: unpacks a stretch, which begins at ``at``, and works on it."""
    return pack(work(Stretch(unpack(packed), at, frames), start, stop, *how), FRAME_RATE)
