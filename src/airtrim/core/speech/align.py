"""Exact words: an aligner says where each word of the recogniser is, and where a filler stands.

The recogniser knows which words were said, but its times are good to a few tenths of a second and
it leaves out most fillers. Here each phrase, a stretch between pauses, is decoded with a grammar of
its words in order and an optional filler between any two, in steps of 10 ms (the acoustic model and
the dictionary are PocketSphinx's for US English).
"""

import bisect
import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.speech import HOP, HOP_S, MODEL_RATE
from airtrim.core.speech.edges import drawn_to_sound, faintly_sounding, sounding
from airtrim.core.speech.spelling import sounds, spoken
from airtrim.core.speech.voice import Voice, voice_of
from airtrim.core.timeline.snap import runs
from airtrim.core.timeline.words import Word

_TO_FRAMES = round(FRAME_RATE * HOP_S)
_PAUSE_HOPS = 80
_LONGEST_HOPS = 700
_LONGEST_TOGETHER_HOPS = 1200
_SHORT_ISLAND_HOPS = 70
_BESIDE_SHORT_HOPS = 60
_BESIDE_HOPS = 30
_LEAST_BESIDE_HOPS = 10
_AROUND_HOPS = 100
_FAR_HOPS = 1000
_FAR_OFF_HOPS = 80
_SHORTEST_HOPS = 8
_TAIL_HOPS = 6
_RELEASE_HOPS = 12
_SHORTEST_RELEASE_HOPS = 3
_LONGEST_RELEASE_HOPS = 25
_LONGEST_SYLLABLE_HOPS = 40
_LEAST_IN_SYLLABLE = 0.1
"""How soon after a word its last sound may come, how long that is, and how much of it is a voice
where it is a syllable."""
_REST_HOPS = 25
_FILLERS = {"um": "AH M", "uh": "AH"}
_LIKE_FILLERS = frozenset(
    ("a", "on", "i'm", "arm", "am", "some", "dumb", "done", "and", "oh", "um")
)
"""What a recogniser writes where a filler touches the words beside it."""
_MISSING_WEIGHT = 0.1
_SURE = 0.8
"""How likely a word is not there at all, of which the recogniser is less sure than this."""
_HELD = 1.5
_DRAWN_OUT = 1.7
"""How far longer than its phones take a word is held that may be a filler, and one that is one even
where the sound moves."""
_LEAST_HELD_HOPS = 28
_WORDS_FOR_A_PACE = 4
_SIGN = "zz"
"""What tells a filler of the grammar from a word of the same name."""
_TRIES = 4
_MOST_UNHEARD = 2
_FILLER_WEIGHT = 0.1
_MISHEARD_WEIGHT = 0.2
_DOUBT = 0.6
_APART_HOPS = 10
_SHORT_LETTERS = 4
_LEAST_HOPS = 13
_LEAST_FIRST_HOPS = 18
"""How long a filler is, and one with which a phrase begins, that may be the beginning of a word."""
_HINTED_HOPS = 8
_LEAST_VOICED = 0.6
_MOST_CHANGE_DB = 2.4
_MOST_CHANGE_ALONE_DB = 3.0
_MORE_CHANGE_DB = 0.05
_LONG_HOPS = 20
"""How steady a filler is: a longer one may move more."""
_NEAR_HOPS = 60
_LONGEST_FILLER_HOPS = 120
_LONGEST_ALONE_HOPS = 70

Sound = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class _Said:
    """A dictionary word of a phrase, and which of the recogniser's words it is of."""

    text: str
    word: int
    doubtful: bool
    """It may be a filler that the recogniser took for a word."""
    start: int
    end: int
    """Where the recogniser has the word, in frames of the take."""
    missing: bool = False
    """It may not be there at all."""

    @property
    def may_be_none(self) -> bool:
        """Whether the phrase may be heard without it."""
        return self.doubtful or self.missing


@dataclass(frozen=True, slots=True)
class _Found:
    """A word or filler in a phrase: its hops from the start of the piece."""

    text: str
    start: int
    end: int


class Aligner:
    """PocketSphinx with a grammar for every phrase. One at a time; not for several threads, and
    threads would not help: it holds Python's lock while it listens."""

    def __init__(self) -> None:
        from pocketsphinx import Decoder, get_model_path

        folder = Path(get_model_path()) / "en-us"
        self._decoder: Any = Decoder(
            hmm=str(folder / "en-us"),
            dict=str(folder / "cmudict-en-us.dict"),
            lm=None,
            loglevel="FATAL",
            samprate=float(MODEL_RATE),
            # One way to say each word is enough to find its edges, and the rest takes time.
            fsgusealtpron=False,
            cmn="batch",  # each phrase by itself: what was heard before makes no difference
        )
        for name, phones in _FILLERS.items():
            self._decoder.add_word(_SIGN + name, phones, True)

    def align(self, phrase: "Phrase") -> list[Word]:
        """The words of one phrase with exact edges, and the fillers between them. One that cannot
        be aligned keeps its words, drawn to the sound."""
        words, of = phrase.words, phrase.of
        said: list[_Said] = []
        for i, word in enumerate(words):
            known = self._known(word.text)
            doubtful = (
                len(known) == 1 and len(known[0]) <= _SHORT_LETTERS and word.confidence < _DOUBT
            )
            said.extend(_Said(text, i, doubtful, word.start, word.end) for text in known)
        if not said:
            # An island between two pauses that no word covers is judged by itself.
            alone = of.filler(_Found("uh", phrase.start, phrase.end), alone=True)
            return [*words, alone] if alone else words
        begin, stop = of.with_room(phrase.start, phrase.end)
        sound = of.sound[begin * HOP : stop * HOP]
        told = self._listen(said, sound, begin, of)
        if told is None or told.far_off(said, of):
            # Some word is not there, or in the next phrase: less is lost of less.
            halves = phrase.halves()
            if halves:
                return [word for half in halves for word in self.align(half)]
        if told is None:
            return words
        for index, filler in _strays(said, told, of).items():
            self._without(phrase, index, filler, said, told)
        held = self._held(said, told, of)
        out = list(told.fillers)
        out.extend(held.values())
        starts = [start for start, _ in told.spans.values()]
        starts += [of.hop(filler.start) for filler in out]
        for index, word in enumerate(words):
            if index in held:
                continue
            if index in told.spans:
                low, high = of.heard(*told.spans[index])
                beside = min((one for one in starts if one >= high), default=len(of.faint))
                high = of.fading(high, min(high + _TAIL_HOPS, beside))
                at, to = of.frame(low), of.frame(of.released(high, beside))
                out.append(Word(word.text, at, to, word.kind, word.confidence))
            elif index not in told.mistaken:
                out.append(word)
        out.extend(phrase.left_alone(out))
        return of.filled(out, begin, stop)

    def _without(
        self, phrase: "Phrase", index: int, filler: Word, said: list[_Said], told: "_Told"
    ) -> None:
        """A short word alone between two pauses that sounds like a filler is one, if without it the
        word is heard among what is said on the side where the recogniser has it; or not at all,
        where the recogniser is not sure of it."""
        word, of = phrase.words[index], phrase.of
        begin, stop = of.with_room(phrase.start, phrase.end)
        low, high = of.hop(filler.start), of.hop(filler.end)
        after = word.start + word.end >= filler.start + filler.end
        first, last = (high, stop) if after else (begin, low)
        side = [
            replace(one, missing=one.word == index and word.confidence < _SURE)
            for one in said
            if (one.word >= index if after else one.word <= index)
        ]
        without = self._listen(side, of.sound[first * HOP : last * HOP], first, of)
        if without is not None and not without.far_off(side, of):
            told.heard_again(side, without, first, last, of)
            told.fillers.append(filler)

    def _held(self, said: list[_Said], told: "_Told", of: "_Heard") -> dict[int, Word]:
        """Fillers that the recogniser took for a short word that sounds like one: held on one sound
        for far longer than the words around it take for each of their phones."""
        phones = [len(self._decoder.lookup_word(one.text).split()) for one in said]
        paces = [
            (told.spans[one.word][1] - told.spans[one.word][0]) / count
            for one, count in zip(said, phones, strict=True)
            if one.word in told.spans
        ]
        if len(paces) < _WORDS_FOR_A_PACE:
            return {}
        pace = float(np.median(paces))
        out = {}
        for one, count in zip(said, phones, strict=True):
            low, high = told.spans.get(one.word, (0, 0))
            held = (high - low) / (pace * count)
            # The last word before a pause is drawn out by itself.
            goes_on = of.loud[high : high + _APART_HOPS].sum() > _APART_HOPS // 2
            long = high - low >= _LEAST_HELD_HOPS and held >= _HELD
            if one.text in _LIKE_FILLERS and long and goes_on:
                # A doubtful one may have its filler beside it, and be a word itself.
                steady = one.doubtful or held < _DRAWN_OUT
                filler = of.filler(_Found("um", low, high), alone=False, steady=steady)
                if filler:
                    out[one.word] = filler
        return out

    def _listen(self, said: list[_Said], sound: Sound, begin: int, of: "_Heard") -> "_Told | None":
        """Decode until every filler that was heard is one: one that is none leaves its place, and
        what was taken for it is heard as the words."""
        closed: set[_Place] = set()
        told = None
        for _ in range(_TRIES):
            heard = self._decode(said, sound, begin, closed)
            told = None if heard is None else _told(said, heard, of)
            if told is None or not told.refused - closed:
                break
            closed |= told.refused
        return told

    def _known(self, text: str) -> list[str]:
        """The dictionary words that a word is said as; unknown ones are given a pronunciation."""
        out = []
        for word in spoken(text):
            if self._decoder.lookup_word(word) is None:
                halves = self._halves(word)
                if halves:
                    out.extend(halves)
                    continue
                self._decoder.add_word(word, sounds(word), True)
            out.append(word)
        return out

    def _halves(self, word: str) -> list[str] | None:
        """A compound as its two known halves: wheelhouse, wheel and house."""
        for at in range(len(word) - 3, 2, -1):
            parts = [word[:at], word[at:]]
            if all(self._decoder.lookup_word(part) for part in parts):
                return parts
        return None

    def _decode(
        self, said: list[_Said], sound: Sound, first_hop: int, closed: set["_Place"]
    ) -> list[_Found] | None:
        """The words in order, with a filler or none before each and at the end, but not at the
        places in ``closed``. A doubtful word may be a filler itself."""
        decoder = self._decoder
        graph = decoder.create_fsg("phrase", 0, 2 * len(said) + 2, list(_ways(said, closed)))
        decoder.add_fsg("phrase", graph)
        decoder.activate_search("phrase")
        decoder.start_utt()
        pcm = (np.clip(sound, -1.0, 1.0) * 32767.0).astype(np.int16)
        decoder.process_raw(pcm.tobytes(), full_utt=True)
        decoder.end_utt()
        if decoder.hyp() is None:
            return None
        return [
            _Found(re.sub(r"\(\d+\)$", "", seg.word), first_hop + seg.start_frame, end)
            for seg in decoder.seg()
            if not seg.word.startswith(("<", "[", "("))
            for end in [first_hop + seg.end_frame + 1]
        ]


@dataclass(frozen=True, slots=True)
class _Heard:
    """A piece of sound and what is known of it; ``hints`` are the hops at which the recogniser
    wrote a filler."""

    sound: Sound
    loud: NDArray[np.bool_]
    faint: NDArray[np.bool_]
    voice: Voice
    first_frame: int
    hints: list[int]

    def frame(self, hop: int) -> int:
        """A hop as a frame of the take."""
        return self.first_frame + hop * _TO_FRAMES

    def hop(self, frame: int) -> int:
        """A frame of the take as a hop."""
        return (frame - self.first_frame) // _TO_FRAMES

    def sounding(self, start: int, end: int) -> tuple[int, int]:
        """A span without silence at either end; unchanged where all of it is silent."""
        inside = np.flatnonzero(self.loud[start:end])
        return (
            (start + int(inside[0]), start + int(inside[-1]) + 1) if len(inside) else (start, end)
        )

    def with_room(self, start: int, end: int) -> tuple[int, int]:
        """A span with some of the quiet around it, in which faint words begin and end: half of what
        lies before what else sounds, if that is not too little."""
        before, after = np.flatnonzero(self.loud[:start]), np.flatnonzero(self.loud[end:])
        quiet_before = start - int(before[-1]) - 1 if len(before) else 2 * _BESIDE_HOPS
        quiet_after = int(after[0]) if len(after) else 2 * _BESIDE_HOPS
        low, high = (
            min(_BESIDE_HOPS, max(_LEAST_BESIDE_HOPS, quiet // 2))
            for quiet in (quiet_before, quiet_after)
        )
        return max(0, start - low), end + high

    def heard(self, start: int, end: int) -> tuple[int, int]:
        """The same with the faint beginning and end that the sound has within the span."""
        low, high = self.sounding(start, end)
        rest = np.flatnonzero(self.faint[high:end])
        return self.rising(low, start), high + int(rest[-1]) + 1 if len(rest) else high

    def rising(self, start: int, least: int) -> int:
        """A beginning with the faint sound right before it, from ``least`` on."""
        while start > least and self.faint[start - 1]:
            start -= 1
        return start

    def fading(self, end: int, most: int) -> int:
        """An end with the faint sound right after it, up to ``most``."""
        while end < min(most, len(self.faint)) and self.faint[end]:
            end += 1
        return end

    def released(self, end: int, most: int) -> int:
        """An end with what sounds after it once more, as the release of a “t” or a faint syllable,
        if that begins and is over soon and quiet follows."""
        for first, last in runs(self.faint[end:most][: _RELEASE_HOPS + _LONGEST_SYLLABLE_HOPS]):
            start, after = end + first, end + last
            voiced = self.voice.voiced(start, after) >= _LEAST_IN_SYLLABLE
            longest = _LONGEST_SYLLABLE_HOPS if voiced else _LONGEST_RELEASE_HOPS
            soon = first <= _RELEASE_HOPS and _SHORTEST_RELEASE_HOPS <= last - first <= longest
            if soon and after + _APART_HOPS <= most and not self.faint[after:][:_APART_HOPS].any():
                return after
        return end

    def filled(self, words: list[Word], begin: int, stop: int) -> list[Word]:
        """Words found between two hops, each filler with the rest of the sound that it stands in:
        its hum dies away, and what would be left of it is heard. Where that goes on to the word
        beside it, the edge lies where it is quietest between the two. A word after a pause begins
        with the voice."""
        ordered = sorted(words, key=lambda word: word.start)
        ends = [begin, *(self.hop(word.end) for word in ordered)]
        starts = [*(self.hop(word.start) for word in ordered), stop]
        out = []
        for i, word in enumerate(ordered):
            if word.kind == "filler":
                start, end = starts[i], ends[i + 1]
                low = self.rising(start, max(ends[i], start - _REST_HOPS, 0))
                high = self.fading(end, min(starts[i + 1], end + _REST_HOPS))
                if low == ends[i] < start:
                    low = self._quietest(low, start) + 1
                if high == starts[i + 1] > end:
                    high = self._quietest(end, high)
                word = replace(word, start=self.frame(low), end=self.frame(high))
            else:
                low, least = starts[i], max(ends[i], starts[i] - _REST_HOPS)
                while low > least and self.loud[low - 1] and self.voice.voiced(low - 1, low):
                    low -= 1
                if low > ends[i]:
                    word = replace(word, start=self.frame(low))
            out.append(word)
        return out

    def _quietest(self, start: int, end: int) -> int:
        """The quietest hop of a span."""
        power = np.square(self.sound[start * HOP : end * HOP]).reshape(-1, HOP).sum(axis=1)
        return start + int(power.argmin())

    def filler(self, found: _Found, *, alone: bool, steady: bool = True) -> Word | None:
        """What the grammar took for a filler, if it is one: long enough, and a voice, if ``steady``
        one held on one sound; ``alone``: between two pauses."""
        start, end = self.sounding(found.start, found.end)
        length = end - start
        hinted = any(start - _NEAR_HOPS <= hint <= end + _NEAR_HOPS for hint in self.hints)
        first = not alone and not self.faint[max(0, start - 2 * _APART_HOPS) : start - 2].any()
        least = _HINTED_HOPS if hinted and alone else _LEAST_FIRST_HOPS if first else _LEAST_HOPS
        if length < least or length > (_LONGEST_ALONE_HOPS if alone else _LONGEST_FILLER_HOPS):
            return None
        most = _MOST_CHANGE_ALONE_DB if alone else _MOST_CHANGE_DB
        most += _MORE_CHANGE_DB * max(0, length - _LONG_HOPS)
        voiced, change = self.voice.voiced(start, end), self.voice.change(start, end)
        if voiced < _LEAST_VOICED or (steady and change > most):
            return None
        sure = min(0.99, 0.4 + length / 100 + (0.2 if hinted else 0.0) + (0.1 if alone else 0.0))
        start, end = self.heard(found.start, found.end)
        return Word(found.text, self.frame(start), self.frame(end), "filler", round(sure, 2))

    def part(self, low: int, high: int) -> "_Heard":
        """The same of a stretch between two hops."""
        voice = Voice(self.voice.periodicity[low:high], self.voice.bands[low:high])
        hints = [hint - low for hint in self.hints if low - _NEAR_HOPS <= hint < high + _NEAR_HOPS]
        sound = self.sound[low * HOP : high * HOP]
        loud, faint = self.loud[low:high], self.faint[low:high]
        return _Heard(sound, loud, faint, voice, self.frame(low), hints)


@dataclass(frozen=True, slots=True)
class Phrase:
    """A stretch between pauses to be aligned by itself: its words, what was heard there and around
    it, and its hops in that."""

    words: list[Word]
    of: "_Heard"
    start: int
    end: int

    def halves(self) -> "list[Phrase]":
        """The same in two parts, parted at its longest pause; nothing where it has none."""
        pauses = [
            (b - a, a, b) for (_, a), (b, _) in pairwise(self._islands()) if b - a >= _APART_HOPS
        ]
        if not pauses:
            return []
        _, before, after = max(pauses)
        middle = self.of.frame((before + after) // 2)
        first = [word for word in self.words if word.start + word.end < 2 * middle]
        rest = [word for word in self.words if word.start + word.end >= 2 * middle]
        return [
            Phrase(first, self.of, self.start, before),
            Phrase(rest, self.of, after, self.end),
        ]

    def left_alone(self, told: list[Word]) -> list[Word]:
        """Fillers between two pauses that neither recogniser nor aligner wrote: what sounds there,
        and no word covers."""
        spans = [(self.of.hop(word.start), self.of.hop(word.end)) for word in told]
        out = []
        islands = self._islands()
        edges = [-_FAR_HOPS, *(edge for island in islands for edge in island), len(self.of.loud)]
        for number, (start, end) in enumerate(islands):
            covered = sum(max(0, min(b, end) - max(a, start)) for a, b in spans)
            apart = start - edges[2 * number], edges[2 * number + 3] - end
            if covered > (end - start) // 4 or min(apart) < _APART_HOPS:
                continue
            found = self.of.filler(_Found("uh", start, end), alone=True)
            if found:
                out.append(found)
        return out

    def _islands(self) -> list[tuple[int, int]]:
        """Stretches of sound in it, in hops."""
        return [
            (a + self.start, b + self.start)
            for a, b in islands_of(self.of.loud[self.start : self.end])
        ]


def phrases(words: list[Word], sound: Sound, first_frame: int) -> Iterator[Phrase]:
    """``words`` of mono ``sound`` at 16 kHz, which begins at ``first_frame`` of the take, phrase by
    phrase, so that several processes can share what an ``Aligner`` does."""
    loud = sounding(sound, MODEL_RATE)
    rough = drawn_to_sound(words, loud, first_frame)
    # Where the recogniser wrote a filler is a hint only: it is often beside its sound.
    hints = [_middle_hop(word, first_frame) for word in rough if word.kind == "filler"]
    faint = faintly_sounding(sound, MODEL_RATE)
    heard = _Heard(sound, loud, faint, voice_of(sound), first_frame, hints)
    plain = [word for word in rough if word.kind != "filler"]
    middles = [_middle_hop(word, first_frame) for word in plain]
    for start, end, own in _phrases(plain, loud, first_frame):
        # Far from any word there is no speech, whatever it sounds like.
        if not own and not _any_between(middles, start - _FAR_HOPS, end + _FAR_HOPS):
            continue
        low = max(0, start - _AROUND_HOPS)
        yield Phrase(own, heard.part(low, end + _AROUND_HOPS), start - low, end - low)


@dataclass(frozen=True, slots=True)
class _Told:
    """What a decoded phrase tells: where each of its words is, the fillers, the places where what
    was taken for a filler is none, and the words that were fillers."""

    spans: dict[int, tuple[int, int]]
    fillers: list[Word]
    refused: set["_Place"]
    mistaken: set[int]

    def heard_again(
        self, said: list[_Said], other: "_Told", first: int, last: int, of: "_Heard"
    ) -> None:
        """Take over what was heard of some of the words, between two hops, once more."""
        for one in said:
            self.spans.pop(one.word, None)
            self.mistaken.discard(one.word)
        self.spans.update(other.spans)
        self.mistaken.update(other.mistaken)
        self.fillers[:] = [f for f in self.fillers if not first <= of.hop(f.start) < last]
        self.fillers.extend(other.fillers)

    def far_off(self, said: list[_Said], of: "_Heard") -> bool:
        """Whether a word is far from where the recogniser has it, which is right to some tenths of
        a second: what was said there is likely something else."""
        off = (
            max(of.frame(low) - one.end, one.start - of.frame(high))
            for one in said
            if one.word in self.spans
            for low, high in [self.spans[one.word]]
        )
        return max(off, default=0) > _FAR_OFF_HOPS * _TO_FRAMES


_Place = tuple[Literal["before", "instead"], int]
"""Where a filler may stand: before a word, or instead of a doubtful one."""


def _told(said: list[_Said], heard: list[_Found], of: _Heard) -> _Told | None:
    """Read a decoded phrase; None where not all its words are in it."""
    told = _Told({}, [], set(), set())
    place = 0
    taken: list[Word | None] = []

    def settle(until: int) -> None:
        """Fillers heard since the last word, up to the word at a place: those that are none leave
        the doubtful words that they were taken for, or else their own place."""
        told.fillers.extend(word for word in taken if word)
        # A doubtful word may be a filler: one that is there, and no word beside it.
        there = [one for one in said[place:until] if not one.missing]
        if None in taken or any(not _stands_for(one, taken) for one in there):
            skipped: list[_Place] = [("instead", one) for one in range(place, until)]
            told.refused.update(skipped or [("before", until)])
        told.mistaken.update(said[one].word for one in range(place, until))
        taken.clear()

    for found in heard:
        if found.text.startswith(_SIGN):
            named = _Found(found.text.removeprefix(_SIGN), found.start, found.end)
            taken.append(of.filler(named, alone=False))
            continue
        here = place
        while here < len(said) and said[here].may_be_none and said[here].text != found.text:
            here += 1
        if here >= len(said) or said[here].text != found.text:
            return None
        settle(here)
        index = said[here].word
        low, _ = told.spans.get(index, (found.start, 0))
        told.spans[index] = low, found.end
        place = here + 1
    left = [one for one in said[place:] if not one.may_be_none]
    if not left:
        settle(len(said))
    # The last word or two may be too faint: what is heard before them stands.
    few = len(left) <= _MOST_UNHEARD and len(left) < len(said) // 2
    return told if few or not left else None


def _ways(
    said: list[_Said], closed: set["_Place"]
) -> Iterator[tuple[int, int, float, str] | tuple[int, int, float]]:
    """The grammar of a phrase: steps from state to state with their weight and word. Before a word
    is the state twice its place, or the one after that where a filler came before it."""
    fillers = [(_SIGN + name, 1 / len(_FILLERS)) for name in _FILLERS]
    for place, one in enumerate([*said, None]):
        here, after = 2 * place, 2 * place + 2
        open_here = ("before", place) not in closed
        plain = 1 / (1 + _FILLER_WEIGHT) if open_here else 1.0
        if open_here:
            for name, share in fillers:
                yield here, here + 1, _FILLER_WEIGHT * plain * share, name
        for state, weight in ((here, plain), (here + 1, 1.0)):
            if one is None:
                yield state, after, weight
                continue
            mistaken = one.doubtful and ("instead", place) not in closed
            if mistaken:
                weight /= 1 + _MISHEARD_WEIGHT
                for name, share in fillers:
                    yield state, after, weight * _MISHEARD_WEIGHT * share, name
            yield state, after, weight, one.text
            if one.missing:
                yield state, after, weight * _MISSING_WEIGHT


def _stands_for(one: _Said, fillers: list[Word | None]) -> bool:
    """Whether a word is the one filler that was heard instead of it, and about where it is."""
    near = _BESIDE_HOPS // 2 * _TO_FRAMES
    found = [f for f in fillers if f and f.start < one.end + near and f.end > one.start - near]
    return len(fillers) == len(found) == 1


def _strays(said: list[_Said], told: _Told, of: _Heard) -> dict[int, Word]:
    """Short words that stand alone between two pauses and sound like a filler, as which they are
    given, by their number."""
    # A word with a filler right beside it does not stand alone.
    fillers = [(of.hop(word.start), of.hop(word.end)) for word in told.fillers]
    spans = [*told.spans.values(), *fillers]
    out = {}
    for one in said:
        low, high = told.spans.get(one.word, (0, 0))
        # One in doubt may have been given the pause after it, and even what comes after that.
        if one.doubtful:
            _, last = next(iter(islands_of(of.loud[low:high])), (0, high - low))
            high = low + last if high - low - last >= _APART_HOPS else high
        before = max((end for _, end in spans if end <= low), default=0)
        after = min((start for start, _ in spans if start >= high), default=len(of.loud))
        apart = low - before >= _APART_HOPS and after - high >= _APART_HOPS
        if len(one.text) <= _SHORT_LETTERS and high and apart:
            filler = of.filler(_Found("um", low, high), alone=True)
            if filler:
                out[one.word] = filler
    return out


def _any_between(places: list[int], low: int, high: int) -> bool:
    index = bisect.bisect_left(places, low)
    return index < len(places) and places[index] <= high


def _middle_hop(word: Word, first_frame: int) -> int:
    return ((word.start + word.end) // 2 - first_frame) // _TO_FRAMES


def _phrases(
    words: list[Word], loud: NDArray[np.bool_], first_frame: int
) -> Iterator[tuple[int, int, list[Word]]]:
    """Stretches between pauses, in hops, and the words in each."""
    spans = _held_together(_stretches(islands_of(loud)), words, first_frame)
    middles = [_middle_hop(word, first_frame) for word in words]
    place = 0
    for index, (start, end) in enumerate(spans):
        # A word in the pause goes to whichever phrase is nearer.
        reach = (end + spans[index + 1][0]) // 2 if index + 1 < len(spans) else len(loud) + 1
        own = []
        while place < len(words) and middles[place] < reach:
            own.append(words[place])
            place += 1
        yield start, end, own
    if place < len(words):
        yield len(loud), len(loud), words[place:]


def islands_of(loud: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where there is sound, from hop to hop; what is over at once is none."""
    joined: list[tuple[int, int]] = []
    for start, end in runs(loud):
        if joined and start - joined[-1][1] < _SHORTEST_HOPS:
            joined[-1] = joined[-1][0], end
        else:
            joined.append((start, end))
    return [(a, b) for a, b in joined if b - a >= _SHORTEST_HOPS]


def _stretches(islands: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Islands of sound joined into stretches to be aligned at once: parted at every long pause, and
    otherwise where they would be too long, at the longest pause that does not stand beside a short
    island, since a filler alone between two pauses belongs to what is said around it."""
    if not islands:
        return []
    gaps = [b[0] - a[1] for a, b in pairwise(islands)]
    short = [end - start < _SHORT_ISLAND_HOPS for start, end in islands]
    worth = [
        gap - (_BESIDE_SHORT_HOPS if short[i] or short[i + 1] else 0) for i, gap in enumerate(gaps)
    ]
    start, end = islands[0][0], islands[-1][1]
    best = max(range(len(worth)), key=worth.__getitem__, default=None)
    if best is None or (end - start <= _LONGEST_HOPS and gaps[best] < _PAUSE_HOPS):
        return [(start, end)]
    return _stretches(islands[: best + 1]) + _stretches(islands[best + 1 :])


def _held_together(
    spans: list[tuple[int, int]], words: list[Word], first_frame: int
) -> list[tuple[int, int]]:
    """Stretches with those joined between which a word stands whose place is in doubt: the
    recogniser gives it sound before and after the pause, as when it writes no filler there."""
    starts = [word.start for word in words]
    out = spans[:1]
    for start, end in spans[1:]:
        before, low = out[-1]
        frame = first_frame + low * _TO_FRAMES
        index = bisect.bisect_left(starts, frame) - 1
        over = index >= 0 and words[index].end > first_frame + start * _TO_FRAMES
        if over and end - before <= _LONGEST_TOGETHER_HOPS:
            out[-1] = before, end
        else:
            out.append((start, end))
    return out


def in_order(words: list[Word]) -> list[Word]:
    """In order of time, none over another, none shorter than 10 ms."""
    out: list[Word] = []
    for word in sorted(words, key=lambda w: (w.start, w.end)):
        start = max(word.start, out[-1].end if out else 0)
        end = max(word.end, start + _TO_FRAMES)
        out.append(Word(word.text, start, end, word.kind, word.confidence))
    return out
