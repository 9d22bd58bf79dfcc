"""Heavy work on other machines: the same to the frame, whatever becomes of them."""

import os
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from airtrim.compute.cluster import ALONE, LIMITS, THIS_VERSION, Cluster, Link, compute_at
from airtrim.compute.order import in_order
from airtrim.core.media.reading import InMemory
from airtrim.core.media.take import TakeReader
from airtrim.core.sound import denoise, learnt
from airtrim.core.speech.models import packaged_model, weights_in
from airtrim.core.speech.recognise import transcribe
from airtrim.core.speech.voices import with_voices
from airtrim.errors import BadInput, EndedWorker
from tests.commands import airtrim
from tests.machines import DASK, Machines, at_work, stop, workers_of
from tests.reference import RATE

ANY = frozenset({THIS_VERSION})
QUICK = replace(LIMITS, gone_s=1.0, again_s=2.0)


def cluster(machines: Machines, limits=QUICK) -> tuple[Cluster, Link]:
    link = Link(machines.address, limits)
    return Cluster(link, urgent=True), link


def test_words_voices_and_cleaned_sound_are_the_same_to_the_frame(
    machines: Machines, host_take: TakeReader
) -> None:
    machines.worker(), machines.worker()
    compute, link = cluster(machines)
    needs = ANY | {weights_in(packaged_model()).mark}
    workers_of(link, needs, 2)
    frames = 60 * RATE
    sound = np.tile(host_take.read(0, frames), (3, 1))
    take = InMemory(sound)
    results = []
    for where in (compute, None):
        given = {} if where is None else {"compute": where}
        words = tuple(transcribe(take.read, 2 * frames, packaged_model(), **given))
        room = denoise.learn(take.read(0, RATE))
        results.append(
            (
                with_voices(take, words, **given),
                np.concatenate(list(learnt.clean(take, **given))),
                np.concatenate(list(denoise.clean(take, room, **given))),
            )
        )
    there, here = results
    assert len(here[0]) > 100
    assert there[0] == here[0]
    assert np.array_equal(there[1], here[1])
    assert np.array_equal(there[2], here[2])
    assert not compute.alone


def test_a_worker_that_dies_or_hangs_costs_nothing_but_time(machines: Machines) -> None:
    dying, hanging = machines.worker(), machines.worker()
    compute, link = cluster(machines, replace(QUICK, stalled_s=1.5))
    workers_of(link, ANY, 2)
    answers = in_order(compute, _slow_square, [(number,) for number in range(12)])
    found = [next(answers)]
    at_work(dying).kill()
    found.append(next(answers))
    stop(at_work(hanging))
    found.extend(answers)
    assert found == [number**2 for number in range(12)]


def _slow_square(number: int) -> int:
    time.sleep(0.2)
    return number**2


def test_a_call_that_ends_every_worker_is_given_up(machines: Machines) -> None:
    machines.worker()
    compute, link = cluster(machines, replace(QUICK, gone_s=60.0))
    workers_of(link, ANY, 1)
    with pytest.raises(EndedWorker):
        compute.submit(os._exit, 3).result()
    assert compute.submit(pow, 2, 10).result() == 1024


def test_workers_that_cannot_do_it_are_not_asked(machines: Machines) -> None:
    """Another version, and one without the recogniser."""
    machines.start(
        DASK, "worker", machines.address, "--no-dashboard", "--resources", "airtrim-0.0.1=1"
    )
    machines.worker()
    compute, link = cluster(machines)
    workers_of(link, ANY, 1)
    pid = compute.submit(os.getpid).result()
    assert pid != os.getpid()
    assert not compute.alone
    other = compute.needing("recogniser-unknown")
    assert other.submit(pow, 2, 3).result() == 8
    assert link.able(other._needs) == []


def test_without_a_scheduler_this_machine_goes_on_and_says_so(machines: Machines) -> None:
    machines.worker()
    compute, link = cluster(machines)
    workers_of(link, ANY, 1)
    answers = in_order(compute, _slow_square, [(number,) for number in range(8)])
    found = [next(answers)]
    machines.scheduler.kill()
    found.extend(answers)
    assert found == [number**2 for number in range(8)]
    assert compute.alone == ALONE


def test_a_scheduler_that_is_not_there_stops_nothing(monkeypatch, tmp_path: Path, demo) -> None:
    monkeypatch.setenv("AIRTRIM_COMPUTE", "tcp://127.0.0.1:9")
    out = tmp_path / "clean.wav"
    done = airtrim("clean", str(demo / "sound" / "intro.flac"), "-o", str(out), "--json")
    assert done.returncode == 0, done.stderr
    assert out.stat().st_size > 100_000
    told = airtrim("worker", "tcp://127.0.0.1:9")
    assert told.returncode == 1
    assert "No scheduler answers" in told.stderr


def test_what_is_not_installed_is_told_with_what_to_do(monkeypatch) -> None:
    monkeypatch.setitem(sys.modules, "distributed", None)
    with pytest.raises(BadInput, match=r"airtrim\[cluster\]"):
        compute_at("tcp://127.0.0.1:9")
