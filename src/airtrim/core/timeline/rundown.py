"""The running order as a producer writes it: a row for each part, with its in-words and out-words,
who speaks, how long it is and up to when it runs."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.speaking import Speaking
from airtrim.core.timeline.words import PlacedWord, TakeWords, words_on, words_within

QUOTED_WORDS = 5
"""How many words tell where a part begins and ends (common practice)."""

FIRST_REACH = 10 * FRAME_RATE
"""In how much of a part its first and last words are looked for at first."""


@dataclass(frozen=True, slots=True)
class Row:
    """A part: ``at`` and ``frames`` on the timeline, its first and last words, who speaks in it
    (most first), and the music tracks that sound in it, by name, but for those of placed sounds.
    ``at`` is None of a part that was put aside."""

    id: str
    name: str
    at: int | None
    frames: int
    in_words: str
    out_words: str
    who: tuple[str, ...]
    music: tuple[str, ...]


def running_order(timeline: Timeline, words: TakeWords) -> tuple[Row, ...]:
    """The parts of an episode, in order."""
    spoken = replace(timeline, tracks=tuple(t for t in timeline.tracks if t.kind == "voice"))
    music = [t for t in timeline.tracks if t.kind == "music" and not t.held]
    speaking = Speaking(timeline, words)
    return tuple(
        Row(
            section.id,
            section.name,
            section.at,
            end - section.at,
            in_words=_said(_edge_words(spoken, words, section.at, end, 1)),
            out_words=_said(_edge_words(spoken, words, section.at, end, -1)),
            who=tuple(who for who, _ in speaking.within(timeline, section.at, end).most_common()),
            music=tuple(t.name for t in music if len(t.clips.between(section.at, end))),
        )
        for section, end in timeline.parts
    )


def _edge_words(
    timeline: Timeline, words: TakeWords, start: int, end: int, step: int
) -> Sequence[PlacedWord]:
    """The first words between two frames, or the last with a ``step`` of -1. A word belongs to the
    part in which it begins. Looked for in wider and wider stretches, so that few are placed."""
    reach = FIRST_REACH
    while True:
        low, high = (start, start + reach) if step > 0 else (end - reach, end)
        low, high = max(low, start), min(high, end)
        found = [w for w in words_on(timeline, words, low, high) if low <= w.start < high]
        told = [word for word in found if word.kind == "word"]
        if len(told) >= QUOTED_WORDS or high - low == end - start:
            return told[:QUOTED_WORDS] if step > 0 else told[-QUOTED_WORDS:]
        reach *= 4


def lying_aside(timeline: Timeline, words: TakeWords) -> tuple[Row, ...]:
    """The parts that were put aside, in the order in which that was done."""
    out = []
    held = {track.id for track in timeline.tracks if track.held}
    for loose in timeline.aside:
        names = {track.id: track.name for track in (*timeline.tracks, *loose.tracks)}
        music = {t.id for t in (*timeline.tracks, *loose.tracks) if t.kind == "music"}
        spoken = [w for w in words_within(timeline, loose.piece, words) if w.track not in music]
        music_here = [
            track
            for track, clips in zip(loose.piece.tracks, loose.piece.clips, strict=True)
            if track in music - held and len(clips)
        ]
        told = [word for word in spoken if word.kind == "word"]
        counts = Counter(word.speaker or names.get(word.track, "") for word in spoken)
        out.append(
            Row(
                loose.section.id,
                loose.section.name,
                None,
                loose.piece.frames,
                in_words=_said(told[:QUOTED_WORDS]),
                out_words=_said(told[-QUOTED_WORDS:]),
                who=tuple(who for who, _ in counts.most_common()),
                music=tuple(names[track] for track in music_here),
            )
        )
    return tuple(out)


def _said(words: Sequence[PlacedWord]) -> str:
    return " ".join(word.text for word in words)
