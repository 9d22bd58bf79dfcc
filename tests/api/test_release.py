"""Releasing over the API: several files from one render, chapters, the check."""

import io
import json
from pathlib import Path

import av
import pytest
from PIL import Image

from airtrim.core.release.formats import FORMATS
from airtrim.core.timeline.edits.markers import ChangeMarker
from airtrim.store.checking import check_data
from airtrim.store.packing import pack
from airtrim.store.purging import Bin
from airtrim.store.store import Store
from airtrim.store.unpacking import unpack
from tests.api.host import Host
from tests.api.test_sound import talking
from tests.commands import airtrim
from tests.reference import RATE, decoded, ffmpeg_loudness
from tests.standards.test_release_file import picture


def small(size: tuple[int, int] = (320, 180)) -> bytes:
    buffer = io.BytesIO()
    Image.new("RGB", size, "#456").save(buffer, "PNG")
    return buffer.getvalue()


def with_chapters(host: Host, episode: int) -> str:
    """Two chapters, the first with a picture; its name."""
    kept = host.client.post("/api/artwork?chapter=true", content=small())
    assert kept.status_code == 201
    sha256 = kept.json()["artwork"]
    chapters = [
        {"at": 0, "title": "Slack water", "artwork": sha256},
        {"at": 3 * RATE, "title": "Fare", "link": "https://x.example"},
    ]
    assert host.edit(episode, {"kind": "set_chapters", "chapters": chapters}).status_code == 200
    return sha256


def test_every_format_at_once_reads_on_target_under_the_ceiling(host: Host, tmp_path: Path) -> None:
    """Loudness and peak by FFmpeg's ebur128 on what FFmpeg decodes; chapters by FFmpeg."""
    episode = host.filled()
    host.edit(episode, {"kind": "set_tags", "tags": {"title": "Slack water"}})
    with_chapters(host, episode)
    body = {
        "revision": host.view(episode)["revision"],
        "files": [{"format": name} for name in FORMATS] + [{"format": "mp3", "kbits": 64}],
    }
    job = host.client.post(f"/api/episodes/{episode}/exports", json=body).json()["id"]
    reports = host.work(job)["result"]["files"]
    assert [one["format"] for one in reports] == [*FORMATS, "mp3"]
    for number, report in enumerate(reports):
        file = host.client.get(f"/api/exports/{job}/file", params={"number": number})
        assert len(file.content) == report["bytes"]
        path = tmp_path / f"{number}.{report['format']}"
        path.write_bytes(file.content)
        found = ffmpeg_loudness(decoded(path))
        assert found["integrated"] == pytest.approx(-19.0, abs=0.11), report["label"]
        assert found["true_peak"] <= -0.95
        with av.open(str(path)) as opened:
            starts = sorted(float(c["start"] * c["time_base"]) for c in opened.chapters())
        assert starts == [0.0, 3.0]
        assert report["chapters"] == 2
    names = [
        host.client.get(f"/api/exports/{job}/file?number={n}").headers["content-disposition"]
        for n in range(len(reports))
    ]
    assert len(set(names)) == len(FORMATS)  # two MP3s of one name, in two rates
    beyond = host.client.get(f"/api/exports/{job}/file", params={"number": len(reports)})
    assert beyond.status_code == 404
    assert not check_data(host.state.store).findings


def test_a_rate_that_is_not_offered_refuses_all(host: Host) -> None:
    episode = host.filled()
    files = [{"format": "wav"}, {"format": "opus", "kbits": 33}]
    body = {"revision": host.view(episode)["revision"], "files": files}
    answer = host.client.post(f"/api/episodes/{episode}/exports", json=body)
    assert answer.status_code == 422
    assert "Opus is offered at 48" in answer.json()["sentence"]
    assert (
        host.client.post(f"/api/episodes/{episode}/exports", json={**body, "files": []}).status_code
        == 422
    )


def test_a_chapters_picture_is_kept_as_long_as_undo_reaches_and_travels(
    host: Host, tmp_path: Path
) -> None:
    episode = host.filled()
    sha256 = with_chapters(host, episode)
    store = host.state.store
    first = store.current(episode).markers[0].id
    store.edit(episode, None, ChangeMarker(marker=first, artwork=""))
    Bin(store).empty(all_now=True)
    assert store.files.has_artwork(sha256)
    pack(store, episode, tmp_path / "one.airtrim.zip", lambda *_: None)
    there = Store(tmp_path / "there")
    show = there.add_show("There").id or 0
    opened = unpack(there, tmp_path / "one.airtrim.zip", show, lambda *_: None).episode_id
    assert there.files.has_artwork(sha256)
    row, _ = there.episode(opened)
    there.undo(opened, row.head_id or 0)
    assert there.current(opened).markers[0].artwork == sha256
    there.close()


@pytest.mark.parametrize("data", [picture(kind="GIF"), b"no picture", small((4000, 10))])
def test_a_picture_that_no_player_shows_is_refused(host: Host, data: bytes) -> None:
    answer = host.client.post("/api/artwork?chapter=true", content=data)
    assert answer.status_code == 422
    assert "picture" in answer.json()["sentence"]
    # As a cover a small or oblong one is refused, which may stand for a chapter.
    assert host.client.post("/api/artwork", content=small()).status_code == 422


def test_the_check_is_told_by_the_api_and_the_command_line(host: Host, tmp_path: Path) -> None:
    empty = host.new_episode()
    refused = host.client.get(f"/api/episodes/{empty}/check", params={"revision": 0})
    assert refused.status_code == 422
    episode = host.filled()
    view = host.view(episode)
    told = host.client.get(
        f"/api/episodes/{episode}/check", params={"revision": view["revision"]}
    ).json()
    assert told["word"] == "Not yet: title"
    assert not told["ready"]
    title = next(one for one in told["lines"] if one["id"] == "title")
    assert title["remedy"]["edit"]["tags"]["title"] == view["title"]
    assert host.edit(episode, title["remedy"]["edit"]).status_code == 200
    folder = str(host.state.settings.data_dir)
    done = airtrim("check", str(episode), "--data", folder, "--json")
    assert done.returncode == 0
    assert json.loads(done.stdout)["ready"]
    assert "none" in airtrim("check", str(episode), "--data", folder).stdout.lower()
    assert airtrim("check", str(empty), "--data", folder).returncode == 1
    sound = tmp_path / "a.wav"
    sound.write_bytes(
        host.client.get(
            f"/api/episodes/{episode}/audio",
            params={"revision": host.view(episode)["revision"], "start": 0, "frames": 4 * RATE},
        ).content
    )
    done = airtrim("check", str(sound), "--json")
    assert done.returncode == 1
    assert json.loads(done.stdout)["word"] == "Not yet: tags"
    assert airtrim("check", str(tmp_path / "nowhere.mp3")).returncode == 1


def test_splices_and_chapters_are_told(host: Host) -> None:
    episode = host.filled()
    host.edit(episode, {"kind": "cut", "start": RATE, "frames": RATE})
    with_chapters(host, episode)
    at = {"revision": host.view(episode)["revision"]}
    assert host.client.get(f"/api/episodes/{episode}/splices", params=at).json() == [RATE]
    times = host.client.get(f"/api/episodes/{episode}/chapters", params={**at, "form": "txt"})
    assert times.text == "00:00 Slack water\n00:03 Fare"
    told = host.client.get(f"/api/episodes/{episode}/chapters", params=at)
    assert told.headers["content-type"].startswith("application/json+chapters")
    assert [one["title"] for one in told.json()["chapters"]] == ["Slack water", "Fare"]


def test_files_are_deleted_and_made_again(host: Host) -> None:
    episode = host.filled()
    body = {"revision": host.view(episode)["revision"]}
    job = host.client.post(f"/api/episodes/{episode}/exports", json=body).json()["id"]
    assert host.client.delete(f"/api/exports/{job}").status_code == 404  # it has not ended
    host.work(job)
    folder = host.state.store.files.export(job)
    assert list(folder.iterdir())
    assert host.client.delete(f"/api/exports/{job}").status_code == 204
    assert not folder.exists()
    assert host.client.get(f"/api/exports/{job}/file").status_code == 404
    assert job not in [one["id"] for one in host.client.get("/api/jobs").json()]
    assert host.client.delete(f"/api/exports/{job}").status_code == 404
    assert not check_data(host.state.store).findings
    again = host.client.post(f"/api/episodes/{episode}/exports", json=body).json()["id"]
    assert host.work(again)["state"] == "done"


def test_where_the_limiter_is_heard_one_press_compresses_the_voice(host: Host) -> None:
    """A voice of which every fourth word is 16 dB louder."""
    episode = talking(host, (0.0, 0.0, 0.0, 16.0))
    target = {"kind": "set_loudness", "layout": "mono", "target_lufs": -13.0}
    assert host.edit(episode, target).status_code == 200

    def peaks() -> dict:
        revision = {"revision": host.view(episode)["revision"]}
        host.work(host.client.post(f"/api/episodes/{episode}/measure", json=revision).json()["id"])
        host.client.post(f"/api/episodes/{episode}/even-out", json=revision).raise_for_status()
        revision = {"revision": host.view(episode)["revision"]}
        lines = host.client.get(f"/api/episodes/{episode}/check", params=revision).json()["lines"]
        return next(one for one in lines if one["id"] == "peaks")

    def limiting() -> float:
        revision = {"revision": host.view(episode)["revision"]}
        found = host.client.get(f"/api/episodes/{episode}/levels", params=revision)
        return found.json()["most_limiting_db"]

    hot = peaks()
    before = limiting()
    assert before > 6.0
    assert (hot["state"], hot["remedy"]["says"]) == ("look", "Compress Voice")
    assert host.edit(episode, hot["remedy"]["edit"]).status_code == 200
    view = host.view(episode)
    assert view["undo"] == "Compressed Voice"
    peaks()
    assert limiting() < before - 2.0
