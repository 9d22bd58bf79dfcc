"""Where an episode falls into sections: another voice, another recording, music, a noted place."""

from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.edits.sections import SectionStart
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import TakeWords, words_on

SHORTEST_FRAMES = 15 * FRAME_RATE
"""A turn shorter than this is a question or a remark, and no section."""
_MUSIC_FRAMES = 3 * FRAME_RATE
_BESIDE_WORDS = FRAME_RATE // 2
_NEAR_FRAMES = 2 * FRAME_RATE


def found_sections(timeline: Timeline, words: TakeWords) -> tuple[SectionStart, ...]:
    """Sections by who speaks, from which recording, for fifteen seconds or more; music before the
    first and after the last word; and every marker that notes a place with a name. A boundary lies
    in the middle of the pause. The first is at 0."""
    names = {track.id: track.name for track in timeline.tracks}
    music = {track.id for track in timeline.tracks if track.kind == "music"}
    turns: list[tuple[str, str, int, int]] = []  # track, take, first and last frame
    for word in words_on(timeline, words):
        if word.track in music:
            continue
        if turns and turns[-1][:2] == (word.track, word.take):
            turns[-1] = (*turns[-1][:3], max(turns[-1][3], word.end))
        else:
            turns.append((word.track, word.take, word.start, word.end))
    long: list[tuple[str, str, int, int]] = []
    for turn in turns:
        if long and (long[-1][:2] == turn[:2] or turn[3] - turn[2] < SHORTEST_FRAMES):
            long[-1] = (*long[-1][:3], max(long[-1][3], turn[3]))
        else:
            long.append(turn)
    out: list[tuple[int, str]] = []
    if not long:
        out.append((0, "Whole episode"))
    for number, (track, _, first, _) in enumerate(long):
        before = long[number - 1][3] if number else 0
        at = max(0, (before + first) // 2 if number else first - _BESIDE_WORDS)
        out.append((at, names[track]))
    if long and out[0][0] > 0:
        if out[0][0] >= _MUSIC_FRAMES and _music(timeline, 0, out[0][0]):
            out.insert(0, (0, "Intro music"))
        else:
            out[0] = 0, out[0][1]
    end = long[-1][3] + _BESIDE_WORDS if long else 0
    if long and timeline.frames - end >= _MUSIC_FRAMES and _music(timeline, end, timeline.frames):
        out.append((end, "Outro music"))
    for marker in timeline.markers:
        if marker.kind == "note" and marker.name and 0 < marker.at < timeline.frames:
            # One that was noted near a boundary names it, and says where it is.
            out = [one for one in out if one[0] == 0 or abs(one[0] - marker.at) > _NEAR_FRAMES]
            out.append((marker.at, marker.name))
    starts = dict(sorted(out))
    return tuple(SectionStart(at=at, name=name) for at, name in starts.items())


def _music(timeline: Timeline, start: int, end: int) -> bool:
    return any(
        len(track.clips.between(start, end)) for track in timeline.tracks if track.kind == "music"
    )
