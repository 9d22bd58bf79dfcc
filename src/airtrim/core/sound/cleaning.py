"""Writing a recording with its room taken out beside the recording itself."""

from collections.abc import Callable
from pathlib import Path

from airtrim.core.media.take import TakeReader, store_computed
from airtrim.core.sound.denoise import clean, guess, learn
from airtrim.core.sound.roomtone import RoomTone
from airtrim.core.timeline.model import Span


def made_clean(
    take: TakeReader, tone: RoomTone | Span | None, path: Path, progress: Callable[[float], None]
) -> None:
    """Write a take with its room taken out as far as is safe; the room is learnt from ``tone``, or
    guessed where there is none."""
    room = learn(take.read(tone.start, tone.frames)) if tone else guess(take)
    store_computed(clean(take, room, progress), path, take.channels)
