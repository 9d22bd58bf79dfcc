"""Words: the script, how they are written, and who says them."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import Field

from airtrim.core.timeline.edits.base import EditBase
from airtrim.core.timeline.edits.fields import HistoryName, Number, Part, SpeakerName
from airtrim.core.timeline.edits.wording import count
from airtrim.core.timeline.frames import FrameMap
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.sources import Sources
from airtrim.core.timeline.speakers import (
    Voices,
    renamed,
    speaker_of,
    voice_name,
    with_speaker,
)
from airtrim.errors import BadInput

LONGEST_WORD = 200
"""Characters of a corrected word."""


class SetScript(EditBase):
    """Set the script, or the notes, of the episode."""

    kind: Literal["set_script"] = "set_script"
    text: str = Field(max_length=300_000)

    def apply(self, timeline: Timeline) -> Timeline:
        return replace(timeline, script=self.text)

    def relocated(self, frames: FrameMap) -> Self:
        frames.value(frames.own.script, frames.now.script, self.text)
        return self

    def describe(self, timeline: Timeline) -> str:
        return "Changed the script"


class CorrectWord(EditBase):
    """Change how a word of a take is written; the sound stays as it is."""

    kind: Literal["correct_word"] = "correct_word"
    take: str
    word: Number
    text: str = Field(min_length=1, max_length=LONGEST_WORD)

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        _need_numbers(sources, [(self.take, self.word)])
        return self

    def apply(self, timeline: Timeline) -> Timeline:
        return _corrected(timeline, {f"{self.take}:{self.word}": self.text})

    def describe(self, timeline: Timeline) -> str:
        return f"Corrected a word to “{self.text}”"


class Correction(Part):
    """How a word of a take is written; empty: it is part of the word before it."""

    take: str
    word: Number
    text: str = Field(max_length=LONGEST_WORD)


class CorrectMany(EditBase):
    """Change how several words are written, in one step."""

    kind: Literal["correct_many"] = "correct_many"
    words: tuple[Correction, ...] = Field(min_length=1, max_length=100_000)
    name: HistoryName = ""

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        _need_numbers(sources, [(one.take, one.word) for one in self.words])
        return self

    def apply(self, timeline: Timeline) -> Timeline:
        return _corrected(timeline, {f"{one.take}:{one.word}": one.text for one in self.words})

    def describe(self, timeline: Timeline) -> str:
        return self.name or f"Corrected {count(len(self.words), 'word')}"


class WordsOfTake(Part):
    """Words of a take from ``first`` to ``last``, both included."""

    take: str
    first: Number
    last: Number


class NameSpeaker(EditBase):
    """Tell who says some words; an empty name: who their track is named after."""

    kind: Literal["name_speaker"] = "name_speaker"
    words: tuple[WordsOfTake, ...] = Field(min_length=1, max_length=10_000)
    name: SpeakerName

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        _need_numbers(sources, [(one.take, one.last) for one in self.words])
        return self

    def apply(self, timeline: Timeline) -> Timeline:
        speakers = dict(timeline.speakers)
        for words in self.words:
            if words.last < words.first:
                raise BadInput("Those words end before they begin. Nothing was changed.")
            if words.take not in timeline.lengths:
                raise BadInput("Those words are not in this episode. Nothing was changed.")
            before = speakers.get(words.take, ())
            speakers[words.take] = with_speaker(before, words.first, words.last, self.name)
        return _with_speakers(timeline, speakers)

    def describe(self, timeline: Timeline) -> str:
        return f"{self.name or 'The track’s own voice'} speaks here"


class NameVoice(EditBase):
    """Tell who a voice of a take is: all its words that have no other name. ``words`` are found by
    themselves."""

    kind: Literal["name_voice"] = "name_voice"
    take: str
    voice: str = Field(pattern=r"^[1-9]$")
    name: Annotated[SpeakerName, Field(min_length=1)]
    words: tuple[WordsOfTake, ...] = Field(default=(), max_length=10_000)

    def complete(self, sources: Sources, *, snap: bool) -> Self:
        named = sources.timeline.speakers.get(self.take, ())
        numbers = [
            number
            for number, word in enumerate(sources.words(sources.timeline).get(self.take, ()))
            if word.voice == self.voice and not speaker_of(named, number)
        ]
        starts = [n for i, n in enumerate(numbers) if not i or numbers[i - 1] != n - 1]
        ends = [n for n, after in pairwise([*numbers, -1]) if after != n + 1]
        found = tuple(
            WordsOfTake(take=self.take, first=first, last=last)
            for first, last in zip(starts, ends, strict=True)
        )
        return self.model_copy(update={"words": found})

    def apply(self, timeline: Timeline) -> Timeline:
        if not self.words or any(words.take != self.take for words in self.words):
            raise BadInput("That voice is not heard in this recording. Nothing was changed.")
        return NameSpeaker(words=self.words, name=self.name).apply(timeline)

    def describe(self, timeline: Timeline) -> str:
        return f"{voice_name(self.voice)} is {self.name}"


class RenameSpeaker(EditBase):
    """Give a speaker another name, wherever they speak; empty: who the tracks are named after."""

    kind: Literal["rename_speaker"] = "rename_speaker"
    old: str = Field(min_length=1, max_length=80)
    new: SpeakerName

    def apply(self, timeline: Timeline) -> Timeline:
        changed = {
            take: renamed(voices, self.old, self.new) for take, voices in timeline.speakers.items()
        }
        return _with_speakers(timeline, changed)

    def describe(self, timeline: Timeline) -> str:
        return f"{self.old} is {self.new or 'the track’s own voice'}"


def _need_numbers(sources: Sources, words: Sequence[tuple[str, int]]) -> None:
    """Words are told by their take and their number in it, which they keep once all before them
    are known."""
    highest: dict[str, int] = {}
    for take, number in words:
        highest[take] = max(number, highest.get(take, 0))
    for take, number in highest.items():
        if take in sources.timeline.lengths and number >= sources.numbered(take):
            raise BadInput(
                "Words before these are still on their way. Nothing was changed; do it again when "
                "they are there."
            )


def _corrected(timeline: Timeline, new: dict[str, str]) -> Timeline:
    return replace(timeline, corrections={**timeline.corrections, **new})


def _with_speakers(timeline: Timeline, speakers: dict[str, Voices]) -> Timeline:
    return replace(timeline, speakers={take: of for take, of in speakers.items() if of})
