"""Snags that are a sound in a take: found where they are still on the timeline."""

import bisect
from collections.abc import Iterator, Mapping, Sequence
from typing import TypeVar

from airtrim.core.media import FRAME_RATE
from airtrim.core.snags.base import Do, Snag
from airtrim.core.snags.listen import Listened, Phrase, Sound
from airtrim.core.snags.talk import Talk
from airtrim.core.timeline.clips import Clip

_Part = TypeVar("_Part", Sound, Phrase)


def sounds_on(
    talk: Talk, listened: Mapping[str, Listened], kind: str
) -> Iterator[tuple[str, Clip, Sound, int, int]]:
    """The sounds of a kind on the tracks of voices: track, clip, the sound, and its start and end
    on the timeline. What was cut for the most part is left out."""
    for track in talk.timeline.tracks:
        if track.id not in talk.tracks:
            continue
        for clip in track.clips:
            found = listened.get(clip.take)
            if found is None:
                continue
            for sound in beginning_in(clip, found.sounds):
                by = clip.at - clip.start
                start, end = sound.start + by, min(sound.end + by, clip.end)
                if sound.kind == kind and end - start >= (sound.end - sound.start) // 2:
                    yield track.id, clip, sound, start, end


def removable(
    talk: Talk, listened: Mapping[str, Listened], kind: str, reasons: Mapping[str, str]
) -> Iterator[Snag]:
    """Snags of sounds that can be covered with room tone, and cut where nobody else speaks.
    ``reasons`` says why, by the sound's name."""
    for track, clip, sound, start, end in sounds_on(talk, listened, kind):
        alone = not talk.others(track, start, end)
        choices: tuple[Do, ...] = ("cover", "cut", "keep") if alone else ("cover", "keep")
        yield sound_snag(track, clip, sound, start, end, reasons[sound.name], choices, (start, end))


def sound_snag(
    track: str,
    clip: Clip,
    sound: Sound,
    start: int,
    end: int,
    reason: str,
    choices: tuple[Do, ...],
    cut: tuple[int, int] = (0, 0),
) -> Snag:
    """The snag of a sound; the first of its ``choices`` is what would be done about it."""
    text = sound.name if sound.kind == "noise" else f"{(end - start) / FRAME_RATE:.1f} s"
    return Snag(
        sound.kind,
        track,
        clip.take,
        sound.start,
        sound.end,
        start,
        end,
        text,
        sound.confidence,
        reason,
        choices[0],
        choices,
        *cut,
    )


def beginning_in(clip: Clip, parts: Sequence[_Part]) -> Sequence[_Part]:
    """What of a take begins in the part of it that a clip plays."""
    first = bisect.bisect_left(parts, clip.start, key=lambda one: one.start)
    last = bisect.bisect_left(parts, clip.start + clip.frames, key=lambda one: one.start)
    return parts[first:last]
