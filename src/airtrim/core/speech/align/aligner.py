"""PocketSphinx with a grammar for every phrase."""

import re
from collections.abc import Set as AbstractSet
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.alignment import SHORT_LETTERS, Alignment, read_segments
from airtrim.core.speech.align.audio import APART_HOPS, PhraseAudio
from airtrim.core.speech.align.fillers import as_filler
from airtrim.core.speech.align.grammar import (
    FILLER_SIGN,
    FILLERS,
    Segment,
    Slot,
    Token,
    transitions,
)
from airtrim.core.speech.align.phrases import Phrase
from airtrim.core.speech.spelling import sounds, spoken
from airtrim.core.timeline.words import Word

_TRIES = 4
_TAIL_HOPS = 6
"""How far a word's end is followed into what fades."""
_DOUBT = 0.6
"""A short word of which the recogniser is less sure than this (0–1) may be a filler."""
_SURE = 0.8
"""A word of which it is less sure than this may not be there at all."""
_LIKE_FILLERS = frozenset(
    ("a", "on", "i'm", "arm", "am", "some", "dumb", "done", "and", "oh", "um")
)
"""What a recogniser writes where a filler touches the words beside it."""
_WORDS_FOR_A_PACE = 4
_LEAST_DRAWN_OUT_HOPS = 28
_DRAWN_OUT = 1.5
_SURELY_DRAWN_OUT = 1.7
"""How far longer than its phones take a word is held that may be a filler, and one that is one even
where the sound moves."""


class Aligner:
    """One at a time; not for several threads, and threads would not help: it holds Python's lock
    while it decodes."""

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
            cmn="batch",  # each phrase by itself: what came before makes no difference
        )
        for name, phones in FILLERS.items():
            self._decoder.add_word(FILLER_SIGN + name, phones, True)

    def align(self, phrase: Phrase) -> list[Word]:
        """The words of one phrase with exact edges, and the fillers between them. One that cannot
        be aligned keeps its words, drawn to the sound."""
        words, audio = phrase.words, phrase.audio
        tokens = self._tokens(words)
        if not tokens:
            # An island between two pauses that no word covers is judged by itself.
            alone = as_filler(audio, Segment("uh", phrase.start, phrase.end), alone=True)
            return [*words, alone] if alone else words
        begin, stop = audio.with_room(phrase.start, phrase.end)
        found = self._alignment(tokens, audio, begin, stop)
        if found is None or found.far_off(tokens, audio):
            # Some word is not there, or in the next phrase: less is lost of less.
            halves = phrase.halves()
            if halves:
                return [word for half in halves for word in self.align(half)]
        if found is None:
            return words
        for index, filler in found.isolated_fillers(tokens, audio).items():
            self._try_without(phrase, index, filler, tokens, found)
        drawn_out = self._drawn_out(tokens, found, audio)
        out = [*found.fillers, *drawn_out.values()]
        starts = [start for start, _ in found.spans.values()]
        starts += [audio.hop(filler.start) for filler in out]
        for index, word in enumerate(words):
            if index in drawn_out:
                continue
            if index in found.spans:
                low, high = audio.with_faint(*found.spans[index])
                beside = min((one for one in starts if one >= high), default=len(audio.faint))
                high = audio.fading(high, min(high + _TAIL_HOPS, beside))
                at, to = audio.frame(low), audio.frame(audio.released(high, beside))
                out.append(replace(word, start=at, end=to))
            elif index not in found.misrecognised:
                out.append(word)
        out.extend(phrase.uncovered_fillers(out))
        return audio.filled(out, begin, stop)

    def _try_without(
        self, phrase: Phrase, index: int, filler: Word, tokens: list[Token], found: Alignment
    ) -> None:
        """A short word alone between two pauses that sounds like a filler is one, if without it the
        word is found among what is said on the side where the recogniser has it; or not at all,
        where the recogniser is not sure of it."""
        word, audio = phrase.words[index], phrase.audio
        begin, stop = audio.with_room(phrase.start, phrase.end)
        low, high = audio.hop(filler.start), audio.hop(filler.end)
        after = word.start + word.end >= filler.start + filler.end
        first, last = (high, stop) if after else (begin, low)
        side = [
            replace(token, missing=token.word == index and word.confidence < _SURE)
            for token in tokens
            if (token.word >= index if after else token.word <= index)
        ]
        without = self._alignment(side, audio, first, last)
        if without is not None and not without.far_off(side, audio):
            found.take_over(side, without, first, last, audio)
            found.fillers.append(filler)

    def _drawn_out(
        self, tokens: list[Token], found: Alignment, audio: PhraseAudio
    ) -> dict[int, Word]:
        """Fillers that the recogniser took for a short word that sounds like one: held on one sound
        for far longer than the words around it take for each of their phones."""
        phones = [len(self._decoder.lookup_word(token.text).split()) for token in tokens]
        paces = [
            (found.spans[token.word][1] - found.spans[token.word][0]) / count
            for token, count in zip(tokens, phones, strict=True)
            if token.word in found.spans
        ]
        if len(paces) < _WORDS_FOR_A_PACE:
            return {}
        pace = float(np.median(paces))
        out = {}
        for token, count in zip(tokens, phones, strict=True):
            low, high = found.spans.get(token.word, (0, 0))
            times = (high - low) / (pace * count)
            # The last word before a pause is drawn out by itself.
            goes_on = audio.loud[high : high + APART_HOPS].sum() > APART_HOPS // 2
            long = high - low >= _LEAST_DRAWN_OUT_HOPS and times >= _DRAWN_OUT
            if token.text in _LIKE_FILLERS and long and goes_on:
                # A doubtful one may have its filler beside it, and be a word itself.
                steady = token.doubtful or times < _SURELY_DRAWN_OUT
                filler = as_filler(audio, Segment("um", low, high), alone=False, steady=steady)
                if filler:
                    out[token.word] = filler
        return out

    def _alignment(
        self, tokens: list[Token], audio: PhraseAudio, start: int, end: int
    ) -> Alignment | None:
        """Decode until every filler that was found is one: one that is none closes its slot, and
        what was taken for it is decoded as the words."""
        closed: set[Slot] = set()
        found = None
        for _ in range(_TRIES):
            segments = self._decode(tokens, audio.hops(start, end), start, closed)
            found = None if segments is None else read_segments(tokens, segments, audio)
            if found is None or not found.refused - closed:
                break
            closed |= found.refused
        return found

    def _decode(
        self,
        tokens: list[Token],
        samples: NDArray[np.float32],
        first_hop: int,
        closed: AbstractSet[Slot],
    ) -> list[Segment] | None:
        """The segments of ``samples``, which begin at ``first_hop``; None where the grammar does
        not fit them."""
        decoder = self._decoder
        states = 2 * len(tokens) + 3
        graph = decoder.create_fsg("phrase", 0, states - 1, list(transitions(tokens, closed)))
        decoder.add_fsg("phrase", graph)
        decoder.activate_search("phrase")
        decoder.start_utt()
        pcm = (np.clip(samples, -1.0, 1.0) * 32767.0).astype(np.int16)
        decoder.process_raw(pcm.tobytes(), full_utt=True)
        decoder.end_utt()
        if decoder.hyp() is None:
            return None
        return [
            # A second way to say a word is told by a number behind it.
            Segment(re.sub(r"\(\d+\)$", "", seg.word), first_hop + seg.start_frame, end)
            for seg in decoder.seg()
            if not seg.word.startswith(("<", "[", "("))
            for end in [first_hop + seg.end_frame + 1]
        ]

    def _tokens(self, words: list[Word]) -> list[Token]:
        """The dictionary words that words are said as."""
        out: list[Token] = []
        for i, word in enumerate(words):
            known = self._known(word.text)
            short = len(known) == 1 and len(known[0]) <= SHORT_LETTERS
            doubtful = short and word.confidence < _DOUBT
            out.extend(Token(text, i, doubtful, word.start, word.end) for text in known)
        return out

    def _known(self, text: str) -> list[str]:
        """A word as dictionary words; unknown ones are given a pronunciation."""
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
