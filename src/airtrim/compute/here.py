"""Calls done by processes of this machine, as many as it has cores and memory for."""

import heapq
import os
import threading
from collections.abc import Callable
from concurrent.futures import (
    Future,
    InvalidStateError,
    ProcessPoolExecutor,
    ThreadPoolExecutor,
    wait,
)
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from itertools import count
from multiprocessing import get_context
from typing import Any, TypeVar

from airtrim.errors import EndedWorker
from airtrim.processes import follow, threads

T = TypeVar("T")

WORKER_BYTES = 1_000_000_000
"""What a process needs at most: recogniser, aligner, networks and a stretch of sound."""


class Here:
    """Processes that are started when they are first wanted, and stay, with what they loaded."""

    alone = ""

    def __init__(self, room: int) -> None:
        self.room = room
        self._lock = threading.Lock()
        self._pool: ProcessPoolExecutor | None = None
        self._alone = ThreadPoolExecutor(1)
        self._alone_pool: ProcessPoolExecutor | None = None
        self._waiting: list[tuple[int, int, _Call]] = []
        self._number = count()
        self._under_way = 0

    def submit(self, call: Callable[..., T], /, *args: Any) -> "Future[T]":
        """Have a call done. One that ends its process is tried once more, alone; the second time
        its error is EndedWorker."""
        return self._enter(0, call, args)

    def needing(self, *_what: str) -> "Here":
        """The same: what is not here is nowhere."""
        return self

    @property
    def giving_way(self) -> "GivingWay":
        """The same processes, for what can wait until all else is done."""
        return GivingWay(self)

    def _enter(self, rank: int, call: Callable[..., T], args: tuple[Any, ...]) -> "Future[T]":
        future: Future[T] = Future()
        with self._lock:
            entry = rank, next(self._number), _Call(future, call, args)
            heapq.heappush(self._waiting, entry)
        self._feed()
        return future

    def _feed(self) -> None:
        """Give the processes what comes first. One more than they are at work on: none is idle
        until it is fed again."""
        while True:
            with self._lock:
                if not self._waiting or self._under_way > self.room:
                    return
                _, _, call = heapq.heappop(self._waiting)
                if call.future.cancelled():
                    continue
                self._under_way += 1
            self._give(call)

    def _give(self, call: "_Call") -> None:
        pool = self._started()
        try:
            inner = pool.submit(call.call, *call.args)
        except BrokenProcessPool:
            inner = self._started(instead_of=pool).submit(call.call, *call.args)
        inner.add_done_callback(lambda done: self._ended(done, call))
        # One that is cancelled here need not be done there, if it has not begun.
        call.future.add_done_callback(lambda done: done.cancelled() and inner.cancel())

    def end(self) -> None:
        """End all processes at once, whatever they are at; what waits is not done."""
        with self._lock:
            self._waiting.clear()
        self._alone.shutdown(wait=False, cancel_futures=True)
        self._end_alone()
        if self._pool is not None:
            _end(self._pool)

    def _started(self, instead_of: ProcessPoolExecutor | None = None) -> ProcessPoolExecutor:
        with self._lock:
            if self._pool is None or self._pool is instead_of:
                self._pool = _pool_of(self.room)
            return self._pool

    def _ended(self, inner: "Future[Any]", call: "_Call") -> None:
        with self._lock:
            self._under_way -= 1
        if not call.future.done():
            if inner.cancelled() or not isinstance(inner.exception(), BrokenProcessPool):
                pass_on(inner, call.future)
            else:
                # A process that dies takes along those beside it, and what waits: which of them it
                # was is tried one by one.
                self._alone.submit(self._try_alone, call)
        self._feed()

    def _try_alone(self, call: "_Call") -> None:
        self._alone_pool = pool = _pool_of(1)
        inner = pool.submit(call.call, *call.args)
        wait([inner])
        self._end_alone()  # before the answer, after which all may be ended by who waits for it
        if isinstance(inner.exception(), BrokenProcessPool):
            with suppress(InvalidStateError):
                call.future.set_exception(EndedWorker())
        else:
            pass_on(inner, call.future)

    def _end_alone(self) -> None:
        with self._lock:
            pool, self._alone_pool = self._alone_pool, None
        if pool is not None:
            _end(pool)


@dataclass(frozen=True, slots=True)
class _Call:
    """What is to be done, and who waits for its answer."""

    future: "Future[Any]"
    call: Callable[..., Any]
    args: tuple[Any, ...]


@dataclass(frozen=True, slots=True)
class GivingWay:
    """Processes of this machine for calls that wait until no other waits any more."""

    here: Here
    alone = ""

    @property
    def room(self) -> int:
        """How many calls can be at work at once."""
        return self.here.room

    def submit(self, call: Callable[..., T], /, *args: Any) -> "Future[T]":
        """As ``Here.submit``, after all that does not give way."""
        return self.here._enter(1, call, args)

    def needing(self, *_what: str) -> "GivingWay":
        """The same: what is not here is nowhere."""
        return self


def _pool_of(room: int) -> ProcessPoolExecutor:
    """Processes that end when this one does, and share its cores."""
    return ProcessPoolExecutor(
        room, get_context("spawn"), _begin, (os.getpid(), max(1, threads() // room))
    )


def _end(pool: ProcessPoolExecutor) -> None:
    # A process may have others of its own, for which it would wait for ever.
    for process in list((pool._processes or {}).values()):
        process.kill()
    pool.shutdown(cancel_futures=True)


def pass_on(inner: "Future[T]", future: "Future[T]") -> None:
    """Give the answer of one future to another, unless that has one, or was cancelled."""
    with suppress(InvalidStateError):
        if inner.cancelled():
            future.cancel()
        elif error := inner.exception():
            future.set_exception(error)
        else:
            future.set_result(inner.result())


@lru_cache(maxsize=1)
def here() -> Here:
    """The processes of this one."""
    return Here(room_here())


def room_here(each_bytes: int = WORKER_BYTES) -> int:
    """How many processes this one has cores and memory for: fewer than there are cores where it is
    itself one of several at work."""
    memory = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    return max(1, min(threads(), memory // each_bytes))


def _begin(parent: int, threads: int) -> None:
    follow(parent)
    os.environ["OMP_NUM_THREADS"] = str(threads)
