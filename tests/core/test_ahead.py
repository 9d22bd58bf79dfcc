"""Working ahead in another thread: the same blocks, the same errors, and nothing left running."""

import threading
from collections.abc import Iterator

import pytest

from airtrim.core.media.ahead import ahead
from tests.waiting import eventually


def running() -> int:
    return sum(thread.name == "ahead" for thread in threading.enumerate())


def test_every_block_comes_once_and_in_order() -> None:
    assert list(ahead(iter(range(1000)))) == list(range(1000))
    assert list(ahead(iter(()))) == []


def test_it_stays_a_few_blocks_ahead_and_no_more() -> None:
    made: list[int] = []

    def source() -> Iterator[int]:
        for number in range(100):
            made.append(number)
            yield number

    blocks = ahead(source())
    for used in range(1, 5):
        next(blocks)
        # What waits to be used, and the one that waits for a place.
        eventually(lambda used=used: len(made) == used + 9)
    blocks.close()


def test_an_error_in_the_source_is_raised_after_what_came_before_it() -> None:
    def source() -> Iterator[int]:
        yield 1
        yield 2
        raise ValueError("the disk is full")

    seen: list[int] = []
    with pytest.raises(ValueError, match="disk is full"):
        seen.extend(ahead(source()))
    assert seen == [1, 2]
    assert running() == 0


def test_a_caller_that_stops_early_stops_the_source() -> None:
    closed = threading.Event()

    def source() -> Iterator[int]:
        try:
            while True:
                yield 0
        finally:
            closed.set()

    blocks = ahead(source())
    next(blocks)
    blocks.close()
    assert running() == 0
    assert closed.wait(2)


def test_an_error_in_the_caller_leaves_no_thread() -> None:
    def use() -> None:
        for _ in ahead(iter(range(100))):
            raise RuntimeError("cancelled")

    with pytest.raises(RuntimeError):
        use()
    assert running() == 0


def test_one_may_work_ahead_of_another() -> None:
    doubled = (2 * number for number in ahead(iter(range(500))))
    assert list(ahead(doubled)) == [2 * number for number in range(500)]
