"""Who speaks how much in a stretch, counted without placing every word: thirty thousand of them
placed one by one take longer than a row of the running order may."""

from collections import Counter
from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.speakers import Voices
from airtrim.core.timeline.words import TakeWords, Word, speakers_in

Counts = NDArray[np.int64]


class Speaking:
    """The words of takes, ready to be counted."""

    def __init__(self, timeline: Timeline, words: TakeWords) -> None:
        self._takes = {
            take: _Counted(words[take], speakers_in(timeline, take, words[take]))
            for take in {take for track in timeline.tracks for take in track.clips.takes}
            if words.get(take)
        }

    def within(self, timeline: Timeline, start: int, end: int) -> Counter[str]:
        """How many words each says between two frames: those whose middle lies there. Who has no
        other name goes by that of the track; music says nothing."""
        counts: Counter[str] = Counter()
        for track in timeline.tracks:
            if track.kind == "music":
                continue
            clips = track.clips.between(start, end)
            for take in clips.takes & self._takes.keys():
                (starts, frames, at), _ = clips.of(take)
                first = starts + np.maximum(start - at, 0)
                last = starts + frames - np.maximum(at + frames - end, 0)
                for name, count in self._takes[take].between(first, last):
                    counts[name or track.name] += count
        return +counts


class _Counted:
    """The middles of a take's words, and for each speaker how many words came before each."""

    def __init__(self, words: Sequence[Word], voices: Voices) -> None:
        self._middles = np.array([(word.start + word.end) // 2 for word in words], np.int64)
        starts = [number for number, _ in voices]
        names = ("", *(name for _, name in voices))
        speaking = np.searchsorted(starts, np.arange(len(words)), side="right")
        whose = np.array([names.index(name) for name in names])[speaking]
        self._before: dict[str, Counts] = {
            names[number]: np.concatenate(([0], np.cumsum(whose == number)))
            for number in np.unique(whose)
        }

    def between(self, first: Counts, last: Counts) -> Iterable[tuple[str, int]]:
        """By speaker, the words between pairs of frames of the take, all together."""
        low, high = np.searchsorted(self._middles, first), np.searchsorted(self._middles, last)
        for name, before in self._before.items():
            yield name, int((before[high] - before[low]).sum())
