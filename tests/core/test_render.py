"""What the render graph makes: splices, levels, and pieces that equal the whole."""

from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from scipy.signal import butter, sosfiltfilt

from airtrim.core.loudness.levelling import gain_curve
from airtrim.core.media.reading import InMemory
from airtrim.core.render.graph import Mix, render, section_ramps
from airtrim.core.render.skyline import skyline
from airtrim.core.timeline.clips import Clip, Clips
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.cutting import Cut, Move
from airtrim.core.timeline.edits.loudness import EvenOut
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.model import Timeline, Track
from airtrim.core.timeline.snap import SNAP_FRAMES, quietest_offset, snapped
from airtrim.core.timeline.words import Word
from tests.reference import RATE, Sound, programme


def episode(sound: Sound, name: str = "a") -> tuple[Timeline, Callable[[str], InMemory]]:
    take = InMemory(sound)
    return apply(Timeline(), Place(take=name, take_frames=len(sound))), lambda _: take


def whole(timeline: Timeline, takes: Callable[[str], InMemory], **more: object) -> Sound:
    return np.concatenate(list(render(timeline, takes, {}, **more)))


def test_an_untouched_episode_is_the_recording_bit_for_bit() -> None:
    sound = programme(3, 1, 1)
    timeline, takes = episode(sound)
    out = whole(timeline, takes)
    edge = 96  # 2 ms in and out, so that no edge can click
    assert np.array_equal(out[edge:-edge], sound[edge:-edge])


@pytest.mark.parametrize("start", [0, 1, 47_999, 200_000, 311_113])
def test_a_piece_alone_equals_the_piece_of_the_whole(start: int) -> None:
    """Within −80 dBFS, through splices, gain ramps and a limiter at work."""
    timeline, takes = episode(programme(8, 1, 2) * np.float32(6.0))
    for at in (300_000, 210_000, 100_000):
        timeline = apply(timeline, Cut(start=at, frames=9_000))
    starts = (SectionStart(at=0), SectionStart(at=205_000))
    timeline = apply(timeline, SetSections(sections=starts))
    timeline = apply(timeline, EvenOut(section_gains_db=(3.0, -6.0), gain_db=4.0))
    full = whole(timeline, takes)
    piece = whole(timeline, takes, start=start, frames=30_000)
    assert len(piece) == min(30_000, timeline.frames - start)
    difference = np.abs(piece - full[start : start + len(piece)]).max()
    assert 20 * np.log10(difference + 1e-12) < -80


def clicks_at(sound: Sound, splice: int, source: Sound, left: int, right: int) -> float:
    """How far (dB) a splice stands out of the sound that surrounds it.

    A click is broadband: sound is high-passed at 5 kHz (zero phase), and its highest magnitude
    within 8 ms of the splice is set against the highest that the recording has within 200 ms of
    either edge (frames ``left`` and ``right`` of ``source``). At most 0 dB means that nothing is
    heard at the splice that was not there before.
    """
    sos = butter(4, 5000, "highpass", fs=RATE, output="sos")
    near, far = round(0.008 * RATE), round(0.2 * RATE)

    def highest(part: Sound, at: int, reach: int) -> float:
        cut = part[max(0, at - 2 * far) : at + 2 * far].mean(axis=1)
        middle = min(at, 2 * far)
        high = np.abs(sosfiltfilt(sos, cut)) + 1e-9
        return float(high[middle - reach : middle + reach].max())

    around = max(highest(source, left, far), highest(source, right, far))
    return float(20 * np.log10(highest(sound, splice, near) / around))


def test_the_click_test_finds_a_click() -> None:
    n = np.arange(2 * RATE)
    tone = (0.3 * np.sin(2 * np.pi * 220 * n / RATE)).astype(np.float32)
    spliced = np.concatenate([tone[:RATE], tone[RATE + 77 :]])[:, None]
    assert clicks_at(spliced, RATE, tone[:, None], RATE, RATE + 77) > 20


def test_splices_in_speech_are_not_louder_than_their_surroundings(host_take) -> None:
    """Cuts of every length at places nobody chose, some in the middle of words."""
    timeline = apply(Timeline(), Place(take="h", take_frames=host_take.frames))
    rng = np.random.default_rng(7)
    for start_s in sorted(rng.uniform(4, 85, 25), reverse=True):
        start, frames = round(start_s * RATE), round(rng.uniform(0.1, 0.9) * RATE)
        mix = Mix(timeline, lambda _: host_take)
        start, frames = snapped(start, frames, timeline.frames, mix.read, lambda *_: ())
        timeline = apply(timeline, Cut(start=start, frames=frames))
    sound = Mix(timeline, lambda _: host_take).read(0, timeline.frames)
    source = host_take.read(0, host_take.frames)
    standing_out = [
        clicks_at(sound, right.at, source, left.start + left.frames, right.start)
        for left, right in pairwise(timeline.tracks[0].clips)
    ]
    assert len(standing_out) > 20  # a few cuts lie inside others
    assert max(standing_out) <= 0.0


def test_a_crossfade_keeps_the_power_of_room_tone() -> None:
    rng = np.random.default_rng(3)
    noise = (0.01 * rng.standard_normal((10 * RATE, 1))).astype(np.float32)
    timeline, takes = episode(noise)
    levels = []
    for at in range(9 * RATE, RATE, -RATE // 4):
        timeline = apply(timeline, Cut(start=at, frames=RATE // 8, crossfade_frames=4_800))
    sound = whole(timeline, takes)
    for cut in timeline.cuts:
        levels.append(np.mean(sound[cut.at - 2400 : cut.at + 2400] ** 2))
    assert 10 * np.log10(np.mean(levels) / 1e-4) == pytest.approx(0, abs=0.3)


def test_a_tone_cut_by_whole_periods_goes_on_unbroken() -> None:
    """Frame exactness: what is joined fits to the sample, or a step would show."""
    n = np.arange(4 * RATE)
    tone = (0.2 * np.sin(2 * np.pi * 100 * n / RATE)).astype(np.float32)[:, None]
    timeline, takes = episode(tone)
    timeline = apply(timeline, Cut(start=RATE, frames=480 * 20, crossfade_frames=0))
    out = whole(timeline, takes)
    timeline = replace(timeline, cuts=())
    assert np.abs(out[RATE + 200 : 2 * RATE] - tone[RATE + 200 : 2 * RATE]).max() < 1e-6


def test_tracks_are_summed_and_channels_fitted() -> None:
    left_only = np.zeros((RATE, 2), np.float32)
    left_only[:, 0] = 0.4
    takes = {"m": InMemory(np.full((RATE, 1), 0.1, np.float32)), "s": InMemory(left_only)}
    tracks = (
        Track("1", "Voice", "voice", Clips([Clip("m", 0, RATE, 0)])),
        Track("2", "Music", "music", Clips([Clip("s", 0, RATE, 0, gain_db=-6.0206)])),
    )
    mono = Timeline(tracks=tracks)
    assert Mix(mono, takes.__getitem__).read(500, 10) == pytest.approx(0.1 + 0.1)
    stereo = replace(mono, loudness=replace(mono.loudness, layout="stereo"))
    out = Mix(stereo, takes.__getitem__).read(500, 10)
    assert out[:, 0] == pytest.approx(0.3, abs=1e-5)
    assert out[:, 1] == pytest.approx(0.1, abs=1e-5)


def test_gain_never_changes_inside_a_word() -> None:
    timeline, _ = episode(np.zeros((20 * RATE, 1), np.float32))
    starts = (SectionStart(at=0), SectionStart(at=round(5.4 * RATE)), SectionStart(at=10 * RATE))
    timeline = apply(timeline, SetSections(sections=starts))
    spoken = [(i + 0.05, i + 0.93) for i in range(20)]
    words = {
        "a": tuple(Word("w", round(a * RATE), round(b * RATE), "word", 1.0) for a, b in spoken)
    }
    ramps = section_ramps(timeline, words)
    assert len(ramps) == 2
    for start, end in ramps:
        assert start < end
        for a, b in spoken:
            assert end <= a * RATE + 1 or start >= b * RATE - 1
    curve = gain_curve([0.0, 12.0, -3.0], ramps, 1.0)
    for a, b in spoken:
        gains = curve.linear_column(round(a * RATE), round((b - a) * RATE))
        assert np.ptp(gains) == 0


def test_edges_move_to_the_quietest_moment_within_30_ms() -> None:
    sound = np.full((2 * SNAP_FRAMES + 1, 1), 0.1, np.float32)
    sound[700:1000] = 0.001
    assert 800 <= quietest_offset(sound) <= 900
    even = np.full((2 * SNAP_FRAMES + 1, 1), 0.1, np.float32)
    assert quietest_offset(even) == SNAP_FRAMES


def test_the_skyline_shows_what_is_in_the_sound(tmp_path) -> None:
    """Peaks and RMS from the pyramid against the samples themselves, across a splice."""
    import soundfile

    from airtrim.core.media.peaks import Peaks
    from airtrim.core.media.take import TakeReader, store_take

    sound = programme(20, 1, 9)
    soundfile.write(tmp_path / "a.wav", sound, RATE, subtype="FLOAT")
    store_take(tmp_path / "a.wav", tmp_path / "sound", tmp_path / "peaks", name="a")
    reader = TakeReader(tmp_path / "sound")
    peaks = Peaks(tmp_path / "peaks", reader.frames)
    timeline = apply(Timeline(), Place(take="a", take_frames=reader.frames))
    timeline = apply(timeline, Cut(start=5 * RATE, frames=2 * RATE, crossfade_frames=0))
    timeline = apply(timeline, Move(start=RATE, frames=RATE, to=12 * RATE, crossfade_frames=0))
    cut = np.concatenate([sound[: 5 * RATE], sound[7 * RATE :]])
    cut = np.concatenate(
        [cut[:RATE], cut[2 * RATE : 12 * RATE], cut[RATE : 2 * RATE], cut[12 * RATE :]]
    )
    for columns, frames in ((300, 18 * RATE), (900, 9 * RATE), (40, 18 * RATE)):
        found = skyline(timeline, lambda _: peaks, 0, frames, columns)[0]
        edges = np.round(np.arange(columns + 1) * frames / columns).astype(int)
        for i in range(columns):
            part = cut[edges[i] : edges[i + 1]]
            assert found[0, i] >= np.abs(part).max() - 2e-4  # bins reach a little further
            assert found[1, i] == pytest.approx(np.sqrt(np.mean(part**2)), rel=0.35, abs=2e-3)
