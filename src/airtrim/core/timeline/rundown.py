"""The running order as a producer writes it: a row for each part, with its in-words and out-words,
who speaks, how long it is and up to when it runs."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from airtrim.core.timeline.model import Section, Timeline
from airtrim.core.timeline.words import PlacedWord, TakeWords, words_on, words_within

QUOTED_WORDS = 5
"""How many words tell where a part begins and ends (common practice)."""


@dataclass(frozen=True, slots=True)
class Row:
    """A part: ``at`` and ``frames`` on the timeline, its first and last words, who speaks in it
    (most first), and the music tracks that sound in it, by name. ``at`` is None of a part that was
    put aside."""

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
    names = {track.id: track.name for track in timeline.tracks}
    music = {track.id for track in timeline.tracks if track.kind == "music"}
    spoken = [word for word in words_on(timeline, words) if word.track not in music]
    ends = [*(section.at for section in timeline.sections[1:]), timeline.frames]
    out = []
    first = 0
    for section, end in zip(timeline.sections, ends, strict=True):
        last = first
        # A word belongs to the part in which it begins.
        while last < len(spoken) and spoken[last].start < end:
            last += 1
        own, first = spoken[first:last], last
        music_here = [
            track.id
            for track in timeline.tracks
            if track.id in music and len(track.clips.between(section.at, end))
        ]
        out.append(_row(section, section.at, end - section.at, own, names, music_here))
    return tuple(out)


def lying_aside(timeline: Timeline, words: TakeWords) -> tuple[Row, ...]:
    """The parts that were put aside, in the order in which that was done."""
    out = []
    for loose in timeline.aside:
        names = {track.id: track.name for track in (*timeline.tracks, *loose.tracks)}
        music = {t.id for t in (*timeline.tracks, *loose.tracks) if t.kind == "music"}
        spoken = [w for w in words_within(timeline, loose.piece, words) if w.track not in music]
        music_here = [
            track
            for track, clips in zip(loose.piece.tracks, loose.piece.clips, strict=True)
            if track in music and len(clips)
        ]
        out.append(_row(loose.section, None, loose.piece.frames, spoken, names, music_here))
    return tuple(out)


def _row(
    section: Section,
    at: int | None,
    frames: int,
    words: Sequence[PlacedWord],
    names: dict[str, str],
    music: Sequence[str],
) -> Row:
    texts = [word.text for word in words if word.kind == "word"]
    counts = Counter(word.speaker or names.get(word.track, "") for word in words)
    return Row(
        section.id,
        section.name,
        at,
        frames,
        in_words=" ".join(texts[:QUOTED_WORDS]),
        out_words=" ".join(texts[-QUOTED_WORDS:]),
        who=tuple(name for name, _ in counts.most_common()),
        music=tuple(names[track] for track in music),
    )
