"""Level jumps: a voice that is much louder or quieter than it was."""

import bisect
from collections.abc import Iterator, Mapping

from airtrim.core.snags.base import Kind, Snag
from airtrim.core.snags.listen import Listened, jumps
from airtrim.core.snags.sounds import beginning_in
from airtrim.core.snags.talk import Talk
from airtrim.core.timeline.envelope import value_at
from airtrim.core.timeline.model import Timeline, Track

_JUMP_DB = 6.0


class LevelJumps(Kind):
    """Brought to the level around it."""

    kind = "level"
    one, many = "level jump", "level jumps"

    def find(self, talk: Talk, listened: Mapping[str, Listened]) -> Iterator[Snag]:
        """Where the phrases of a track jump, with the gains that it has."""
        for track in talk.timeline.tracks:
            if track.id not in talk.tracks:
                continue
            phrases = list(_phrases(talk.timeline, track, listened))
            for first, last, by_db in jumps([level for *_, level in phrases], _JUMP_DB):
                start, end = phrases[first][0], phrases[last - 1][1]
                take, take_start = phrases[first][2], phrases[first][3]
                way = "louder" if by_db > 0 else "quieter"
                yield Snag(
                    "level",
                    track.id,
                    take,
                    take_start,
                    take_start + end - start,
                    start,
                    end,
                    f"{by_db:+.0f} dB".replace("-", "−"),
                    round(min(0.99, abs(by_db) / 12), 2),
                    f"{abs(by_db):.0f} dB {way} than this voice was before",
                    "level",
                    ("level", "keep"),
                    by_db=round(by_db, 1),
                )


def _phrases(
    timeline: Timeline, track: Track, listened: Mapping[str, Listened]
) -> Iterator[tuple[int, int, str, int, float]]:
    """Phrases of a track as they sound: start, end, take, start in the take, and level in dBFS with
    the gains of clip, track and section."""
    starts = [section.at for section in timeline.sections]
    for clip in track.clips:
        found = listened.get(clip.take)
        if found is None:
            continue
        by = clip.at - clip.start
        for phrase in beginning_in(clip, found.phrases):
            if phrase.end > clip.start + clip.frames:
                break
            at = phrase.start + by
            section = timeline.sections[max(0, bisect.bisect_right(starts, at) - 1)]
            middle = (phrase.start + phrase.end) // 2 + by
            gain_db = clip.gain_db + section.gain_db + value_at(track.envelope, middle)
            yield at, phrase.end + by, clip.take, phrase.start, phrase.level_dbfs + gain_db
