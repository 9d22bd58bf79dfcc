"""Where two parts meet: the room of a voice that leaves, or comes in, goes on under the other for a
moment, so that it neither breaks off nor starts."""

from collections.abc import Mapping, Sequence

from airtrim.core.timeline.clips import Clip, Clips, joined
from airtrim.core.timeline.model import Span
from airtrim.core.timeline.tone import is_tone, tone_clip

OVERLAP_FRAMES = 24_000
"""Half a second: long enough not to be noticed as an end (common practice is 0.3 to 1 s)."""
_LEAST_FRAMES = 4_800

Tones = Mapping[str, Span]
"""The room tone of takes, by their names."""


def overlapped(
    clips: Clips, seams: Sequence[tuple[int, int, int]], tones: Tones, crossfade: int
) -> Clips:
    """A voice's clips with its room going on over seams at which it is left alone: each told by
    where the part before begins, where the two meet, and where the part after ends."""
    for low, at, high in reversed(seams):
        place = clips.first_from(at)
        left = clips[place - 1] if place else None
        right = clips[place] if place < len(clips) else None
        leaves = left is not None and left.end == at
        comes = right is not None and right.at == at
        if left is not None and leaves and not comes:
            room = min(high, right.at if right else high) - at
            tail = _tone(left, tones, at, min(OVERLAP_FRAMES, room))
            if tail:
                tail = tail._replace(fade_in=min(crossfade, tail.frames // 4))
                tail = tail._replace(fade_out=tail.frames)
                clips = joined(clips[:place], [tail], clips[place:])
        elif right is not None and comes and not leaves:
            frames = min(OVERLAP_FRAMES, at - max(low, left.end if left else low))
            head = _tone(right, tones, at - frames, frames)
            if head:
                right = right._replace(fade_in=crossfade, shape_in="round")
                head = head._replace(fade_in=head.frames)
                clips = joined(clips[:place], [head, right], clips[place + 1 :])
    return clips


def alone(clips: Clips, frames: int) -> Clips:
    """The clips of a part of so many frames without rooms of its neighbours, and without its own
    room where it ended in theirs."""
    if len(clips) and clips[0].at == 0 and is_overlap(clips[0]):
        clips = clips[1:]
    if len(clips) and clips[-1].end == frames and is_overlap(clips[-1]):
        clips = clips[:-1]
    return clips


def is_overlap(clip: Clip) -> bool:
    """Whether a clip is a room that goes on over a seam: it does nothing but fade."""
    return is_tone(clip.take) and clip.frames in (clip.fade_in, clip.fade_out)


def _tone(beside: Clip, tones: Tones, at: int, frames: int) -> Clip | None:
    tone = tones.get(beside.take)
    if tone is None or frames < _LEAST_FRAMES:
        return None
    return tone_clip(tone, at, at, frames)._replace(gain_db=beside.gain_db)
