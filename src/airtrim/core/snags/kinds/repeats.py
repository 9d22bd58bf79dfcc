"""Repeats: something begun more than once, of which one attempt stays."""

from collections.abc import Iterator, Mapping

from airtrim.core.media import FRAME_RATE
from airtrim.core.snags.base import Attempt, Do, Kind, Snag
from airtrim.core.snags.listen import Listened
from airtrim.core.snags.repeats import repeats
from airtrim.core.snags.talk import Talk

_FLAG_REACH_FRAMES = 15 * FRAME_RATE


class Repeats(Kind):
    """All attempts but one go; nothing by itself where another voice speaks meanwhile."""

    kind = "repeat"
    one, many = "repeat", "repeats"
    gentle, close = 0.75, 0.55

    def find(self, talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
        """Attempts that begin alike; a flag nearby makes them likelier."""
        words = talk.takes
        flags = [m.at for m in talk.timeline.markers if m.kind == "flag"]

        def flagged(start: int, end: int) -> bool:
            return any(start <= flag <= end + _FLAG_REACH_FRAMES for flag in flags)

        for track, spoken in talk.tracks.items():
            for found in repeats(spoken, flagged):
                attempts = tuple(
                    Attempt(
                        spoken[a].start, spoken[b - 1].end, " ".join(w.text for w in spoken[a:b])
                    )
                    for a, b in found.attempts
                )
                first, last = attempts[0], attempts[-1]
                start_word = spoken[found.attempts[0][0]]
                end_word = spoken[found.attempts[-1][0] - 1]
                take_start = words[start_word.take][start_word.word].start
                other = talk.others(track, first.start, last.start)
                times = {2: "twice", 3: "three times"}.get(len(attempts), f"{len(attempts)} times")
                noted = flagged(first.start, last.start)
                reason = f"begun {times}; the last is kept"
                if noted:
                    reason += "; you flagged a mistake here"
                if other:
                    reason += "; another voice speaks meanwhile, so nothing is cut by itself"
                yield Snag(
                    "repeat",
                    track,
                    start_word.take,
                    take_start,
                    take_start + end_word.end - start_word.start,
                    first.start,
                    attempts[-2].end,
                    " / ".join(attempt.text for attempt in attempts[:-1]),
                    found.confidence,
                    reason,
                    "keep" if other else "cut",
                    ("keep",) if other else ("cut", "keep"),
                    first.start,
                    last.start,
                    attempts,
                )

    def cuts(self, snag: Snag, do: Do, attempt: int) -> list[tuple[int, int]]:
        """Every attempt but one, each with the pause after it, so that the pause before stays."""
        attempts = snag.attempts
        chosen = attempt % len(attempts)
        out = []
        for index, one in enumerate(attempts):
            if index == chosen:
                continue
            last = index + 1 == len(attempts)
            # The pause before the last attempt goes with it, and the one after it stays.
            start = attempts[index - 1].end if last and index else one.start
            out.append((start, one.end if last else attempts[index + 1].start))
        return out
