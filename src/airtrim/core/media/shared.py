"""One stream of blocks for several who use it at the same time."""

import queue
import threading
from collections.abc import Callable, Iterator, Sequence
from typing import TypeVar

T = TypeVar("T")

_MOST_WAITING = 8
_LOOK_EVERY_S = 0.1


class _Stopped(Exception):
    """Somebody else failed: there is nothing more to wait for."""


def share(source: Iterator[T], users: Sequence[Callable[[Iterator[T]], None]]) -> None:
    """Give every block of ``source`` to each of ``users``, which run in threads of their own, the
    slowest setting the pace. The first error of any stops all, and is raised.

    >>> sums = []
    >>> share(iter([1, 2, 3]), [lambda each: sums.append(sum(each)), lambda each: sums.append(9)])
    >>> sorted(sums)
    [6, 9]
    """
    lines: list[queue.Queue[T | None]] = [queue.Queue(_MOST_WAITING) for _ in users]
    done = [threading.Event() for _ in users]
    stopped = threading.Event()
    errors: list[BaseException] = []

    def blocks(line: "queue.Queue[T | None]") -> Iterator[T]:
        while True:
            try:
                block = line.get(timeout=_LOOK_EVERY_S)
            except queue.Empty:
                if stopped.is_set():
                    raise _Stopped from None
                continue
            if block is None:
                return
            yield block

    def work(number: int) -> None:
        try:
            users[number](blocks(lines[number]))
        except _Stopped:
            pass
        except BaseException as error:
            errors.append(error)
            stopped.set()
        finally:
            done[number].set()

    def put(number: int, block: T | None) -> None:
        while not (stopped.is_set() or done[number].is_set()):
            try:
                return lines[number].put(block, timeout=_LOOK_EVERY_S)
            except queue.Full:
                continue

    threads = [
        threading.Thread(target=work, args=(n,), name="sharing", daemon=True)
        for n in range(len(users))
    ]
    for thread in threads:
        thread.start()
    try:
        for block in source:
            for number in range(len(users)):
                put(number, block)
            if stopped.is_set():
                break
        for number in range(len(users)):
            put(number, None)
    except BaseException:
        stopped.set()
        raise
    finally:
        for thread in threads:
            thread.join()
    if errors:
        raise errors[0]
