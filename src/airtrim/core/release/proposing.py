"""Chapters proposed: one for each part, and within long ones where the talk turns elsewhere.

Where it turns is found by lexical cohesion (TextTiling, Hearst 1997): at a pause, the words before
it are held against those after it; the less they have in common, the likelier a new matter begins.
"""

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.finding import SENTENCE_PAUSE_FRAMES, plain
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import PlacedWord


@dataclass(frozen=True, slots=True)
class _Proposing:
    """How long chapters are, and what tells them apart."""

    least_s: float = 180.0
    """No chapter within a part is shorter."""
    long_s: float = 420.0
    """A part up to this long is one chapter."""
    window: int = 120
    """How many words on either side of a pause are held against each other."""
    least_letters: int = 5
    """Shorter words are mostly of every matter."""
    widespread: float = 0.6
    """A word in more than this share of the chapters names none of them."""
    title_words: int = 3


_RULES = _Proposing()


@dataclass(frozen=True, slots=True)
class ProposedChapter:
    """Where it begins, and what it could be called."""

    at: int
    title: str


def proposed_chapters(timeline: Timeline, words: Sequence[PlacedWord]) -> list[ProposedChapter]:
    """Chapters for an episode, in order; ``words`` are those of it, in order of time."""
    said = [word for word in words if word.kind == "word"]
    starts: list[tuple[int, str]] = []
    for section, end in timeline.parts:
        starts.append((section.at, section.name))
        if end - section.at > _RULES.long_s * FRAME_RATE:
            inside = [word for word in said if section.at <= word.start < end]
            starts += [(at, "") for at in _turns(inside, section.at, end)]
    ends = [*(at for at, _ in starts[1:]), timeline.frames]
    bags = [
        Counter(_told(word) for word in said if at <= word.start < end and _tells(word))
        for (at, _), end in zip(starts, ends, strict=True)
    ]
    return [
        ProposedChapter(at, name or _title(bags, number) or f"Chapter {number + 1}")
        for number, (at, name) in enumerate(starts)
    ]


def _turns(words: Sequence[PlacedWord], start: int, end: int) -> list[int]:
    """Where within a part the talk turns to something else, so far apart as chapters are long."""
    least = _RULES.least_s * FRAME_RATE
    candidates = []
    for number in range(1, len(words)):
        before, after = words[number - 1], words[number]
        pause = after.start - before.end
        inside = start + least <= after.start <= end - least
        if pause >= SENTENCE_PAUSE_FRAMES and inside:
            unlike = _unlike(
                words[max(0, number - _RULES.window) : number],
                words[number : number + _RULES.window],
            )
            # Of two turns that are as sharp, the one after the longer pause.
            candidates.append((unlike + min(pause / FRAME_RATE, 3.0) / 30.0, after.start))
    chosen: list[int] = []
    wanted = int((end - start) // (2 * least))
    for _, at in sorted(candidates, reverse=True):
        if len(chosen) >= wanted:
            break
        if all(abs(at - other) >= least for other in chosen):
            chosen.append(at)
    return sorted(chosen)


def _unlike(before: Sequence[PlacedWord], after: Sequence[PlacedWord]) -> float:
    """1 minus the cosine of what is said before and after."""
    a = Counter(_told(word) for word in before if _tells(word))
    b = Counter(_told(word) for word in after if _tells(word))
    size = math.sqrt(sum(n * n for n in a.values()) * sum(n * n for n in b.values()))
    return 1.0 - sum(n * b[word] for word, n in a.items()) / size if size else 0.0


def _title(bags: Sequence[Counter[str]], number: int) -> str:
    """The words that a chapter says more than the others do."""
    of = Counter(word for bag in bags for word in bag)
    most = max(1.0, _RULES.widespread * len(bags))
    weights = {
        word: count * math.log(1 + len(bags) / of[word])
        for word, count in bags[number].items()
        if count > 1 and (of[word] <= most or len(bags) == 1)
    }
    best = sorted(weights, key=lambda word: (-weights[word], word))[: _RULES.title_words]
    title = ", ".join(best)
    return title[:1].upper() + title[1:]


def _tells(word: PlacedWord) -> bool:
    return len(plain(word.text)) >= _RULES.least_letters


def _told(word: PlacedWord) -> str:
    """A word as it is counted: its plural with it."""
    return plain(word.text).removesuffix("'s").removesuffix("s")
