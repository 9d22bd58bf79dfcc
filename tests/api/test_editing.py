"""The API of the Page: what an edit leaves open is filled in, and what cannot be is told."""

import io
import shutil
from base64 import b64decode

import numpy as np
import pytest
import soundfile

from airtrim.core.timeline.words import Word
from airtrim.services.finding import keep_words
from tests.api.host import RATE, Host


def spoken(host: Host, *texts: str) -> int:
    """An episode of a minute whose words are known: one a second, half a second long."""
    rng = np.random.default_rng(3)
    sound = 0.001 * rng.standard_normal(60 * RATE)
    words = []
    for number, text in enumerate(texts):
        start = round((2 + number) * RATE)
        sound[start : start + RATE // 2] += 0.2 * np.sin(np.arange(RATE // 2) * 0.05)
        words.append(Word(text, start, start + RATE // 2, "word", 0.9))
    buffer = io.BytesIO()
    soundfile.write(buffer, sound.astype(np.float32), RATE, format="WAV", subtype="PCM_16")
    episode = host.filled(buffer.getvalue())
    take = host.view(episode)["takes"][0]["id"]
    keep_words(host.state.store, take, tuple(words))
    return episode


SAID = "So the ferry leaves at six . You know the ferry is small".replace(" .", ".").split()


def get(host: Host, episode: int, path: str, **query) -> dict | list:
    revision = host.view(episode)["revision"]
    answer = host.client.get(
        f"/api/episodes/{episode}/{path}", params={"revision": revision, **query}
    )
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_room_tone_is_filled_in_for_a_cover_and_for_air(host: Host) -> None:
    episode = spoken(host, *SAID)
    track = host.view(episode)["tracks"][0]["id"]
    cover = {"kind": "cover", "track": track, "start": 2 * RATE, "frames": RATE // 2}
    view = host.edit(episode, cover).json()
    clips = get(host, episode, "page", start=0, frames=10 * RATE)["clips"]
    assert [c["tone"] for c in clips] == [False, True, False]
    air = {"kind": "add_air", "at": 10 * RATE, "frames": RATE}
    longer = host.edit(episode, air).json()
    assert longer["frames"] == view["frames"] + RATE
    clips = get(host, episode, "page", start=10 * RATE, frames=RATE)["clips"]
    assert any(c["tone"] and c["frames"] == RATE for c in clips)
    back = host.edit(episode, {"kind": "uncover", "track": track, "at": 2 * RATE}).json()
    assert back["frames"] == longer["frames"]


def test_without_room_tone_a_cover_says_what_to_do(host: Host) -> None:
    episode = host.filled()  # never heard: its words are not known
    track = host.view(episode)["tracks"][0]["id"]
    answer = host.edit(episode, {"kind": "cover", "track": track, "start": 0, "frames": RATE})
    assert answer.status_code == 422
    assert "room tone" in answer.json()["sentence"]


def test_what_was_copied_is_put_in_from_the_state_it_was_copied_in(host: Host) -> None:
    episode = spoken(host, *SAID)
    before = host.view(episode)
    cut = host.edit(episode, {"kind": "cut", "start": 2 * RATE, "frames": RATE}).json()
    paste = {
        "kind": "paste",
        "revision": before["revision"],
        "start": 2 * RATE,
        "frames": RATE,
        "at": 0,
    }
    after = host.edit(episode, paste).json()
    assert after["frames"] == cut["frames"] + RATE
    first = get(host, episode, "page", start=0, frames=RATE)["words"]
    assert [w["text"] for w in first] == ["So"]


@pytest.mark.parametrize(
    ("edit", "status"),
    [
        ({"kind": "place", "take": "nobody", "take_frames": 5}, 422),
        ({"kind": "cut", "start": -1, "frames": 5}, 422),
        ({"kind": "cut", "start": 99 * 60 * RATE, "frames": 5}, 422),
        ({"kind": "gain_span", "start": 0, "frames": 5, "by_db": "NaN"}, 422),
        ({"kind": "set_track", "track": "t99", "muted": True}, 422),
        ({"kind": "move", "start": 0, "frames": 10**14, "to": 5}, 422),
        ({"kind": "paste", "revision": 10**6, "start": 0, "frames": 5, "at": 0}, 404),
        ({"kind": "restore", "cut": 77}, 422),
        ({"kind": "nonsense"}, 422),
        (
            {
                "kind": "cover",
                "track": "t1",
                "start": 0,
                "frames": 5,
                "tone": {"take": "../../etc", "start": 0, "frames": 5},
            },
            422,
        ),
    ],
)
def test_a_bad_edit_is_refused_and_changes_nothing(host: Host, edit: dict, status: int) -> None:
    episode = host.filled()
    before = host.view(episode)
    answer = host.edit(episode, edit)
    assert answer.status_code == status
    assert answer.json()["sentence"].endswith(".")
    assert host.view(episode) == before


def test_words_are_found_whatever_their_case_and_punctuation(host: Host) -> None:
    episode = spoken(host, *SAID)
    hits = get(host, episode, "find", text="THE Ferry")
    assert [h["text"] for h in hits] == ["the ferry", "the ferry"]
    assert hits[0]["start"] == 3 * RATE
    assert hits[1]["before"] == "at six. You know"
    assert get(host, episode, "find", text="you know")[0]["frames"] == round(1.5 * RATE)
    assert len(get(host, episode, "find", text="ferr")) == 2, "a word begun is enough"
    assert get(host, episode, "find", text="ferr ") == [], "a word ended is not"
    assert get(host, episode, "find", text="  ") == []


def test_sentences_turns_and_places_are_told(host: Host) -> None:
    episode = spoken(host, *SAID)
    sentence = get(host, episode, "around", unit="sentence", at=9 * RATE)
    assert sentence["start"] == 8 * RATE
    first = get(host, episode, "around", unit="sentence", at=3 * RATE)
    assert first == {"start": 2 * RATE, "frames": round(5.5 * RATE)}
    assert get(host, episode, "around", unit="section", at=RATE)["frames"] == 60 * RATE
    assert get(host, episode, "next", what="sentence", at=3 * RATE) == {"at": 8 * RATE}
    assert get(host, episode, "next", what="word", at=3 * RATE, back=True) == {"at": 2 * RATE}
    assert get(host, episode, "next", what="splice", at=0) == {"at": None}
    host.edit(episode, {"kind": "cut", "start": 4 * RATE, "frames": RATE})
    assert get(host, episode, "next", what="splice", at=0) == {"at": 4 * RATE}


def test_any_state_can_be_gone_to_and_looked_at(host: Host) -> None:
    episode = host.filled()
    first = host.view(episode)
    states = [first]
    for start in (RATE, 2 * RATE):
        states.append(host.edit(episode, {"kind": "cut", "start": start, "frames": 4800}).json())
    answer = host.client.post(
        f"/api/episodes/{episode}/jump",
        json={"revision": states[-1]["revision"], "to": first["revision"]},
    )
    assert answer.json()["frames"] == first["frames"]
    forwards = host.client.post(
        f"/api/episodes/{episode}/jump",
        json={"revision": first["revision"], "to": states[-1]["revision"]},
    ).json()
    assert forwards["frames"] == states[-1]["frames"]
    assert forwards["before"] == states[1]["revision"]
    earlier = host.client.get(
        f"/api/episodes/{episode}", params={"revision": forwards["before"]}
    ).json()
    assert earlier["frames"] == states[1]["frames"]
    lost = host.client.post(
        f"/api/episodes/{episode}/jump", json={"revision": forwards["revision"], "to": 10**6}
    )
    assert lost.status_code == 422
    history = host.client.get(f"/api/episodes/{episode}/history").json()
    assert all(entry["made_at"] for entry in history)


def test_the_wave_is_the_sound_itself(host: Host) -> None:
    episode = spoken(host, *SAID)
    revision = host.view(episode)["revision"]
    answer = host.client.get(
        f"/api/episodes/{episode}/waveform",
        params={"revision": revision, "start": 2 * RATE, "frames": 480, "columns": 48},
    )
    low, high = np.frombuffer(answer.content, np.int8).reshape(2, 48)
    take = host.view(episode)["takes"][0]["id"]
    sound = host.state.store.reader(take).read(2 * RATE, 480)[:, 0].reshape(48, 10)
    assert high == pytest.approx(np.round(127 * np.maximum(sound.max(axis=1), -1)), abs=1)
    assert low == pytest.approx(np.round(127 * sound.min(axis=1)), abs=1)


def test_a_take_that_is_gone_from_the_disk_is_told_and_the_rest_goes_on(host: Host) -> None:
    episode = spoken(host, *SAID)
    take = host.view(episode)["takes"][0]["id"]
    folder = host.state.store.files.take(take)
    shutil.rmtree(folder)
    view = host.view(episode)
    assert view["takes"][0]["missing"]
    page = get(host, episode, "page", start=0, frames=10 * RATE)
    assert [w["text"] for w in page["words"]][:2] == ["So", "the"]
    revision = view["revision"]
    picture = host.client.get(
        f"/api/episodes/{episode}/skyline",
        params={"revision": revision, "start": 0, "frames": RATE, "columns": 10},
    )
    assert picture.status_code == 200
    assert not any(picture.content)
    answer = host.client.get(
        f"/api/episodes/{episode}/audio",
        params={"revision": revision, "start": 0, "frames": RATE},
    )
    assert answer.status_code == 404
    assert "missing from the disk" in answer.json()["sentence"]
    # It can be cut out, with edges where they are asked for, and nothing else is touched.
    cut = host.edit(episode, {"kind": "cut", "start": 0, "frames": RATE}, snap=False)
    assert cut.status_code == 200


def test_an_empty_episode_and_one_without_words_are_no_trouble(host: Host) -> None:
    empty = host.new_episode()
    page = host.client.get(
        f"/api/episodes/{empty}/page", params={"revision": 0, "start": 0, "frames": RATE}
    ).json()
    assert page["words"] == page["clips"] == page["splices"] == []
    for what in ("cut", "keep_only", "move"):
        edit = {"kind": what, "start": 0, "frames": RATE, **({"to": 5} if what == "move" else {})}
        assert host.edit(empty, edit).status_code == 422
    unheard = host.filled()
    assert get(host, unheard, "find", text="ferry") == []
    assert get(host, unheard, "around", unit="sentence", at=RATE)["frames"] == 0
    assert get(host, unheard, "next", what="word", at=0) == {"at": None}
    view = host.edit(unheard, {"kind": "cut", "start": RATE, "frames": RATE}, snap=True).json()
    assert view["cuts"] == 1


def test_fifty_markers_at_one_moment_are_fifty_markers(host: Host) -> None:
    episode = host.filled()
    for number in range(50):
        host.edit(episode, {"kind": "add_marker", "at": RATE, "name": f"m{number}"})
    assert len(host.view(episode)["markers"]) == 50
    cut = host.edit(episode, {"kind": "cut", "start": 0, "frames": 2 * RATE}).json()
    assert cut["markers"] == []
    number = get(host, episode, "page", start=0, frames=RATE)["splices"][0]["cut"]
    back = host.edit(episode, {"kind": "restore", "cut": number}).json()
    assert len(back["markers"]) == 50


def test_a_cut_never_leaves_half_a_breath(host: Host) -> None:
    """Two words with a breath between them; a cut whose edge falls into the breath (common
    practice: take all of it, or none)."""
    rng = np.random.default_rng(4)
    sound = 0.0005 * rng.standard_normal(12 * RATE)
    for start in (1.0, 3.0):
        n = np.arange(RATE)
        sound[round(start * RATE) : round(start * RATE) + RATE] += 0.2 * np.sin(n * 0.04)
    breath = slice(round(2.4 * RATE), round(2.75 * RATE))
    shape = np.hanning(breath.stop - breath.start)
    sound[breath] += 0.02 * shape * rng.standard_normal(len(shape))
    buffer = io.BytesIO()
    soundfile.write(buffer, sound.astype(np.float32), RATE, format="WAV", subtype="PCM_16")
    episode = host.filled(buffer.getvalue())
    take = host.view(episode)["takes"][0]["id"]
    words = (
        Word("one", RATE, 2 * RATE, "word", 0.9),
        Word("two", 3 * RATE, 4 * RATE, "word", 0.9),
    )
    keep_words(host.state.store, take, words)
    for edge_s in (2.5, 2.62, 2.7):
        revision = host.view(episode)["revision"]
        start = round(edge_s * RATE)
        host.edit(episode, {"kind": "cut", "start": start, "frames": 2 * RATE}, snap=True)
        page = get(host, episode, "page", start=0, frames=10 * RATE)
        at = page["splices"][0]["at"]
        before, after = at <= breath.start + 0.06 * RATE, at >= breath.stop - 0.06 * RATE
        assert before or after, f"{at / RATE:.2f} s is in the breath"
        host.client.post(
            f"/api/episodes/{episode}/jump",
            json={"revision": host.view(episode)["revision"], "to": revision},
        )


def test_cuts_beyond_the_end_are_told_also_where_edges_are_moved(host: Host) -> None:
    episode = spoken(host, *SAID)
    beyond = {"start": 61 * RATE, "frames": RATE}
    for edit in ({"kind": "cut", **beyond}, {"kind": "cut_many", "spans": [beyond]}):
        answer = host.edit(episode, edit, snap=True)
        assert answer.status_code == 422
        assert "no sound there" in answer.json()["sentence"]


def test_what_an_open_episode_shows_first_comes_as_one_answer(host: Host) -> None:
    """The same as the three questions that it stands for."""
    episode = spoken(host, *SAID)
    host.edit(episode, {"kind": "cut", "start": 3 * RATE, "frames": RATE})
    span = {"frames": 20 * RATE, "columns": 800}
    first = host.client.get(f"/api/episodes/{episode}/opening", params=span).json()
    (shown,) = first.pop("stretches")
    assert first.pop("marks") == []
    assert first == host.view(episode)
    assert shown["page"] == get(host, episode, "page", start=0, frames=20 * RATE)
    query = {"revision": first["revision"], "start": 0, **span}
    sky = host.client.get(f"/api/episodes/{episode}/skyline", params=query)
    assert b64decode(shown["skyline"]) == sky.content
    assert len(sky.content) == 2 * 800
    gone = host.client.get("/api/episodes/999/opening", params=span)
    assert gone.status_code == 404


def test_a_second_look_for_snags_tells_the_same_until_words_are_written_anew(host: Host) -> None:
    episode = spoken(host, *SAID)
    before = get(host, episode, "snags")
    assert get(host, episode, "snags") == before
    (take,) = host.view(episode)["takes"]
    (old,) = host.state.store.words(host.state.store.opened(episode).timeline).values()
    um = Word("um", 20 * RATE, 20 * RATE + 24_000, "filler", 0.9)
    keep_words(host.state.store, take["id"], (*old, um))
    after = get(host, episode, "snags")
    assert [s["text"] for s in after["snags"] if s["kind"] == "filler"] == ["um"]
    assert not any(s["kind"] == "filler" for s in before["snags"])
