"""Sound of a track: noise reduction, de-essing, what would help, and the chain in the render."""

from dataclasses import replace

import numpy as np
import pytest
import soundfile
import soxr
from pystoi import stoi
from scipy.signal import butter, sosfilt

from airtrim.core.media.reading import InMemory
from airtrim.core.media.take import TakeReader, store_computed
from airtrim.core.render.graph import Mix, as_recorded, render
from airtrim.core.render.solo import material, reduction_history, taken_out, untouched_alike
from airtrim.core.sound.deess import DeEssRun
from airtrim.core.sound.denoise import Cleaned, clean, guess, learn, share_of
from airtrim.core.sound.study import study
from airtrim.core.sound.suggesting import suggestions
from airtrim.core.timeline.chain import (
    Band,
    Chain,
    Compressor,
    DeEss,
    Hum,
    LowCut,
    Noise,
)
from airtrim.core.timeline.cleaned import Cleaning, cleaned_name, cleaned_of, is_cleaned
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.tracks import SetChain
from airtrim.core.timeline.model import Span, Timeline
from airtrim.core.timeline.snap import unheard
from airtrim.core.timeline.words import Word
from airtrim.errors import BadInput
from tests.reference import RATE, Sound


@pytest.fixture(scope="module")
def voice(demo) -> Sound:  # type: ignore[no-untyped-def]
    """Twelve seconds of the host, between whose words there is nothing at all."""
    sound, _ = soundfile.read(demo / "sound" / "host-bridge.flac", dtype="float32")
    sound = sound[RATE : 13 * RATE, None].copy()
    level = np.sqrt(np.convolve(sound[:, 0] ** 2, np.ones(4800) / 4800, "same"))
    sound[level < 0.004] = 0.0
    return sound


def hiss(frames: int, level: float, seed: int = 1) -> Sound:
    rng = np.random.default_rng(seed)
    return (level * rng.standard_normal((frames, 1))).astype(np.float32)


def cleaned(sound: Sound, room: np.ndarray) -> Sound:
    return np.concatenate(list(clean(InMemory(sound), room)))  # type: ignore[arg-type]


def si_sdr(wanted: Sound, got: Sound) -> float:
    """Le Roux and others, "SDR – half-baked or well done?", ICASSP 2019."""
    a, b = wanted[:, 0].astype(np.float64), got[:, 0].astype(np.float64)
    target = (a @ b) / (a @ a) * a
    return float(10 * np.log10((target @ target) / ((b - target) @ (b - target))))


def intelligible(wanted: Sound, got: Sound) -> float:
    down = [soxr.resample(one[:, 0], RATE, 10_000) for one in (wanted, got)]
    return float(stoi(down[0], down[1], 10_000))


# --- noise reduction ---


def test_hiss_at_ten_decibels_is_taken_out_and_speech_is_kept(voice: Sound) -> None:
    speech = float(np.sqrt(np.mean(voice[np.abs(voice) > 0.01] ** 2)))
    noise = hiss(len(voice), speech / 10**0.5)
    noisy = voice + noise
    out = cleaned(noisy, learn(hiss(2 * RATE, speech / 10**0.5, seed=2)))
    assert si_sdr(voice, out) > si_sdr(voice, noisy) + 8
    assert intelligible(voice, out) > intelligible(voice, noisy)
    pause = np.all(voice == 0.0, axis=1)
    lowered = 10 * np.log10(np.mean(out[pause] ** 2) / np.mean(noisy[pause] ** 2))
    assert lowered < -20


def test_clean_speech_comes_out_as_it_was(voice: Sound) -> None:
    """At least 0.995 of STOI (Taal and others 2011), by room tone and without."""
    for room in (learn(np.zeros((RATE, 1), np.float32)), guess(InMemory(voice))):  # type: ignore[arg-type]
        assert intelligible(voice, cleaned(voice, room)) > 0.995


def test_without_room_tone_it_is_guessed_from_the_pauses(voice: Sound) -> None:
    noise = hiss(len(voice), 0.01)
    noisy = voice + noise
    guessed = guess(InMemory(noisy))  # type: ignore[arg-type]
    known = learn(hiss(2 * RATE, 0.01, seed=3))
    # Never more than there is, and not much less, in the middle of the spectrum.
    apart = 10 * np.log10(guessed[0, 50:900] / known[0, 50:900])
    assert -6 < np.median(apart) < 1.5
    assert si_sdr(voice, cleaned(noisy, guessed)) > si_sdr(voice, noisy) + 3


def test_it_is_one_thing_wherever_it_is_read(voice: Sound, tmp_path) -> None:  # type: ignore[no-untyped-def]
    noisy = voice + hiss(len(voice), 0.01)
    room = learn(hiss(RATE, 0.01, seed=4))
    out = cleaned(noisy, room)
    store_computed(iter([out[:RATE], out[RATE:]]), tmp_path / "clean", 1)
    reader = TakeReader(tmp_path / "clean")
    assert np.abs(reader.read(5000, 9000) - out[5000:14_000]).max() < 1e-6
    take = InMemory(noisy)
    half = Cleaned(take, reader, share_of(0.5))  # type: ignore[arg-type]
    none = Cleaned(take, reader, share_of(0.0))  # type: ignore[arg-type]
    assert np.array_equal(none.read(100, 500), noisy[100:600])
    pause = np.flatnonzero(np.all(voice == 0.0, axis=1))
    middle = half.read(0, len(noisy))[pause]
    lowered = 10 * np.log10(np.mean(middle**2) / np.mean(noisy[pause] ** 2))
    assert -15 < lowered < -12  # half of 28 dB


def test_silence_and_one_dead_channel_are_left_alone(voice: Sound) -> None:
    silent = np.zeros((RATE, 1), np.float32)
    assert not cleaned(silent, guess(InMemory(silent))).any()  # type: ignore[arg-type]
    both = np.concatenate([voice[: 4 * RATE] + hiss(4 * RATE, 0.01), np.zeros((4 * RATE, 1))], 1)
    both = both.astype(np.float32)
    out = cleaned(both, guess(InMemory(both)))  # type: ignore[arg-type]
    assert np.isfinite(out).all()
    assert not out[:, 1].any()
    assert out[:, 0].any()


def test_a_cleaned_takes_name_tells_what_it_is_of() -> None:
    for how in (
        Cleaning("abc-0", "steady", Span("abc-0", 100, 48_000)),
        Cleaning("abc", "steady"),
        Cleaning("abc", "learnt"),
        Cleaning("abc", "learnt", dry=True),
        Cleaning("abc", None, dry=True),
    ):
        name = cleaned_name(how, 0.65)
        assert is_cleaned(name)
        assert cleaned_of(name) == (how, 0.65)


# --- de-essing ---


def test_a_sharp_s_is_lowered_and_a_vowel_is_not() -> None:
    time = np.arange(RATE) / RATE
    vowel = sum(0.2 / n * np.sin(2 * np.pi * 150 * n * time) for n in range(1, 12))
    rng = np.random.default_rng(5)
    band = butter(2, (5000, 9000), "bandpass", fs=RATE, output="sos")
    s = sosfilt(band, rng.standard_normal(RATE // 8))
    s *= 0.1 / s.std()
    sound = np.concatenate([vowel, s, vowel]).astype(np.float32)[:, None]
    before = sound.copy()
    DeEssRun(DeEss(True, 7000.0, -12.0, 8.0), 1).process(sound)

    def change(part: slice) -> float:
        return float(10 * np.log10(np.mean(sound[part] ** 2) / np.mean(before[part] ** 2)))

    assert change(slice(RATE + 480, RATE + len(s) - 480)) < -3
    assert abs(change(slice(4800, RATE - 4800))) < 0.1


# --- what would help ---


def tone(hertz: float, level: float, seconds: float = 6.0) -> np.ndarray:
    time = np.arange(round(seconds * RATE)) / RATE
    return (level * np.sin(2 * np.pi * hertz * time + 0.3)).astype(np.float32)


def steps(sound: Sound, room: np.ndarray, chain: Chain = Chain()) -> dict[str, Chain]:
    found = study(sound[:, 0], [room[: 3 * RATE], room[3 * RATE :]])
    return {one.step: one.chain for one in suggestions(found, chain)}


def test_hum_of_either_mains_is_found_with_its_frequency(voice: Sound) -> None:
    for mains in (50.0, 59.96):
        room = hiss(6 * RATE, 0.0005)[:, 0]
        room += tone(mains, 0.002) + tone(3 * mains, 0.001)
        found = study(voice[:, 0], [room])
        assert found.hum
        assert found.hum.hz == pytest.approx(mains, abs=0.1)
        assert found.hum.dbfs == pytest.approx(20 * np.log10(0.002) - 3, abs=1)
        first = suggestions(found, Chain())[0]
        assert first.step == "hum"
        assert first.chain.hum.highest == 3


def test_a_whistle_is_found_and_its_notch_takes_it_out(voice: Sound) -> None:
    room = hiss(6 * RATE, 0.001)[:, 0] + tone(2345.0, 0.002)
    found = study(voice[:, 0], [room])
    assert found.hum is None
    assert [one.hz for one in found.whistles] == [pytest.approx(2345.0, abs=3)]
    chain = steps(voice, room)["whistle"]
    assert chain.bands == (Band("notch", found.whistles[0].hz, q=30.0),)
    assert "whistle" not in steps(voice, room, chain)


def test_a_quiet_room_and_an_even_voice_need_nothing() -> None:
    """Noise with the average spectrum of speech, a room 60 dB under it."""
    rng = np.random.default_rng(6)
    size = 8 * RATE
    hertz = np.fft.rfftfreq(size, 1 / RATE)
    # Byrne and others 1994, third octaves, from memory; density, so 10·log10 of the width goes off.
    at = [100, 250, 500, 1000, 2000, 4000, 8000, 16_000]
    db = [54.4, 60.3, 62.1, 53.7, 48.7, 45.6, 43.7, 40.7]
    density = np.interp(np.log(hertz + 1), np.log(at), np.array(db) - 10 * np.log10(at))
    shaped = np.fft.rfft(rng.standard_normal(size)) * 10 ** (density / 20) * (hertz > 90)
    sound = np.fft.irfft(shaped, size)
    sound = (0.05 * sound / sound.std()).astype(np.float32)[:, None]
    assert not steps(sound, hiss(6 * RATE, 0.00005)[:, 0])


def test_a_noisy_room_and_a_boomy_voice_are_told_with_reasons(voice: Sound) -> None:
    time = np.arange(len(voice)) / RATE
    rumble = (0.02 * np.sin(2 * np.pi * 28 * time)).astype(np.float32)[:, None]
    room = hiss(6 * RATE, 0.003)[:, 0]
    found = suggestions(study((voice + rumble)[:, 0], [room]), Chain())
    assert {"noise", "low_cut"} <= {one.step for one in found}
    assert all(len(one.reason) > 30 for one in found)
    noise = next(one.chain.noise for one in found if one.step == "noise")
    assert 0.2 <= noise.strength <= 0.7


def test_clipping_offset_and_missing_pauses_are_told(voice: Sound) -> None:
    bad = np.clip(voice * 40, -1, 1) * np.float32(0.98) + np.float32(0.02)
    notes = study(np.clip(bad, -1, 1)[:, 0], []).notes
    assert any("clips" in note for note in notes)
    assert any("room is not known" in note for note in notes)
    nobody = study(np.zeros(0, np.float32), [])
    assert nobody.voice_dbfs is None
    assert not suggestions(nobody, Chain())


# --- the chain in the render ---

EVERYTHING = Chain(
    noise=Noise(True, 0.7),
    hum=Hum(True, 50.0, 4),
    low_cut=LowCut(True, 85.0),
    bands=(
        Band("low_shelf", 150.0, 2.0),
        Band("peak", 400.0, -3.0, 1.2),
        Band("peak", 2500.0, 2.0, 1.0),
        Band("peak", 4000.0, -2.0, 2.0),
        Band("high_shelf", 8000.0, 2.0),
    ),
    de_ess=DeEss(True),
    compressor=Compressor(True, -26.0, 3.0, 6.0, 8.0, 150.0, 3.0),
)


@pytest.fixture(scope="module")
def treated(voice: Sound, tmp_path_factory):  # type: ignore[no-untyped-def]
    noisy = voice + hiss(len(voice), 0.004)
    take = InMemory(noisy)
    path = tmp_path_factory.mktemp("clean") / "clean"
    store_computed(clean(take, learn(hiss(RATE, 0.004, seed=9))), path, 1)  # type: ignore[arg-type]
    reader = TakeReader(path)

    def takes(name: str):  # type: ignore[no-untyped-def]
        if is_cleaned(name):
            return Cleaned(take, reader, share_of(cleaned_of(name)[1]))  # type: ignore[arg-type]
        return take

    timeline = apply(Timeline(), Place(take="a", take_frames=len(noisy)))
    return apply(timeline, SetChain(track=timeline.tracks[0].id, chain=EVERYTHING)), takes


def test_a_piece_is_that_piece_of_the_whole_with_everything_on(treated) -> None:  # type: ignore[no-untyped-def]
    timeline, takes = treated
    whole = np.concatenate(list(render(timeline, takes, {})))
    for start in (1, 3 * RATE + 77, 8 * RATE, 11 * RATE):
        piece = np.concatenate(list(render(timeline, takes, {}, start, RATE)))
        assert np.abs(piece - whole[start : start + len(piece)]).max() < 1e-4  # −80 dBFS


def test_a_neutral_chain_changes_no_bit(treated) -> None:  # type: ignore[no-untyped-def]
    timeline, takes = treated
    track = timeline.tracks[0]
    plain = apply(timeline, SetChain(track=track.id, chain=Chain()))
    assert np.array_equal(Mix(plain, takes).read(500, 9000), takes("a").read(500, 9000))
    off = replace(
        EVERYTHING,
        noise=Noise(), hum=Hum(), low_cut=LowCut(), de_ess=DeEss(), compressor=Compressor(),
        bands=tuple(replace(band, on=False) for band in EVERYTHING.bands),
    )  # fmt: skip
    bypassed = apply(timeline, SetChain(track=track.id, chain=off))
    assert np.array_equal(Mix(bypassed, takes).read(500, 9000), takes("a").read(500, 9000))


def test_untouched_is_compared_at_equal_loudness(treated) -> None:  # type: ignore[no-untyped-def]
    from airtrim.core.render.solo import loudness_of

    timeline, takes = treated
    span = 0, 8 * RATE
    bare = untouched_alike(timeline, takes, timeline.tracks[0].id, *span)
    assert bare.tracks[0].chain == Chain()
    assert loudness_of(bare, takes, *span) == pytest.approx(
        loudness_of(timeline, takes, *span), abs=0.05
    )


def test_what_goes_is_the_room_and_little_of_the_voice(treated, voice: Sound) -> None:  # type: ignore[no-untyped-def]
    timeline, takes = treated
    gone = taken_out(timeline, takes, timeline.tracks[0].id, 0, 10 * RATE)
    assert 20 * np.log10(np.sqrt(np.mean(gone**2)) / 0.004) == pytest.approx(-1.5, abs=2.0)


def test_the_history_of_the_compressor_is_of_the_real_signal(treated) -> None:  # type: ignore[no-untyped-def]
    timeline, takes = treated
    told = reduction_history(timeline, takes, timeline.tracks[0].id, RATE, 6 * RATE)
    assert len(told) == 300
    loud = [taken for level, taken in told if level > -16]
    quiet = [taken for level, taken in told if level < -40]
    assert min(loud) < -4
    assert max(quiet) > -1


def test_speech_and_pauses_are_told_apart_by_the_words(voice: Sound) -> None:
    words = (Word("one", RATE, 2 * RATE, "word", 0.9), Word("two", 5 * RATE, 6 * RATE, "word", 0.9))
    timeline = apply(Timeline(), Place(take="a", take_frames=len(voice)))
    speech, pauses = material(
        timeline, lambda _: InMemory(voice), {"a": words}, timeline.tracks[0].id
    )
    assert len(speech) == 2 * RATE
    assert [round(len(pause) / RATE, 1) for pause in pauses] == [0.8, 2.8, 5.0]


def test_a_setting_beyond_its_range_is_refused() -> None:
    with pytest.raises(ValueError, match="finite number"):
        SetChain.model_validate(
            {"track": "t1", "chain": {"compressor": {"on": True, "ratio": float("inf")}}}
        )
    with pytest.raises(BadInput):
        apply(Timeline(), SetChain(track="t9", chain=Chain()))


def test_edges_of_cuts_settle_where_they_did_before_a_chain_was_set(treated) -> None:  # type: ignore[no-untyped-def]
    timeline, takes = treated
    plain = apply(timeline, SetChain(track=timeline.tracks[0].id, chain=Chain()))
    spans = [(5 * RATE, RATE), (8 * RATE, RATE)]

    def settled(timeline: Timeline) -> list[tuple[int, int]]:
        return unheard(timeline, Mix(as_recorded(timeline), takes).read, {}, spans)

    assert settled(timeline) == settled(plain)
