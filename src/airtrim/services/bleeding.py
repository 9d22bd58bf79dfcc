"""Words heard faintly from another microphone are not written twice."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from airtrim.core.media.reading import Readable
from airtrim.core.sound.spectra import decibels
from airtrim.core.speech.bleed import Level, bled
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import Word, is_corrected
from airtrim.services.finding import keep_words
from airtrim.store.store import Store

Words = tuple[Word, ...]


def without_bleed(store: Store, episode_id: int, take_id: str, words: Words) -> Words:
    """The words of a take that was just heard, without those that were said at another microphone.
    Takes beside it that were written down before lose what was said at this one, unless their
    words were corrected or named: those count the words."""
    timeline = store.current(episode_id)
    for other, offset in _beside(timeline, take_id):
        theirs = store.words_of(other)
        if not theirs:
            continue
        here = _level(store.reader(take_id), 0)
        there = _level(store.reader(other), offset)
        moved = tuple(_moved(word, -offset) for word in theirs)
        own = bled(words, here, moved, there)
        foreign = bled(moved, there, words, here)
        if not _counted(timeline, take_id):  # while words came they may have been corrected
            words = tuple(word for number, word in enumerate(words) if number not in own)
        if foreign and not _counted(timeline, other):
            row = store.take(other)
            left = tuple(word for number, word in enumerate(theirs) if number not in foreign)
            keep_words(store, other, left, row.language, row.recogniser)
    return words


def _beside(timeline: Timeline, take_id: str) -> Iterator[tuple[str, int]]:
    """Takes of other voices that sound at the same time, and by how many frames their own count is
    ahead of this take's."""
    found: dict[str, int] = {}
    for track in timeline.tracks:
        for clip in track.clips:
            if clip.take != take_id:
                continue
            for other in timeline.tracks:
                if other is track or other.kind != "voice":
                    continue
                for beside in other.clips.between(clip.at, clip.end):
                    if beside.take != take_id:
                        found[beside.take] = (beside.start - beside.at) - (clip.start - clip.at)
    yield from found.items()


def _moved(word: Word, frames: int) -> Word:
    return replace(word, start=word.start + frames, end=word.end + frames)


def _level(take: Readable, offset: int) -> Level:
    def level(start: int, end: int) -> float:
        sound = take.read(start + offset, max(1, end - start))
        return float(decibels(float(np.mean(np.square(sound, dtype=np.float64)))))

    return level


def _counted(timeline: Timeline, take_id: str) -> bool:
    return is_corrected(timeline, take_id) or take_id in timeline.speakers
