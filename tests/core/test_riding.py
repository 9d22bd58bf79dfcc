"""Riding the gain: phrases nearer to each other, music under the talk, the verdict."""

import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray

from airtrim.core.loudness.levelling import even_out, foresee, peaks_over, verdict
from airtrim.core.loudness.meter import Meter, integrated_loudness
from airtrim.core.loudness.riding import (
    LIMITS,
    Bed,
    Riding,
    bed_points,
    phrase_loudness,
    phrases,
    ride,
    spread_lu,
)
from airtrim.core.media.reading import InMemory
from airtrim.core.render.graph import Mix, alone
from airtrim.core.render.solo import duck, ride_phrases, track_energy
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.gain import SetEnvelope
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import Word
from airtrim.errors import BadInput
from tests.reference import RATE, Sound, programme

Mono = NDArray[np.float32]


def energy_of(sound: Mono) -> Mono:
    meter = Meter(1)
    meter.push(sound[:, None].astype(np.float32))
    return meter.profile().energy


def talk(gains_db: list[float], room: float = 0.0005) -> tuple[Mono, list[tuple[int, int]]]:
    """Phrases of speech-like noise 1.6 s long, 0.8 s apart, each with its gain, over a room."""
    rng = np.random.default_rng(3)
    sound = room * rng.standard_normal((len(gains_db) + 1) * 115_200)
    spans = []
    for number, gain in enumerate(gains_db):
        start = 38_400 + number * 115_200
        spans.append((start, start + 76_800))
        sound[start : start + 76_800] += 0.05 * 10 ** (gain / 20) * rng.standard_normal(76_800)
    return sound.astype(np.float32), spans


def along(points: list[tuple[int, float]], frames: int) -> NDArray[np.float64]:
    at, db = zip(*points, strict=True)
    return np.interp(np.arange(frames), at, db)


UNEVEN = [0.0, -6.0, 5.0, -3.0, 4.0, -7.0, 0.0, 6.0, -5.0, 2.0]


@pytest.mark.parametrize("rate", [6.0, 10.0])
def test_phrases_come_nearer_slowly_and_the_room_is_not_lifted(rate: float) -> None:
    sound, spans = talk(UNEVEN)
    before = phrase_loudness(energy_of(sound), spans)
    points = ride(energy_of(sound), spans, [0], Riding(1.0, 8.0, rate))
    gain = along(points, len(sound))
    after = phrase_loudness(energy_of(sound * 10 ** (gain / 20)), spans)
    assert spread_lu(after) < 0.5 * spread_lu(before)
    slopes = np.diff([db for _, db in points]) / np.diff([at / RATE for at, _ in points])
    assert np.abs(slopes).max() <= rate * 1.02
    pause = np.ones(len(sound), bool)
    for start, end in spans:
        pause[start - 960 : end + 960] = False
    assert gain[pause].max() <= 3.0
    assert LIMITS.pause_lift_db <= 3.0


def test_an_even_voice_is_left_alone_and_a_section_keeps_its_own_level() -> None:
    even, spans = talk([0.0] * 6)
    assert ride(energy_of(even), spans, [0], Riding()) == []
    # Two sections 12 dB apart: what is between them is the sections' own gains' to settle.
    apart, spans = talk([0.0] * 4 + [-12.0] * 4)
    boundary = spans[4][0] - 9600
    assert ride(energy_of(apart), spans, [0, boundary], Riding()) == []
    assert ride(energy_of(apart), spans, [0], Riding()) != []


def test_silence_between_words_and_one_word_are_no_trouble() -> None:
    silent = np.zeros(4 * RATE, np.float32)
    assert ride(energy_of(silent), [(RATE, 2 * RATE)], [0], Riding()) == []
    assert ride(energy_of(silent), [], [0], Riding()) == []
    one, spans = talk([3.0])
    assert ride(energy_of(one), spans, [0], Riding()) == []


def test_words_are_joined_to_phrases_where_no_pause_parts_them() -> None:
    words = [(0, 20_000), (24_000, 40_000), (70_000, 90_000), (200_000, 203_000)]
    assert phrases(words) == [(0, 40_000), (70_000, 90_000)]


def of_voice(sound: Mono, spans: list[tuple[int, int]]):  # type: ignore[no-untyped-def]
    takes = {"v": InMemory(sound[:, None])}
    words = {"v": tuple(Word("word", s, e, "word", 0.9) for s, e in spans)}
    return apply(Timeline(), Place(take="v", take_frames=len(sound))), takes, words


def test_what_is_ridden_is_added_to_the_points_that_are_there() -> None:
    sound, spans = talk(UNEVEN)
    timeline, takes, words = of_voice(sound, spans)
    track = timeline.tracks[0].id
    mine = ({"at": 0, "db": -4.0}, {"at": len(sound), "db": -4.0})
    timeline = apply(timeline, SetEnvelope.model_validate({"track": track, "points": mine}))
    energies = {track: track_energy(timeline, takes.__getitem__, track)}
    edit = ride_phrases(timeline, words, energies, Riding())
    ridden = apply(timeline, edit)
    out = Mix(alone(ridden, track), takes.__getitem__).read(0, len(sound))[:, 0]
    before = phrase_loudness(energies[track], spans)
    after = phrase_loudness(energy_of(out), spans)
    assert spread_lu(after) < 0.5 * spread_lu(before)
    assert np.median(after) == pytest.approx(np.median(before), abs=1.0)
    with pytest.raises(BadInput, match="No words"):
        ride_phrases(timeline, {}, energies, Riding())


def test_music_lies_as_far_under_the_talk_as_was_asked() -> None:
    """Measured again on the sound that comes out, by loudness of BS.1770."""
    voice, spans = talk([0.0] * 6)
    spans = [(start + 10 * RATE, end + 10 * RATE) for start, end in spans]
    frames = 10 * RATE + len(voice)
    music = programme(frames / RATE + 10, 1, 5)
    timeline, takes, words = of_voice(voice, [(s - 10 * RATE, e - 10 * RATE) for s, e in spans])
    moved = Place(take="v", take_frames=len(voice), at=10 * RATE)
    timeline = apply(Timeline(), moved)
    place = Place(take="m", take_frames=len(music), at=0, track_name="Music", track_kind="music")
    timeline = apply(timeline, place)
    takes["m"] = InMemory(music)
    talker, band = (track.id for track in timeline.tracks)
    energies = {talker: track_energy(timeline, takes.__getitem__, talker)}
    edit = duck(timeline, takes.__getitem__, words, energies, Bed(-15.0, -3.0))
    assert [one.track for one in edit.tracks] == [band]
    ducked = apply(timeline, edit)
    out = Mix(alone(ducked, band), takes.__getitem__).read(0, len(music))[:, 0]

    def lufs(sound: Mono) -> float:
        return integrated_loudness(energy_of(sound)) or -120.0

    # The music itself goes up and down, so the gain is checked, and that it is heard.
    first, last = spans[0][0], spans[-1][1]
    gain = along([(p.at, p.db) for p in edit.tracks[0].points], len(music))
    under = gain[(first + last) // 2]
    alone_db = gain[4 * RATE]
    assert alone_db - under == pytest.approx(12.0, abs=0.2)
    whole = lufs(music[:, 0])
    speech = lufs(voice[spans[0][0] - 10 * RATE : spans[-1][1] - 10 * RATE])
    assert whole + under == pytest.approx(speech - 15.0, abs=0.5)
    assert lufs(out[first:last]) == pytest.approx(lufs(music[first:last, 0]) + under, abs=0.2)
    # Down before the first word, up again only after the last.
    assert gain[first] == pytest.approx(under, abs=0.01)
    assert gain[first - RATE] == pytest.approx(alone_db, abs=0.01)
    assert gain[last + 2 * RATE] == pytest.approx(alone_db, abs=0.01)


def test_music_is_not_ducked_where_there_is_nothing_to_duck_it_under() -> None:
    sound, spans = talk([0.0, 0.0])
    timeline, takes, words = of_voice(sound, spans)
    energies = {timeline.tracks[0].id: energy_of(sound)}
    with pytest.raises(BadInput, match="no music"):
        duck(timeline, takes.__getitem__, words, energies, Bed())
    silent = np.zeros(RATE, np.float32)
    assert bed_points(silent, energy_of(sound), spans, [(0, RATE)], Bed()) == []


def test_the_verdict_is_told_in_words() -> None:
    sound = programme(30, 1, 7)
    sound[15 * RATE :] *= np.float32(0.3)
    meter = Meter(1, careful_above=0.0)
    meter.push(sound)
    profile = meter.profile()
    ramps = [(15 * RATE - 100, 15 * RATE + 100)]
    starts = [0, 15 * RATE]
    before = foresee(profile, starts, ramps, [0.0, 0.0], 0.0, -1.0)
    assert "sections are" in verdict(before, 0, -19.0, -1.0)
    assert "apart" in verdict(before, 0, -19.0, -1.0)
    assert not before.even(-19.0)
    plan = even_out(profile, starts, ramps, target_lufs=-19.0, ceiling_dbtp=-1.0)
    told = verdict(plan, 2, -19.0, -1.0)
    assert told.startswith("Even: sections within 0.1 LU; on its target; 2 words over −1.0 dBTP")
    assert plan.even(-19.0)
    quiet = foresee(profile, starts, ramps, plan.section_gains_db, plan.gain_db - 6, -1.0)
    assert "6.0 LU too quiet" in verdict(quiet, 0, -19.0, -1.0)
    assert not quiet.even(-19.0)
    assert quiet.even(-25.0)


def test_peaks_over_the_ceiling_are_found_where_they_are() -> None:
    sound = np.full((4 * RATE, 1), 0.001, np.float32)
    for at, level in ((RATE, 0.9), (RATE + 2400, 0.95), (3 * RATE, 0.5)):
        sound[at : at + 10] = level
    meter = Meter(1, careful_above=0.0)
    meter.push(sound)
    found = peaks_over(meter.profile(), [], [0.0], 3.0, -1.0)
    assert [round(at / RATE, 2) for at, _ in found] == [1.05]
    assert found[0][1] > 3.4
    assert len(peaks_over(meter.profile(), [], [0.0], 6.5, -1.0)) == 2


def test_demo_voices_come_nearer(demo) -> None:  # type: ignore[no-untyped-def]
    """On real phrases, each turned up or down by up to 6 dB."""
    import json

    sound, _ = soundfile.read(demo / "sound" / "host-opening.flac", dtype="float32")
    words = json.loads((demo / "words" / "host-opening.json").read_text())
    spans = phrases([(word["start"], word["end"]) for word in words])
    rng = np.random.default_rng(8)
    uneven: Sound = sound.copy()
    for start, end in spans:
        uneven[start - 2400 : end + 2400] *= np.float32(10 ** (rng.uniform(-6, 6) / 20))
    before = phrase_loudness(energy_of(uneven), spans)
    points = ride(energy_of(uneven), spans, [0], Riding())
    gain = along(points, len(uneven))
    after = phrase_loudness(energy_of((uneven * 10 ** (gain / 20)).astype(np.float32)), spans)
    assert spread_lu(after) < 0.5 * spread_lu(before)
