"""What every kind of work has to have, so that one new kind is one new file."""

from typing import get_args

import pytest
from pydantic import BaseModel

from airtrim.errors import BadInput
from airtrim.jobs.base import Kind, Result, Shown, Work
from airtrim.jobs.kinds import KINDS
from airtrim.jobs.lifecycle import recover, run
from tests.api.host import Host


@pytest.mark.parametrize("kind", KINDS.values(), ids=KINDS)
def test_a_kind_says_what_it_is_told_and_what_changes(kind: Kind) -> None:
    assert kind.title[0].isupper()
    assert issubclass(kind.params, BaseModel)
    assert set(kind.changes) <= set(get_args(Shown))


class _Params(BaseModel):
    times: int


@pytest.fixture
def counting():
    """A kind of work of this test, which is nowhere else: that is all that one takes."""
    seen: list[object] = []

    def work(work: Work, params: _Params) -> Result:
        seen.append(params.times)
        if params.times < 0:
            raise BadInput("It cannot be done less than never.")
        work.progress(0.5, "Counting")
        follow = work.follow(kind, _Params(times=0), "after") if params.times else None
        return Result(notice="Counted.", next=(follow,) if follow else ())

    kind = Kind(
        "count",
        "Counting",
        _Params,
        work,
        changes=("levels",),
        let_go=lambda _, all: seen.append(all),
    )
    yield kind, seen
    del KINDS["count"]


def test_a_new_kind_goes_through_all_of_its_life(host: Host, counting) -> None:  # type: ignore[no-untyped-def]
    kind, seen = counting
    episode = host.new_episode()
    store, settings = host.state.store, host.state.settings
    woken: list[str] = []
    job = kind.queued(store, episode, _Params(times=2))
    run(store, settings, job.id, woken.append)
    told = host.client.get(f"/api/jobs/{job.id}").json()
    assert (told["state"], told["title"], told["changes"]) == ("done", "Counting", ["levels"])
    assert told["result"]["notice"] == "Counted."
    assert woken == ["after"]
    store.update_job(job.id, state="queued")
    run(store, settings, job.id, woken.append)
    assert len(store.jobs(episode)) == 2, "what follows was queued twice"
    assert recover(store) == ["after"]
    assert seen == [2, 2, [_Params(times=0)]]


def test_what_a_new_kind_refuses_is_told(host: Host, counting) -> None:  # type: ignore[no-untyped-def]
    kind, _ = counting
    job = kind.queued(host.state.store, host.new_episode(), _Params(times=-1))
    done = host.work(job.id)
    assert (done["state"], done["error"]) == ("failed", "It cannot be done less than never.")


def test_work_of_another_version_can_still_be_looked_at(host: Host) -> None:
    job = host.state.store.add_job("of_another_time", host.new_episode(), "{}")
    told = host.client.get(f"/api/jobs/{job.id}").json()
    assert (told["kind"], told["changes"]) == ("of_another_time", [])
    done = host.work(job.id)
    assert done["error"] == "This version of Air Trim does not know how to do that."
