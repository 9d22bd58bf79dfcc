"""Fillers: “um”, “uh”, and the words that a host calls fillers."""

from collections.abc import Iterator, Mapping

from airtrim.core.snags.base import Do, Kind, Snag
from airtrim.core.snags.listen import Listened
from airtrim.core.snags.pauses import ALONE_FRAMES, NATURAL_PAUSE_FRAMES, closed_up
from airtrim.core.snags.talk import Talk
from airtrim.core.timeline.finding import ends_sentence, plain
from airtrim.core.timeline.words import PlacedWord, Word


class Fillers(Kind):
    """Taken out with the pause around it closed to a natural one; covered with room tone where
    another voice speaks meanwhile."""

    kind = "filler"
    one, many = "filler", "fillers"
    gentle, close = 0.55, 0.0

    def find(self, talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
        """Those that the aligner found, and those on the host's own list."""
        yield from _recognised(talk)
        yield from _own_fillers(talk)


def _recognised(talk: Talk) -> Iterator[Snag]:
    """Fillers that the aligner found."""
    for word in talk.words:
        if word.kind != "filler":
            continue
        at = talk.takes[word.take][word.word]
        before, after = talk.pause(word.start, word.end)
        alone = word.start - before > ALONE_FRAMES and after - word.end > ALONE_FRAMES
        how = "said between two pauses" if alone else "said between two words"
        yield _filler(talk, word, word, at, at, word.text, f"“{word.text}”, {how}", word.confidence)


def _own_fillers(talk: Talk) -> Iterator[Snag]:
    """Words that the host calls fillers."""
    for own in talk.timeline.snag_rules.own_fillers:
        wanted = [w for w in (plain(part) for part in own.text.split()) if w]
        if not wanted:
            continue
        for spoken in talk.tracks.values():
            for i in range(len(spoken) - len(wanted) + 1):
                part = spoken[i : i + len(wanted)]
                if [plain(w.text) for w in part] != wanted:
                    continue
                if own.at_start and i and not ends_sentence(spoken[i - 1], spoken[i]):
                    continue
                text = " ".join(w.text for w in part)
                first, last = (talk.takes[word.take][word.word] for word in (part[0], part[-1]))
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
