"""Calls done by processes of this machine, as many as it has cores and memory for."""

import os
import threading
from collections.abc import Callable
from concurrent.futures import Future, InvalidStateError, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from functools import lru_cache
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

    def submit(self, call: Callable[..., T], /, *args: Any) -> "Future[T]":
        """Have a call done. One that ends its process is tried once more, alone; the second time
        its error is EndedWorker."""
        future: Future[T] = Future()
        pool = self._started()
        try:
            inner = pool.submit(call, *args)
        except BrokenProcessPool:
            inner = self._started(instead_of=pool).submit(call, *args)
        inner.add_done_callback(lambda done: self._ended(done, future, call, args))
        return future

    def needing(self, *_what: str) -> "Here":
        """The same: what is not here is nowhere."""
        return self

    def _started(self, instead_of: ProcessPoolExecutor | None = None) -> ProcessPoolExecutor:
        with self._lock:
            if self._pool is None or self._pool is instead_of:
                self._pool = started(self.room)
            return self._pool

    def _ended(
        self, inner: "Future[T]", future: "Future[T]", call: Callable[..., T], args: Any
    ) -> None:
        if inner.cancelled() or not isinstance(inner.exception(), BrokenProcessPool):
            pass_on(inner, future)
            return
        # A process that dies takes those beside it along: which of them it was is tried alone.
        pool = started(1)
        alone = pool.submit(call, *args)
        alone.add_done_callback(lambda done: _settle(done, future))
        pool.shutdown(wait=False)


def started(room: int) -> ProcessPoolExecutor:
    """Processes of this machine that end when this one does, and share its cores."""
    return ProcessPoolExecutor(
        room, get_context("spawn"), _begin, (os.getpid(), max(1, threads() // room))
    )


def pass_on(inner: "Future[T]", future: "Future[T]") -> None:
    """Give the answer of one future to another, unless that has one, or was cancelled."""
    with suppress(InvalidStateError):
        if inner.cancelled():
            future.cancel()
        elif error := inner.exception():
            future.set_exception(error)
        else:
            future.set_result(inner.result())


def _settle(inner: "Future[T]", future: "Future[T]") -> None:
    if not inner.cancelled() and isinstance(inner.exception(), BrokenProcessPool):
        with suppress(InvalidStateError):
            future.set_exception(EndedWorker())
    else:
        pass_on(inner, future)


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
