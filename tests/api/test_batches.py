"""Many episodes of a show through one recipe: edits to be undone, a file each, one report."""

import csv
import io
import json
from pathlib import Path
from uuid import uuid4

import numpy as np
import pytest
import soundfile

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.meter import measure
from airtrim.core.media import FRAME_RATE
from airtrim.core.timeline.words import words_on
from airtrim.jobs.lifecycle import recover
from airtrim.services.measuring import mix_profile
from airtrim.store.purging import Bin
from tests.api.host import RATE, Host
from tests.reference import programme
from tests.serving import ForkedServer, upload

PLAIN = {"target_lufs": -18.0}


def asked(host: Host, episodes: list[int], recipe: dict, batch: str = "", show: int = 1):
    body = {"batch": batch or uuid4().hex, "recipe": recipe, "episodes": episodes}
    return host.client.post(f"/api/shows/{show}/batches", json=body)


def made(host: Host, job: str) -> dict:
    """The job done on the spot, and what follows it; returns the entry of the report."""
    done = host.work(job)
    if done["state"] == "done":
        host.work(done["result"]["export"])
    (batch,) = host.client.get("/api/shows/1/batches").json()["batches"]
    return next(one for one in batch["entries"] if one["job"]["id"] == job)


def written(host: Host, entry: dict) -> float:
    """The loudness of a file as it was downloaded."""
    job = entry["export"]["id"]
    answer = host.client.get(f"/api/exports/{job}/file")
    path = host.state.store.files.root / "downloaded.mp3"
    path.write_bytes(answer.content)
    return measure(meter_file(path)).integrated_lufs or 0.0


def test_an_episode_is_tidied_levelled_and_written(demo_host: Host) -> None:
    """The demo has planted mistakes and is written down already."""
    host = demo_host
    before = host.view(1)
    planted = fillers(host)
    assert planted > 10
    recipe = {"tidy": "close", "level": True, "target_lufs": -18.0}
    (job,) = asked(host, [1], recipe).json()
    assert (job["kind"], job["title"], job["state"]) == ("batch", "One of a batch", "queued")
    entry = made(host, job["id"])
    assert (entry["job"]["state"], entry["export"]["state"]) == ("done", "done"), entry
    after = host.view(1)
    assert after["trimmed"] > before["trimmed"]
    assert entry["job"]["result"]["revision"] == after["revision"]
    assert fillers(host) <= 1, "of those that stand between words"
    assert written(host, entry) == pytest.approx(-18.0, abs=0.3)
    # Each step is undone by itself, down to where it began.
    names = [one["name"] for one in host.client.get("/api/episodes/1/history").json()]
    assert names[-1].startswith("Evened out")
    while host.view(1)["revision"] != before["revision"]:
        body = {"revision": host.view(1)["revision"]}
        assert host.client.post("/api/episodes/1/undo", json=body).status_code == 200
    assert host.view(1)["frames"] == before["frames"]


def fillers(host: Host) -> int:
    store = host.state.store
    words = words_on(store.current(1), store.words(store.current(1)))
    return sum(word.kind == "filler" for word in words)


def talk(seconds: float, gain: float, seed: int) -> bytes:
    buffer = io.BytesIO()
    sound = gain * programme(seconds, 1, seed)
    soundfile.write(buffer, sound, RATE, format="WAV", subtype="PCM_24")
    return buffer.getvalue()


def several(host: Host, gains: tuple[float, ...]) -> list[int]:
    show = host.client.post("/api/shows", json={"name": "Show"}).json()["id"]
    assert show == 1
    episodes = []
    for number, gain in enumerate(gains, 1):
        body = {"title": f"Talk {number}"}
        one = host.client.post("/api/shows/1/episodes", json=body).json()["id"]
        if gain:
            brought = host.work(upload(host.client, one, talk(8.0, gain, number), "talk.wav"))
            assert host.work(brought["result"]["next"][0])["state"] == "done"
        episodes.append(one)
    return episodes


def test_a_bad_one_stops_no_other_and_the_report_tells_of_all(host: Host) -> None:
    """An empty episode, and two of different loudness: both come out alike."""
    episodes = several(host, (0.4, 0.0, 0.05))
    jobs = asked(host, episodes, PLAIN).json()
    found = [made(host, job["id"]) for job in jobs]
    assert [one["job"]["state"] for one in found] == ["done", "failed", "done"]
    assert (
        found[1]["job"]["error"]
        == "There is nothing in this episode yet, so there is nothing to make."
    )
    for one in (found[0], found[2]):
        assert written(host, one) == pytest.approx(-18.0, abs=0.3)
    report = f"/api/shows/1/batches/{jobs[0]['params']['batch']}/report"
    table = host.client.get(report, params={"form": "csv"}).text
    rows = list(csv.DictReader(io.StringIO(table)))
    assert [row["state"] for row in rows] == ["made", "failed", "made"]
    assert float(rows[0]["loudness_lufs"]) == pytest.approx(-18.0, abs=0.3)
    assert float(rows[0]["seconds"]) == pytest.approx(8.0, abs=0.1)
    page = host.client.get(report).text
    assert page.count("<polyline") == 2
    assert "There is nothing in this episode yet, so there is nothing to make." in page
    told = host.client.get(report, params={"form": "json"}).json()["files"]
    assert len(told[0]["strip_lufs"]) > 10
    assert host.client.get("/api/shows/1/batches").json()["pace"] > 0


def test_the_room_is_lowered_by_the_way_that_it_calls_for(host: Host) -> None:
    (episode,) = several(host, (0.3,))
    (job,) = asked(host, [episode], {"clean": 0.7, "echo": True}).json()
    entry = made(host, job["id"])
    assert entry["export"]["state"] == "done", entry
    (track,) = host.view(episode)["tracks"]
    suggested = host.client.get(
        f"/api/episodes/{episode}/sound",
        params={"track": track["id"], "revision": host.view(episode)["revision"]},
    ).json()
    assert suggested["cleaned"], "all is there by the time it is written"
    noise = {"on": True, "strength": 0.7, "method": track["chain"]["noise"]["method"]}
    assert track["chain"]["noise"] == noise
    assert track["chain"]["echo"]["on"]
    names = [one["name"] for one in host.client.get(f"/api/episodes/{episode}/history").json()]
    assert "Lowered the room of Voice" in names


def test_asking_twice_is_the_same_as_once_and_none_is_of_another_show(host: Host) -> None:
    episodes = several(host, (0.3,))
    first = asked(host, episodes, PLAIN, "a" * 32).json()
    again = asked(host, episodes * 2, PLAIN, "a" * 32).json()
    assert [job["id"] for job in first] == [job["id"] for job in again]
    elsewhere = host.new_episode()
    refused = asked(host, [elsewhere], PLAIN)
    assert refused.status_code == 404
    assert "not on this show" in refused.json()["sentence"]
    assert asked(host, [], PLAIN).status_code == 422
    assert asked(host, episodes, {"file": {"format": "mp3", "kbits": 7}}).status_code == 422
    assert asked(host, episodes, {"clean": 2.0}).status_code == 422
    assert asked(host, episodes, PLAIN, "../x").status_code == 422
    assert asked(host, episodes, PLAIN, show=99).status_code == 404


def test_what_is_left_is_cancelled_together(host: Host) -> None:
    episodes = several(host, (0.3, 0.3, 0.3))
    jobs = asked(host, episodes, PLAIN, "b" * 32).json()
    assert made(host, jobs[0]["id"])["export"]["state"] == "done"
    address = f"/api/shows/1/batches/{'b' * 32}"
    stopped = host.client.post(f"{address}/cancel").json()
    assert [job["state"] for job in stopped] == ["cancelled", "cancelled"]
    table = host.client.get(f"{address}/report", params={"form": "csv"}).text
    states = [row["state"] for row in csv.DictReader(io.StringIO(table))]
    assert states == ["made", "cancelled", "cancelled"]
    assert host.client.post(f"{address}/cancel").status_code == 422
    # One of them after all.
    assert host.client.post(f"/api/jobs/{jobs[1]['id']}/again").status_code == 200
    assert made(host, jobs[1]["id"])["export"]["state"] == "done"
    assert host.client.post(f"/api/shows/1/batches/{'c' * 32}/cancel").status_code == 404


def test_a_host_who_edits_meanwhile_loses_nothing(
    host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Each edit of the host comes between what a step read and what it writes."""
    from airtrim.services.batch import episodes as batch

    (episode,) = several(host, (0.3,))
    (job,) = asked(host, [episode], PLAIN).json()
    plain, edits = batch.measure, iter(range(2))

    def edited_meanwhile(*told: object) -> None:
        for number in edits:
            cut = {"kind": "cut", "start": number * RATE, "frames": 4800}
            assert host.edit(episode, cut).status_code == 200
            break
        plain(*told)  # type: ignore[arg-type]

    monkeypatch.setattr(batch, "measure", edited_meanwhile)
    entry = made(host, job["id"])
    assert entry["export"]["state"] == "done", entry
    assert host.view(episode)["frames"] == 8 * FRAME_RATE - 2 * 4800
    assert written(host, entry) == pytest.approx(-18.0, abs=0.3)


def test_a_file_becomes_an_episode_that_says_what_the_file_says(host: Host) -> None:
    show = host.client.post("/api/shows", json={"name": "Slow Crossing"}).json()["id"]
    address = f"/api/shows/{show}/episodes"
    episode = host.client.post(address, json={"title": "014_the_ferry"}).json()["id"]
    recipe = json.dumps(PLAIN)
    data = talk(6.0, 0.2, 3)
    said = {"batch": "d" * 32, "recipe": recipe}
    job = upload(host.client, episode, data, "014_the_night_ferry.wav", **said)
    entry = made(host, job)
    assert entry["export"]["state"] == "done", entry
    assert entry["title"] == "the night ferry"
    view = host.view(episode)
    assert (view["tags"]["episode"], view["tags"]["title"]) == (14, "the night ferry")
    tags = entry["export"]["result"]["files"][0]["tags"]
    assert (tags["title"], tags["show"]) == ("the night ferry", "Slow Crossing")
    # Once more, as after a stop: nothing is brought in twice.
    host.state.store.update_job(job, state="queued")
    assert made(host, job)["export"]["state"] == "done"
    assert len(host.view(episode)["takes"]) == 1
    assert np.isclose(host.view(episode)["frames"] / FRAME_RATE, 6.0, atol=0.1)
    refused = host.client.post(address, json={"title": "x"}).json()["id"]
    bad = {"batch": "d" * 32, "recipe": '{"tidy": "wildly"}'}
    with pytest.raises(AssertionError):
        upload(host.client, refused, data, "x.wav", **bad)


def test_a_deleted_episode_is_told_no_more(host: Host) -> None:
    (episode,) = several(host, (0.3,))
    (job,) = asked(host, [episode], PLAIN).json()
    made(host, job["id"])
    host.client.patch(f"/api/episodes/{episode}", json={"deleted": True})
    assert host.client.get("/api/shows/1/batches").json()["batches"] == []
    host.client.patch("/api/shows/1", json={"deleted": True})
    assert host.client.get("/api/shows/1/batches").status_code == 404
    assert host.client.get("/api/shows/1/catalogue").status_code == 404
    host.client.patch("/api/shows/1", json={"deleted": False})
    Bin(host.state.store).empty(all_now=True)
    assert host.client.get("/api/shows/1/batches").json()["batches"] == []


def test_files_of_a_show_are_held_beside_each_other(host: Host) -> None:
    """Three alike, one that was made louder, and none of the labels that apps ask for."""
    episodes = several(host, (0.3, 0.3, 0.3, 0.3))
    for episode, target in zip(episodes, (-19.0, -19.0, -19.0, -16.0), strict=True):
        (job,) = asked(host, [episode], {"target_lufs": target}).json()
        host.work(host.work(job["id"])["result"]["export"])
    told = host.client.get("/api/shows/1/catalogue").json()
    assert told["usual_lufs"]["1"] == pytest.approx(-19.0, abs=0.3)
    found = {one["title"]: {f["what"]: f["sentence"] for f in one["findings"]}
             for one in told["episodes"]}  # fmt: skip
    assert list(found) == ["Talk 4", "Talk 3", "Talk 2", "Talk 1"], "as on the shelf"
    assert "louder than the show’s median" in found["Talk 4"]["loudness"]
    assert "loudness" not in found["Talk 1"]
    assert "Missing" in found["Talk 1"]["tags"]
    assert "no picture" in found["Talk 1"]["artwork"]
    # One batch mends it.
    (job,) = asked(host, [episodes[3]], {"target_lufs": -19.0}).json()
    host.work(host.work(job["id"])["result"]["export"])
    told = host.client.get("/api/shows/1/catalogue").json()
    assert not [f for one in told["episodes"] for f in one["findings"] if f["what"] == "loudness"]
    assert host.client.get("/api/shows/9/catalogue").status_code == 404


def test_a_batch_gives_way_to_what_a_host_waits_for(tmp_path: Path) -> None:
    """With the worker as it is: what comes later, and is waited for, is there before the batch is
    done; of the batch one goes after the other, each with its file before the next."""
    server = ForkedServer(tmp_path / "data")
    try:
        show = server.client.post("/api/shows", json={"name": "Show"}).json()["id"]
        address = f"/api/shows/{show}/episodes"
        episodes = [
            server.client.post(address, json={"title": f"Talk {number}"}).json()["id"]
            for number in range(4)
        ]
        for number, episode in enumerate(episodes):
            server.wait(server.upload(episode, talk(6.0, 0.2, number), "talk.wav"), "done")
        server.wait_all()
        body = {"batch": "e" * 32, "recipe": PLAIN, "episodes": episodes}
        server.client.post(f"/api/shows/{show}/batches", json=body).raise_for_status()
        brought = server.upload(server.new_episode("Today"), talk(2.0, 0.2, 9), "today.wav")
        server.wait(brought, "done")
        server.wait_all()
        jobs = {job["id"]: job for job in server.client.get("/api/jobs").json()}
    finally:
        server.stop()
    ended = [jobs[f"{'e' * 32}-{episode}"] for episode in episodes]
    assert {job["state"] for job in ended} == {"done"}
    assert jobs[brought]["updated_at"] < ended[-1]["updated_at"]
    files = [jobs[job["result"]["export"]]["updated_at"] for job in ended]
    order = [at for job, file in zip(ended, files, strict=True) for at in (job["updated_at"], file)]
    assert order == sorted(order)


def test_a_file_is_brought_in_and_labelled_or_neither(
    host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The worker stops after the sound was stored, in the middle of reading the file's tags."""
    show = host.client.post("/api/shows", json={"name": "Slow Crossing"}).json()["id"]
    address = f"/api/shows/{show}/episodes"
    episode = host.client.post(address, json={"title": "014_the_ferry"}).json()["id"]
    said = {"batch": "d" * 32, "recipe": json.dumps(PLAIN)}
    job = upload(host.client, episode, talk(6.0, 0.2, 3), "014_the_night_ferry.wav", **said)

    def stopped(*_: object) -> None:
        raise KeyboardInterrupt

    with monkeypatch.context() as patched:
        patched.setattr("airtrim.services.batch.files._said_by", stopped)
        with pytest.raises(KeyboardInterrupt):
            host.work(job)
    assert host.view(episode)["takes"] == []
    assert job in recover(host.state.store)
    assert made(host, job)["title"] == "the night ferry"
    view = host.view(episode)
    assert (view["tags"]["episode"], view["tags"]["title"]) == (14, "the night ferry")
    assert len(view["takes"]) == 1


@pytest.mark.parametrize(
    ("change", "same"),
    [({"name": "Marit"}, True), ({"colour": "rose"}, True), ({"gain_db": -3.0}, False)],
)
def test_a_track_that_is_renamed_or_recoloured_keeps_its_measurement(
    host: Host, change: dict, same: bool
) -> None:
    episode = host.filled()
    body = {"revision": host.view(episode)["revision"]}
    host.work(host.client.post(f"/api/episodes/{episode}/measure", json=body).json()["id"])
    track = host.view(episode)["tracks"][0]["id"]
    answer = host.edit(episode, {"kind": "set_track", "track": track, **change})
    assert answer.status_code == 200, answer.text
    known = mix_profile(host.state.store, host.state.store.current(episode))
    assert (known is not None) == same
