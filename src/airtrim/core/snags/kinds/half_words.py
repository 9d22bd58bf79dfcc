"""Half words: a cut goes through what is said."""

import bisect
from collections.abc import Iterator, Mapping
from itertools import pairwise

from airtrim.core.media import FRAME_RATE
from airtrim.core.snags.base import Kind, Snag
from airtrim.core.snags.listen import Listened
from airtrim.core.snags.talk import Talk, start_of
from airtrim.core.timeline.words import TakeWords, Word

_HALF_WORD_FRAMES = round(0.06 * FRAME_RATE)


class HalfWords(Kind):
    """What was cut can be put back."""

    kind = "word"
    one, many = "half word", "half words"

    def find(self, talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
        """Words that a cut goes through, well inside."""
        timeline, words = talk.timeline, talk.takes
        numbers = {cut.at: cut.id for cut in timeline.cuts}
        total = timeline.frames
        for track in timeline.tracks:
            if track.kind != "voice":
                continue
            for before, clip in pairwise(track.clips):
                if before.end != clip.at or clip.at not in numbers:
                    continue
                halved = _through(words, before.take, before.start + before.frames) or _through(
                    words, clip.take, clip.start
                )
                if halved is None:
                    continue
                take, word = halved
                yield Snag(
                    "word",
                    track.id,
                    take,
                    word.start,
                    word.end,
                    max(0, clip.at - FRAME_RATE // 5),
                    min(total, clip.at + FRAME_RATE // 5),
                    word.text,
                    0.8,
                    f"a cut goes through “{word.text}”",
                    "restore",
                    ("restore", "keep"),
                    number=numbers[clip.at],
                )


def _through(words: TakeWords, take: str, edge: int) -> tuple[str, Word] | None:
    """The word of a take that an edge goes through, well inside it; fillers are none."""
    own = words.get(take, ())
    index = bisect.bisect_right(own, edge, key=start_of) - 1
    if index < 0 or own[index].kind == "filler":
        return None
    word = own[index]
    inside = word.start + _HALF_WORD_FRAMES < edge < word.end - _HALF_WORD_FRAMES
    return (take, word) if inside else None
