"""Rooms at seams: a voice that is left alone by a move does not break off into nothing.

Half a second of overlap is common practice (0.3 to 1 s); what a part has of its neighbours' rooms
stays behind when it is moved on.
"""

import random
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from airtrim.core.render.graph import Mix
from airtrim.core.timeline.clips import Clip, Clips
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.fields import Tone
from airtrim.core.timeline.edits.parts import BringBack, DuplicatePart, MovePart, PutAside
from airtrim.core.timeline.model import Section, Timeline, Track
from airtrim.core.timeline.seams import OVERLAP_FRAMES, is_overlap
from airtrim.errors import BadInput
from tests.core.test_editing import SECOND

TONES = {
    "h": Tone(take="h", start=0, frames=SECOND),
    "g": Tone(take="g", start=0, frames=SECOND),
}


def talk(order: str = "hgh", music: bool = True) -> Timeline:
    """Host and guest by turns, five seconds each, a part each."""
    clips: dict[str, list[Clip]] = {"h": [], "g": [], "m": []}
    for number, who in enumerate(order):
        at = 5 * number * SECOND
        clips[who].append(Clip(who, at, 5 * SECOND, at))
    if music:
        clips["m"].append(Clip("m", 0, 5 * len(order) * SECOND, 0))
    kinds = {"h": "voice", "g": "voice", "m": "music"}
    return Timeline(
        tracks=tuple(Track(f"t{n}", n, kinds[n], Clips(own)) for n, own in clips.items()),
        sections=tuple(Section(f"s{n}", 5 * n * SECOND, who) for n, who in enumerate(order)),
        lengths=dict.fromkeys("hgm", 100 * SECOND),
        next_id=10,
    )


def rooms(timeline: Timeline) -> list[tuple[str, int, int, int]]:
    """Track, start, end and way (1 comes in, −1 dies away) of each room that goes on."""
    return [
        (track.id, clip.at, clip.end, 1 if clip.fade_in == clip.frames else -1)
        for track in timeline.tracks
        for clip in track.clips
        if is_overlap(clip)
    ]


def test_the_room_of_who_leaves_dies_away_and_that_of_who_comes_is_there_before() -> None:
    after = apply(talk(), MovePart(section="s1", before=None, tones=TONES))
    assert [section.name for section in after.sections] == ["h", "h", "g"]
    seam = 10 * SECOND
    assert sorted(rooms(after)) == [
        ("tg", seam - OVERLAP_FRAMES, seam, 1),
        ("th", seam, seam + OVERLAP_FRAMES, -1),
    ]
    # Between the two turns of the host nothing is needed, and music has no room.
    assert after.frames == 15 * SECOND


def test_moved_back_nothing_of_it_is_left() -> None:
    first = talk()
    after = apply(first, MovePart(section="s1", before=None, tones=TONES))
    back = apply(after, MovePart(section="s1", before="s2", tones=TONES))
    assert rooms(back)
    # The seams are new, so their rooms go on; all else is as it was.
    plain = apply(
        apply(first, MovePart(section="s1", before=None)), MovePart(section="s1", before="s2")
    )
    for own, bare in zip(back.tracks, plain.tracks, strict=True):
        kept = [clip._replace(fade_in=0) for clip in own.clips if not is_overlap(clip)]
        assert kept == [clip._replace(fade_in=0) for clip in bare.clips]


def test_an_episode_without_a_known_room_is_moved_as_ever() -> None:
    first = talk()
    plain = apply(first, MovePart(section="s1", before=None))
    assert apply(first, MovePart(section="s1", before=None, tones={})) == plain


def random_move(timeline: Timeline, rng: random.Random):
    parts = [section.id for section in timeline.sections]
    kind = rng.choice(["move", "double", "aside", "back"])
    if kind == "back" and timeline.aside:
        section = rng.choice(timeline.aside).section.id
        return BringBack(section=section, before=rng.choice([None, *parts]), tones=TONES)
    if kind == "double" and len(parts) < 8:
        return DuplicatePart(section=rng.choice(parts), tones=TONES)
    if kind == "aside" and len(parts) > 2:
        return PutAside(section=rng.choice(parts), tones=TONES)
    return MovePart(section=rng.choice(parts), before=rng.choice([None, *parts]), tones=TONES)


@settings(max_examples=120, deadline=None)
@given(st.integers(0, 2**32), st.text("hg", min_size=3, max_size=6))
def test_after_any_moves_rooms_stand_at_seams_only_and_no_sound_is_lost(
    seed: int, order: str
) -> None:
    rng = random.Random(seed)
    timeline = talk(order)
    for _ in range(12):
        try:
            timeline = apply(timeline, random_move(timeline, rng))
        except BadInput:
            continue
        seams = {section.at for section in timeline.sections}
        for _, start, end, way in rooms(timeline):
            assert (end if way > 0 else start) in seams
            assert end - start <= OVERLAP_FRAMES
        for track in timeline.tracks:
            assert all(left.end <= right.at for left, right in pairwise(track.clips))
        # Every part has its own five seconds, whole.
        for start, end in pairwise([*sorted(seams), timeline.frames]):
            assert end - start == 5 * SECOND
            whole = [
                clip
                for track in timeline.tracks[:2]
                for clip in track.clips
                if clip.at <= start and end <= clip.end
            ]
            inside = [
                clip
                for track in timeline.tracks[:2]
                for clip in track.clips.between(start, end)
                if not is_overlap(clip)
            ]
            assert len(inside) == 1
            assert whole == inside


class _Noise:
    """A take whose every frame is room: noise at −60 dBFS."""

    channels, frames = 1, 100 * SECOND

    def __init__(self, seed: int) -> None:
        noise = np.random.default_rng(seed).standard_normal((self.frames, 1))
        self._sound = np.asarray(noise * 10 ** (-60 / 20), np.float32)

    def read(self, start: int, frames: int) -> np.ndarray:
        low, high = max(0, start), min(self.frames, start + frames)
        out = np.zeros((frames, 1), np.float32)
        out[low - start : high - start] = self._sound[low:high]
        return out


@pytest.mark.parametrize("moved", [True, False])
def test_what_is_heard_at_a_seam_neither_drops_nor_doubles(moved: bool) -> None:
    """Measured on the render: level by hundredths of a second across the seam. Rooms of unrelated
    noise that overlap add 3 dB at most; without overlap there is no step either where both rooms
    are alike, so the drop is looked for on the track that is left."""
    takes = {"h": _Noise(1), "g": _Noise(2)}

    def opened(take: str) -> _Noise:
        return takes.setdefault(take, _Noise(len(takes) + 1))

    tones = TONES if moved else None
    after = apply(talk("hgh", music=False), MovePart(section="s1", before=None, tones=tones))
    sound = Mix(after, opened).read(10 * SECOND - SECOND, 2 * SECOND)[:, 0]
    levels = 10 * np.log10(np.mean(sound.reshape(-1, 4800).astype(np.float64) ** 2, axis=1))
    assert levels.min() > -61.5
    assert levels.max() < -56.5
    host = Timeline(tracks=(after.tracks[0],), sections=after.sections)
    alone = Mix(host, opened).read(10 * SECOND + 4800, 4800)[:, 0]
    heard = 10 * np.log10(np.mean(alone.astype(np.float64) ** 2) + 1e-15)
    assert (heard > -70) == moved
