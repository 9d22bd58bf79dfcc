"""What a decoded phrase says: where its words are."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from airtrim.core.speech.align.audio import HOP_FRAMES, PhraseAudio
from airtrim.core.speech.align.grammar import Segment, Token

_FAR_OFF_HOPS = 80
_MOST_UNALIGNED = 2


@dataclass(slots=True)
class Alignment:
    """Where each of a phrase's words is, in hops."""

    spans: dict[int, tuple[int, int]] = field(default_factory=dict)

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


def read_segments(tokens: Sequence[Token], segments: Sequence[Segment]) -> Alignment | None:
    """Read a decoded phrase; None where not all its words are in it."""
    found = Alignment()
    place = 0
    for segment in segments:
        while place < len(tokens) and tokens[place].optional:
            if tokens[place].text == segment.text:
                break
            place += 1
        if place >= len(tokens) or tokens[place].text != segment.text:
            return None
        index = tokens[place].word
        low, _ = found.spans.get(index, (segment.start, 0))
        found.spans[index] = low, segment.end
        place += 1
    left = [token for token in tokens[place:] if not token.optional]
    # The last word or two may be too faint: what was found before them stands.
    few = len(left) <= _MOST_UNALIGNED and len(left) < len(tokens) // 2
    return found if few or not left else None
