"""Repeats: a false start followed by the same words again, within a sentence or after a pause.

Each attempt is held against what follows it: an attempt has the same beginning as the next, and
nearly all of its words come again in the same order. A sentence that only begins like another
("nobody asked her", "nobody paid her") has most of its words for itself, and is none.
"""

import bisect
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from functools import lru_cache

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.finding import ended, ends_sentence, plain
from airtrim.core.timeline.words import PlacedWord


@dataclass(frozen=True, slots=True)
class RepeatLimits:
    """How alike two attempts have to be; shares are 0–1. Tuned on made-up episodes, judged on
    others (``bench/speech``)."""

    longest_words: int = 40
    longest_frames: int = 30 * FRAME_RATE
    """How long an attempt is at the most."""
    beginning_letters: int = 3
    """By which words are looked up; one that was recognised otherwise mostly begins the same."""
    least_share: float = 0.74
    """How many of an attempt's words have to come again, after a pause."""
    least_share_in_flow: float = 0.85
    """The same where there was no pause."""
    least_share_flagged: float = 0.6
    """The same where the host noted a mistake."""
    alike: float = 0.72
    """From which likeness of their letters on two words are one that was recognised otherwise."""
    pause_frames: int = FRAME_RATE // 4
    whole_least_words: int = 5
    """A whole phrase that comes again is a retake from this many words on; shorter ones are names
    and figures of speech."""
    whole_goes_on_words: int = 6
    """The same for a finished sentence whose words come again and go on: a shorter one is a figure
    of speech where a conjunction goes on ("I waited. I waited and waited.")."""
    whole_pause_frames: int = 3 * FRAME_RATE // 2
    """The pause from which on a whole phrase may come again with other words in it."""
    whole_sure: float = 0.7
    """A finished sentence is never a repeat that is cut by itself (``Repeats.gentle``)."""
    least_confidence: float = 0.55
    """What is less sure is not told."""


LIMITS = RepeatLimits()

_SAID_TWICE = frozenset(
    (
        "very",
        "really",
        "so",
        "no",
        "yes",
        "yeah",
        "ha",
        "bye",
        "many",
        "much",
        "long",
        "far",
        "again",
        "more",
        "never",
        "please",
        "well",
        "now",
        "oh",
        "okay",
        "had",
        "that",
        "is",
        "there",
        "hear",
        "knock",
        "on",
        "bit",
    )
)
"""Words that are said twice on purpose, or rightly ("had had")."""


_NEVER_LAST = frozenset(
    {"a", "an", "and", "because", "but", "if", "my", "or", "our", "the", "their"}
)
"""Words with which no phrase ends (English): one that does was broken off."""
# fmt: off
_SELDOM_LAST = _NEVER_LAST | {
    "are", "at", "be", "by", "for", "from", "had", "has", "have", "he", "her", "his", "i", "in",
    "is", "its", "of", "on", "she", "than", "they", "to", "was", "we", "were", "will", "with",
    "would", "your",
}
# fmt: on
"""Words with which a phrase seldom ends (English)."""
_SUFFIXES = ("s", "'s", "’s", "es", "ed", "d", "er", "ing", "ly", "n", "y")
"""With one of these a word is another form of itself, and was not broken off."""


@dataclass(frozen=True, slots=True)
class Repeat:
    """Attempts at the same words, as ``(first word, one past the last)`` of the words given; the
    last one goes on to the end of its sentence. ``confidence`` 0–1."""

    attempts: tuple[tuple[int, int], ...]
    confidence: float


def repeats(
    words: Sequence[PlacedWord], flagged: Callable[[int, int], bool] = lambda a, b: False
) -> list[Repeat]:
    """Repeats among the words of one track, in order and without its fillers; what one person says
    after another is none. ``flagged(a, b)``: a
    mistake was noted between two frames while recording, so less likeness is enough there."""
    texts = [plain(word.text) for word in words]
    begun_alike: dict[str, list[int]] = {}
    for index, word in enumerate(texts):
        begun_alike.setdefault(word[: LIMITS.beginning_letters], []).append(index)
    found: list[Repeat] = []
    until = _turn_ends(words)
    at = 0
    while at < len(words):
        best = _again(words, texts, at, until[at], begun_alike, flagged)
        if best is None:
            at += 1
            continue
        attempts, sure = [(at, best[0])], best[1]
        following = best[0]
        while (
            more := _again(words, texts, following, until[at], begun_alike, flagged)
        ) is not None:
            attempts.append((following, more[0]))
            following, sure = more[0], min(sure, more[1])
        length = following - attempts[-1][0]
        sentence_end = _sentence_end(words, following + length - 1)
        attempts.append((following, min(sentence_end, until[at])))
        found.append(Repeat(tuple(attempts), round(sure, 2)))
        at = max(following + 1, attempts[-1][0] + 1)
    return found


def _turn_ends(words: Sequence[PlacedWord]) -> list[int]:
    """For each word, one past the last that the same person says before somebody else does."""
    out = [len(words)] * len(words)
    for index in range(len(words) - 2, -1, -1):
        same = words[index].speaker == words[index + 1].speaker
        out[index] = out[index + 1] if same else index + 1
    return out


def _again(
    words: Sequence[PlacedWord],
    texts: Sequence[str],
    start: int,
    end: int,
    begun_alike: Mapping[str, Sequence[int]],
    flagged: Callable[[int, int], bool],
) -> tuple[int, float] | None:
    """Where what begins at ``start`` is begun again before ``end``, and how sure that is."""
    best: tuple[int, float] | None = None
    places = begun_alike[texts[start][: LIMITS.beginning_letters]]
    for again in places[bisect.bisect_right(places, start) :]:
        if again >= end or again > start + LIMITS.longest_words:
            break
        if words[again].start - words[start].start > LIMITS.longest_frames:
            break
        if not _like(texts[start], texts[again]):
            continue
        sure = _sure(words, texts, start, again, flagged)
        if sure is not None and (best is None or sure > best[1] + 0.1):
            best = again, sure
    return best


def _sure(
    words: Sequence[PlacedWord],
    texts: Sequence[str],
    start: int,
    again: int,
    flagged: Callable[[int, int], bool],
) -> float | None:
    attempt = texts[start:again]
    if len(attempt) == 1:
        return _stutter(words, texts, start)
    following = _following(words, texts, start, again)
    if len(following) < 2 or not attempt[0]:
        return None
    # Within a sentence that was ended, only a whole sentence said again counts.
    over = [i for i in range(start, again - 1) if ended(words[i].text)]
    pause = _pause_before(words, again)
    if 2 * len(set(attempt).intersection(following)) + 2 < len(set(attempt)):
        return None  # far too little to look closer, which is what takes time
    came_again = _in_order(attempt, following)
    share = came_again / len(attempt)
    begun_alike = _like(texts[start + 1], texts[again + 1]) or (
        again == start + 2 and _begins(attempt[1], following)
    )
    if came_again < 2 and not (pause > LIMITS.pause_frames and len(attempt) == 2 and begun_alike):
        return None
    noted = flagged(words[start].start, words[again].end)
    whole = _is_whole(words, texts, start, again, _SELDOM_LAST)
    if whole and not noted and not _is_retake(words, texts, start, again, came_again):
        return None
    inner = any(_phrase_ends(words[i].text) for i in range(start, again - 1))
    if inner and not noted and pause <= LIMITS.pause_frames // 2:
        return None  # "ropes for the bow, ropes for the stern": phrases built alike
    least = LIMITS.least_share if pause > LIMITS.pause_frames // 2 else LIMITS.least_share_in_flow
    if share < (LIMITS.least_share_flagged if noted else least):
        return None
    sure = 0.35 + 0.35 * share + 0.04 * min(5, came_again)
    sure += 0.1 if pause > LIMITS.pause_frames else -0.1 if pause < FRAME_RATE // 20 else 0.0
    sure += 0.15 if noted else 0.0
    sure -= 0.15 * len(over) + (0.0 if begun_alike else 0.15)
    if came_again == 2 and len(attempt) == 2 and pause <= LIMITS.pause_frames // 2:
        sure -= 0.1  # "over and over and": words that go in pairs
    finished = ended(words[again - 1].text) and _is_whole(words, texts, start, again, _NEVER_LAST)
    most = LIMITS.whole_sure if finished else 0.99
    return min(most, sure) if sure >= LIMITS.least_confidence else None


def _phrase_ends(text: str) -> bool:
    """Whether a phrase or a sentence is written as ended by a word."""
    return ended(text) or text.endswith((",", ";", ":"))


def _is_whole(
    words: Sequence[PlacedWord],
    texts: Sequence[str],
    start: int,
    again: int,
    never_last: frozenset[str],
) -> bool:
    """Whether an attempt is a whole phrase: written with an end, and not broken off there. What a
    recogniser writes an end to can be broken off all the same."""
    last = again - 1
    if not _phrase_ends(words[last].text):
        return False
    other = again + last - start
    counterpart = texts[other] if other < len(texts) else ""
    more = counterpart.removeprefix(texts[last]) if counterpart != texts[last] else ""
    cut_short = more not in ("", counterpart, *_SUFFIXES)
    return not cut_short and texts[last] not in never_last


def _pause_before(words: Sequence[PlacedWord], index: int) -> int:
    """The pause before a word, in frames."""
    return words[index].start - words[index - 1].end


def _following(
    words: Sequence[PlacedWord], texts: Sequence[str], start: int, again: int
) -> Sequence[str]:
    """The words among which those of an attempt may come again: a few more than it has, and no
    further than the end of their sentence where the attempt has none within it. Without a pause
    before them they end with their phrase."""
    end = min(len(texts), again + (again - start) + 3)
    if not any(ended(words[i].text) for i in range(start, again)):
        in_flow = _pause_before(words, again) <= LIMITS.pause_frames // 2
        is_end = _phrase_ends if in_flow else ended
        end = next((i + 1 for i in range(again, end) if is_end(words[i].text)), end)
    return texts[again:end]


def _is_retake(
    words: Sequence[PlacedWord], texts: Sequence[str], start: int, again: int, came_again: int
) -> bool:
    """Whether a whole phrase was said once more, and is not one of several that are built alike:
    the same words to the same end, or nearly the same after a pause for a new start."""
    count, finished = again - start, ended(words[again - 1].text)
    last = again + count - 1
    same = list(texts[start:again]) == list(texts[again : last + 1])
    if same and not _phrase_ends(words[last].text):  # the speaker goes on where it stopped before
        # Who has ended a sentence pauses; without a pause it was broken off, whatever is written.
        in_flow = _pause_before(words, again) <= LIMITS.pause_frames and count > 2
        if not finished or in_flow or count >= LIMITS.whole_goes_on_words:
            return True
        question = words[again - 1].text.endswith("?")
        extended = last + 1 < len(texts) and texts[last + 1] in ("and", "to", "so", "but", "that")
        return count >= LIMITS.whole_least_words and not question and not extended
    if count < LIMITS.whole_least_words:
        return False
    if _pause_before(words, again) > LIMITS.whole_pause_frames:
        return came_again + 1 >= count
    return same and (ended(words[last].text) or not finished)


def _stutter(words: Sequence[PlacedWord], texts: Sequence[str], start: int) -> float | None:
    """One word said twice: a slip where it is not one that is doubled on purpose."""
    word = texts[start]
    if word != texts[start + 1] or word in _SAID_TWICE or word.isdigit() or not word:
        return None
    if ended(words[start].text) or (_phrase_ends(words[start].text) and word not in _SELDOM_LAST):
        return None
    short = len(word) <= 4
    pause = words[start + 1].start - words[start].end > LIMITS.pause_frames // 2
    return 0.6 + (0.15 if short else 0.0) + (0.1 if pause else 0.0)


def _in_order(attempt: Sequence[str], following: Sequence[str]) -> int:
    """How many words of the attempt come again in the same order (longest common subsequence, with
    a broken-off last word matching what it begins)."""
    row = [0] * (len(following) + 1)
    for i, word in enumerate(attempt):
        before = 0
        for j, other in enumerate(following):
            same = _like(word, other) or (i + 1 == len(attempt) and _broken_off(word, other))
            before, row[j + 1] = (
                row[j + 1],
                before + 1 if same else max(row[j + 1], row[j]),
            )
    return row[-1]


def _begins(word: str, following: Sequence[str]) -> bool:
    return len(following) > 1 and _broken_off(word, following[1])


def _broken_off(word: str, whole: str) -> bool:
    """A word that was broken off: the other begins as it does ("fer", "ferry")."""
    return len(word) >= 1 and len(whole) > len(word) and whole.startswith(word[: max(1, len(word))])


@lru_cache(maxsize=65_536)
def _like(a: str, b: str) -> bool:
    """The same word, or one that was heard a little differently."""
    if a == b:
        return bool(a)
    if min(len(a), len(b)) < 4 or a[0] != b[0]:
        return False
    return SequenceMatcher(None, a, b).ratio() >= LIMITS.alike


def _sentence_end(words: Sequence[PlacedWord], at: int) -> int:
    """One past the last word of the sentence that goes on at ``at``."""
    for last in range(at, len(words) - 1):
        if ends_sentence(words[last], words[last + 1]):
            return last + 1
    return len(words)
