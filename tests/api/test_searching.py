"""Finding a title or a sentence in all episodes."""

import pytest

from tests.api.host import Host


def look(host: Host, text: str) -> list[dict]:
    return host.client.get("/api/search", params={"text": text}).json()


def test_a_sentence_is_found_in_the_episode_that_says_it(demo_host: Host) -> None:
    """Also what was corrected, until it is undone; case and punctuation do not count."""
    demo_host.client.post("/api/shows/1/episodes", json={"title": "Nets and knots"})
    (said,) = look(demo_host, "WHITE boat leaves")
    assert (said["episode_id"], said["said"]) == (1, "white boat leaves")
    assert said["before"].endswith("small")
    assert 10 * 48_000 < said["at"] < 20 * 48_000
    (title,) = look(demo_host, "knots")
    assert (title["episode_id"], title["at"]) == (2, None)
    assert look(demo_host, "submarine") == []
    assert look(demo_host, "-- ..") == []


def test_a_cut_sentence_is_found_no_more_and_a_corrected_word_is(demo_host: Host) -> None:
    (said,) = look(demo_host, "white boat")
    cut = {"kind": "cut", "start": said["at"], "frames": 24_000}
    assert demo_host.edit(1, cut).status_code == 200
    assert look(demo_host, "white boat") == []
    assert look(demo_host, "harbour") == []
    body = {"revision": demo_host.view(1)["revision"], "old": "harbor", "new": "harbour"}
    assert demo_host.client.post("/api/episodes/1/correct-all", json=body).status_code == 200
    assert look(demo_host, "harbour")[0]["said"].startswith("harbour")


def test_episodes_that_do_not_hold_the_letters_are_not_opened(
    demo_host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    for _ in range(3):
        demo_host.client.post("/api/episodes/1/copy")
    store = demo_host.state.store
    opened: list[int] = []
    current = store.current
    monkeypatch.setattr(store, "current", lambda one: opened.append(one) or current(one))
    assert len({one["episode_id"] for one in look(demo_host, "white boat")}) == 4
    assert sorted(opened) == [1, 2, 3, 4]
    opened.clear()
    assert look(demo_host, "zeppelin") == []
    assert opened == []
    assert demo_host.client.get("/api/search", params={"text": "a"}).status_code == 422
