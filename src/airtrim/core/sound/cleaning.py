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


def made_dry(
    take: TakeReader,
    path: Path,
    progress: Callable[[float], None],
    compute: Compute = INLINE,
) -> None:
    """Write a take with its echo lowered."""
    store_computed(echo.clean(take, progress, compute), path, take.channels)


def made_clean(
    take: TakeReader,
    method: NoiseMethod,
    tone: RoomTone | Span | None,
    path: Path,
    progress: Callable[[float], None],
    compute: Compute = INLINE,
) -> None:
    """Write a take with its room taken out as far as is safe. The steady method learns the room
    from ``tone``, or guesses it where there is none. Raises BadInput where the learnt method's
    weights are missing."""
    if method == "learnt":
        blocks = learnt.clean(take, progress, compute)
    else:
        room = denoise.learn(take.read(tone.start, tone.frames)) if tone else denoise.guess(take)
        blocks = denoise.clean(take, room, progress, compute)
    store_computed(blocks, path, take.channels)
