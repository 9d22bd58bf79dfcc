"""Writing a recording with its room taken out beside the recording itself."""

from collections.abc import Callable
from pathlib import Path

from airtrim.compute.inline import INLINE
from airtrim.compute.order import Compute
from airtrim.core.media.take import TakeReader, store_computed
from airtrim.core.sound import denoise, echo, learnt
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.chain import NoiseMethod
from airtrim.core.timeline.model import Span


def made_clean(
    take: TakeReader,
    method: NoiseMethod | None,
    tone: RoomTone | Span | None,
    path: Path,
    progress: Callable[[float], None],
    compute: Compute = INLINE,
) -> None:
    """Write a take with its room taken out as far as is safe; without a ``method``, with its echo
    lowered. The steady method learns the room from ``tone``, or guesses it where there is none.
    Raises BadInput where the learnt method's weights are missing."""
    if method is None:
        blocks = echo.clean(take, progress, compute)
    elif method == "learnt":
        blocks = learnt.clean(take, progress, compute)
    else:
        room = denoise.learn(take.read(tone.start, tone.frames)) if tone else denoise.guess(take)
        blocks = denoise.clean(take, room, progress, compute)
    store_computed(blocks, path, take.channels)
