"""One track by itself: what of it is speech, what is room, how loud it is, what its chain does."""

import itertools
from bisect import bisect_right
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from airtrim.core.loudness.meter import Meter, integrated_loudness
from airtrim.core.loudness.riding import (
    Bed,
    Points,
    Riding,
    Spans,
    bed_points,
    even_voices,
    joined,
    phrases,
    ride,
)
from airtrim.core.media import FRAME_RATE
from airtrim.core.render.graph import BLOCK_FRAMES, Mix, Takes, alone
from airtrim.core.sound.treat import Treatment
from airtrim.core.timeline.arranging import with_track
from airtrim.core.timeline.chain import NEUTRAL, Chain
from airtrim.core.timeline.clips import Clip
from airtrim.core.timeline.edits.gain import GainPoint, RideGain, TrackPoints
from airtrim.core.timeline.envelope import Envelope, drawn
from airtrim.core.timeline.model import Timeline, Track
from airtrim.core.timeline.tone import is_tone
from airtrim.core.timeline.words import TakeWords, words_on
from airtrim.errors import BadInput

Mono = NDArray[np.float32]
Energies = dict[str, NDArray[np.float32]]
"""K-weighted energy of tracks as they sound, a value a millisecond, by their ids."""

_MOST_SPEECH = 45 * FRAME_RATE
_MOST_PAUSE = 30 * FRAME_RATE
_BESIDE_WORDS = round(0.12 * FRAME_RATE)
_SHORTEST_PAUSE = FRAME_RATE // 2
_REPORT_EVERY = FRAME_RATE // 50


def spoken_spans(timeline: Timeline, words: TakeWords, track_id: str) -> list[tuple[int, int]]:
    """Where words sound on a track, in order."""
    return [(w.start, w.end) for w in words_on(timeline, words, track_id=track_id)]


def material(
    timeline: Timeline, takes: Takes, words: TakeWords, track_id: str
) -> tuple[Mono, list[Mono]]:
    """Some of a track's speech, and pauses of half a second or more, untreated, one channel; at
    most 45 s and 30 s of them, from all of the track."""
    mix = Mix(alone(timeline, track_id, treated=False, mono=True), takes)
    spans = spoken_spans(timeline, words, track_id)
    pauses: list[tuple[int, int]] = []
    starts = [start for start, _ in spans]
    reached = list(itertools.accumulate((end for _, end in spans), max))
    for clip in timeline.track(track_id).clips:
        if not is_tone(clip.take):
            first, last = bisect_right(reached, clip.at), bisect_right(starts, clip.end)
            pauses += _between(clip, spans[first:last])
    rooms = [mix.read(s, min(e - s, 5 * FRAME_RATE))[:, 0] for s, e in _spread(pauses, _MOST_PAUSE)]
    return speech_on(timeline, takes, track_id, spans), rooms


def speech_on(timeline: Timeline, takes: Takes, track_id: str, spans: Spans) -> Mono:
    """Some of a track's speech, untreated, one channel, at most 45 s from all of it; ``spans`` are
    those of its words."""
    mix = Mix(alone(timeline, track_id, treated=False, mono=True), takes)
    talk = _spread(joined(spans, _BESIDE_WORDS), _MOST_SPEECH)
    return np.concatenate([np.zeros(0, np.float32), *(mix.read(s, e - s)[:, 0] for s, e in talk)])


def _between(clip: Clip, spans: Spans) -> list[tuple[int, int]]:
    out = []
    at = clip.at + _BESIDE_WORDS
    for start, end in [*spans, (clip.end, clip.end)]:
        if end <= clip.at or start > clip.end:
            continue
        if start - _BESIDE_WORDS - at >= _SHORTEST_PAUSE:
            out.append((at, start - _BESIDE_WORDS))
        at = max(at, end + _BESIDE_WORDS)
    return out


def _spread(spans: Spans, most: int) -> Spans:
    """As many of the spans as are no longer than ``most`` together, from all over."""
    total = sum(end - start for start, end in spans)
    every = max(1, -(-total // most))
    return spans[::every]


def track_energy(
    timeline: Timeline,
    takes: Takes,
    track_id: str,
    progress: Callable[[float], None] = lambda _: None,
) -> NDArray[np.float32]:
    """Energy of a track as it sounds, its chain and its gains included, a value a millisecond."""
    one = alone(timeline, track_id)
    mix = Mix(one, takes)
    # Careful never: only energy is wanted, no peaks.
    meter = Meter(one.loudness.channels, careful_above=1e9)
    for at in range(0, one.frames, BLOCK_FRAMES):
        meter.push(mix.read(at, min(BLOCK_FRAMES, one.frames - at)))
        progress(min(1.0, (at + BLOCK_FRAMES) / one.frames))
    return meter.profile().energy


def voices_of(timeline: Timeline) -> list[Track]:
    """The tracks of voices that have any sound."""
    return [track for track in timeline.tracks if track.kind == "voice" and len(track.clips)]


def ride_phrases(
    timeline: Timeline, words: TakeWords, energies: Energies, riding: Riding
) -> RideGain:
    """The edit that brings each voice's phrases nearer, or those who speak on one track, on top of
    the gain points that are there.

    Raises BadInput where no words are known, so that there are no phrases; where one person speaks
    on each track; and where nothing is to be changed.
    """
    by_voice = riding.each == "voice"
    tracks = []
    starts = [section.at for section in timeline.sections]
    any_words = several = False
    for track in voices_of(timeline):
        if by_voice:
            turns = phrases_by_speaker(timeline, words, track.id)
            spoken = [(start, end) for start, end, _ in turns]
            whose = [speaker for _, _, speaker in turns]
            points = even_voices(energies[track.id], spoken, whose, riding)
            several = several or len(set(whose)) > 1
        else:
            spoken = phrases(spoken_spans(timeline, words, track.id))
            points = ride(energies[track.id], spoken, starts, riding)
        any_words = any_words or bool(spoken)
        if points:
            tracks.append(TrackPoints(track=track.id, points=_added(track.envelope, points)))
    if not any_words:
        raise BadInput("No words are known yet, so there are no phrases to bring nearer.")
    if by_voice and not several:
        raise BadInput("One person speaks on each track, as far as is known. Nothing was changed.")
    if not tracks:
        what = "voices" if by_voice else "phrases"
        raise BadInput(
            f"The {what} are as near to each other as that already. Nothing was changed."
        )
    return RideGain(
        tracks=tuple(tracks), name="Evened out voices" if by_voice else "Evened out phrases"
    )


def phrases_by_speaker(
    timeline: Timeline, words: TakeWords, track_id: str
) -> list[tuple[int, int, str]]:
    """Phrases of a track in order, none of two people: start, end and who says it."""
    turns: dict[str, list[tuple[int, int]]] = {}
    for word in words_on(timeline, words, track_id=track_id):
        turns.setdefault(word.speaker, []).append((word.start, word.end))
    return sorted(
        (start, end, speaker) for speaker, spans in turns.items() for start, end in phrases(spans)
    )


def loudness_between(timeline: Timeline, takes: Takes, start: int, end: int) -> float | None:
    """Integrated loudness of a document between two frames, in LUFS (gated, BS.1770-5), before it
    is levelled; None below the gate. Echo and noise are left in: cleaning changes how loud speech
    is by less than can be heard, and takes long."""
    quick = [
        replace(t, chain=replace(t.chain, echo=NEUTRAL.echo, noise=NEUTRAL.noise))
        for t in timeline.tracks
    ]
    mix = Mix(replace(timeline, tracks=tuple(quick)), takes)
    meter = Meter(timeline.loudness.channels)
    for at in range(start, end, BLOCK_FRAMES):
        meter.push(mix.read(at, min(BLOCK_FRAMES, end - at)))
    return integrated_loudness(meter.profile().energy)


def duck(
    timeline: Timeline, takes: Takes, words: TakeWords, energies: Energies, bed: Bed
) -> RideGain:
    """The edit that holds music under the talk. It sets all gain points of the music tracks; those
    they had are replaced.

    ``energies``: of the voices. Raises BadInput where there is no music, or no speech.
    """
    music = [track for track in timeline.tracks if track.kind == "music" and len(track.clips)]
    music = [track for track in music if not track.held]
    voices = {track.id: energies[track.id] for track in voices_of(timeline)}
    if not music:
        raise BadInput("There is no music in this episode. Nothing was changed.")
    if not voices:
        raise BadInput("Nobody speaks in this episode yet. Nothing was changed.")
    # Each voice as loud as the others hear it: sections' gains are the same for music and talk.
    speech = np.zeros(max(len(one) for one in voices.values()), np.float32)
    for one in voices.values():
        speech[: len(one)] += one
    spoken = sorted(
        (word.start, word.end) for word in words_on(timeline, words) if word.track in voices
    )
    tracks = []
    for track in music:
        plain = with_track(timeline, replace(track, envelope=()))
        energy = track_energy(plain, takes, track.id)
        sounding = [(clip.at, clip.end) for clip in track.clips]
        points = bed_points(energy, speech, spoken, sounding, bed)
        if points:
            tracks.append(TrackPoints(track=track.id, points=_gain_points(points)))
    if not tracks:
        raise BadInput("Music or speech is too faint to be measured. Nothing was changed.")
    return RideGain(tracks=tuple(tracks), name="Held the music under the talk")


def _gain_points(points: Points) -> tuple[GainPoint, ...]:
    return tuple(GainPoint(at=at, db=min(24.0, max(-72.0, db))) for at, db in points)


def _added(envelope: Envelope, points: Points) -> tuple[GainPoint, ...]:
    """Points on top of an envelope: both have straight lines, so their sum has them too."""
    if not envelope:
        return _gain_points(points)
    at, db = drawn(envelope)
    new_at, new_db = (np.array(values, np.float64) for values in zip(*points, strict=True))
    where = np.unique(np.concatenate([np.round(at), new_at]))
    total = np.interp(where, at, db) + np.interp(where, new_at, new_db)
    return _gain_points([(int(a), round(float(b), 2)) for a, b in zip(where, total, strict=True)])


def loudness_of(timeline: Timeline, takes: Takes, start: int, frames: int) -> float | None:
    """Loudness in LUFS of a span of a document with few tracks; None where there is none."""
    meter = Meter(timeline.loudness.channels, careful_above=1e9)
    meter.push(Mix(timeline, takes).read(start, frames))
    return integrated_loudness(meter.profile().energy)


def untouched_alike(
    timeline: Timeline, takes: Takes, track_id: str, start: int, frames: int
) -> Timeline:
    """The document with a track's chain left out, and the track as loud over a span as with it:
    louder must not be taken for better."""
    treated = loudness_of(alone(timeline, track_id), takes, start, frames)
    track = timeline.track(track_id)
    plain = replace(track, chain=NEUTRAL)
    bare = with_track(timeline, plain)
    untreated = loudness_of(alone(bare, track_id), takes, start, frames)
    if treated is None or untreated is None:
        return bare
    alike = replace(plain, gain_db=plain.gain_db + treated - untreated)
    return with_track(timeline, alike)


def taken_out(
    timeline: Timeline, takes: Takes, track_id: str, start: int, frames: int
) -> NDArray[np.float32]:
    """What lowering echo and noise takes out of a track in a span, shape ``(frames, 1)``."""
    track = timeline.track(track_id)
    noise = Chain(echo=track.chain.echo, noise=track.chain.noise)
    with_noise = alone(with_track(timeline, replace(track, chain=noise)), track_id, mono=True)
    without = alone(with_track(timeline, replace(track, chain=NEUTRAL)), track_id, mono=True)
    return np.asarray(
        Mix(without, takes).read(start, frames) - Mix(with_noise, takes).read(start, frames)
    )


def reduction_history(
    timeline: Timeline, takes: Takes, track_id: str, start: int, frames: int
) -> list[tuple[float, float]]:
    """What goes into a track's compressor (peak, dBFS) and what it takes away (dB), every 20 ms."""
    chain = timeline.track(track_id).chain
    if not chain.compressor.on:
        return []
    before = replace(chain, compressor=replace(chain.compressor, on=False))
    track = replace(timeline.track(track_id), chain=before, gain_db=0.0, envelope=())
    into = Mix(alone(with_track(timeline, track), track_id, mono=True), takes)
    only = Treatment(Chain(compressor=chain.compressor), 1)
    lead = start - only.begin(start)
    sound = into.read(start - lead, lead + frames)
    reduction_db = np.zeros(len(sound), np.float32)
    peaks = np.abs(sound[:, 0]).copy()
    only.process(sound, reduction_db)
    count = frames // _REPORT_EVERY
    level = peaks[lead:][: count * _REPORT_EVERY].reshape(count, _REPORT_EVERY).max(axis=1)
    taken = reduction_db[lead:][: count * _REPORT_EVERY].reshape(count, _REPORT_EVERY).min(axis=1)
    dbfs = 20.0 * np.log10(np.maximum(level, 1e-5))
    return [(round(float(a), 1), round(float(b), 2)) for a, b in zip(dbfs, taken, strict=True)]
