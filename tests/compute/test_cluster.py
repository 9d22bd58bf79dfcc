"""Heavy work on other machines: the same to the frame, whatever becomes of them."""

import json
import os
import shutil
import signal
import sys
import threading
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from airtrim.compute.cluster import (
    ALONE,
    LIMITS,
    NO_CERTIFICATES,
    THIS_VERSION,
    UNABLE,
    Cluster,
    Link,
    compute_at,
)
from airtrim.compute.order import in_order
from airtrim.core.media.reading import InMemory
from airtrim.core.media.take import TakeReader
from airtrim.core.sound import learnt
from airtrim.core.speech.models import packaged_model, weights_in
from airtrim.core.speech.recognise import transcribe
from airtrim.core.speech.voices import with_voices
from airtrim.errors import BadInput, EndedWorker
from tests.commands import airtrim
from tests.machines import DASK, Machines, at_work, stop, workers_of
from tests.reference import RATE
from tests.waiting import eventually

ANY = frozenset({THIS_VERSION})
QUICK = replace(LIMITS, gone_s=1.0, again_s=2.0)


def cluster(machines: Machines, limits=QUICK) -> tuple[Cluster, Link]:
    link = Link(machines.address, limits)
    return Cluster(link, urgent=True), link


def test_words_voices_and_cleaned_sound_are_the_same_to_the_frame(
    machines: Machines, host_take: TakeReader, monkeypatch: pytest.MonkeyPatch
) -> None:
    machines.worker(), machines.worker()
    compute, link = cluster(machines)
    workers_of(link, ANY | {weights_in(packaged_model()).mark}, 2)
    take = InMemory(np.tile(host_take.read(0, 36 * RATE), (2, 1)))
    monkeypatch.setattr(learnt, "_STRETCHES", replace(learnt._STRETCHES, length=30 * RATE))
    results = []
    for given in ({"compute": compute}, {}):
        words = tuple(transcribe(take.read, take.frames, packaged_model(), **given))
        cleaned = np.concatenate(list(learnt.clean(take, **given)))
        results.append((with_voices(take, words, **given), cleaned))
    there, here = results
    assert len(here[0]) > 100
    assert there[0] == here[0]
    assert np.array_equal(there[1], here[1])
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


def test_a_call_is_not_given_up_where_its_workers_died_of_something_else(
    machines: Machines,
) -> None:
    machines.worker()
    compute, link = cluster(machines, replace(QUICK, gone_s=60.0))
    workers_of(link, ANY, 1)
    assert compute.submit(_only_a_child_of, os.getpid()).result() == "done"


def _only_a_child_of(parent: int) -> str:
    if os.getppid() != parent:
        os._exit(3)
    return "done"


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
    assert other.alone == UNABLE
    assert compute.submit(pow, 2, 3).result() == 8
    assert not compute.alone, "and again where it can be done"


@pytest.mark.parametrize("end", [signal.SIGKILL, signal.SIGSTOP])
def test_without_a_scheduler_this_machine_goes_on_and_says_so(
    machines: Machines, end: signal.Signals
) -> None:
    machines.worker()
    compute, link = cluster(machines)
    workers_of(link, ANY, 1)
    answers = in_order(compute, _slow_square, [(number,) for number in range(8)])
    found = [next(answers)]
    machines.scheduler.send_signal(end)
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


@pytest.mark.parametrize(
    ("address", "said"),
    [
        ("nonsense", ALONE),
        ("tcp://127.0.0.1:99999999", ALONE),
        ("tls://127.0.0.1:8786", NO_CERTIFICATES),
    ],
)
def test_an_address_that_leads_nowhere_is_told_and_stops_nothing(address: str, said: str) -> None:
    compute = compute_at(address)
    assert compute.submit(pow, 2, 3).result() == 8
    assert compute.alone == said


def test_a_worker_without_certificates_is_told_what_it_needs() -> None:
    told = airtrim("worker", "tls://127.0.0.1:8786")
    assert told.returncode == 1
    assert "Certificates" in told.stderr


def test_what_is_not_installed_is_told_with_what_to_do(monkeypatch) -> None:
    monkeypatch.setitem(sys.modules, "distributed", None)
    with pytest.raises(BadInput, match=r"airtrim\[cluster\]"):
        compute_at("tcp://127.0.0.1:9")


def test_a_batch_over_two_workers_of_which_one_is_killed(
    machines: Machines, tmp_path: Path, demo: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """From the command line: the same words as here, nothing twice and nothing missing."""
    talks, out = tmp_path / "talks", tmp_path / "out"
    talks.mkdir()
    names = ("host-bridge", "host-closing")
    for name in names:
        shutil.copy(demo / "sound" / f"{name}.flac", talks)
    dying = machines.worker()
    machines.worker()
    link = Link(machines.address)
    workers_of(link, ANY, 2)
    monkeypatch.setenv("AIRTRIM_COMPUTE", machines.address)

    def kill_one_at_work() -> None:
        eventually(lambda: any(link.client().processing().values()))
        at_work(dying).kill()

    killing = threading.Thread(target=kill_one_at_work)
    killing.start()
    done = airtrim("batch", str(talks), "-o", str(out), "--workers", "2", "--json")
    killing.join()
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["made"] == 2
    report = json.loads((out / "report.json").read_text())
    assert [one["warnings"] for one in report["files"]] == [[], []]
    monkeypatch.setenv("AIRTRIM_COMPUTE", "")
    alone = tmp_path / "alone"
    again = airtrim("batch", str(talks), "-o", str(alone), "--workers", "1", "--json")
    assert again.returncode == 0, again.stderr
    for name in names:
        assert (out / f"{name}.vtt").read_text() == (alone / f"{name}.vtt").read_text()
