"""Finding things on the Page: words, sentences, turns, and the next place of a kind."""

import bisect
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import PlacedWord, TakeWords, air_between, words_on

SENTENCE_PAUSE_FRAMES = round(0.7 * FRAME_RATE)
"""A pause this long ends a sentence, whatever its punctuation (common practice: 0.4 to 0.8 s)."""

UNSURE = 0.4
"""A word under this confidence is shown as one to be looked at."""

_PLAIN = re.compile(r"[^\w']+")
_ENDS = (".", "?", "!", "…", ".”", "?”", "!”")

Unit = Literal["word", "sentence", "turn", "section"]
Stop = Literal["word", "sentence", "splice", "marker", "section", "air", "filler", "unsure"]


class Stretch(NamedTuple):
    """From ``start`` to ``end``, in frames of the timeline."""

    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Hit:
    """A place where what was looked for is said: its span, track, and text as written, with what
    stands before and after it."""

    track: str
    start: int
    end: int
    text: str
    before: str
    after: str


def plain(text: str) -> str:
    """A word as it is compared: without punctuation, in lower case."""
    return _PLAIN.sub("", text.replace("’", "'").casefold())


def find(words: Sequence[PlacedWord], text: str) -> list[Hit]:
    """Every place where the words of ``text`` are said one after another on a track.

    Case and punctuation do not count; the last word may be begun only ("ferr" finds "ferry").
    """
    wanted = [w for w in (plain(part) for part in text.split()) if w]
    if not wanted:
        return []
    whole = text.endswith((" ", ".", ",", "?", "!"))
    hits: list[Hit] = []
    for track in dict.fromkeys(word.track for word in words):
        own = [word for word in words if word.track == track]
        texts = [plain(word.text) for word in own]
        last = 0
        for i in range(len(own) - len(wanted) + 1):
            if i < last or texts[i : i + len(wanted) - 1] != wanted[:-1]:
                continue
            end = texts[i + len(wanted) - 1]
            if end != wanted[-1] and (whole or not end.startswith(wanted[-1])):
                continue
            last = i + len(wanted)
            hits.append(
                Hit(
                    track,
                    own[i].start,
                    own[last - 1].end,
                    " ".join(w.text for w in own[i:last]),
                    " ".join(w.text for w in own[max(0, i - 4) : i]),
                    " ".join(w.text for w in own[last : last + 4]),
                )
            )
    hits.sort(key=lambda hit: hit.start)
    return hits


def same(words: Sequence[PlacedWord], text: str) -> list[PlacedWord]:
    """Every word that is written like ``text``, whatever its case and punctuation."""
    wanted = plain(text)
    return [word for word in words if wanted and plain(word.text) == wanted]


def rewritten(old: str, new: str) -> str:
    """``new`` with the punctuation that stood around ``old``, and a capital where it had one."""
    core = re.compile(r"\w(?:.*\w)?", re.DOTALL)
    was, is_now = core.search(old), core.search(new)
    if not was or not is_now:
        return new
    text = is_now.group()
    if was.group()[0].isupper() and text[0].islower():
        text = text[0].upper() + text[1:]
    return old[: was.start()] + text + old[was.end() :]


def ended(text: str) -> bool:
    """Whether a word is written as the last of a sentence."""
    return text.endswith(_ENDS)


def ends_sentence(word: PlacedWord, following: PlacedWord | None) -> bool:
    """Whether a sentence ends with a word: by punctuation, by a pause, or since nothing follows."""
    return (
        following is None or ended(word.text) or following.start - word.end > SENTENCE_PAUSE_FRAMES
    )


def sentences(words: Sequence[PlacedWord]) -> list[Stretch]:
    """Sentences of every track, in order of time: ended by punctuation or by a pause."""
    found: list[Stretch] = []
    for track in dict.fromkeys(word.track for word in words):
        own = [word for word in words if word.track == track]
        start = 0
        for i, word in enumerate(own):
            if ends_sentence(word, own[i + 1] if i + 1 < len(own) else None):
                found.append(Stretch(own[start].start, word.end))
                start = i + 1
    return sorted(found)


def turns(words: Sequence[PlacedWord]) -> list[Stretch]:
    """Turns of speakers: words of one that no other's come between."""
    found: list[Stretch] = []
    for i, word in enumerate(words):
        before = words[i - 1]
        if i and (before.track, before.speaker) == (word.track, word.speaker):
            found[-1] = Stretch(found[-1].start, max(found[-1].end, word.end))
        else:
            found.append(Stretch(word.start, word.end))
    return found


def around(timeline: Timeline, words: TakeWords, frame: int, unit: Unit) -> Stretch | None:
    """The word, sentence, turn or section at a frame; the nearest where it falls between two."""
    if unit == "section":
        starts = [s.at for s in timeline.sections]
        index = max(0, bisect.bisect_right(starts, frame) - 1)
        ends = [*starts[1:], timeline.frames]
        return Stretch(starts[index], ends[index])
    reach = 60 * FRAME_RATE if unit != "turn" else 900 * FRAME_RATE
    near = words_on(timeline, words, max(0, frame - reach), frame + reach)
    stretches = _of(near, unit)
    holding = [s for s in stretches if s.start <= frame < s.end]
    if holding:
        return min(holding, key=lambda s: s.end - s.start)
    return min(stretches, key=lambda s: max(s.start - frame, frame - s.end), default=None)


def _of(words: Sequence[PlacedWord], unit: Unit) -> list[Stretch]:
    if unit == "sentence":
        return sentences(words)
    if unit == "turn":
        return turns(words)
    return [Stretch(word.start, word.end) for word in words]


def next_place(
    timeline: Timeline, words: TakeWords, frame: int, what: Stop, *, back: bool, air: int
) -> int | None:
    """Where the next (or last) thing of a kind begins after (before) a frame; None where none is.

    ``air``: how many frames of silence count as long air."""
    places: list[int]
    if what == "splice":
        places = [int(cut.at) for cut in timeline.cuts]
    elif what == "marker":
        places = [m.at for m in timeline.markers]
    elif what == "section":
        places = [s.at for s in timeline.sections]
    else:
        # Words are looked for in widening stretches: the next is seldom far.
        for reach in (30, 600, 86_400):
            low = max(0, frame - reach * FRAME_RATE) if back else frame
            high = frame + 1 if back else frame + reach * FRAME_RATE
            found = _next(_places(timeline, words, low, high, what, air), frame, back=back)
            if found is not None or (low == 0 if back else high >= timeline.frames):
                return found
        return None
    return _next(places, frame, back=back)


def _places(
    timeline: Timeline, words: TakeWords, low: int, high: int, what: Stop, air: int
) -> list[int]:
    # A sentence that began before the stretch must not seem to begin with it.
    margin = 30 * FRAME_RATE
    near = words_on(timeline, words, max(0, low - margin), high + margin)
    if what == "sentence":
        return [s.start for s in sentences(near)]
    if what == "filler":
        return [w.start for w in near if w.kind == "filler"]
    if what == "unsure":
        return [w.start for w in near if w.confidence < UNSURE and not w.corrected]
    if what == "air":
        return [one.start for one in air_between(timeline, words, low, high, air)]
    return [w.start for w in near]


def _next(places: list[int], frame: int, *, back: bool) -> int | None:
    places = sorted(places)
    if back:
        index = bisect.bisect_left(places, frame)
        return places[index - 1] if index else None
    index = bisect.bisect_right(places, frame)
    return places[index] if index < len(places) else None
