"""Formats as the screen is told of them."""

from airtrim.core.release.formats import FORMATS
from tests.api.host import Host


def test_the_screen_is_told_of_every_format(host: Host) -> None:
    episode = host.filled()
    told = host.client.get(f"/api/episodes/{episode}/formats").json()
    wanted = {(f.name, k) for f in FORMATS.values() for k in f.kbits or (None,)}
    assert {(one["format"], one["kbits"]) for one in told} == wanted
    assert len(told) == len(wanted)
    assert [one["label"] for one in told if one["usual"]] == ["MP3, 96 kbit/s"]
    # What a host calls them, those for feeds first.
    assert [one["words"] for one in told if one["words"]] == [
        "Talk, small",
        "Talk",
        "M4A (AAC)",
        "Opus",
        "FLAC to keep",
        "WAV to keep",
    ]
    host.edit(episode, {"kind": "set_loudness", "layout": "stereo"})
    told = host.client.get(f"/api/episodes/{episode}/formats").json()
    assert [one["words"] for one in told if one["words"]][:2] == ["Talk and music", "Best MP3"]
    assert all(one["bytes"] >= 6 * 6000 for one in told)
    body = {"revision": host.view(episode)["revision"], "files": [{"format": "tape"}]}
    answer = host.client.post(f"/api/episodes/{episode}/exports", json=body)
    assert answer.status_code == 422
    assert all(form.title in answer.json()["sentence"] for form in FORMATS.values())
