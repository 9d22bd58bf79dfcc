"""PocketSphinx with a grammar for every phrase."""

import re
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.align.alignment import read_segments
from airtrim.core.speech.align.audio import fading
from airtrim.core.speech.align.grammar import Segment, Token, transitions
from airtrim.core.speech.align.phrases import Phrase
from airtrim.core.speech.spelling import sounds, spoken
from airtrim.core.timeline.words import Word

_TAIL_HOPS = 6
"""How far a word's end is followed into what fades."""


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
        self._guessed: set[str] = set()

    def forget(self) -> None:
        """Forget the noise that was heard so far, so that what comes is aligned as it would be by
        any other aligner."""
        self._decoder.reinit_feat()

    def align(self, phrase: Phrase) -> list[Word]:
        """The words of one phrase with exact edges. One that cannot be aligned keeps its words,
        drawn to the sound."""
        words, audio = phrase.words, phrase.audio
        tokens = self._tokens(phrase)
        if not tokens:
            return words
        begin, stop = audio.with_room(phrase.start, phrase.end)
        segments = self._decode(tokens, audio.hops(begin, stop), begin)
        found = None if segments is None else read_segments(tokens, segments)
        if found is None or found.far_off(tokens, audio):
            # Some word is not there, or in the next phrase: less is lost of less.
            halves = phrase.halves()
            if halves:
                return [word for half in halves for word in self.align(half)]
        if found is None:
            return words
        out = []
        starts = [start for start, _ in found.spans.values()]
        for index, word in enumerate(words):
            if index in found.spans:
                low, high = audio.with_faint(*found.spans[index])
                beside = min((one for one in starts if one >= high), default=len(audio.faint))
                high = fading(audio.faint, high, min(high + _TAIL_HOPS, beside))
                at, to = audio.frame(low), audio.frame(audio.released(high, beside))
                out.append(replace(word, start=at, end=to))
            elif index not in phrase.doubtful:
                out.append(word)
        return audio.with_voice(out, begin)

    def phones(self, text: str) -> list[str]:
        """The phones of a word, by the dictionary; none where it does not know all of it."""
        words = self._known(text)
        if self._guessed.intersection(words):
            return []
        return [phone for word in words for phone in self._decoder.lookup_word(word).split()]

    def _decode(
        self,
        tokens: list[Token],
        samples: NDArray[np.float32],
        first_hop: int,
    ) -> list[Segment] | None:
        """The segments of ``samples``, which begin at ``first_hop``; None where the grammar does
        not fit them."""
        decoder = self._decoder
        graph = decoder.create_fsg("phrase", 0, len(tokens), list(transitions(tokens)))
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

    def _tokens(self, phrase: Phrase) -> list[Token]:
        """The dictionary words that words are said as."""
        return [
            Token(text, i, word.start, word.end, optional=i in phrase.doubtful)
            for i, word in enumerate(phrase.words)
            for text in self._known(word.text)
        ]

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
                self._guessed.add(word)
            out.append(word)
        return out

    def _halves(self, word: str) -> list[str] | None:
        """A compound as its two known halves: wheelhouse, wheel and house."""
        for at in range(len(word) - 3, 2, -1):
            parts = [word[:at], word[at:]]
            if all(self._decoder.lookup_word(part) for part in parts):
                return parts
        return None


@lru_cache(maxsize=1)
def load_aligner() -> Aligner:
    """The aligner of this process, loaded once."""
    return Aligner()
