"""Echo lowered, held against rooms that are known: direct sound and a tail that dies away.

A room's tail is noise that falls by 60 dB in its decay time (Polack's model, from memory).
"""

from dataclasses import replace

import numpy as np
import pytest
import soundfile
import soxr
from scipy.signal import fftconvolve

from airtrim.core.media.reading import InMemory
from airtrim.core.sound import echo
from airtrim.core.sound.choosing import Heard
from airtrim.core.sound.study import study
from airtrim.core.sound.suggesting import suggestions
from airtrim.core.timeline.chain import NEUTRAL
from tests.commands import airtrim
from tests.reference import RATE, Sound

FIRST = round(0.05 * RATE)
"""Reflections that come sooner carry the voice (as in C50, ISO 3382-1; from memory)."""


@pytest.fixture(scope="module")
def voice(demo) -> Sound:
    sound, rate = soundfile.read(demo / "sound" / "guest.flac", dtype="float32")
    return soxr.resample(sound[4 * rate : 24 * rate], rate, RATE)


def tail(decay_s: float, below_db: float = 0.0) -> Sound:
    """A room's answer after the direct sound, as strong as that."""
    time = np.arange(FIRST, round(decay_s * RATE)) / RATE
    out = np.random.default_rng(4).standard_normal(len(time)) * 10 ** (-3 * time / decay_s)
    out *= 10 ** (-below_db / 20) / np.sqrt(np.square(out).sum())
    return np.concatenate([[0.0], np.zeros(FIRST - 1), out])


def in_room(voice: Sound, decay_s: float, below_db: float = 0.0) -> Sound:
    heard = voice + fftconvolve(voice, tail(decay_s, below_db))[: len(voice)]
    return heard.astype(np.float32)


def over_db(voice: Sound, heard: Sound) -> float:
    """How far a voice stands over what else is heard."""
    return 10 * np.log10(np.square(voice).sum() / np.square(heard - voice).sum())


@pytest.mark.parametrize("decay_s", [0.4, 0.8])
def test_a_voice_stands_out_of_its_echo_by_3_db_more(voice: Sound, decay_s: float) -> None:
    """At decay times of 0.4 and 0.8 s."""
    heard = in_room(voice, decay_s)
    assert over_db(voice, echo.lowered(heard)) > over_db(voice, heard) + 3.0


def test_a_dry_voice_comes_out_nearly_as_it_went_in(voice: Sound) -> None:
    out = echo.lowered(voice)
    assert len(out) == len(voice)
    assert over_db(voice, out) > 14.0


def test_how_loud_the_echo_is_tells_rooms_from_dry_voices(voice: Sound) -> None:
    dry, small, large = (
        echo.heard_db(one) for one in (voice, in_room(voice, 0.3, 6.0), in_room(voice, 0.8))
    )
    assert dry is not None
    assert small is not None
    assert large is not None
    assert dry < -18 < -13 < small < large
    assert echo.heard_db(np.zeros(RATE * 4, np.float32)) is None
    assert echo.heard_db(voice[:RATE]) is None


def test_it_is_suggested_where_it_is_heard_and_not_twice(voice: Sound) -> None:
    found = study(voice, [])
    roomy = suggestions(replace(found, noise=Heard(None, None, -8.0)), NEUTRAL)
    (one,) = [s for s in roomy if s.step == "echo"]
    assert "8 dB" in one.reason
    assert one.chain.echo.on
    for heard, chain in ((Heard(None, None, -25.0), NEUTRAL), (Heard(None, None, -8.0), one.chain)):
        assert not [s for s in suggestions(replace(found, noise=heard), chain) if s.step == "echo"]


def test_a_long_take_is_gone_through_in_stretches_without_a_seam(
    voice: Sound, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Each stretch has filters of its own; what they make passes over into the next."""
    monkeypatch.setattr(echo, "LIMITS", echo.EchoLimits(stretch_s=5))
    heard = np.stack([in_room(voice, 0.4), voice], axis=1).astype(np.float32)
    told: list[float] = []
    out = np.concatenate(list(echo.clean(InMemory(heard), told.append)))
    assert out.shape == heard.shape
    assert told == sorted(told)
    assert told[-1] == 1.0
    assert over_db(voice, out[:, 0]) > over_db(voice, heard[:, 0]) + 2.0
    steps = np.abs(np.diff(out[:, 0] - heard[:, 0]))
    at = np.arange(5 * RATE, 15 * RATE, 5 * RATE)
    assert steps[at - 1].max() <= np.percentile(steps, 99.9)


@pytest.mark.parametrize("frames", [0, 1, 500, 5_000])
def test_silence_and_what_is_hardly_there_stay(frames: int) -> None:
    sound = np.zeros((frames, 1), np.float32)
    out = list(echo.clean(InMemory(sound)))
    assert sum(len(block) for block in out) == frames
    assert not any(block.any() for block in out)


def test_a_whole_episode_is_made_with_its_echo_lowered_and_its_noise_too(
    voice: Sound, tmp_path
) -> None:
    """From the command line, in time with what goes in."""
    raw = tmp_path / "room.wav"
    rng = np.random.default_rng(5)
    heard = 0.3 * in_room(voice, 0.8) + 0.0003 * rng.standard_normal(len(voice)).astype(np.float32)
    soundfile.write(raw, heard, RATE)
    out = {}
    for name, more in (("plain", ()), ("echo", ("--echo",)), ("both", ("--echo", "--clean", "1"))):
        path = tmp_path / f"{name}.wav"
        done = airtrim("produce", str(raw), "-o", str(path), "--no-words", *more)
        assert done.returncode == 0, done.stderr
        sound, _ = soundfile.read(path, dtype="float32")
        assert len(sound) == len(voice)
        # At the level of the voice in it, whatever the target made of it.
        out[name] = sound / (sound @ voice) * (voice @ voice)
    assert over_db(voice, out["echo"]) > over_db(voice, out["plain"]) + 2.5
    assert quietest_db(out["both"]) < quietest_db(out["echo"]) - 6.0


def quietest_db(sound: Sound) -> float:
    """Where hardly anything sounds: the lowest twentieth of moments of 20 ms."""
    moments = sound[: len(sound) // 960 * 960].reshape(-1, 960)
    return 10 * np.log10(np.percentile(np.square(moments).mean(axis=1), 5))
