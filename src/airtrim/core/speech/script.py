"""What was said, held against what was meant to be said: slips, omissions, words that came in; and
the script's spelling taken over.

The two are laid side by side as texts are compared (see ``sidebyside``), with numbers
and compounds as they are spoken, so that "11" and "eleven" are the same word.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Literal

from airtrim.core.speech.sidebyside import matching_pairs
from airtrim.core.speech.spelling import spoken
from airtrim.core.timeline.words import PlacedWord, Word
from airtrim.errors import BadInput

_LEAST_SHARED = 0.3
_SAME = 0.6
_LONGEST_WORD = 60


@dataclass(frozen=True, slots=True)
class Difference:
    """Where what was said is not what was meant: a ``slip`` (other words), words ``left_out``, or
    words that ``came_in``; from ``start`` to ``end`` on the timeline."""

    kind: Literal["slip", "left_out", "came_in"]
    start: int
    end: int
    said: str
    meant: str


@dataclass(frozen=True, slots=True)
class Held:
    """A script held against an episode: the part of the words said that are in it (0–1), the
    differences in order, and how words would be written after it, by their place among them."""

    shared: float
    differences: tuple[Difference, ...]
    spelling: dict[int, str]


def held_against(
    script: str, words: Sequence[PlacedWord], check: Callable[[], None] = lambda: None
) -> Held:
    """Hold a script against the words of an episode, fillers left out. ``check`` is called now and
    then; what it raises ends the work.

    Raises BadInput with a sentence where one has nothing to do with the other, or one is empty.
    """
    said = [word for word in words if word.kind == "word"]
    meant = script.split()
    if not meant:
        raise BadInput("There is no script yet. Paste what was meant to be read.")
    if not said:
        raise BadInput("No words of this episode are known yet.")
    pairs, shared = _side_by_side(meant, said, check)
    if shared < _LEAST_SHARED:
        raise BadInput(
            "This script seems to belong to something else: hardly a word of it was said here. "
            "Nothing was changed."
        )
    partner: dict[int, set[int]] = {}
    for theirs, ours in pairs:
        partner.setdefault(ours, set()).add(theirs)
    spelling: dict[int, str] = {}
    for index, found in partner.items():
        text = " ".join(meant[i] for i in sorted(found))
        if text != said[index].text and len(found) == 1:
            spelling[index] = text
    differences = _differences(said, meant, partner, spelling)
    return Held(round(shared, 3), tuple(differences), spelling)


def placed(text: str, heard: Sequence[Word]) -> list[Word]:
    """The words of a text without times, each where the words that were heard say it is: those that
    are the same in their places, the others spread between them by their letters.

    Raises BadInput where the two have nothing to do with each other.
    """
    texts = text.split()
    said = [word for word in heard if word.kind == "word"]
    pairs, shared = _side_by_side(texts, said)
    if shared < _LEAST_SHARED:
        raise BadInput(
            "This text seems to belong to another recording: hardly a word of it was said here. "
            "Nothing was changed."
        )
    spans: dict[int, tuple[int, int]] = {}
    for theirs, ours in pairs:
        word = said[ours]
        low, high = spans.get(theirs, (word.start, word.end))
        spans[theirs] = min(low, word.start), max(high, word.end)
    out: list[Word] = []
    at = said[0].start
    index = 0
    while index < len(texts):
        if index in spans:
            start, end = max(spans[index][0], at), max(spans[index][1], at + 480)
            out.append(Word(texts[index], start, end, "word", 1.0))
            at = end
            index += 1
            continue
        last = index
        while last < len(texts) and last not in spans:
            last += 1
        until = spans[last][0] if last in spans else said[-1].end
        letters = sum(len(one) + 1 for one in texts[index:last])
        room = max(until - at, 480 * (last - index))
        for one in texts[index:last]:
            end = at + max(480, room * (len(one) + 1) // letters)
            out.append(Word(one, at, end, "word", 1.0))
            at = end
        index = last
    return out


def _differences(
    said: Sequence[PlacedWord],
    meant: Sequence[str],
    partner: dict[int, set[int]],
    spelling: dict[int, str],
) -> list[Difference]:
    out: list[Difference] = []
    reached = 0
    extra: list[int] = []

    def close(until: int, at: int) -> None:
        nonlocal reached
        left = list(meant[reached:until])
        own = [said[i] for i in extra]
        reached = max(reached, until)
        if not left and not own:
            return
        if len(left) == len(own) and all(
            _sounds_like(w.text, text) for w, text in zip(own, left, strict=True)
        ):
            spelling.update(zip(extra, left, strict=True))
            return
        start = own[0].start if own else at
        end = own[-1].end if own else at
        kind: Literal["slip", "left_out", "came_in"] = (
            "slip" if left and own else "left_out" if left else "came_in"
        )
        text = " ".join(word.text for word in own)
        out.append(Difference(kind, start, end, text, " ".join(left)))

    for index, word in enumerate(said):
        found = partner.get(index)
        if not found:
            extra.append(index)
            continue
        close(min(found), word.start)
        reached = max(reached, max(found) + 1)
        extra = []
    close(len(meant), said[-1].end)
    return out


def _sounds_like(said: str, meant: str) -> bool:
    """A mishearing rather than a slip: nearly the same letters."""
    a, b = "".join(spoken(said)), "".join(spoken(meant))
    if max(len(a), len(b)) > _LONGEST_WORD:
        return False
    return a[:1] == b[:1] and SequenceMatcher(None, a, b, autojunk=False).ratio() >= _SAME


def _side_by_side(
    texts: Sequence[str],
    said: Sequence[Word] | Sequence[PlacedWord],
    check: Callable[[], None] = lambda: None,
) -> tuple[list[tuple[int, int]], float]:
    """Which of the texts is which of the words said, as their places, and the part of what was said
    that is among the texts, 0–1."""
    theirs, of_theirs = _spread(texts)
    ours, of_ours = _spread([word.text for word in said])
    found = matching_pairs(theirs, ours, check)
    pairs = [(of_theirs[i], of_ours[j]) for i, j in found]
    return pairs, len(pairs) / max(1, len(ours))


def _spread(texts: Sequence[str]) -> tuple[list[str], list[int]]:
    """Words as they are spoken, and which of the texts each is of."""
    parts: list[str] = []
    of: list[int] = []
    for index, text in enumerate(texts):
        for part in spoken(text):
            parts.append(part)
            of.append(index)
    return parts, of
