"""Made-up room tone beside the room tone it is made from: spectrum in third octaves (IEC 61260,
from memory), level, and no loop to be found."""

import numpy as np
import pytest
from scipy import signal

from airtrim.core.render.graph import Mix
from airtrim.core.sound.fill import FillPeaks, RoomToneFill
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.fields import Tone
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.room_tone import Cover
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.tone import is_tone, tone_of

RATE = 48_000
BANDS = [1000.0 * 2 ** (n / 3) for n in range(-10, 13)]  # 100 Hz to 16 kHz


def third_octaves(sound: np.ndarray) -> np.ndarray:
    """Level of each third octave in dB, from the averaged periodogram."""
    frequency, power = signal.welch(sound, RATE, nperseg=min(8192, len(sound)))
    edges = 2 ** (1 / 6)
    return np.array(
        [
            10 * np.log10(power[(frequency >= f / edges) & (frequency < f * edges)].sum() + 1e-20)
            for f in BANDS
        ]
    )


def room(kind: str, seconds: float) -> np.ndarray:
    """Rooms of different sound: even hiss, a rumble, a fan with its tone."""
    rng = np.random.default_rng(5)
    white = rng.standard_normal(round(seconds * RATE))
    if kind == "hiss":
        return 0.001 * white
    if kind == "rumble":
        return 0.02 * signal.lfilter(*signal.butter(2, 200, fs=RATE), white)
    n = np.arange(len(white))
    tilt = signal.lfilter([1], [1, -0.9], white)
    return 0.0008 * tilt + 0.002 * np.sin(2 * np.pi * 240 * n / RATE)


@pytest.mark.parametrize("kind", ["hiss", "rumble", "fan"])
@pytest.mark.parametrize("seconds", [0.6, 3.0])
def test_fill_has_the_rooms_spectrum_within_2_db(kind: str, seconds: float) -> None:
    tone = room(kind, seconds).astype(np.float32)[:, None]
    fill = RoomToneFill(tone, seed=3).read(RATE, 10 * RATE)
    apart = third_octaves(fill[:, 0]) - third_octaves(tone[:, 0])
    assert np.abs(apart).max() <= 2.0
    level = 20 * np.log10(np.std(fill) / np.std(tone))
    assert abs(level) <= 0.5


def test_fill_has_no_loop() -> None:
    """The autocorrelation of its whitened sound has no peak beyond what noise has by chance."""
    tone = room("fan", 1.0).astype(np.float32)[:, None]
    fill = RoomToneFill(tone, seed=3).read(RATE, 20 * RATE)[:, 0].astype(np.float64)
    spectrum = np.fft.rfft(fill, 2 * len(fill))
    flat = np.abs(spectrum) / np.maximum(signal.medfilt(np.abs(spectrum), 501), 1e-9)
    correlation = np.fft.irfft(flat**2)[: len(fill)]
    lags = np.abs(correlation[RATE // 20 :]) / correlation[0]
    assert lags.max() < 0.02

    looped = np.tile(fill[: 2 * RATE], 10)
    spectrum = np.fft.rfft(looped, 2 * len(looped))
    flat = np.abs(spectrum) / np.maximum(signal.medfilt(np.abs(spectrum), 501), 1e-9)
    correlation = np.fft.irfft(flat**2)[: len(looped)]
    assert np.abs(correlation[RATE // 20 :]).max() / correlation[0] > 0.3, "a loop is found"


def test_any_piece_of_fill_is_that_piece_of_the_whole() -> None:
    fill = RoomToneFill(room("hiss", 1.0).astype(np.float32)[:, None], seed=9)
    whole = fill.read(40_000, 30_000)
    assert np.array_equal(fill.read(51_234, 4_321), whole[11_234 : 11_234 + 4_321])
    assert not np.allclose(
        RoomToneFill(room("hiss", 1.0).astype(np.float32)[:, None], seed=10).read(40_000, 30_000),
        whole,
    )


def test_the_picture_of_fill_is_of_its_sound() -> None:
    fill = RoomToneFill(room("hiss", 1.0).astype(np.float32)[:, None], seed=9)
    edges = np.arange(1000, 11_000, 500)
    found = FillPeaks(fill).columns(edges[:-1], edges[1:])
    sound = fill.read(1000, 9_500)[:, 0].reshape(-1, 500)
    assert found[:, 0] == pytest.approx(np.abs(sound).max(axis=1), rel=1e-5)
    assert found[:, 1] == pytest.approx(np.sqrt((sound**2).mean(axis=1)), rel=1e-4)


class Recording:
    """A talker in a room with a cough, as a take."""

    frames = 10 * RATE

    def __init__(self) -> None:
        self.sound = room("fan", 10).astype(np.float32)[:, None]
        self.sound[5 * RATE : 5 * RATE + 9600] += 0.3

    def read(self, start: int, frames: int) -> np.ndarray:
        out = np.zeros((frames, 1), np.float32)
        low, high = max(0, start), min(self.frames, start + frames)
        out[low - start : high - start] = self.sound[low:high]
        return out


def test_a_covered_cough_sounds_like_the_room_around_it() -> None:
    take = Recording()
    timeline = apply(Timeline(), Place(take="t", take_frames=take.frames, track_name="Host"))
    cover = Cover(
        track=timeline.tracks[0].id,
        start=5 * RATE - 2400,
        frames=14_400,
        tone=Tone(take="t", start=RATE, frames=2 * RATE),
    )
    timeline = apply(timeline, cover)

    def takes(name: str):
        if not is_tone(name):
            return take
        tone, seed = tone_of(name)
        return RoomToneFill(take.read(tone.start, tone.frames), seed)

    sound = Mix(timeline, takes).read(0, 10 * RATE)[:, 0]
    covered = sound[5 * RATE - 2400 : 5 * RATE + 12_000]
    beside = sound[3 * RATE : 3 * RATE + 14_400]
    assert abs(20 * np.log10(np.std(covered) / np.std(beside))) < 1.5
    assert np.array_equal(sound[6 * RATE : 9 * RATE], take.sound[6 * RATE : 9 * RATE, 0])
    # No click where it begins and ends: nothing stands out above 5 kHz.
    high = signal.sosfilt(signal.butter(4, 5000, "high", fs=RATE, output="sos"), sound)
    for edge in (5 * RATE - 2400, 5 * RATE + 12_000):
        assert (
            np.abs(high[edge - 480 : edge + 480]).max()
            < 3 * np.abs(beside).std() + np.abs(high[3 * RATE : 4 * RATE]).max()
        )
