"""Whatever is accepted leaves an episode that opens, and so does what was stored before that."""

import random

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlmodel import select

from airtrim.core.timeline.edits.gain import GainSpan
from airtrim.store.database import writing
from airtrim.store.tables import EditRow
from tests.api.host import Host
from tests.core.test_editing import random_edit
from tests.reference import RATE


def opens(host: Host, episode: int) -> dict:
    revision = host.view(episode)["revision"]
    snags = f"/snags?revision={revision}"
    for address in ("", "/opening?frames=4800000&columns=800", "/history", snags):
        answer = host.client.get(f"/api/episodes/{episode}{address}")
        assert answer.status_code == 200, (address, answer.text)
    return host.view(episode)


def test_one_decibel_more_25_times(host: Host) -> None:
    episode = host.filled()
    louder = {"kind": "gain_span", "start": RATE, "frames": RATE, "by_db": 1.0}
    answers = [host.edit(episode, louder) for _ in range(25)]
    assert [answer.status_code for answer in answers] == [200] * 24 + [422]
    assert "it goes up to +24 dB" in answers[-1].json()["sentence"]
    assert max(p["db"] for p in opens(host, episode)["tracks"][0]["envelope"]) == 24.0


def test_a_history_of_before_the_bounds_opens_and_tells_what_was_held(host: Host) -> None:
    episode = host.filled()
    for _ in range(24):
        host.edit(episode, {"kind": "gain_span", "start": RATE, "frames": RATE, "by_db": 1.0})
    store = host.state.store
    with writing(store.engine) as session:
        row = session.exec(select(EditRow).order_by(EditRow.id.desc())).first()
        row.edit = GainSpan(start=RATE, frames=RATE, by_db=9.0).model_dump_json()
    store.cache.drop(lambda _: True)
    view = opens(host, episode)
    assert max(p["db"] for p in view["tracks"][0]["envelope"]) == 24.0
    assert any("is more than there may be" in sentence for sentence in view["notices"])


_UNREADABLE = ['{"kind": "even_out", "section_gains_db": [null], "gain_db": null}', "{", "null"]


@pytest.mark.parametrize("stored", _UNREADABLE)
def test_a_stored_edit_that_cannot_be_read_is_left_out_and_told(host: Host, stored: str) -> None:
    episode = host.filled()
    host.edit(episode, {"kind": "cut", "start": 0, "frames": RATE})
    host.edit(episode, {"kind": "add_marker", "at": 0, "name": "x"})
    store = host.state.store
    with writing(store.engine) as session:
        row = session.exec(select(EditRow).where(EditRow.name == "Cut 1.0 s")).one()
        row.edit = stored
    store.cache.drop(lambda _: True)
    view = opens(host, episode)
    assert view["notices"] == ["The change “Cut 1.0 s” cannot be read any more and was left out."]
    assert view["markers"][0]["name"] == "x"
    assert host.edit(episode, {"kind": "cut", "start": 0, "frames": RATE}).status_code == 200


@pytest.mark.parametrize("stored", ["{", "null", '{"tracks": 3}', "\x00"])
def test_an_unreadable_snapshot_is_replayed_from_the_history(host: Host, stored: str) -> None:
    episode = host.filled()
    for at in (0, RATE):
        host.edit(episode, {"kind": "cut", "start": at, "frames": RATE // 2})
    before = opens(host, episode)
    store = host.state.store
    with writing(store.engine) as session:
        row = session.exec(select(EditRow).order_by(EditRow.id.desc())).first()
        row.snapshot = stored
    store.cache.drop(lambda _: True)
    assert opens(host, episode) == before


@given(st.integers(0, 2**32))
@settings(
    max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
def test_any_sequence_of_requests_leaves_an_episode_that_opens(host: Host, seed: int) -> None:
    """Requests of the property test over documents, sent as a browser would; what is refused is
    refused with a sentence."""
    rng = random.Random(seed)
    episode = host.filled()
    for _ in range(15):
        timeline = host.state.store.timeline(episode, host.view(episode)["revision"])
        answer = host.edit(episode, random_edit(timeline, rng).model_dump(mode="json"))
        assert answer.status_code in (200, 422), answer.text
        if answer.status_code == 422:
            assert answer.json()["sentence"]
    host.state.store.cache.drop(lambda _: True)
    opens(host, episode)
