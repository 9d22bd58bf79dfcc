"""Every snag of an episode, read off its words and what was heard in its takes.

A snag is known by where it is in a take, so it is the same one whatever else is edited; what the
host has decided to keep is found again when words or sounds are looked for anew.
"""

import bisect
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal, TypeVar

from airtrim.core.media import FRAME_RATE
from airtrim.core.snags.listen import Listened, Phrase, Sound, jumps
from airtrim.core.snags.repeats import repeats
from airtrim.core.timeline.clips import Clip
from airtrim.core.timeline.envelope import value_at
from airtrim.core.timeline.finding import ends_sentence, plain
from airtrim.core.timeline.model import Kept, SnagKind, Timeline, Track
from airtrim.core.timeline.words import (
    PlacedWord,
    TakeWords,
    Word,
    air_between,
    sounding_besides,
    words_on,
)

Do = Literal["cut", "trim", "cover", "level", "restore", "keep"]
"""What can be done about a snag: take it out, shorten it, put room tone over it, bring it to the
level around it, put back what was cut, or leave it."""

NATURAL_PAUSE_FRAMES = round(0.6 * FRAME_RATE)
"""What is left of long air, and the most that is left where a filler was (common practice: 0.4 to
0.8 s)."""

_Heard = TypeVar("_Heard", Sound, Phrase)

_LEAD_IN_FRAMES = FRAME_RATE // 2
_CLEAR_FRAMES = round(0.06 * FRAME_RATE)
_ALONE_FRAMES = round(0.15 * FRAME_RATE)
_JUMP_DB = 6.0
_FLAG_REACH_FRAMES = 15 * FRAME_RATE
_HALF_WORD_FRAMES = round(0.06 * FRAME_RATE)


@dataclass(frozen=True, slots=True)
class Attempt:
    """One attempt of a repeat, on the timeline, with its words."""

    start: int
    end: int
    text: str


@dataclass(frozen=True, slots=True)
class Snag:
    """A snag: its span on the timeline and in its take, what is said there, how sure it is (0–1),
    why it is one, what would be done about it and what could be, and how many frames that saves.

    ``cut_start`` and ``cut_end``: what taking it out takes. ``number``: of the cut that goes
    through a word. ``by_db``: how far a level is off."""

    kind: SnagKind
    track: str
    take: str
    take_start: int
    take_end: int
    start: int
    end: int
    text: str
    confidence: float
    reason: str
    does: Do
    choices: tuple[Do, ...]
    cut_start: int = 0
    cut_end: int = 0
    attempts: tuple[Attempt, ...] = ()
    number: int = 0
    by_db: float = 0.0
    kept: bool = False
    copy: int = 0
    """The same sound may stand in an episode more than once: how often it did before this one."""

    @property
    def id(self) -> str:
        """Its name as long as its take is not heard anew."""
        return f"{self.kind}:{self.take}:{self.take_start}:{self.copy}"

    @property
    def saves(self) -> int:
        """Frames that the episode gets shorter by, if what would be done is done."""
        return self.cut_end - self.cut_start if self.does in ("cut", "trim") else 0


@dataclass(frozen=True, slots=True)
class Talk:
    """What is said in an episode: the words of its voices, and those of each track without fillers.
    ``besides``: where something sounds that is no pause though nobody speaks."""

    timeline: Timeline
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
            first = bisect.bisect_right(words, start, key=_end)
            if first < len(words) and words[first].start < end:
                return True
        return False

    def pause(self, start: int, end: int) -> tuple[int, int]:
        """Where the last word before a span ends, of any voice, and the first after it begins; the
        ends of the episode where there is none."""
        before, after = 0, self.timeline.frames
        for words in self.tracks.values():
            index = bisect.bisect_right(words, start, key=_end)
            if index:
                before = max(before, words[index - 1].end)
            index = bisect.bisect_left(words, end, key=_start)
            if index < len(words):
                after = min(after, words[index].start)
        return before, after


def talk_of(timeline: Timeline, words: TakeWords) -> Talk:
    """What is said in an episode."""
    voices = {track.id for track in timeline.tracks if track.kind == "voice" and not track.muted}
    said = tuple(word for word in words_on(timeline, words) if word.track in voices)
    tracks = {
        voice: tuple(w for w in said if w.track == voice and w.kind == "word") for voice in voices
    }
    return Talk(timeline, said, tracks, sounding_besides(timeline, words, 0, timeline.frames))


def find_snags(
    timeline: Timeline, words: TakeWords, listened: Mapping[str, Listened]
) -> tuple[Snag, ...]:
    """All snags of an episode, in order of time. ``listened`` holds what was heard in each take;
    takes that were not listened to have their words' snags only."""
    talk = talk_of(timeline, words)
    found = [
        *_fillers(talk, words),
        *_own_fillers(talk, words),
        *_air(talk, words),
        *_repeats(talk, words),
        *_sounds(talk, listened),
        *_level_jumps(talk, listened),
        *_half_words(timeline, words),
    ]
    times: dict[str, int] = {}
    out = []
    for snag in sorted(_not_twice(found), key=lambda s: (s.start, s.end)):
        copy = times.get(snag.id, 0)
        times[snag.id] = copy + 1
        stays = bool(keeping(snag, timeline.kept))
        out.append(replace(snag, kept=stays, copy=copy) if copy or stays else snag)
    return tuple(out)


def kept(snag: Snag) -> Kept:
    """How the document remembers that a snag is to stay."""
    return Kept(snag.kind, snag.take, snag.take_start, snag.take_end)


def keeping(snag: Snag, decided: Sequence[Kept]) -> tuple[Kept, ...]:
    """The decisions by which a snag is to stay: most of it lies where one was kept."""
    return tuple(
        one
        for one in decided
        if one.kind == snag.kind
        and one.take == snag.take
        and 2 * (min(one.end, snag.take_end) - max(one.start, snag.take_start))
        >= min(one.end - one.start, snag.take_end - snag.take_start)
    )


def _not_twice(snags: list[Snag]) -> list[Snag]:
    """Without fillers that lie within an attempt that goes anyway."""
    going = [(s.track, s.cut_start, s.cut_end) for s in snags if s.kind == "repeat"]
    return [
        s
        for s in snags
        if s.kind not in ("filler", "breath", "air")
        or not any(t == s.track and a <= s.start and s.end <= b for t, a, b in going)
    ]


def _fillers(talk: Talk, words: TakeWords) -> Iterator[Snag]:
    for word in talk.words:
        if word.kind != "filler":
            continue
        at = words[word.take][word.word]
        before, after = talk.pause(word.start, word.end)
        alone = word.start - before > _ALONE_FRAMES and after - word.end > _ALONE_FRAMES
        how = "said between two pauses" if alone else "said between two words"
        yield _filler(talk, word, word, at, at, word.text, f"“{word.text}”, {how}", word.confidence)


def _own_fillers(talk: Talk, words: TakeWords) -> Iterator[Snag]:
    for own in talk.timeline.snag_rules.own_fillers:
        wanted = [w for w in (plain(part) for part in own.text.split()) if w]
        if not wanted:
            continue
        for said in talk.tracks.values():
            for i in range(len(said) - len(wanted) + 1):
                part = said[i : i + len(wanted)]
                if [plain(w.text) for w in part] != wanted:
                    continue
                if own.at_start and i and not ends_sentence(said[i - 1], said[i]):
                    continue
                text = " ".join(w.text for w in part)
                first, last = words[part[0].take][part[0].word], words[part[-1].take][part[-1].word]
                where = " at the start of a sentence" if own.at_start else ""
                reason = f"“{own.text}”{where} is on your own list"
                yield _filler(talk, part[0], part[-1], first, last, text, reason, 0.8)


def _filler(
    talk: Talk,
    first: PlacedWord,
    last: PlacedWord,
    first_in_take: Word,
    last_in_take: Word,
    text: str,
    reason: str,
    confidence: float,
) -> Snag:
    start, end = first.start, last.end
    before, after = talk.pause(start, end)
    low, high = closed_up(before, start, end, after, NATURAL_PAUSE_FRAMES)
    other = talk.others(first.track, low, high)
    choices: tuple[Do, ...] = ("cover", "keep") if other else ("cut", "cover", "keep")
    if other:
        reason += "; another voice speaks meanwhile, so it is covered instead of cut"
    return Snag(
        "filler",
        first.track,
        first.take,
        first_in_take.start,
        max(last_in_take.end, first_in_take.start + 1),
        start,
        end,
        text,
        confidence,
        reason,
        choices[0],
        choices,
        low,
        high,
    )


def closed_up(before: int, start: int, end: int, after: int, most: int) -> tuple[int, int]:
    """What to cut to take ``start`` to ``end`` out of the pause from ``before`` to ``after``, so
    that ``most`` frames of it are left, or all that there were."""
    left, right = max(0, start - before), max(0, after - end)
    # The edge of what stands alone may be heard a little beyond its span.
    near = _CLEAR_FRAMES if left > _ALONE_FRAMES and right > _ALONE_FRAMES else 0
    left, right = left - near, right - near
    over = max(0, left + right - most)
    # The longer side gives first; a natural pause keeps some of both.
    from_right = min(over, max(0, right - most // 2)) if right >= left else 0
    from_left = min(over - from_right, max(0, left - most // 2))
    from_right += over - from_right - from_left
    return start - near - from_left, end + near + min(from_right, right)


def _air(talk: Talk, words: TakeWords) -> Iterator[Snag]:
    timeline = talk.timeline
    limit = round(timeline.snag_rules.air_limit_s * FRAME_RATE)
    for air in air_between(timeline, words, 0, timeline.frames, limit):
        own = talk.on(air.track)
        index = bisect.bisect_right(own, air.start, key=_end)
        at_start, at_end = index == 0 and air.start == 0, air.end >= timeline.frames
        if index:
            word = words[own[index - 1].take][own[index - 1].word]
            take, anchor = own[index - 1].take, word.end
        elif own:
            word = words[own[0].take][own[0].word]
            take, anchor = own[0].take, max(0, word.start - (air.end - air.start))
        else:
            continue
        left = left_of_air(air.start, air.end, NATURAL_PAUSE_FRAMES, timeline.frames)
        low, high = trimmed_air(air.start, air.end, left, timeline.frames)
        seconds = (air.end - air.start) / FRAME_RATE
        where = (
            "before anyone speaks"
            if at_start
            else "after the last word"
            if at_end
            else "in which nobody speaks"
        )
        yield Snag(
            "air",
            air.track,
            take,
            anchor,
            anchor + air.end - air.start,
            air.start,
            air.end,
            f"{seconds:.1f} s",
            round(min(0.99, 0.6 + 0.1 * seconds), 2),
            f"{seconds:.1f} s {where}; {left / FRAME_RATE:.1f} s would be left",
            "trim",
            ("trim", "cut", "keep"),
            low,
            high,
        )


def left_of_air(start: int, end: int, pause: int, total: int) -> int:
    """How much of long air is to stay: ``pause``, or half a second at either end of the episode."""
    return _LEAD_IN_FRAMES if start == 0 or end >= total else pause


def trimmed_air(start: int, end: int, left: int, total: int) -> tuple[int, int]:
    """What to cut of air so that ``left`` frames of it stay: its middle, or its far side at either
    end of the episode."""
    if start == 0:
        return 0, max(0, end - left)
    if end >= total:
        return min(total, start + left), total
    half = left // 2
    return start + half, max(start + half, end - (left - half))


def _repeats(talk: Talk, words: TakeWords) -> Iterator[Snag]:
    flags = [m.at for m in talk.timeline.markers if m.kind == "flag"]

    def flagged(start: int, end: int) -> bool:
        return any(start <= flag <= end + _FLAG_REACH_FRAMES for flag in flags)

    for track, said in talk.tracks.items():
        for found in repeats(said, flagged):
            attempts = tuple(
                Attempt(said[a].start, said[b - 1].end, " ".join(w.text for w in said[a:b]))
                for a, b in found.attempts
            )
            first, last = attempts[0], attempts[-1]
            start_word = said[found.attempts[0][0]]
            end_word = said[found.attempts[-1][0] - 1]
            take_start = words[start_word.take][start_word.word].start
            other = talk.others(track, first.start, last.start)
            times = {2: "twice", 3: "three times"}.get(len(attempts), f"{len(attempts)} times")
            noted = flagged(first.start, last.start)
            reason = f"begun {times}; the last is kept"
            if noted:
                reason += "; you flagged a mistake here"
            if other:
                reason += "; another voice speaks meanwhile, so nothing is cut by itself"
            yield Snag(
                "repeat",
                track,
                start_word.take,
                take_start,
                take_start + end_word.end - start_word.start,
                first.start,
                attempts[-2].end,
                " / ".join(attempt.text for attempt in attempts[:-1]),
                found.confidence,
                reason,
                "keep" if other else "cut",
                ("keep",) if other else ("cut", "keep"),
                first.start,
                last.start,
                attempts,
            )


def _sounds(talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
    for track in talk.timeline.tracks:
        if track.id not in talk.tracks:
            continue
        for clip in track.clips:
            heard = listened.get(clip.take)
            if heard is None:
                continue
            for sound in _beginning_in(clip, heard.sounds):
                by = clip.at - clip.start
                start, end = sound.start + by, min(sound.end + by, clip.end)
                if end - start < (sound.end - sound.start) // 2:
                    continue  # most of it was cut
                low, high = (start, end) if sound.kind != "clipping" else (0, 0)
                choices: tuple[Do, ...] = ("cover", "cut", "keep")
                if talk.others(track.id, low, high):
                    choices = ("cover", "keep")
                if sound.kind == "clipping":
                    choices = ("keep",)
                yield Snag(
                    sound.kind,
                    track.id,
                    clip.take,
                    sound.start,
                    sound.end,
                    start,
                    end,
                    sound.name if sound.kind == "noise" else f"{(end - start) / FRAME_RATE:.1f} s",
                    sound.confidence,
                    _REASONS[sound.name],
                    choices[0],
                    choices,
                    low,
                    high,
                )


def _beginning_in(clip: Clip, heard: Sequence[_Heard]) -> Sequence[_Heard]:
    """What of a take begins in the part of it that a clip plays."""
    first = bisect.bisect_left(heard, clip.start, key=lambda one: one.start)
    last = bisect.bisect_left(heard, clip.start + clip.frames, key=lambda one: one.start)
    return heard[first:last]


_REASONS = {
    "breath": "a breath that stands out from the room",
    "knock": "low and sudden: a knock on the table or the microphone",
    "click": "over in a moment, and louder than the room",
    "mouth noise": "a small click between two words",
    "cough": "sudden, without a voice, nearly as loud as speech",
    "clipping": "the sound is cut off at full level here; only saying it again helps",
}


def _level_jumps(talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
    for track in talk.timeline.tracks:
        if track.id not in talk.tracks:
            continue
        phrases = list(_phrases(talk.timeline, track, listened))
        for first, last, by_db in jumps([level for *_, level in phrases], _JUMP_DB):
            start, end = phrases[first][0], phrases[last - 1][1]
            take, take_start = phrases[first][2], phrases[first][3]
            way = "louder" if by_db > 0 else "quieter"
            yield Snag(
                "level",
                track.id,
                take,
                take_start,
                take_start + end - start,
                start,
                end,
                f"{by_db:+.0f} dB".replace("-", "−"),
                round(min(0.99, abs(by_db) / 12), 2),
                f"{abs(by_db):.0f} dB {way} than this voice was before",
                "level",
                ("level", "keep"),
                by_db=round(by_db, 1),
            )


def _phrases(
    timeline: Timeline, track: Track, listened: Mapping[str, Listened]
) -> Iterator[tuple[int, int, str, int, float]]:
    """Phrases of a track as they sound: start, end, take, start in the take, and level in dBFS with
    the gains of clip, track and section."""
    starts = [section.at for section in timeline.sections]
    for clip in track.clips:
        heard = listened.get(clip.take)
        if heard is None:
            continue
        by = clip.at - clip.start
        for phrase in _beginning_in(clip, heard.phrases):
            if phrase.end > clip.start + clip.frames:
                break
            at = phrase.start + by
            section = timeline.sections[max(0, bisect.bisect_right(starts, at) - 1)]
            middle = (phrase.start + phrase.end) // 2 + by
            gain_db = clip.gain_db + section.gain_db + value_at(track.envelope, middle)
            yield at, phrase.end + by, clip.take, phrase.start, phrase.level_dbfs + gain_db


def _half_words(timeline: Timeline, words: TakeWords) -> Iterator[Snag]:
    """Words that a cut goes through."""
    numbers = {cut.at: cut.id for cut in timeline.cuts}
    total = timeline.frames
    for track in timeline.tracks:
        if track.kind != "voice":
            continue
        for before, clip in pairwise(track.clips):
            if before.end != clip.at or clip.at not in numbers:
                continue
            halved = _through(words, before.take, before.start + before.frames) or _through(
                words, clip.take, clip.start
            )
            if halved is None:
                continue
            take, word = halved
            yield Snag(
                "word",
                track.id,
                take,
                word.start,
                word.end,
                max(0, clip.at - FRAME_RATE // 5),
                min(total, clip.at + FRAME_RATE // 5),
                word.text,
                0.8,
                f"a cut goes through “{word.text}”",
                "restore",
                ("restore", "keep"),
                number=numbers[clip.at],
            )


def _through(words: TakeWords, take: str, edge: int) -> tuple[str, Word] | None:
    """The word of a take that an edge goes through, well inside it; fillers are none."""
    own = words.get(take, ())
    index = bisect.bisect_right(own, edge, key=_start) - 1
    if index < 0 or own[index].kind == "filler":
        return None
    word = own[index]
    inside = word.start + _HALF_WORD_FRAMES < edge < word.end - _HALF_WORD_FRAMES
    return (take, word) if inside else None


def _start(span: PlacedWord | Word) -> int:
    return span.start


def _end(span: PlacedWord | Word) -> int:
    return span.end
