"""Words of takes, and where they sound on the timeline."""

import bisect
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.beds import beds_of
from airtrim.core.timeline.model import Piece, Timeline, Track
from airtrim.core.timeline.speakers import Voices, as_heard, overlaid
from airtrim.core.timeline.talk import Talk
from airtrim.core.timeline.tone import is_tone

WordKind = Literal["word", "filler"]

_NEAR_WORDS = 8


@dataclass(frozen=True, slots=True)
class Word:
    """A word of a take: its text and span in frames of the take; ``confidence`` 0–1; ``voice``
    which of a take's voices says it, as "1" or "2", empty where there is one only."""

    text: str
    start: int
    end: int
    kind: WordKind
    confidence: float
    voice: str = ""


@dataclass(frozen=True, slots=True)
class PlacedWord:
    """A word where it sounds on the timeline; ``word`` is its number in its take; ``speaker`` who
    says it, empty where that is who its track is named after; ``voice`` as that of ``Word``."""

    track: str
    take: str
    word: int
    text: str
    start: int
    end: int
    kind: WordKind
    confidence: float
    corrected: bool
    speaker: str = ""
    voice: str = ""


TakeWords = dict[str, tuple[Word, ...]]
"""The words of each take, in order of time."""


_speaking: OrderedDict[tuple[int, int], tuple[Sequence[Word], Voices, Voices, list[str]]] = (
    OrderedDict()
)
_MOST_SPEAKING = 32


def speakers_in(timeline: Timeline, take: str, words: Sequence[Word]) -> Voices:
    """Who speaks in a take: the names given, else the voices that its words were told apart by."""
    return _known(timeline.speakers.get(take, ()), words)[0]


def _known(named: Voices, words: Sequence[Word]) -> tuple[Voices, list[str]]:
    """Who speaks in a take, and the name for each of its words. Kept: turns are many, and asked for
    with every line of a page."""
    key = id(words), id(named)
    known = _speaking.get(key)
    if known is None or known[0] is not words or known[1] is not named:
        told_apart = words and words[0].voice
        heard = as_heard([word.voice for word in words]) if told_apart else ()
        voices = overlaid(heard, named) if heard else named
        names: list[str] = []
        for (_, name), (after, _) in pairwise([(0, ""), *voices, (len(words), "")]):
            names.extend([name] * (after - len(names)))
        known = _speaking[key] = words, named, voices, names
        while len(_speaking) > _MOST_SPEAKING:
            _speaking.popitem(last=False)
    return known[2], known[3]


def is_corrected(timeline: Timeline, take: str) -> bool:
    """Whether words of a take were corrected by hand; corrections count its words."""
    return any(key.rpartition(":")[0] == take for key in timeline.corrections)


def talk_in(words: Sequence[Word]) -> Talk:
    """Where somebody speaks in a take, by its words."""
    return Talk.of_words((word.start, word.end) for word in words)


def words_on(
    timeline: Timeline,
    words: TakeWords,
    start: int = 0,
    end: int | None = None,
    track_id: str | None = None,
) -> list[PlacedWord]:
    """Words heard between two frames of the timeline, in order of time; of one track where it is
    named.

    A word belongs to a clip when its middle lies in it; its span is clamped to the clip.
    """
    end = timeline.frames if end is None else end
    placed: list[PlacedWord] = []
    for track in timeline.tracks:
        if track_id in (None, track.id):
            placed.extend(_on_track(timeline, track, words, start, end))
    placed.sort(key=lambda word: (word.start, word.track))
    return placed


def _on_track(
    timeline: Timeline, track: Track, words: TakeWords, start: int, end: int
) -> list[PlacedWord]:
    out: list[PlacedWord] = []
    reached: dict[str, int] = {}
    for clip in track.clips.between(start, end):
        offset = clip.at - clip.start
        source = words.get(clip.take, ())
        _, names = _known(timeline.speakers.get(clip.take, ()), source)
        stop = clip.start + clip.frames
        first = _first_from(source, clip.start, reached.get(clip.take, 0))
        for number in range(first, len(source)):
            word = source[number]
            if middle(word) >= stop:
                break
            reached[clip.take] = number + 1
            word_start = max(clip.at, word.start + offset)
            word_end = min(clip.end, word.end + offset)
            if word_end <= start or word_start >= end:
                continue
            corrected = timeline.corrections.get(f"{clip.take}:{number}")
            if corrected == "":
                # It was joined to the word before it, if that is here too.
                if out and out[-1].take == clip.take and out[-1].word < number:
                    out[-1] = replace(out[-1], end=max(out[-1].end, word_end))
                continue
            out.append(
                PlacedWord(
                    track.id,
                    clip.take,
                    number,
                    corrected or word.text,
                    word_start,
                    max(word_end, word_start + 1),
                    word.kind,
                    word.confidence,
                    corrected is not None,
                    names[number],
                    word.voice,
                )
            )
    return out


def _first_from(source: Sequence[Word], frame: int, near: int) -> int:
    """The first word whose middle lies at ``frame`` or later; most often it is the one at ``near``,
    since clips follow each other as they were said."""
    if near == 0 or middle(source[near - 1]) < frame:
        for number in range(near, min(near + _NEAR_WORDS, len(source))):
            if middle(source[number]) >= frame:
                return number
    return bisect.bisect_left(source, frame, key=middle)


def middle(word: Word) -> int:
    """The frame in the middle of a word."""
    return (word.start + word.end) // 2


def gap_near(words: list[PlacedWord], at: int, reach: int) -> tuple[int, int]:
    """The stretch without words nearest to frame ``at``, looked for within ``reach`` frames.

    ``words`` need not be sorted by end. Returns ``(start, end)``; where everything within reach is
    spoken over, an empty stretch at the nearest edge between two words.
    """
    low, high = at - reach, at + reach
    spans = sorted((w.start, w.end) for w in words if w.end > low and w.start < high)
    gaps: list[tuple[int, int]] = []
    cursor = low
    for start, end in spans:
        if start >= cursor:
            gaps.append((cursor, start))
        cursor = max(cursor, end)
    if cursor < high:
        gaps.append((cursor, high))
    if not gaps:
        return at, at
    return min(gaps, key=lambda gap: (max(gap[0] - at, at - gap[1], 0), gap[0] - gap[1]))


def words_within(timeline: Timeline, piece: Piece, words: TakeWords) -> list[PlacedWord]:
    """The words that a cut took out, timed from the start of what it took."""
    tracks = tuple(
        Track(name, name, "voice", clips)
        for name, clips in zip(piece.tracks, piece.clips, strict=True)
    )
    return words_on(replace(timeline, tracks=tracks), words, 0, piece.frames)


@dataclass(frozen=True, slots=True)
class Air:
    """A stretch of the timeline in which nobody speaks; ``track`` is that of the voice that spoke
    last before it, or else of the one that speaks next."""

    track: str
    start: int
    end: int


def air_between(
    timeline: Timeline, words: TakeWords, start: int, end: int, limit: int
) -> list[Air]:
    """Stretches longer than ``limit`` frames in which nobody speaks and no music plays but a bed
    under the talk, that begin between two frames. Spans are whole, also where they reach beyond
    ``end``."""
    reach = 60 * FRAME_RATE
    low, high = max(0, start - reach), min(timeline.frames, end + reach)
    spoken = words_on(timeline, words, low, high)
    busy = [(word.start, word.end) for word in spoken]
    busy.extend(sounding_besides(timeline, words, spoken, low, high))
    ends = sorted(spoken, key=lambda word: word.end)
    out = []
    cursor = low
    for a, b in [*sorted(busy), (high, high)]:
        if spoken and a - cursor > limit and start <= cursor < end:
            index = bisect.bisect_right(ends, cursor, key=lambda word: word.end)
            ended = ends[index - 1] if index else spoken[0]
            out.append(Air(ended.track, cursor, a))
        cursor = max(cursor, b)
    return out


def sounding_besides(
    timeline: Timeline, words: TakeWords, spoken: Sequence[PlacedWord], start: int, end: int
) -> list[tuple[int, int]]:
    """Stretches between two frames that are no air though nobody speaks in them: music, a bed only
    where it is heard without what is ``spoken``; and what has not been heard yet, which is not
    known to be air."""
    beds = beds_of(timeline)
    clips = [
        (clip.at, clip.end)
        for track in timeline.tracks
        for clip in track.clips.between(start, end)
        if (track.kind == "music" or (clip.take not in words and not is_tone(clip.take)))
        and not (track.held and any(bed.holds(clip) for bed in beds))
    ]
    if not beds:
        return clips
    talk = np.array([(word.start, word.end) for word in spoken], np.int64).reshape(-1, 2)
    return clips + [span for bed in beds for span in bed.alone(talk, start, end)]
