"""Copies: the same, sharing nothing that can be changed; by a press, by a link, by parts."""

import numpy as np

from airtrim.core.render.graph import Mix
from airtrim.store.checking import check_data
from airtrim.store.purging import Bin
from tests.api.host import Host
from tests.serving import RATE


def sound(host: Host, episode: int, start: int, frames: int) -> np.ndarray:
    return Mix(host.state.store.current(episode), host.state.store.reader).read(start, frames)


def test_a_copy_sounds_the_same_and_goes_its_own_way(demo_host: Host) -> None:
    store = demo_host.state.store
    view = demo_host.view(1)
    cut = {"kind": "cut", "start": 20 * RATE, "frames": RATE}
    assert demo_host.edit(1, cut).status_code == 200
    answer = demo_host.client.post("/api/episodes/1/copy")
    assert answer.status_code == 201
    copy = answer.json()
    assert copy["title"] == "The six o’clock boat, copy"
    for at in (0, 19 * RATE, 100 * RATE, 255 * RATE):
        assert np.array_equal(sound(demo_host, 1, at, RATE), sound(demo_host, copy["id"], at, RATE))
    one, other = store.current(1), store.current(copy["id"])
    assert not one.takes() & other.takes()
    # Each has its own history, back to the beginning.
    mine = demo_host.view(copy["id"])
    assert mine["undo"] == demo_host.view(1)["undo"]
    body = {"revision": mine["revision"]}
    undone = demo_host.client.post(f"/api/episodes/{copy['id']}/undo", json=body).json()
    assert undone["frames"] == view["frames"]
    assert demo_host.view(1)["frames"] == view["frames"] - RATE
    words = store.words(store.current(copy["id"]))
    assert sum(map(len, words.values())) == sum(map(len, store.words(store.current(1)).values()))
    # The original goes for good, the copy stays whole.
    demo_host.client.patch("/api/episodes/1", json={"deleted": True})
    Bin(store).empty(all_now=True)
    assert np.abs(sound(demo_host, copy["id"], 30 * RATE, RATE)).max() > 0.01
    assert check_data(store).findings == ()


def test_a_copy_without_its_sound_is_not_made(demo_host: Host) -> None:
    store = demo_host.state.store
    lost = store.takes(1)[0].id
    (store.files.take(lost) / "sound").rename(store.files.take(lost) / "away")
    before = sorted(path.name for path in (store.files.root / "takes").iterdir())
    answer = demo_host.client.post("/api/episodes/1/copy")
    assert answer.status_code == 404
    assert "missing from the disk" in answer.json()["sentence"]
    assert sorted(path.name for path in (store.files.root / "takes").iterdir()) == before
    assert len(demo_host.client.get("/api/shows").json()[0]["episodes"]) == 1


def test_a_link_makes_copies_until_it_is_withdrawn(demo_host: Host) -> None:
    client = demo_host.client
    link = client.post("/api/episodes/1/copy-links").json()
    token = link["token"]
    assert link["path"] == f"/copy/{token}"
    offered = client.get(f"/api/copies/{token}").json()
    assert offered == {"show": "Slow Crossing", "episode": "The six o’clock boat"}
    before = demo_host.view(1)
    made = [client.post(f"/api/copies/{token}").json()["id"] for _ in range(2)]
    assert len({1, *made}) == 3
    assert demo_host.view(1) == before
    assert client.delete(f"/api/copy-links/{token}").status_code == 204
    assert client.get("/api/episodes/1/copy-links").json() == []
    for refused in (client.get(f"/api/copies/{token}"), client.post(f"/api/copies/{token}")):
        assert refused.status_code == 410
        assert refused.json()["sentence"].startswith("This link leads nowhere")
    assert demo_host.view(made[0])["frames"] == before["frames"]
    client.post(f"/api/copy-links/{token}/back")
    assert client.get(f"/api/copies/{token}").status_code == 200
    client.patch("/api/episodes/1", json={"deleted": True})
    assert client.post(f"/api/copies/{token}").status_code == 410
    assert client.get("/api/copies/nonsense").status_code == 410


def test_each_part_becomes_an_episode_and_the_source_stays_whole(demo_host: Host) -> None:
    view = demo_host.view(1)
    body = {"revision": view["revision"]}
    job = demo_host.client.post("/api/episodes/1/apart", json=body).json()
    done = demo_host.work(job["id"])
    assert done["state"] == "done", done
    assert demo_host.view(1) == view
    made = [demo_host.view(episode) for episode in done["result"]["episodes"]]
    assert [one["title"] for one in made] == [s["name"] for s in view["sections"]]
    starts = [s["at"] for s in view["sections"]]
    lengths = np.diff([*starts, view["frames"]]).tolist()
    assert [one["frames"] for one in made] == lengths
    for one, start in zip(made, starts, strict=True):
        where = min(RATE, one["frames"] // 2)
        span = min(RATE // 2, one["frames"] - where)
        ours = sound(demo_host, one["id"], where, span)
        theirs = sound(demo_host, 1, start + where, span)
        assert np.abs(ours - theirs).max() < 1e-6
        assert len(one["sections"]) == 1
        # What was there before is one undo away.
        back = demo_host.client.post(
            f"/api/episodes/{one['id']}/undo", json={"revision": one["revision"]}
        ).json()
        assert back["frames"] == view["frames"]


def test_parts_of_an_episode_that_was_changed_meanwhile_leave_nothing(demo_host: Host) -> None:
    view = demo_host.view(1)
    job = demo_host.client.post("/api/episodes/1/apart", json={"revision": view["revision"]}).json()
    demo_host.edit(1, {"kind": "cut", "start": 0, "frames": RATE})
    failed = demo_host.work(job["id"])
    assert failed["state"] == "failed"
    assert "changed meanwhile" in failed["error"]
    assert len(demo_host.client.get("/api/shows").json()[0]["episodes"]) == 1
