"""How far episodes are, told from what is kept."""

from tests.api.host import Host, wav
from tests.serving import upload


def standing(host: Host, episode: int) -> dict:
    revision = host.view(episode)["revision"]
    where = {"revision": revision}
    return host.client.get(f"/api/episodes/{episode}/standing", params=where).json()


def word(host: Host, episode: int) -> str:
    (shelf,) = [one for show in host.client.get("/api/shows").json() for one in show["episodes"]
                if one["id"] == episode]  # fmt: skip
    return shelf["standing"]


def test_an_episode_comes_on_step_by_step(host: Host) -> None:
    episode = host.new_episode()
    assert standing(host, episode)["next"] == "recorded"
    assert word(host, episode) == "Nothing recorded yet"
    brought = host.work(upload(host.client, episode, wav(12.0)))
    found = standing(host, episode)
    assert (found["next"], found["steps"][1]["says"]) == ("words", "Words being written down")
    assert word(host, episode) == "No words yet"
    host.work(brought["result"]["next"][0])
    found = standing(host, episode)
    assert found["next"] == "even", "a tone has no snags"
    assert word(host, episode) == "Being edited"
    now = {"revision": host.view(episode)["revision"]}
    host.work(host.client.post(f"/api/episodes/{episode}/measure", json=now).json()["id"])
    assert host.client.post(f"/api/episodes/{episode}/even-out", json=now).status_code == 200
    assert standing(host, episode)["next"] == "labelled"
    tags = {"title": "One", "show": "Show", "artist": "Tobin", "episode": 1}
    assert host.edit(episode, {"kind": "set_tags", "tags": tags}).status_code == 200
    assert standing(host, episode)["next"] == "file"
    now = {"revision": host.view(episode)["revision"], "files": [{"format": "mp3"}]}
    host.work(host.client.post(f"/api/episodes/{episode}/exports", json=now).json()["id"])
    assert standing(host, episode)["next"] == "handed_over"
    assert word(host, episode) == "File made"
    host.edit(episode, {"kind": "cut", "start": 0, "frames": 4800})
    found = standing(host, episode)
    assert found["next"] == "even", "what was measured is no more what it is"
    assert found["steps"][5]["says"] == "File 1 edit behind"
    assert word(host, episode) == "Changed since its file was made"


def test_the_demo_has_snags_to_go_through(demo_host: Host) -> None:
    found = standing(demo_host, 1)
    (snags,) = [step for step in found["steps"] if step["name"] == "snags"]
    assert found["next"] == "snags"
    assert int(snags["says"].split()[0]) > 20
    assert snags["press"] == f"Go through {snags['says'].removesuffix(' left')}"
