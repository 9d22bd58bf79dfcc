"""What a decoded phrase says: where its words are, and which of its sounds are fillers."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from airtrim.core.speech.align.audio import APART_HOPS, EDGES, HOP_FRAMES, PhraseAudio
from airtrim.core.speech.align.fillers import as_filler
from airtrim.core.speech.align.grammar import FILLER_SIGN, Segment, Slot, Token
from airtrim.core.speech.align.phrases import islands_of
from airtrim.core.timeline.words import Word

SHORT_LETTERS = 4
"""A word of so many letters may be a filler that the recogniser took for one."""

_FAR_OFF_HOPS = 80
_MOST_UNALIGNED = 2
_NEAR_FRAMES = EDGES.beside // 2 * HOP_FRAMES


@dataclass(slots=True)
class Alignment:
    """Where each of a phrase's words is, in hops; its fillers; the slots where what was taken for a
    filler is none; and the words that were fillers."""

    spans: dict[int, tuple[int, int]] = field(default_factory=dict)
    fillers: list[Word] = field(default_factory=list)
    refused: set[Slot] = field(default_factory=set)
    misrecognised: set[int] = field(default_factory=set)

    def take_over(
        self, tokens: Sequence[Token], other: "Alignment", first: int, last: int, audio: PhraseAudio
    ) -> None:
        """Put what another alignment says of some of the words, between two hops, in place of what
        this one says."""
        for token in tokens:
            self.spans.pop(token.word, None)
            self.misrecognised.discard(token.word)
        self.spans.update(other.spans)
        self.misrecognised.update(other.misrecognised)
        self.fillers[:] = [f for f in self.fillers if not first <= audio.hop(f.start) < last]
        self.fillers.extend(other.fillers)

    def far_off(self, tokens: Sequence[Token], audio: PhraseAudio) -> bool:
        """Whether a word is far from where the recogniser has it, which is right to some tenths of
        a second: what was said there is likely something else."""
        off = (
            max(audio.frame(low) - token.end, token.start - audio.frame(high))
            for token in tokens
            if token.word in self.spans
            for low, high in [self.spans[token.word]]
        )
        return max(off, default=0) > _FAR_OFF_HOPS * HOP_FRAMES

    def isolated_fillers(self, tokens: Sequence[Token], audio: PhraseAudio) -> dict[int, Word]:
        """Short words that stand alone between two pauses and sound like a filler, as which they
        are given, by their number."""
        # A word with a filler right beside it does not stand alone.
        fillers = [(audio.hop(word.start), audio.hop(word.end)) for word in self.fillers]
        spans = [*self.spans.values(), *fillers]
        out = {}
        for token in tokens:
            low, high = self.spans.get(token.word, (0, 0))
            # One in doubt may have been given the pause after it, and even what comes after that.
            if token.doubtful:
                _, last = next(iter(islands_of(audio.loud[low:high])), (0, high - low))
                high = low + last if high - low - last >= APART_HOPS else high
            before = max((end for _, end in spans if end <= low), default=0)
            after = min((start for start, _ in spans if start >= high), default=len(audio.loud))
            apart = low - before >= APART_HOPS and after - high >= APART_HOPS
            if len(token.text) <= SHORT_LETTERS and high and apart:
                filler = as_filler(audio, Segment("um", low, high), alone=True)
                if filler:
                    out[token.word] = filler
        return out


def read_segments(
    tokens: Sequence[Token], segments: Sequence[Segment], audio: PhraseAudio
) -> Alignment | None:
    """Read a decoded phrase; None where not all its words are in it."""
    found = Alignment()
    place = 0
    pending: list[Word | None] = []

    def settle(until: int) -> None:
        """Fillers since the last word, up to the word at a place: those that are none leave the
        doubtful words that they were taken for, or else their own slot."""
        found.fillers.extend(word for word in pending if word)
        # A doubtful word may be a filler: one that is there, and no word beside it.
        there = [token for token in tokens[place:until] if not token.missing]
        if None in pending or any(not _is_instead_of(token, pending) for token in there):
            skipped: list[Slot] = [("instead", one) for one in range(place, until)]
            found.refused.update(skipped or [("before", until)])
        found.misrecognised.update(tokens[one].word for one in range(place, until))
        pending.clear()

    for segment in segments:
        if segment.text.startswith(FILLER_SIGN):
            name = segment.text.removeprefix(FILLER_SIGN)
            pending.append(as_filler(audio, Segment(name, segment.start, segment.end), alone=False))
            continue
        here = place
        while here < len(tokens) and tokens[here].optional and tokens[here].text != segment.text:
            here += 1
        if here >= len(tokens) or tokens[here].text != segment.text:
            return None
        settle(here)
        index = tokens[here].word
        low, _ = found.spans.get(index, (segment.start, 0))
        found.spans[index] = low, segment.end
        place = here + 1
    left = [token for token in tokens[place:] if not token.optional]
    if not left:
        settle(len(tokens))
    # The last word or two may be too faint: what was found before them stands.
    few = len(left) <= _MOST_UNALIGNED and len(left) < len(tokens) // 2
    return found if few or not left else None


def _is_instead_of(token: Token, fillers: Sequence[Word | None]) -> bool:
    """Whether a word is the one filler that was found instead of it, and about where it is."""
    near = [
        f
        for f in fillers
        if f and f.start < token.end + _NEAR_FRAMES and f.end > token.start - _NEAR_FRAMES
    ]
    return len(fillers) == len(near) == 1
