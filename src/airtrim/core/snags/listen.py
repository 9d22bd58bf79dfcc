"""What is to be heard in a take besides its words: breaths, knocks, clicks, coughs, clipping; and
how loud each phrase is.

Found once for a take, since the take never changes; the rest is read off the document.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import soxr
from numpy.typing import NDArray

from airtrim.core.media import FRAME_RATE
from airtrim.core.speech import MODEL_RATE
from airtrim.core.speech.voice import voice_of
from airtrim.core.timeline.snap import runs
from airtrim.core.timeline.words import Word

Read = Callable[[int, int], NDArray[np.float32]]
"""``read(start, frames)`` of a take at 48 kHz, shape ``(frames, channels)``."""

SoundKind = Literal["breath", "noise", "clipping"]

_HOP = FRAME_RATE // 100
_BLOCK_HOPS = 6000
_SAME_CLIPPING_FRAMES = 2 * FRAME_RATE
_PHRASE_PAUSE_FRAMES = FRAME_RATE // 2
_SHORTEST_PHRASE_HOPS = 80


@dataclass(frozen=True, slots=True)
class SoundLimits:
    """What counts as a sound beside the words, and as which. Lengths are in hops of 10 ms, levels
    in dB over the room or under the voice. Set by ear and on made-up recordings."""

    lowest_room_dbfs: float = -75.0
    over_room_db: float = 6.0
    """What is less far over the room is the room."""
    voiced: float = 0.35
    """More of a voice than this (0–1) is somebody speaking."""
    longest: int = 120
    full_scale: float = 0.985
    flat_from: float = 0.25
    """Samples at full scale, or alike and over this, are clipped."""
    breath_shortest: int = 15
    breath_shortest_at_word: int = 20
    breath_centre_hz: float = 1200.0
    """A breath is long and high."""
    breath_below_voice_db: float = 6.0
    swells: int = 4
    """What is loudest so late swells; what is loudest at once is sudden."""
    sudden: int = 6
    knock_centre_hz: float = 700.0
    knock_longest: int = 40
    """A knock is low and short."""
    thump_centre_hz: float = 250.0
    thump_fade_db: float = 10.0
    """A thump has a pitch as a voice has, but lies under it and dies away."""
    loud_below_voice_db: float = 12.0
    """Knocks and coughs are nearly as loud as speech."""
    click_longest: int = 6
    click_over_room_db: float = 15.0
    click_below_voice_db: float = 3.0
    """A click is as loud as speech; a mouth noise is not."""
    cough_longest: int = 70
    cough_centre_hz: float = 4000.0
    cough_least_confidence: float = 0.7
    """A single burst that is hardly over the room may as well be the end of a word."""
    cough_together_s: float = 0.4
    near_word: int = 6
    plain_over_room_db: float = 12.0
    """Clicks and coughs stand clear of words and well out of the room."""


LIMITS = SoundLimits()


@dataclass(frozen=True, slots=True)
class Sound:
    """Something in a take that is no word: its kind, what it is called (knock, click, cough, mouth
    noise), its span in frames of the take, and how sure that is, 0–1."""

    kind: SoundKind
    name: str
    start: int
    end: int
    confidence: float


@dataclass(frozen=True, slots=True)
class Phrase:
    """Words spoken without a pause of half a second: their span in frames of the take, and their
    RMS level in dBFS."""

    start: int
    end: int
    level_dbfs: float


@dataclass(frozen=True, slots=True)
class Listened:
    """All that was found in a take, in order of time."""

    sounds: tuple[Sound, ...] = ()
    phrases: tuple[Phrase, ...] = ()


def listen(read: Read, frames: int, words: Sequence[Word]) -> Listened:
    """Listen to a take of ``frames`` frames whose words are known. In one pass, block by block;
    what is kept of it is a number for every 10 ms. A take without words has clipping at most: what
    is no mistake in music or in a street is not known here."""
    if frames < _HOP:
        return Listened()
    level, clipped = _levels(read, frames)
    clipping = tuple(_clipping(clipped))
    if not words:
        return Listened(clipping)
    spoken = np.zeros(len(level), np.bool_)
    for word in words:
        spoken[word.start // _HOP : -(-word.end // _HOP)] = True
    phrases = tuple(_phrases(words, level))
    if spoken.all():
        return Listened(clipping, phrases)
    smooth = _db(np.convolve(level, np.ones(3) / 3, "same"))
    room = max(LIMITS.lowest_room_dbfs, float(np.percentile(smooth[~spoken], 20)))
    voice = float(np.median(smooth[spoken]))
    sounds = [
        sound
        for start, end in _islands(smooth, spoken, room)
        if (sound := _named(read, frames, smooth, spoken, start, end, room, voice))
    ]
    return Listened(tuple(sorted([*clipping, *_one_cough(sounds)], key=lambda s: s.start)), phrases)


def _levels(read: Read, frames: int) -> tuple[NDArray[np.float64], list[tuple[int, int]]]:
    """The power of every 10 ms, and the spans that are clipped."""
    count = frames // _HOP
    power = np.zeros(count)
    clipped: list[tuple[int, int]] = []
    for first in range(0, count, _BLOCK_HOPS):
        hops = min(_BLOCK_HOPS, count - first)
        block = read(first * _HOP, hops * _HOP)
        mono = block.mean(axis=1, dtype=np.float64)
        power[first : first + hops] = np.square(mono).reshape(hops, _HOP).mean(axis=1)
        clipped.extend(_clipped(block, first * _HOP))
    return power, clipped


def _clipped(block: NDArray[np.float32], first: int) -> Iterator[tuple[int, int]]:
    """Runs of three samples or more at full scale, and flat tops of four or more below it (common
    practice)."""
    size = np.abs(block)
    if not len(size) or size.max() < LIMITS.flat_from:
        return
    full = size >= LIMITS.full_scale
    at_top = full[:-2] & full[1:-1] & full[2:]
    same = (np.abs(np.diff(block, axis=0)) < 1e-5) & (size[1:] > LIMITS.flat_from)
    flat = same[:-2] & same[1:-1] & same[2:]
    for found, length in ((at_top, 3), (flat, 4)):
        for at in np.flatnonzero(found.any(axis=1)).tolist():
            yield first + at, first + at + length


def _clipping(spans: list[tuple[int, int]]) -> Iterator[Sound]:
    spans = sorted(spans)
    start = 0
    for index, (_, end) in enumerate(spans):
        last = index + 1 == len(spans)
        if last or spans[index + 1][0] - end > _SAME_CLIPPING_FRAMES:
            times = index + 1 - start
            sure = min(0.99, 0.5 + 0.05 * times)
            yield Sound("clipping", "clipping", spans[start][0], end, round(sure, 2))
            start = index + 1


def _phrases(words: Sequence[Word], power: NDArray[np.float64]) -> Iterator[Phrase]:
    start = 0
    for index, word in enumerate(words):
        last = index + 1 == len(words)
        if not last and words[index + 1].start - word.end <= _PHRASE_PAUSE_FRAMES:
            continue
        own = words[start : index + 1]
        start = index + 1
        parts = [power[w.start // _HOP : -(-w.end // _HOP)] for w in own]
        spoken = np.concatenate(parts)
        if len(spoken) < _SHORTEST_PHRASE_HOPS:
            continue
        yield Phrase(own[0].start, own[-1].end, round(float(_db(spoken.mean())), 1))


def _islands(
    level: NDArray[np.float64], spoken: NDArray[np.bool_], room: float
) -> list[tuple[int, int]]:
    """Stretches between words that stand over the room, in hops; 20 ms apart are one."""
    over = (level > room + LIMITS.over_room_db) & ~spoken
    joined: list[tuple[int, int]] = []
    for start, end in runs(over):
        if joined and start - joined[-1][1] <= 2 and not spoken[joined[-1][1] : start].any():
            joined[-1] = joined[-1][0], end
        else:
            joined.append((start, end))
    return joined


def _named(
    read: Read,
    frames: int,
    level: NDArray[np.float64],
    spoken: NDArray[np.bool_],
    start: int,
    end: int,
    room: float,
    voice: float,
) -> Sound | None:
    """What a stretch between two words is, if anything.

    A breath is unvoiced, high and swells; a knock is low and sudden; a click is over within 60 ms;
    a cough is sudden, unvoiced and nearly as loud as speech (common practice; limits set by ear and
    on made-up recordings). Ends of words that their spans do not hold lie at the words and are
    short; they are none of these.
    """
    hops = end - start
    if hops < 2 or hops > LIMITS.longest:
        return None
    top = float(level[start:end].max())
    near = bool(spoken[max(0, start - LIMITS.near_word) : end + LIMITS.near_word].any())
    touches = bool(spoken[max(0, start - 1) : end + 1].any())
    rise = int(level[start:end].argmax())
    sound = read(start * _HOP, min(frames - start * _HOP, hops * _HOP)).mean(axis=1)
    voiced, centre_hz = _colour(sound)
    over, below = top - room, voice - top
    # A thump has a pitch as a voice has, but lies under it, is loudest at once, and dies away.
    fades = level[end - 1] < top - LIMITS.thump_fade_db
    thump = centre_hz < LIMITS.thump_centre_hz and rise <= LIMITS.swells and fades and not near
    if voiced > LIMITS.voiced and not thump:
        return None

    def found(kind: SoundKind, name: str, sure: float) -> Sound:
        sure = round(min(0.99, max(0.3, sure)), 2)
        return Sound(kind, name, start * _HOP, end * _HOP, sure)

    shortest = LIMITS.breath_shortest_at_word if touches else LIMITS.breath_shortest
    high = centre_hz > LIMITS.breath_centre_hz
    soft = below > LIMITS.breath_below_voice_db
    if hops >= shortest and high and soft and rise >= LIMITS.swells:
        return found("breath", "breath", 0.4 + over / 50 + hops / 200)
    sudden = rise <= LIMITS.sudden and below < LIMITS.loud_below_voice_db
    low = centre_hz < LIMITS.knock_centre_hz
    if low and hops <= LIMITS.knock_longest and sudden and not touches:
        return found("noise", "knock", 0.5 + over / 80)
    if near or over < LIMITS.plain_over_room_db:
        return None
    if hops <= LIMITS.click_longest and over >= LIMITS.click_over_room_db:
        name = "click" if below < LIMITS.click_below_voice_db else "mouth noise"
        return found("noise", name, 0.4 + over / 80)
    long = LIMITS.click_longest < hops <= LIMITS.cough_longest
    if long and centre_hz < LIMITS.cough_centre_hz and sudden:
        return found("noise", "cough", 0.45 + over / 80)
    return None


def _colour(sound: NDArray[np.float32]) -> tuple[float, float]:
    """The part that is voiced, and where the middle of the spectrum lies, in Hz."""
    voice = voice_of(soxr.resample(sound, FRAME_RATE, MODEL_RATE))
    spectrum = np.square(np.abs(np.fft.rfft(sound * np.hanning(len(sound)))))
    hertz = np.fft.rfftfreq(len(sound), 1 / FRAME_RATE)
    total = float(spectrum.sum())
    centre = float((hertz * spectrum).sum()) / total if total > 0 else 0.0
    return voice.voiced(0, len(voice.periodicity)), centre


def _one_cough(sounds: list[Sound]) -> list[Sound]:
    """A cough is mostly two bursts: they are one."""
    out: list[Sound] = []
    for sound in sounds:
        last = out[-1] if out else None
        if (
            last
            and last.name == sound.name == "cough"
            and sound.start - last.end < LIMITS.cough_together_s * FRAME_RATE
        ):
            sure = min(0.99, max(last.confidence, sound.confidence) + 0.15)
            out[-1] = Sound("noise", "cough", last.start, sound.end, round(sure, 2))
        else:
            out.append(sound)
    return [s for s in out if s.name != "cough" or s.confidence >= LIMITS.cough_least_confidence]


def _db(power: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(10.0 * np.log10(power + 1e-12))


def jumps(levels_db: Sequence[float], least_db: float) -> list[tuple[int, int, float]]:
    """Where phrases one after another jump in level by ``least_db`` or more and stay there: from
    which, up to which (not included), and by how many dB.

    A phrase is held against the median of the three before it, so that one soft phrase is no jump.
    """
    found: list[tuple[int, int, float]] = []
    base: list[float] = []
    at = 0
    while at < len(levels_db):
        usual = float(np.median(base[-3:])) if base else levels_db[at]
        step = levels_db[at] - usual
        following = levels_db[at : at + 2]
        stays = all(np.sign(one - usual) == np.sign(step) for one in following) and (
            abs(float(np.median(following)) - usual) >= least_db
        )
        if not base or abs(step) < least_db or not stays:
            base.append(levels_db[at])
            at += 1
            continue
        end = at + 1
        new = [levels_db[at]]
        while end < len(levels_db) and abs(levels_db[end] - usual) >= least_db / 2:
            new.append(levels_db[end])
            end += 1
        found.append((at, end, float(np.median(new)) - usual))
        at = end
    return found
