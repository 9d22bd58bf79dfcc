"""Calls done by processes of this machine: in order, bounded, and one that ends its process."""

import os
import threading
import time
from concurrent.futures import Future
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from airtrim.compute.here import Here
from airtrim.compute.inline import INLINE
from airtrim.compute.order import in_order, told
from airtrim.core.media.packing import Stretch, pack, unpack
from airtrim.errors import Cancelled, EndedWorker
from tests.reference import RATE


class ByHand:
    """Does nothing until it is told to."""

    room = 2
    alone = ""

    def __init__(self) -> None:
        self.asked: list[tuple[Future[Any], Any]] = []

    def submit(self, call: Any, /, *args: Any) -> "Future[Any]":
        future: Future[Any] = Future()
        self.asked.append((future, args))
        return future

    def needing(self, *_what: str) -> "ByHand":
        return self


def test_answers_come_in_order_and_no_more_is_asked_for_than_is_of_use() -> None:
    compute = ByHand()
    taken: list[int] = []

    def stretches() -> Any:
        for number in range(10):
            taken.append(number)
            yield (number,)

    answers = in_order(compute, abs, stretches())
    first: list[Any] = []
    asking = threading.Thread(target=lambda: first.append(next(answers)))
    asking.start()
    while len(compute.asked) < 5:
        pass
    compute.asked[1][0].set_result("second")
    asking.join(0.3)
    assert not first, "the first is waited for"
    compute.asked[0][0].set_result("first")
    asking.join()
    assert first == ["first"]
    assert next(answers) == "second"
    assert len(taken) <= 7, "a stretch lies in memory while it is under way"


def test_what_has_not_begun_is_not_done_after_a_cancel() -> None:
    compute = ByHand()

    def look() -> None:
        raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        next(in_order(compute, abs, [(1,), (2,), (3,)], look))
    assert all(future.cancelled() for future, _ in compute.asked)


def test_an_error_of_a_call_is_that_of_the_whole() -> None:
    with pytest.raises(ZeroDivisionError):
        list(in_order(INLINE, divmod, [(1, 1), (1, 0)]))


def test_a_call_that_ends_its_process_takes_no_other_along() -> None:
    """``os._exit`` ends a process as a crash in a library does."""
    compute = Here(2)
    ending = compute.submit(os._exit, 3)
    beside = [compute.submit(pow, number, 2) for number in range(6)]
    assert [one.result() for one in beside] == [0, 1, 4, 9, 16, 25]
    with pytest.raises(EndedWorker):
        ending.result()
    assert compute.submit(pow, 2, 10).result() == 1024, "others take its place"


def test_what_is_cancelled_before_it_begins_is_not_done(tmp_path: Path) -> None:
    """Processes take a call more than they can do, so that one is always at hand."""
    compute = Here(1)
    first = compute.submit(time.sleep, 0.5)
    waiting = [compute.submit(Path.touch, tmp_path / str(number)) for number in range(6)]
    for one in waiting:
        one.cancel()
    first.result()
    assert compute.submit(pow, 2, 10).result() == 1024
    assert len(list(tmp_path.iterdir())) <= 2
    compute.end()


def test_what_gives_way_waits_for_what_came_after_it(tmp_path: Path) -> None:
    compute = Here(1)
    batch = [compute.giving_way.submit(_noted, tmp_path / "order", "b") for _ in range(6)]
    episode = [compute.submit(_noted, tmp_path / "order", "e") for _ in range(3)]
    for one in (*batch, *episode):
        one.result()
    order = (tmp_path / "order").read_text()
    assert sorted(order) == sorted("bbbbbbeee")
    assert order.endswith("bbbb"), "of the batch no more goes first than had been begun"
    compute.end()


def _noted(where: Path, what: str) -> None:
    with where.open("a") as file:
        file.write(what)


def test_working_alone_is_told_beside_what_is_done() -> None:
    compute = ByHand()
    compute.alone = "nobody is there"
    assert told("Measuring", compute) == "Measuring (nobody is there)"
    assert told("Measuring", INLINE) == "Measuring"


@given(
    st.lists(st.integers(-(2**23), 2**23 - 1), min_size=1, max_size=50),
    st.sampled_from([2.0**-23, 2.0**-20, 2.0**-17]),
)
def test_what_was_kept_in_24_bits_travels_without_a_change(values: list[int], step: float) -> None:
    """Takes lie in 24 bits at full level, at an eighth and at a 64th of it."""
    sound = (np.array(values, np.float32) * np.float32(step))[:, None]
    assert np.array_equal(unpack(pack(sound, RATE)), sound)


def test_a_stretch_is_read_as_its_recording_would_be() -> None:
    rng = np.random.default_rng(0)
    whole = rng.standard_normal((1000, 2)).astype(np.float32)
    stretch = Stretch(whole[300:700], 300, 1000)
    assert (stretch.frames, stretch.channels) == (1000, 2)
    assert np.array_equal(stretch.read(350, 100), whole[350:450])
    assert not stretch.read(700, 50).any()
