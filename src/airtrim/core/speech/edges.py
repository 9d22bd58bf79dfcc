"""Word edges drawn in, or out, to where the sound is.

A recogniser's times are good to a few tenths of a second: a word often begins in the pause before
it. Here an edge that lies in silence moves to the sound, and one that lies in sound with silence
near by moves to the silence. Edges between words that are spoken together stay.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.speech import HOP_S
from airtrim.core.timeline.words import Word

_REACH_HOPS = 20
_LEAST_HOPS = 5
_ABOVE_FLOOR_DB = 12.0
_BELOW_SPEECH_DB = 30.0
_FAINT_OVER_FLOOR_DB = 6.0


def sounding(sound: NDArray[np.float32], sample_rate: int) -> NDArray[np.bool_]:
    """Whether there is more than room tone in each 10 ms of mono ``sound``.

    The limit lies 12 dB over the take's own floor (its 10th percentile), and no more than 30 dB
    under its speech (its 95th), so that it fits quiet and noisy rooms alike.

    >>> tone = 0.1 * np.sin(2 * np.pi * 300 * np.arange(16_000) / 16_000)
    >>> bool(sounding(tone.astype(np.float32), 16_000).all())
    True
    """
    level, floor, speech = _levels(sound, sample_rate)
    limit = max(floor + _ABOVE_FLOOR_DB, speech - _BELOW_SPEECH_DB)
    return np.asarray(level > min(limit, speech - 6.0), np.bool_)


def faintly_sounding(sound: NDArray[np.float32], sample_rate: int) -> NDArray[np.bool_]:
    """The same with a limit of 6 dB over the floor: the faint beginnings and ends of words."""
    level, floor, _ = _levels(sound, sample_rate)
    return np.asarray(level > floor + _FAINT_OVER_FLOOR_DB, np.bool_)


def _levels(
    sound: NDArray[np.float32], sample_rate: int
) -> tuple[NDArray[np.float64], float, float]:
    """The level of every 10 ms in dB, smoothed over 30 ms; that of the room and that of speech."""
    hop = round(sample_rate * HOP_S)
    whole = len(sound) // hop
    if whole == 0:
        return np.zeros(0), 0.0, 0.0
    power = np.square(sound[: whole * hop], dtype=np.float64).reshape(whole, hop).mean(axis=1)
    level = 10.0 * np.log10(np.convolve(power, np.ones(3) / 3.0, mode="same") + 1e-12)
    floor, speech = np.percentile(level, [10.0, 95.0])
    return level, float(floor), float(speech)


def drawn_to_sound(words: list[Word], loud: NDArray[np.bool_], first_frame: int) -> list[Word]:
    """``words`` with their edges at the sound; ``loud`` as from ``sounding``, beginning at
    ``first_frame`` of the take. Words stay in order and do not overlap; none is under 50 ms."""
    hop = round(FRAME_RATE * HOP_S)
    out: list[Word] = []
    for index, word in enumerate(words):
        low = out[-1].end if out else first_frame
        high = words[index + 1].start if index + 1 < len(words) else first_frame + len(loud) * hop
        start = _drawn(loud, (word.start - first_frame) // hop, (word.end - first_frame) // hop, 1)
        end = _drawn(loud, (word.end - first_frame) // hop, (word.start - first_frame) // hop, -1)
        new_start = word.start if start is None else first_frame + start * hop
        new_end = word.end if end is None else first_frame + (end + 1) * hop
        new_start = max(low, new_start)
        new_end = min(max(high, word.end), new_end)
        if new_end - new_start < _LEAST_HOPS * hop:
            new_start, new_end = max(low, word.start), max(word.end, max(low, word.start) + hop)
        out.append(Word(word.text, new_start, new_end, word.kind, word.confidence))
    return out


def _drawn(loud: NDArray[np.bool_], edge: int, other: int, inwards: int) -> int | None:
    """The hop where an edge belongs: inwards past silence, else outwards to the end of the sound
    when that is near. None where the edge should stay."""
    edge = min(max(edge, 0), len(loud) - 1)
    if edge < 0:
        return None
    if not loud[edge]:
        at = edge
        while 0 <= at < len(loud) and at != other and not loud[at]:
            at += inwards
        return at if 0 <= at < len(loud) and loud[at] else None
    for step in range(1, _REACH_HOPS + 1):
        at = edge - inwards * step
        if not 0 <= at < len(loud) or not loud[at]:
            return at + inwards
    return None


def one_after_another(words: list[Word]) -> list[Word]:
    """In order of time, none over another, none shorter than 10 ms."""
    hop = round(FRAME_RATE * HOP_S)
    out: list[Word] = []
    for word in sorted(words, key=lambda w: (w.start, w.end)):
        start = max(word.start, out[-1].end if out else 0)
        out.append(replace(word, start=start, end=max(word.end, start + hop)))
    return out
