"""Formats as the screen is told of them."""

from airtrim.core.release.formats import FORMATS
from tests.api.host import Host


def test_the_screen_is_told_of_every_format(host: Host) -> None:
    episode = host.filled()
    told = host.client.get(f"/api/episodes/{episode}/formats").json()
    wanted = [(f.name, k) for f in FORMATS.values() for k in f.kbits or (None,)]
    assert [(one["format"], one["kbits"]) for one in told] == wanted
    assert [one["label"] for one in told if one["usual"]] == ["MP3, 96 kbit/s"]
    assert all(one["bytes"] >= 6 * 8000 for one in told)
    body = {"revision": host.view(episode)["revision"], "settings": {"format": "tape"}}
    answer = host.client.post(f"/api/episodes/{episode}/exports", json=body)
    assert answer.status_code == 422
    assert all(form.title in answer.json()["sentence"] for form in FORMATS.values())
