"""Riding the gain: phrases brought nearer to each other, music held under the talk.

Both give points of gain over time, which the host sees, and can change, on the Page.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from airtrim.core.loudness.meter import CELL_FRAMES, integrated_loudness, lufs
from airtrim.core.media import FRAME_RATE

Spans = Sequence[tuple[int, int]]
"""``(start, end)`` in frames, in order, none over another."""
Points = list[tuple[int, float]]
"""``(frame, dB)``, in order."""

_STEP_CELLS = 20
_STEP_FRAMES = _STEP_CELLS * CELL_FRAMES


@dataclass(frozen=True, slots=True)
class RidingLimits:
    """What is a phrase, and how a gain may move. Common practice; judged in ``bench/sound``."""

    pause_lift_db: float = 2.5
    """A pause is never raised by more, so the room does not breathe with the voice."""
    phrase_break_s: float = 0.35
    shortest_phrase_s: float = 0.25
    """What is shorter has no loudness of its own."""
    most_rounds: int = 6
    """Of finding the gains anew with those that were found."""
    tolerance_db: float = 0.1
    """So near to the gain worked out the points drawn lie."""
    talk_break_s: float = 2.0
    """Music comes back up where nobody speaks for longer than this and both its ramps."""
    down_s: float = 0.5
    up_s: float = 1.5


LIMITS = RidingLimits()


@dataclass(frozen=True, slots=True)
class Riding:
    """How phrases are brought nearer: by ``share`` (0 to 1) of how far each is off, by ``most_db``
    at most, never faster than ``rate_db_s``; ``each``: every phrase by itself, or who speaks by one
    gain."""

    share: Annotated[float, Field(ge=0.0, le=1.0)] = 0.8
    most_db: Annotated[float, Field(ge=0.0, le=12.0)] = 8.0
    rate_db_s: Annotated[float, Field(ge=1.0, le=20.0)] = 10.0
    each: Literal["phrase", "voice"] = "phrase"


@dataclass(frozen=True, slots=True)
class Bed:
    """Music against speech, in LU: under the talk, and where nobody speaks."""

    under_lu: Annotated[float, Field(ge=-40.0, le=0.0)] = -18.0
    alone_lu: Annotated[float, Field(ge=-30.0, le=6.0)] = -4.0


def phrases(words: Spans) -> list[tuple[int, int]]:
    """Words in order, joined to phrases: a pause of 0.35 s parts them (common practice).

    >>> phrases([(0, 24_000), (30_000, 48_000), (96_000, 120_000)])
    [(0, 48000), (96000, 120000)]
    """
    return [
        (start, end)
        for start, end in joined(words, round(LIMITS.phrase_break_s * FRAME_RATE))
        if end - start >= round(LIMITS.shortest_phrase_s * FRAME_RATE)
    ]


def joined(spans: Spans, gap: int) -> list[tuple[int, int]]:
    """Spans in order, with those less than ``gap`` frames apart made one.

    >>> joined([(0, 10), (12, 20), (50, 60)], 5)
    [(0, 20), (50, 60)]
    """
    out: list[tuple[int, int]] = []
    for start, end in spans:
        if out and start - out[-1][1] < gap:
            out[-1] = out[-1][0], max(out[-1][1], end)
        else:
            out.append((start, end))
    return out


def phrase_loudness(energy: NDArray[np.float32], spoken: Spans) -> NDArray[np.float64]:
    """Loudness of each phrase in LUFS, without gates: what its own words have (K-weighting of
    BS.1770-5); −120 where there is no sound.

    >>> energy = np.full(1000, CELL_FRAMES * 0.01, np.float32)
    >>> phrase_loudness(energy, [(0, 24_000), (24_000, 48_000)]).round(1).tolist()
    [-20.7, -20.7]
    """
    means = []
    for start, end in spoken:
        low = start // CELL_FRAMES
        part = energy[low : max(end // CELL_FRAMES, low + 1)]
        means.append(float(part.mean(dtype=np.float64)) / CELL_FRAMES if len(part) else 0.0)
    return lufs(np.maximum(means, 1e-12))


def cells_of(spans: Spans) -> NDArray[np.int64]:
    """The cells of energy, a millisecond each, that lie within spans of frames.

    >>> cells_of([(0, 96), (480, 576)]).tolist()
    [0, 1, 10, 11]
    """
    parts = [np.arange(start // CELL_FRAMES, end // CELL_FRAMES) for start, end in spans]
    return np.concatenate(parts) if parts else np.zeros(0, np.int64)


def spread_lu(loudness: NDArray[np.float64]) -> float:
    """10th to 90th percentile of phrases' loudness.

    >>> round(spread_lu(np.array([-20.0, -22.0, -24.0, -30.0])), 1)
    7.6
    """
    if len(loudness) < 2:
        return 0.0
    low, high = np.percentile(loudness, [10, 90])
    return float(high - low)


def ride(
    energy: NDArray[np.float32],
    spoken: Spans,
    sections: Sequence[int],
    riding: Riding,
) -> Points:
    """Points of gain that bring phrases nearer to their section's loudness.

    ``energy``: of the track as it sounds now, a value a millisecond; ``spoken``: its phrases;
    ``sections``: where each section begins, the first at 0. The gain moves ahead of a phrase and
    after it, never faster than ``riding.rate_db_s``; a pause is raised by ``pause_lift_db`` of the
    limits at most, so that speech is lifted and not the room.
    """
    if not spoken:
        return []
    now = phrase_loudness(energy, spoken)
    starts = np.array([start for start, _ in spoken])
    section = np.searchsorted(np.asarray(sections), starts, side="right")
    sounding = now > -70.0
    wanted = now.copy()
    for number in np.unique(section):
        of = (section == number) & sounding
        if of.any():
            middle = float(np.median(now[of]))
            wanted[of] = now[of] + riding.share * (middle - now[of])
    return _towards(wanted, now, energy, spoken, riding)


def even_voices(
    energy: NDArray[np.float32],
    spoken: Spans,
    whose: Sequence[str],
    riding: Riding,
) -> Points:
    """Points of gain that bring who speaks on one track to the same loudness, each by one gain.

    ``spoken``: its phrases, none of two people; ``whose``: who says each; the rest as for ``ride``.
    All come to the loudness that the middle one of them has. Where there is one only, none.
    """
    if len(set(whose)) < 2:
        return []
    now = phrase_loudness(energy, spoken)
    said = np.asarray(whose)
    heard = {who: now[(said == who) & (now > -70.0)] for who in set(whose)}
    level = {who: float(np.median(of)) for who, of in heard.items() if len(of)}
    middle = float(np.median(list(level.values())))
    change = np.array([riding.share * (middle - level.get(who, middle)) for who in whose])
    return _towards(now + change, now, energy, spoken, riding)


def _towards(
    wanted: NDArray[np.float64],
    now: NDArray[np.float64],
    energy: NDArray[np.float32],
    spoken: Spans,
    riding: Riding,
) -> Points:
    """Points of gain with which phrases come to the loudness that is wanted of each."""
    sounding = now > -70.0
    goal = np.clip(np.where(sounding, wanted - now, 0.0), -riding.most_db, riding.most_db)
    asked = goal.copy()
    steps = len(energy) // _STEP_CELLS + 2
    track = np.zeros(steps)
    for _ in range(LIMITS.most_rounds):
        track = _limited(_asked(asked, spoken, steps), riding.rate_db_s)
        got = phrase_loudness(_with(energy, track), spoken) - now
        asked = np.clip(asked + 0.8 * (goal - got), -riding.most_db, riding.most_db)
        asked = np.where(sounding, asked, 0.0)
    track = _limited(_asked(asked, spoken, steps), riding.rate_db_s)
    return _as_points(track)


def _asked(gains: NDArray[np.float64], spoken: Spans, steps: int) -> NDArray[np.float64]:
    """What each step of time should have: phrases their gain; a pause no more than what is beside
    it, and no more than a pause may be raised."""
    out = np.empty(steps)
    before_end, before = 0, None
    for (start, end), gain in zip(spoken, gains, strict=True):
        low, high = start // _STEP_FRAMES, -(-end // _STEP_FRAMES)
        pause = gain if before is None else max(before, gain)
        out[before_end:low] = min(pause, LIMITS.pause_lift_db)
        out[low:high] = gain
        before_end, before = high, gain
    out[before_end:] = min(before or 0.0, LIMITS.pause_lift_db)
    return out


def _limited(track: NDArray[np.float64], rate_db_s: float) -> NDArray[np.float64]:
    """The highest track that is nowhere above the one asked for and never faster than allowed."""
    per_step = rate_db_s * _STEP_FRAMES / FRAME_RATE
    ramp = per_step * np.arange(len(track))
    forward = np.minimum.accumulate(track - ramp) + ramp
    backward = np.minimum.accumulate((track + ramp)[::-1])[::-1] - ramp
    return np.asarray(np.minimum(forward, backward))


def _with(energy: NDArray[np.float32], track: NDArray[np.float64]) -> NDArray[np.float32]:
    cells = np.arange(len(energy)) / _STEP_CELLS
    db = np.interp(cells, np.arange(len(track)), track)
    return np.asarray(energy * 10.0 ** (db / 10.0), np.float32)


def _as_points(track: NDArray[np.float64]) -> Points:
    """The track in as few points as stay within 0.1 dB of it (Ramer 1972, Douglas and Peucker
    1973)."""
    keep = {0, len(track) - 1}
    todo = [(0, len(track) - 1)]
    while todo:
        low, high = todo.pop()
        if high - low < 2:
            continue
        line = np.linspace(track[low], track[high], high - low + 1)
        off = np.abs(track[low : high + 1] - line)
        furthest = int(np.argmax(off))
        if off[furthest] > LIMITS.tolerance_db:
            keep.add(low + furthest)
            todo += [(low, low + furthest), (low + furthest, high)]
    points = [(step * _STEP_FRAMES, round(float(track[step]), 2)) for step in sorted(keep)]
    return points if any(abs(db) > LIMITS.tolerance_db for _, db in points) else []


def bed_points(
    music: NDArray[np.float32],
    speech: NDArray[np.float32],
    spoken: Spans,
    sounding: Spans,
    bed: Bed,
) -> Points:
    """Points of gain that hold music under the talk.

    ``music``, ``speech``: energy a millisecond of the music without points of its own, and of all
    voices; ``spoken``: words of all voices in order; ``sounding``: where there is music. It sinks
    over half a second before the talk and rises over one and a half after it, and stays down in
    pauses under two seconds (common practice). Each talk is judged by its own loudness. Where no
    voice or no music can be measured, none.
    """
    voice_lufs, music_lufs = integrated_loudness(speech), integrated_loudness(music)
    if voice_lufs is None or music_lufs is None:
        return []
    alone = round(voice_lufs + bed.alone_lu - music_lufs, 2)
    down, up = round(LIMITS.down_s * FRAME_RATE), round(LIMITS.up_s * FRAME_RATE)
    talks = joined(spoken, round(LIMITS.talk_break_s * FRAME_RATE) + down + up)
    points: Points = []
    for first, last in joined(sounding, round(LIMITS.talk_break_s * FRAME_RATE)):
        within = [(s, e) for s, e in talks if e + up > first and s - down < last]
        if not within:
            points += [(first, alone), (last, alone)]
            continue
        for start, end in within:
            here = integrated_loudness(speech[start // CELL_FRAMES : end // CELL_FRAMES])
            under = round((here or voice_lufs) + bed.under_lu - music_lufs, 2)
            points += [
                (max(first, start - down), alone),
                (max(first + 1, start), under),
                (max(first + 2, min(end, last)), under),
                (max(first + 3, min(end + up, last + up)), alone),
            ]
    out: Points = []
    for at, db in sorted(points, key=lambda point: point[0]):
        if not out or at > out[-1][0]:
            out.append((at, db))
    return out
