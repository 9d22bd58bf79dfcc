"""What is said in an episode, as finders ask for it."""

import bisect
from dataclasses import dataclass

from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import (
    PlacedWord,
    TakeWords,
    Word,
    sounding_besides,
    words_on,
)


@dataclass(frozen=True, slots=True)
class Talk:
    """What is said in an episode: the words of its takes, those of its voices on the timeline, and
    those of each track without fillers. ``besides``: where something sounds that is no pause though
    nobody speaks."""

    timeline: Timeline
    takes: TakeWords
    words: tuple[PlacedWord, ...]
    tracks: dict[str, tuple[PlacedWord, ...]]
    besides: list[tuple[int, int]]

    def on(self, track: str) -> tuple[PlacedWord, ...]:
        """The words of one voice, fillers left out."""
        return self.tracks.get(track, ())

    def others(self, track: str, start: int, end: int) -> bool:
        """Whether another voice speaks in a span."""
        for name, words in self.tracks.items():
            if name == track:
                continue
            first = bisect.bisect_right(words, start, key=end_of)
            if first < len(words) and words[first].start < end:
                return True
        return False

    def pause(self, start: int, end: int) -> tuple[int, int]:
        """Where the last word before a span ends, of any voice, and the first after it begins; the
        ends of the episode where there is none."""
        before, after = 0, self.timeline.frames
        for words in self.tracks.values():
            index = bisect.bisect_right(words, start, key=end_of)
            if index:
                before = max(before, words[index - 1].end)
            index = bisect.bisect_left(words, end, key=start_of)
            if index < len(words):
                after = min(after, words[index].start)
        return before, after


def talk_of(timeline: Timeline, words: TakeWords) -> Talk:
    """What is said in an episode."""
    voices = {track.id for track in timeline.tracks if track.kind == "voice" and not track.muted}
    spoken = tuple(word for word in words_on(timeline, words) if word.track in voices)
    tracks = {
        voice: tuple(w for w in spoken if w.track == voice and w.kind == "word") for voice in voices
    }
    besides = sounding_besides(timeline, words, spoken, 0, timeline.frames)
    return Talk(timeline, words, spoken, tracks, besides)


def start_of(span: PlacedWord | Word) -> int:
    """Where a word begins; to search by."""
    return span.start


def end_of(span: PlacedWord | Word) -> int:
    """Where a word ends; to search by."""
    return span.end
