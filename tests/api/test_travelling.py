"""What travels, over HTTP and by the command line."""

import io
import json
import zipfile
from pathlib import Path

import soundfile

from tests.api.host import Host, wav
from tests.commands import airtrim
from tests.serving import upload


def packed(host: Host, episode: int) -> bytes:
    job = host.client.post(f"/api/episodes/{episode}/pack").json()["id"]
    assert host.client.get(f"/api/travelling/{job}/file").status_code == 404
    assert host.work(job)["state"] == "done"
    answer = host.client.get(f"/api/travelling/{job}/file")
    assert "Show%20-%20One.airtrim.zip" in answer.headers["content-disposition"]
    return answer.content


def test_an_episode_is_packed_and_opened_in_the_place_of_an_empty_one(host: Host) -> None:
    episode = host.filled()
    data = packed(host, episode)
    empty = host.client.post("/api/shows/1/episodes", json={"title": "x"}).json()["id"]
    done = host.work(upload(host.client, empty, data, "a.airtrim.zip", pack="1"))
    assert done["state"] == "done", done
    view, before = host.view(empty), host.view(episode)
    assert (view["title"], view["frames"]) == (before["title"], before["frames"])
    assert [t["name"] for t in view["takes"]] == ["take.wav"]
    assert view["undo"] == before["undo"]
    # It is not laid over what is there, and what is no pack leaves the episode empty.
    again = host.work(upload(host.client, empty, data, "a.airtrim.zip", pack="1"))
    assert (again["state"], again["error"]) == (
        "failed",
        "That episode is not empty. Nothing was opened.",
    )
    blank = host.client.post("/api/shows/1/episodes", json={"title": "y"}).json()["id"]
    odd = host.work(upload(host.client, blank, wav(1.0), "a.zip", pack="1"))
    assert odd["state"] == "failed"
    assert "no packed episode" in odd["error"]
    assert host.view(blank)["frames"] == 0


def test_tracks_come_as_files_equally_long(host: Host) -> None:
    episode = host.filled()
    host.work(upload(host.client, episode, wav(3.0, 4), "guest.wav", track="Guest", at="0"))
    view = host.view(episode)
    request = {"revision": view["revision"], "with_sound": True}
    job = host.client.post(f"/api/episodes/{episode}/tracks", json=request).json()["id"]
    assert host.work(job)["state"] == "done"
    file = zipfile.ZipFile(io.BytesIO(host.client.get(f"/api/travelling/{job}/file").content))
    assert file.namelist() == ["01 Voice.flac", "02 Guest.flac"]
    for name in file.namelist():
        assert soundfile.info(io.BytesIO(file.read(name))).frames == view["frames"]


def test_lists_are_downloaded_and_nothing_is_written_of_nothing(host: Host) -> None:
    episode = host.filled()
    revision = host.view(episode)["revision"]
    for form, begins in (("otio", "{"), ("vtt", "WEBVTT"), ("csv", "kind,name")):
        answer = host.client.get(
            f"/api/episodes/{episode}/lists", params={"revision": revision, "form": form}
        )
        assert answer.text.startswith(begins)
        assert f"Show - One.{form}" in answer.headers["content-disposition"]
    empty = host.client.post("/api/shows/1/episodes", json={"title": "x"}).json()["id"]
    answer = host.client.post(f"/api/episodes/{empty}/tracks", json={"revision": 0})
    assert answer.status_code == 422
    assert "nothing in this episode" in answer.json()["sentence"]


def test_tracks_by_the_command_line(host: Host, tmp_path: Path) -> None:
    episode = host.filled()
    out, data = tmp_path / "out", str(host.state.settings.data_dir)
    done = airtrim("tracks", str(episode), "-o", str(out), "--wav", "--data", data, "--json")
    (track,) = json.loads(done.stdout)["tracks"]
    assert track["file"] == "01 Voice.wav"
    assert sorted(path.name for path in out.iterdir()) == [
        "01 Voice.wav",
        "chapters.vtt",
        "cut list.otio",
        "places.csv",
    ]


def test_an_odd_title_makes_no_odd_header(host: Host) -> None:
    """Found by the fuzz: a control character in a header ends the connection without an answer."""
    episode = host.filled()
    title = 'Fare\x7f\x85 \u2028 "x"'
    assert host.client.patch(f"/api/episodes/{episode}", json={"title": title}).status_code == 200
    at = {"revision": host.view(episode)["revision"], "form": "csv"}
    told = host.client.get(f"/api/episodes/{episode}/lists", params=at)
    assert told.headers["content-disposition"].isprintable()
