"""Echo through the API: suggested where a room is heard, lowered beside noise, undone."""

import io

import numpy as np
import pytest
import soundfile
import soxr

from tests.api.host import RATE, Host
from tests.api.test_sound import clean, heard, set_chain, sound_of, voice
from tests.core.test_echo import in_room, over_db
from tests.reference import Sound


@pytest.fixture(scope="module")
def said(demo) -> Sound:
    sound, rate = soundfile.read(demo / "sound" / "guest.flac", dtype="float32")
    return soxr.resample(sound[4 * rate : 24 * rate], rate, RATE)


def roomy(host: Host, said: Sound) -> int:
    buffer = io.BytesIO()
    soundfile.write(buffer, 0.5 * in_room(said, 0.6), RATE, format="WAV", subtype="PCM_24")
    return host.filled(buffer.getvalue())


def whole(host: Host, episode: int, **listening: object) -> Sound:
    return heard(host, episode, 0, 20 * RATE, **listening)[0][: 20 * RATE]


def test_an_echo_is_suggested_lowered_heard_and_brought_back(host: Host, said: Sound) -> None:
    episode = roomy(host, said)
    raw = whole(host, episode)
    (step,) = [one for one in sound_of(host, episode)["suggestions"] if one["step"] == "echo"]
    set_chain(host, episode, lambda chain: chain.update(step["chain"]))
    assert not sound_of(host, episode)["cleaned"]
    assert np.array_equal(whole(host, episode), raw), "as recorded until it is made"
    assert clean(host, episode)["result"]["cleaned"] == 1
    found = sound_of(host, episode)
    assert found["cleaned"]
    assert not [one for one in found["suggestions"] if one["step"] == "echo"]
    dry = whole(host, episode)
    assert over_db(0.5 * said, dry) > over_db(0.5 * said, raw) + 3.0
    taken = whole(host, episode, chain=voice(host, episode)["chain"], hear="taken_out")
    assert np.allclose(raw - dry, taken, atol=1e-4)
    host.client.post(
        f"/api/episodes/{episode}/undo", json={"revision": host.view(episode)["revision"]}
    )
    assert np.array_equal(whole(host, episode), raw)


def test_noise_is_taken_out_of_what_is_left_of_the_echo(host: Host, said: Sound) -> None:
    """Each way is made once, and kept beside the other."""
    episode = roomy(host, said)
    set_chain(host, episode, lambda chain: chain["noise"].update(on=True, method="steady"))
    assert clean(host, episode)["result"]["cleaned"] == 1
    quiet = whole(host, episode)
    set_chain(host, episode, lambda chain: chain["echo"].update(on=True))
    assert clean(host, episode)["result"]["cleaned"] == 2
    both = whole(host, episode)
    assert over_db(0.5 * said, both) > over_db(0.5 * said, quiet) + 2.0
    set_chain(host, episode, lambda chain: chain["noise"].update(on=False))
    assert clean(host, episode) is None
    set_chain(host, episode, lambda chain: chain["echo"].update(on=False))
    set_chain(host, episode, lambda chain: chain["noise"].update(on=True))
    assert clean(host, episode) is None, "both are still there"
    assert np.allclose(whole(host, episode), quiet, atol=1e-6)
