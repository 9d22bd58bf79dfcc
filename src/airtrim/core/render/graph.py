"""The render graph, in pulled blocks.

take, or the cleaned take → clips with fades and crossfades → the track's chain → the track's gain,
over time → sum → levelling and gain → true-peak limiter

What remembers its past, chain and limiter, is started early enough that a piece rendered alone is
the same as that piece of the whole.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from airtrim.core.loudness.levelling import RAMP_FRAMES, GainCurve, gain_curve
from airtrim.core.loudness.limiter import DELAY_FRAMES, SETTLE_FRAMES, Limiter
from airtrim.core.loudness.meter import Meter, Profile
from airtrim.core.media.ahead import ahead
from airtrim.core.sound.denoise import FLOOR_DB
from airtrim.core.sound.treat import Treatment
from airtrim.core.timeline.chain import NEUTRAL
from airtrim.core.timeline.cleaned import cleaned_name, cleaning
from airtrim.core.timeline.clips import Clip, Clips, Shape
from airtrim.core.timeline.envelope import drawn
from airtrim.core.timeline.model import Timeline, Track
from airtrim.core.timeline.tone import is_tone
from airtrim.core.timeline.words import TakeWords, gap_near, words_on

Sound = NDArray[np.float32]

BLOCK_FRAMES = 1 << 16
_EDGE_FRAMES = 96
"""A clip edge that is no splice and has no fade still gets 2 ms, so that it cannot click."""
_RAMP_REACH = 96_000
"""How far from a boundary a pause between words is looked for: 2 s."""
_CAREFUL_ABOVE = 0.02


class Take(Protocol):
    """What the graph needs of a take."""

    frames: int

    def read(self, start: int, frames: int) -> Sound:
        """Sound of shape ``(frames, channels)``, silence outside the take."""
        ...


Takes = Callable[[str], Take]
"""Opens a take by its id."""


def section_ramps(timeline: Timeline, words: TakeWords) -> list[tuple[int, int]]:
    """Where the gain may change at each boundary between sections: in the pause nearest to it,
    never inside a word. ``(start, end)`` in frames, at most ``RAMP_FRAMES`` long, and rising."""
    ramps: list[tuple[int, int]] = []
    floor = 0
    for section in timeline.sections[1:]:
        near = words_on(timeline, words, max(0, section.at - _RAMP_REACH), section.at + _RAMP_REACH)
        start, end = gap_near(near, section.at, _RAMP_REACH)
        if end - start > RAMP_FRAMES:
            start = min(max(start, section.at - RAMP_FRAMES // 2), end - RAMP_FRAMES)
            end = start + RAMP_FRAMES
        start = max(start, floor)
        end = max(end, start + 1)
        ramps.append((start, end))
        floor = end
    return ramps


def levelling_curve(timeline: Timeline, words: TakeWords) -> GainCurve:
    """The gain over time that the document's section gains and whole gain ask for."""
    gains = [section.gain_db for section in timeline.sections]
    return gain_curve(gains, section_ramps(timeline, words), timeline.loudness.gain_db)


Edge = tuple[int, int, Shape]
"""A fade at the end of a clip: its length, how far it reaches beyond the edge, how it goes."""


def audible(timeline: Timeline) -> list[Track]:
    """The tracks that are heard: those not muted, or where any is soloed, the soloed ones."""
    soloed = any(track.soloed for track in timeline.tracks)
    return [
        track
        for track in timeline.tracks
        if len(track.clips) and not track.muted and (track.soloed or not soloed)
    ]


def alone(
    timeline: Timeline, track_id: str, *, treated: bool = True, mono: bool = False
) -> Timeline:
    """The same with one track only, whether it was heard or not; without ``treated``, as it was
    recorded: no chain, no gain."""
    track = replace(timeline.track(track_id), muted=False, soloed=False)
    if not treated:
        track = replace(track, chain=NEUTRAL, gain_db=0.0, envelope=())
    layout = replace(timeline.loudness, layout="mono") if mono else timeline.loudness
    return replace(timeline, tracks=(track,), loudness=layout)


def as_recorded(timeline: Timeline) -> Timeline:
    """The same with no chain on any track: where it is quiet, and how loud it is beside what comes
    new, is looked up in the recordings, which need no running up to."""
    tracks = tuple(replace(track, chain=NEUTRAL) for track in timeline.tracks)
    return replace(timeline, tracks=tracks)


class _Voice:
    """One track: its clips, its chain and its gain; any span can be read, the next one cheaply."""

    def __init__(self, track: Track, timeline: Timeline, channels: int, takes: Takes) -> None:
        self._clips = _ClipSum(track, timeline, channels, takes)
        self._chain = track.chain
        self._gain_db = track.gain_db
        self._at, self._db = drawn(track.envelope)
        self._channels = channels
        self._running: Treatment | None = None
        self._next = -1

    def add(self, start: int, out: Sound) -> None:
        """Add what sounds from ``start`` on to ``out``."""
        if not (self._chain.shapes or self._gain_db or len(self._at)):
            self._clips.add(start, out)
            return
        own = self._treated(start, len(out)) if self._chain.shapes else self._plain(start, len(out))
        if len(self._at):
            db = np.interp(np.arange(start, start + len(out)), self._at, self._db) + self._gain_db
            own *= np.asarray(10.0 ** (db / 20.0), np.float32)[:, None]
        elif self._gain_db:
            own *= np.float32(10.0 ** (self._gain_db / 20.0))
        out += own

    def _plain(self, start: int, frames: int) -> Sound:
        own = np.zeros((frames, self._channels), np.float32)
        self._clips.add(start, own)
        return own

    def _treated(self, start: int, frames: int) -> Sound:
        if self._running is None or start != self._next:
            self._running = Treatment(self._chain, self._channels)
            for at in range(self._running.begin(start), start, BLOCK_FRAMES):
                self._running.process(self._plain(at, min(BLOCK_FRAMES, start - at)))
        own = self._plain(start, frames)
        self._running.process(own)
        self._next = start + frames
        return own


class Mix:
    """The sum of all tracks that are heard, before levelling; any span can be read alone."""

    def __init__(self, timeline: Timeline, takes: Takes) -> None:
        self._channels = timeline.loudness.channels
        self._voices = [
            _Voice(track, timeline, self._channels, takes) for track in audible(timeline)
        ]

    def read(self, start: int, frames: int) -> Sound:
        """``frames`` of the mix from ``start``, shape ``(frames, channels)``."""
        out = np.zeros((frames, self._channels), np.float32)
        for voice in self._voices:
            voice.add(start, out)
        return out


class _ClipSum:
    """The clips of a track with their fades and crossfades."""

    def __init__(self, track: Track, timeline: Timeline, channels: int, takes: Takes) -> None:
        self._track = track
        self._starts = track.clips.at
        self._channels = channels
        self._open = takes
        self._room_tones = timeline.room_tones

    def _take(self, take: str) -> Take:
        chain = self._track.chain
        how = None if is_tone(take) else cleaning(take, chain, self._room_tones.get(take))
        return self._open(cleaned_name(how, chain.noise.strength) if how else take)

    def add(self, start: int, out: Sound) -> None:
        """Add what sounds from ``start`` on to ``out``."""
        clips = self._track.clips
        first = max(0, int(np.searchsorted(self._starts, start, side="right")) - 2)
        for index in range(first, len(clips)):
            clip = clips[index]
            if clip.at - clip.fade_in >= start + len(out):
                break
            head, tail = self._fades(clips, index, clip)
            self._add(clip, head, tail, start, out)

    def _fades(self, clips: Clips, index: int, clip: Clip) -> tuple[Edge, Edge]:
        """The fades at either end of a clip."""
        before = self._splice(clips[index - 1], clip) if index else None
        right = clips[index + 1] if index + 1 < len(clips) else None
        after = self._splice(clip, right) if right else None
        room = clip.frames // 2
        head: Edge
        tail: Edge
        if before is None:
            head = min(max(clip.fade_in, _EDGE_FRAMES), max(room, clip.fade_in)), 0, clip.shape_in
        else:
            head = 2 * before, before, clip.shape_in
        if after is None or right is None:
            longest = min(max(clip.fade_out, _EDGE_FRAMES), max(room, clip.fade_out))
            tail = longest, 0, clip.shape_out
        else:
            tail = 2 * after, after, right.shape_in
        return head, tail

    def _splice(self, left: Clip, right: Clip) -> int | None:
        """Half the crossfade between touching clips; None where they do not touch or where
        there is no sound beyond the edges to cross."""
        if left.end != right.at:
            return None
        if left.continues_into(right):
            return 0
        beyond = self._open(left.take).frames - left.start - left.frames
        half = min(right.fade_in // 2, beyond, right.start, left.frames // 2, right.frames // 2)
        return half if half >= _EDGE_FRAMES // 2 else None

    def _add(self, clip: Clip, head: Edge, tail: Edge, start: int, out: Sound) -> None:
        low, high = clip.at - head[1], clip.end + tail[1]
        first, last = max(low, start), min(high, start + len(out))
        if first >= last:
            return
        sound = self._take(clip.take).read(clip.start + first - clip.at, last - first)
        # Room tone that was made up is of the room as it was: it is lowered with it.
        noise = self._track.chain.noise
        lowered = is_tone(clip.take) and noise.on
        gain_db = clip.gain_db + (noise.strength * FLOOR_DB if lowered else 0.0)
        if gain_db:
            sound *= np.float32(10.0 ** (gain_db / 20.0))
        _fade(sound, first - low, head[0], head[2])
        _fade(sound[::-1], high - last, tail[0], tail[2])
        part = out[first - start : last - start]
        if sound.shape[1] == self._channels:
            part += sound
        elif self._channels == 1:
            part += sound.mean(axis=1, keepdims=True)
        else:
            part += sound  # one channel on both sides


def _fade(sound: Sound, into: int, length: int, shape: Shape) -> None:
    """Fade ``sound`` in, in place; it begins ``into`` frames after the fade of ``length`` does.

    Two round ones that cross keep the power of unrelated sound, two straight or soft ones the
    level of the same sound (common practice).
    """
    count = min(length - into, len(sound))
    if count > 0:
        phase = (np.arange(into, into + count) + 0.5) / length
        if shape == "round":
            gain = np.sin(0.5 * np.pi * phase)
        elif shape == "soft":
            gain = 0.5 - 0.5 * np.cos(np.pi * phase)
        else:
            gain = phase
        sound[:count] *= gain.astype(np.float32)[:, None]


def render(
    timeline: Timeline,
    takes: Takes,
    words: TakeWords,
    start: int = 0,
    frames: int | None = None,
    *,
    ceiling_dbtp: float | None = None,
) -> Iterator[Sound]:
    """Yield the finished sound of ``frames`` frames from ``start``, in blocks.

    Blocks have shape ``(n, channels)``, n at most ``BLOCK_FRAMES``. ``ceiling_dbtp`` overrides the
    document's (an export leaves room for the codec).
    """
    stop = timeline.frames if frames is None else min(timeline.frames, start + frames)
    mix = Mix(timeline, takes)
    curve = levelling_curve(timeline, words)
    channels = timeline.loudness.channels
    ceiling = timeline.loudness.ceiling_dbtp if ceiling_dbtp is None else ceiling_dbtp
    limiter = Limiter(channels, ceiling)
    at = max(0, start - SETTLE_FRAMES)
    skip = start - at + DELAY_FRAMES
    left = stop - start
    while left > 0:
        count = min(BLOCK_FRAMES, skip + left)
        block = limiter.process(mix.read(at, count) * curve.linear_column(at, count))
        at += count
        if skip:
            dropped = min(skip, count)
            block = block[dropped:]
            skip -= dropped
        if len(block):
            left -= len(block)
            yield block


def profile_mix(
    timeline: Timeline, takes: Takes, progress: Callable[[float], None] = lambda _: None
) -> Profile:
    """Measure the mix before levelling, for ``even_out``. ``progress`` gets fractions 0–1."""
    mix = Mix(timeline, takes)
    meter = Meter(timeline.loudness.channels, careful_above=_CAREFUL_ABOVE)
    total = timeline.frames
    starts = range(0, total, BLOCK_FRAMES)
    blocks = ahead(mix.read(at, min(BLOCK_FRAMES, total - at)) for at in starts)
    for at, block in zip(starts, blocks, strict=True):
        meter.push(block)
        progress(min(1.0, (at + BLOCK_FRAMES) / total))
    return meter.profile()
