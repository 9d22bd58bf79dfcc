"""Work that is asked to stop, at every moment of its life; and errors that say where they are put
right."""

import os
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from threading import Barrier

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from airtrim.errors import Cancelled
from airtrim.jobs.kinds.measuring import MEASURE, MeasureParams
from airtrim.jobs.lifecycle import MOST_ATTEMPTS, Report, let_go, recover, run, stop
from airtrim.store.purging import Bin
from airtrim.store.tables import HandOverRow
from airtrim.store.uploads import EXPIRE_S, Uploads
from tests.api.host import Host, wav
from tests.reference import RATE
from tests.serving import upload


def queued(host: Host, episode: int) -> str:
    return MEASURE.queued(host.state.store, episode, MeasureParams(revision=0)).id


def cancelled(host: Host, job: str):  # type: ignore[no-untyped-def]
    return host.client.post(f"/api/jobs/{job}/cancel")


@pytest.mark.parametrize("state", ["queued", "interrupted"])
def test_what_is_not_under_way_stops_at_once_and_can_be_run_again(host: Host, state: str) -> None:
    job = queued(host, host.filled())
    host.state.store.update_job(job, state=state)
    told = cancelled(host, job).json()
    assert (told["state"], told["doing"]) == ("cancelled", "Cancelled")
    # A worker that was woken for it leaves it alone.
    run(host.state.store, host.state.settings, job, pytest.fail)
    assert host.client.get(f"/api/jobs/{job}").json()["state"] == "cancelled"
    assert host.client.post(f"/api/jobs/{job}/again").json()["state"] == "queued"
    assert host.work(job)["state"] == "done"


def test_what_is_under_way_stops_at_its_next_report(host: Host) -> None:
    store = host.state.store
    job = queued(host, host.filled())
    store.begin_job(job)
    told = cancelled(host, job).json()
    assert told["state"] == "running"
    assert store.job(job).cancel
    # The worker is gone before it could say so: the next one does not begin it anew.
    assert job in recover(store)
    run(store, host.state.settings, job, pytest.fail)
    assert store.job(job).state == "cancelled"


@pytest.mark.parametrize("state", ["done", "failed", "cancelled"])
def test_what_has_ended_is_not_stopped(host: Host, state: str) -> None:
    job = queued(host, host.filled())
    host.state.store.update_job(job, state=state)
    refused = cancelled(host, job)
    assert (refused.status_code, refused.json()["sentence"]) == (
        422,
        "That work has already ended.",
    )


def test_a_job_is_begun_or_called_off_and_never_both(host: Host) -> None:
    """A worker and a host at the same moment, forty times."""
    store = host.state.store
    episode = host.filled()
    with ThreadPoolExecutor(2) as pool:
        for _ in range(40):
            job = queued(host, episode)
            both = Barrier(2)

            def begin(job: str = job, both: Barrier = both):  # type: ignore[no-untyped-def]
                both.wait()
                return store.begin_job(job)

            def call_off(job: str = job, both: Barrier = both):  # type: ignore[no-untyped-def]
                both.wait()
                return stop(store, job)

            begun, stopped = pool.submit(begin), pool.submit(call_off)
            was_begun = begun.result() is not None
            told = stopped.result()
            assert told.state == ("running" if was_begun else "cancelled")
            assert told.cancel
            store.update_job(job, state="cancelled")


def test_after_three_beginnings_it_waits_for_the_host(host: Host) -> None:
    store = host.state.store
    job = queued(host, host.filled())
    for _ in range(MOST_ATTEMPTS):
        assert store.begin_job(job) is not None
        assert (job in recover(store)) == (store.job(job).state == "queued")
    told = host.client.get(f"/api/jobs/{job}").json()
    assert told["state"] == "interrupted"
    assert "Nothing was lost; run it again" in told["error"]
    again = host.client.post(f"/api/jobs/{job}/again").json()
    assert (again["error"], again["place"]) == (None, None)
    assert host.work(job)["state"] == "done"


def test_a_draft_that_was_left_while_it_was_published_is_a_draft_again(
    host: Host, tmp_path: Path
) -> None:
    store = host.state.store
    episode = host.filled()
    body = {"name": "Here", "way": "folder", "address": {"url": str(tmp_path)}, "secret": ""}
    there = host.client.post("/api/shows/1/destinations", json=body).json()["id"]
    left = "a" * 32
    row = HandOverRow(
        id=left, episode_id=episode, destination_id=there, export_id="b" * 32, revision=1
    )
    store.begin_hand_over(row, again=True)
    store.note_hand_over(left, state="publishing")
    let_go(store, "hand_over")
    assert store.hand_over(left).state == "publishing"
    let_go(store, "publish")
    row = store.hand_over(left)
    assert (row.state, row.error) == ("draft", "It was called off.")


EMPTY = {
    "check?revision=0": "is nothing to check",
    "exports": "is nothing to export",
    "tracks": "are no tracks to write",
    "parts": "is nothing to export",
    "ride": "is nothing to even out",
}


@pytest.mark.parametrize("path", EMPTY)
def test_an_empty_episode_leads_to_where_sound_comes_from(host: Host, path: str) -> None:
    body = None if "?" in path else {"revision": 0}
    url = f"/api/episodes/{host.new_episode()}/{path}"
    answer = host.client.request("POST" if body else "GET", url, json=body)
    told = answer.json()
    assert (answer.status_code, told["place"]) == (422, "record")
    sentence = f"There is nothing in this episode yet, so there {EMPTY[path]}."
    assert told["sentence"] == sentence


def test_what_has_no_place_names_none(host: Host) -> None:
    answer = host.client.get("/api/episodes/999")
    assert (answer.status_code, answer.json()["place"]) == (404, None)
    assert host.work(queued(host, host.filled(wav())))["place"] is None


def test_an_import_that_was_called_off_is_brought_in_after_all(host: Host) -> None:
    episode = host.new_episode()
    job = upload(host.client, episode, wav())
    assert cancelled(host, job).json()["state"] == "cancelled"
    assert host.view(episode)["takes"] == []
    Bin(host.state.store).empty(all_now=True)
    host.client.post(f"/api/jobs/{job}/again").raise_for_status()
    assert host.work(job)["state"] == "done"
    (take,) = host.view(episode)["takes"]
    assert take["frames"] == 6 * RATE


def test_what_was_sent_and_not_brought_in_goes_after_a_week(host: Host) -> None:
    """A file that was called off, one that is no sound, and one that still waits."""
    files = host.state.store.files
    episode = host.new_episode()
    called_off, no_sound, waiting, new = (
        upload(host.client, episode, data) for data in (wav(), b"no sound" * 999, wav(), wav())
    )
    for job in (called_off, new):
        cancelled(host, job)
    assert host.work(no_sound)["state"] == "failed"
    for job in (called_off, no_sound, waiting):
        for path in files.uploads.glob(f"{job}*"):
            os.utime(path, (time.time() - EXPIRE_S - 60,) * 2)
    freed = Bin(host.state.store).empty()
    left = {job for job, _ in Uploads(files).whole()}
    assert left == {waiting, new}
    assert freed.bytes >= 6 * RATE * 2
    assert host.work(waiting)["state"] == "done"


@pytest.mark.parametrize("after", [0.1, 0.5, 0.9])
def test_an_export_that_is_called_off_under_way_leaves_nothing_half_made(
    host: Host, monkeypatch: pytest.MonkeyPatch, after: float
) -> None:
    store = host.state.store
    episode = host.filled(wav(20.0))
    body = {"revision": host.view(episode)["revision"]}
    job = host.client.post(f"/api/episodes/{episode}/exports", json=body).json()["id"]
    told: list[float] = []
    note = store.update_job

    def called_off(job_id: str, **values: object):  # type: ignore[no-untyped-def]
        told.append(float(str(values.get("progress", 0.0))))
        if told[-1] >= after:
            stop(store, job_id)
        return note(job_id, **values)

    monkeypatch.setattr(store, "update_job", called_off)
    monkeypatch.setattr("airtrim.jobs.lifecycle._REPORT_EVERY_S", 0.0)
    assert host.work(job)["state"] == "cancelled"
    assert max(told) >= after
    monkeypatch.undo()
    assert not list(store.files.export(job).glob("*"))
    assert not list((store.files.root / "tmp").iterdir())
    assert host.client.get(f"/api/exports/{job}/file").status_code == 404
    # What was measured on the way is no fault: it is done after all in less time.
    host.client.post(f"/api/jobs/{job}/again").raise_for_status()
    assert host.work(job)["state"] == "done"
    assert host.client.get(f"/api/exports/{job}/file").status_code == 200


@given(st.lists(st.floats(0.0, 1.2), min_size=1, max_size=40))
@settings(max_examples=30, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_progress_never_falls_whatever_a_job_reports(host: Host, fractions: list[float]) -> None:
    store = host.state.store
    job = queued(host, host.new_episode())
    report, seen = Report(store, job), [0.0]
    for number, fraction in enumerate(fractions):
        report(fraction, f"Part {number}")  # another part is always written
        seen.append(store.job(job).progress)
    assert seen == sorted(seen)
    assert seen[-1] == pytest.approx(min(1.0, max(fractions)), abs=1e-4)


def test_a_job_that_reports_a_thousand_times_writes_what_can_be_seen(
    host: Host, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Simulated clock, 20 reports a second for 500 s: before, five rows a second were written."""
    store = host.state.store
    job = queued(host, host.new_episode())
    clock, writes = [0.0], []
    monkeypatch.setattr("airtrim.jobs.lifecycle.time.monotonic", lambda: clock[0])
    update = store.update_job
    monkeypatch.setattr(store, "update_job", lambda *a, **v: (writes.append(v), update(*a, **v))[1])
    report = Report(store, job)
    for step in range(10_000):
        clock[0] += 0.05
        report(step / 10_000, "Listening")
    assert 150 <= len(writes) <= 300
    assert store.job(job).progress == pytest.approx(1.0, abs=0.02)
    store.stop_job(job)
    clock[0] += 0.25
    with pytest.raises(Cancelled):  # although nothing new is to be seen
        report(0.99, "Listening")
