"""The running order over HTTP: rows, parts put aside, and what is refused."""

import json

from tests.api.host import Host
from tests.commands import airtrim
from tests.serving import RATE


def rundown(host: Host, episode: int) -> dict:
    revision = host.client.get(f"/api/episodes/{episode}").json()["revision"]
    answer = host.client.get(f"/api/episodes/{episode}/rundown", params={"revision": revision})
    assert answer.status_code == 200
    return answer.json()


def in_two(host: Host) -> tuple[int, list[str]]:
    episode = host.filled()
    starts = [{"at": 0, "name": "First"}, {"at": RATE, "name": "Second"}]
    assert host.edit(episode, {"kind": "set_sections", "sections": starts}).status_code == 200
    return episode, [row["id"] for row in rundown(host, episode)["rows"]]


def test_parts_stand_in_their_order_and_run_to_where_the_next_begins(host: Host) -> None:
    episode, (first, second) = in_two(host)
    before = rundown(host, episode)
    assert [row["name"] for row in before["rows"]] == ["First", "Second"]
    assert before["rows"][0]["frames"] == before["rows"][1]["at"] == RATE
    assert sum(row["frames"] for row in before["rows"]) == before["frames"]
    moved = host.edit(episode, {"kind": "move_part", "section": second, "before": first})
    assert moved.status_code == 200
    after = rundown(host, episode)
    assert [row["id"] for row in after["rows"]] == [second, first]
    assert after["frames"] == before["frames"]


def test_what_was_put_aside_waits_and_survives_a_reading_of_the_store(host: Host) -> None:
    episode, (first, second) = in_two(host)
    assert host.edit(episode, {"kind": "put_aside", "section": first}).status_code == 200
    assert host.edit(episode, {"kind": "set_wanted_length", "frames": 7 * RATE}).status_code == 200
    host.state.store.cache.drop(lambda _: True)
    found = rundown(host, episode)
    assert [row["id"] for row in found["rows"]] == [second]
    (waiting,) = found["aside"]
    assert (waiting["id"], waiting["at"], waiting["frames"]) == (first, None, RATE)
    assert found["wanted_frames"] == 7 * RATE
    back = host.edit(episode, {"kind": "bring_back", "section": first, "before": second})
    assert back.status_code == 200
    assert [row["id"] for row in rundown(host, episode)["rows"]] == [first, second]


def test_what_does_not_fit_is_refused_in_a_sentence(host: Host) -> None:
    episode, (first, second) = in_two(host)
    for edit in (
        {"kind": "move_part", "section": first, "before": second},
        {"kind": "move_part", "section": "gone"},
        {"kind": "bring_back", "section": first},
        {"kind": "set_wanted_length", "frames": 0},
        {"kind": "put_aside"},
    ):
        answer = host.edit(episode, edit)
        assert answer.status_code in (400, 422), edit
        assert answer.json()["sentence"]
    assert [row["id"] for row in rundown(host, episode)["rows"]] == [first, second]


def test_the_command_line_tells_the_same_order_in_seconds(host: Host) -> None:
    episode, (first, second) = in_two(host)
    host.edit(episode, {"kind": "put_aside", "section": first})
    data = str(host.state.store.files.root)
    done = airtrim("rundown", str(episode), "--data", data, "--json")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    over_http = rundown(host, episode)
    assert [row["id"] for row in told["rows"]] == [second]
    assert [(row["id"], row["start_s"], row["duration_s"]) for row in told["aside"]] == [
        (first, None, 1.0)
    ]
    assert told["duration_s"] * RATE == over_http["frames"]
    assert told["wanted_s"] is None
    plain = airtrim("rundown", str(episode), "--data", data).stdout.splitlines()
    assert [line.split("\t")[0:2] for line in plain] == [["1", "Second"], ["aside", "First"]]
    missing = airtrim("rundown", "99", "--data", data)
    assert (missing.returncode, missing.stdout) == (1, "")
    assert missing.stderr.strip()
    nowhere = airtrim("rundown", "1", "--data", f"{data}/none")
    assert "There are no data" in nowhere.stderr
