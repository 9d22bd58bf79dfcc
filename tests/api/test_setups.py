"""Setups over HTTP: made of the demo, begun from, sent as a file, broken and gone."""

import io
import json
import zipfile
from pathlib import Path

import pytest

from airtrim.store.checking import check_data
from airtrim.store.setupfile import SetupFile
from tests.api.host import Host, wav
from tests.serving import RATE, upload

NAME = "Slow Crossing, each week"


def setups(host: Host, show: int = 1) -> list[dict]:
    return host.client.get(f"/api/shows/{show}/setups").json()


def begin(host: Host, setup: int, title: str = "") -> dict:
    answer = host.client.post(f"/api/setups/{setup}/episodes", json={"title": title})
    assert answer.status_code == 201, answer.text
    return answer.json()


def rundown(host: Host, episode: int) -> dict:
    revision = host.view(episode)["revision"]
    return host.client.get(f"/api/episodes/{episode}/rundown", params={"revision": revision}).json()


def test_the_demo_show_has_one_and_an_episode_begins_from_it(demo_host: Host) -> None:
    (setup,) = setups(demo_host)
    assert (setup["name"], setup["missing"]) == (NAME, [])
    begun = begin(demo_host, setup["id"])
    assert begun["missing"] == []
    assert (begun["episode"]["title"], begun["episode"]["number"]) == ("Episode 8", 8)
    view = demo_host.view(begun["episode"]["id"])
    assert [track["name"] for track in view["tracks"]] == ["Tobin", "Marit", "Music"]
    assert view["tags"]["show"] == "Slow Crossing"
    assert (view["tags"]["episode"], view["tags"]["title"]) == (8, "Episode 8")
    assert view["tags"]["description"] == ""
    assert view["artwork"] == demo_host.view(1)["artwork"]
    waiting = rundown(demo_host, view["id"])["waiting"]
    assert [one["row"]["name"] for one in waiting] == [
        "Opening", "On the pier", "Back on board", "Close",
    ]  # fmt: skip
    assert [one["part"] for one in waiting] == [None] * 4, "nothing is there to fill them with"
    assert view["undo"] == f"Began from “{NAME}”"
    again = begin(demo_host, setup["id"], "Fog on the sound")
    assert (again["episode"]["number"], again["episode"]["title"]) == (9, "Fog on the sound")


def test_made_of_an_episode_and_changed_it_touches_no_older_episode(demo_host: Host) -> None:
    view = demo_host.view(1)
    body = {"revision": view["revision"], "name": "As this one"}
    answer = demo_host.client.post("/api/episodes/1/setup", json=body)
    assert answer.status_code == 201, answer.text
    kept = answer.json()["setup"]
    assert answer.json()["left_out"] == 0
    assert [row["name"] for row in kept["setup"]["rows"]] == [s["name"] for s in view["sections"]]
    (sound,) = [sound for row in kept["setup"]["rows"] for sound in row["sounds"]]
    assert (sound["name"], sound["holding"]) == ("Low tide", "under")
    shelf = demo_host.client.get("/api/shows/1/sounds").json()
    assert len(shelf) == 3, "it stood on the shelf already"

    older = begin(demo_host, kept["id"])["episode"]["id"]
    before = demo_host.view(older)
    waiting = rundown(demo_host, older)["waiting"]
    changed = {**kept["setup"], "rows": kept["setup"]["rows"][:1], "layout": "mono"}
    path = f"/api/setups/{kept['id']}"
    told = demo_host.client.patch(path, json={"setup": changed, "name": "Short"}).json()
    assert (told["name"], len(told["setup"]["rows"])) == ("Short", 1)
    assert demo_host.view(older) == before
    assert rundown(demo_host, older)["waiting"] == waiting
    # Taken away and brought back; a name is not taken twice.
    assert demo_host.client.patch(path, json={"name": NAME}).status_code == 422
    assert demo_host.client.patch(path, json={"deleted": True}).status_code == 200
    assert [one["name"] for one in setups(demo_host)] == [NAME]
    assert demo_host.client.post(f"{path}/episodes", json={}).status_code == 404
    demo_host.client.patch(path, json={"deleted": False})
    assert {one["name"] for one in setups(demo_host)} == {NAME, "Short"}


def test_filled_over_http_the_gain_is_worked_out_and_undo_takes_all_back(demo_host: Host) -> None:
    (setup,) = setups(demo_host)
    episode = begin(demo_host, setup["id"])["episode"]["id"]
    row = rundown(demo_host, episode)["waiting"][0]["row"]["id"]
    refused = demo_host.edit(
        episode, {"kind": "fill_rows", "fills": [{"row": row, "section": "gone"}]}
    )
    assert refused.status_code == 422
    # The demo's own recording, placed as if it had been recorded here.
    sound = (Path("demo") / "sound" / "host-opening.flac").read_bytes()
    job = upload(demo_host.client, episode, sound, "talk.flac")
    assert demo_host.work(job)["state"] == "done"
    view = demo_host.view(episode)
    assert view["tracks"][0]["frames"] > 0, "it went on the track that waited"
    waiting = rundown(demo_host, episode)["waiting"]
    fills = [{"row": w["row"]["id"], "section": w["part"]} for w in waiting if w["part"]]
    assert len(fills) == 2
    done = demo_host.edit(episode, {"kind": "fill_rows", "fills": fills})
    assert done.status_code == 200, done.text
    placed = rundown(demo_host, episode)["sounds"]
    assert [one["sound"]["name"] for one in placed] == ["Slipway", "Low tide"]
    assert all(one["sound"]["gain_db"] != 0 for one in placed)
    revision = demo_host.view(episode)["revision"]
    undone = demo_host.client.post(f"/api/episodes/{episode}/undo", json={"revision": revision})
    assert undone.status_code == 200
    assert rundown(demo_host, episode)["sounds"] == []
    assert len(rundown(demo_host, episode)["waiting"]) == 4


def test_sounds_that_are_gone_are_told_and_the_rest_begins(demo_host: Host) -> None:
    (setup,) = setups(demo_host)
    shelf = demo_host.client.get("/api/shows/1/sounds").json()
    gone = next(sound for sound in shelf if sound["name"] == "Slipway")
    demo_host.client.patch(f"/api/sounds/{gone['id']}", json={"deleted": True})
    assert setups(demo_host)[0]["missing"] == ["Slipway"]
    begun = begin(demo_host, setup["id"])
    assert begun["missing"] == ["Slipway"]
    waiting = rundown(demo_host, begun["episode"]["id"])["waiting"]
    names = [[sound["name"] for sound in one["row"]["sounds"]] for one in waiting]
    assert names == [[], ["Buoy"], [], ["Low tide"]]


def sent(host: Host, setup: int) -> bytes:
    answer = host.client.get(f"/api/setups/{setup}/file")
    assert answer.status_code == 200
    assert "airtrim-setup.zip" in answer.headers["content-disposition"]
    return answer.content


def opened(host: Host, show: int, data: bytes):
    return host.client.post(f"/api/shows/{show}/setups/file", content=data)


def test_it_travels_as_one_file(demo_host: Host, host: Host) -> None:
    data = sent(demo_host, setups(demo_host)[0]["id"])
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        told = json.loads(file.read("setup.json"))
        assert told["format"] == "airtrim-setup"
        assert len([name for name in file.namelist() if name.startswith("sounds/")]) == 3
    show = host.view(host.new_episode())["show_id"]
    answer = opened(host, show, data)
    assert answer.status_code == 201, answer.text
    assert (answer.json()["name"], answer.json()["missing"]) == (NAME, [])
    shelf = host.client.get(f"/api/shows/{show}/sounds").json()
    assert sorted(one["name"] for one in shelf) == ["Buoy", "Low tide", "Slipway"]
    assert sorted(one["at_key"] for one in shelf) == [1, 2, 3]
    begun = begin(host, answer.json()["id"])["episode"]
    assert host.view(begun["id"])["artwork"] == demo_host.view(1)["artwork"]
    assert len(rundown(host, begun["id"])["waiting"]) == 4
    # Once more: another name, and no sound twice.
    assert opened(host, show, data).json()["name"] == f"{NAME} 2"
    assert len(host.client.get(f"/api/shows/{show}/sounds").json()) == 3
    assert check_data(host.state.store).findings == ()


def test_the_schema_is_that_of_the_format() -> None:
    kept = Path(__file__).parents[2] / "docs" / "setup.schema.json"
    assert json.loads(kept.read_text()) == SetupFile.model_json_schema()


def rewritten(data: bytes, change) -> bytes:
    """The file with ``change`` made to what it says of itself and to its members."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as file, zipfile.ZipFile(out, "w") as other:
        members = {name: file.read(name) for name in file.namelist()}
        told = json.loads(members.pop("setup.json"))
        change(told, members)
        for name, content in members.items():
            other.writestr(name, content)
        other.writestr("setup.json", json.dumps(told))
    return out.getvalue()


def newer(told: dict, members: dict) -> None:
    told["version"] = 2


def damaged(told: dict, members: dict) -> None:
    name = next(name for name in members if name.startswith("sounds/"))
    members[name] = members[name][:-1000] + bytes(1000)


def outside(told: dict, members: dict) -> None:
    members["../../evil"] = b"x"


def nonsense(told: dict, members: dict) -> None:
    told["setup"]["rows"][0]["sounds"][0]["frames"] = -1


def lacking(told: dict, members: dict) -> None:
    del members[next(name for name in members if name.startswith("sounds/"))]


def lying(told: dict, members: dict) -> None:
    told["sounds"][0]["sha256"], told["sounds"][1]["sha256"] = (
        told["sounds"][1]["sha256"],
        told["sounds"][0]["sha256"],
    )


@pytest.mark.parametrize("change", [newer, damaged, outside, nonsense, lacking, lying])
def test_a_broken_file_is_refused_and_leaves_nothing(demo_host: Host, host: Host, change) -> None:
    data = rewritten(sent(demo_host, setups(demo_host)[0]["id"]), change)
    show = host.view(host.new_episode())["show_id"]
    takes = host.state.settings.data_dir / "takes"
    answer = opened(host, show, data)
    assert answer.status_code == 422
    assert answer.json()["sentence"].endswith("Nothing was opened.")
    assert setups(host, show) == []
    assert host.client.get(f"/api/shows/{show}/sounds").json() == []
    assert list(takes.iterdir()) == []
    assert list((host.state.settings.data_dir / "tmp").iterdir()) == []
    assert opened(host, show, b"not a zip").status_code == 422


def test_a_title_of_nothing_and_a_show_that_is_not_there(demo_host: Host) -> None:
    assert demo_host.client.get("/api/shows/99/setups").status_code == 404
    body = {"revision": demo_host.view(1)["revision"], "name": ""}
    assert demo_host.client.post("/api/episodes/1/setup", json=body).status_code == 422
    assert opened(demo_host, 99, b"").status_code in (404, 422)
    assert RATE == 48_000


def test_recordings_become_parts_in_the_order_in_which_they_were_sent(host: Host) -> None:
    """Whichever is done first: two are brought in at a time."""
    episode = host.new_episode()
    sent_jobs = [
        upload(host.client, episode, wav(seconds, seed), f"{name}.wav", part="1")
        for name, seconds, seed in (("first", 4.0, 1), ("second", 3.0, 2), ("third", 2.0, 3))
    ]
    for place in (2, 0, 1):
        assert host.work(sent_jobs[place])["state"] == "done"
    view = host.view(episode)
    assert [(s["name"], s["at"]) for s in view["sections"]] == [
        ("first", 0),
        ("second", 4 * RATE),
        ("third", 7 * RATE),
    ]
    clips = host.state.store.current(episode).tracks[0].clips
    assert [(c.take, c.at) for c in clips] == [
        (sent_jobs[0], 0),
        (sent_jobs[1], 4 * RATE),
        (sent_jobs[2], 7 * RATE),
    ]
    # One step of the history each.
    undone = host.client.post(
        f"/api/episodes/{episode}/undo", json={"revision": view["revision"]}
    ).json()
    assert [s["name"] for s in undone["sections"]] == ["first", "third"]
