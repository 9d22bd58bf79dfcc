"""Request bodies that are bytes."""

import numpy as np
from fastapi import Request
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.errors import BadInput, TooLarge


async def read_body(request: Request, most_bytes: int, too_long: str) -> bytes:
    """All of a body. Raises TooLarge, with the sentence, as soon as it is over the limit."""
    data = bytearray()
    async for part in request.stream():
        data += part
        if len(data) > most_bytes:
            raise TooLarge(too_long)
    return bytes(data)


async def read_sound(request: Request, most_s: int) -> NDArray[np.float32]:
    """A body of raw float32 samples at 48 kHz, one channel; shape ``(frames, 1)``. Values that are
    no numbers become 0."""
    data = await read_body(request, most_s * FRAME_RATE * 4, f"That is more than {most_s} seconds.")
    if not data or len(data) % 4:
        raise BadInput("That is no sound from a microphone.")
    return np.asarray(np.nan_to_num(np.frombuffer(data, "<f4").reshape(-1, 1)), np.float32)
