"""Processes beside a server: they end when it does."""

import os
import signal
import threading
import time

_LOOK_EVERY_S = 0.5


def cores() -> int:
    """How many cores this process may use."""
    if hasattr(os, "sched_getaffinity"):
        return len(os.sched_getaffinity(0))
    return os.cpu_count() or 1


def threads() -> int:
    """How many threads a computation in this process may use: fewer than there are cores where it
    is one of several at work."""
    return int(os.environ.get("OMP_NUM_THREADS") or cores())


def follow(parent: int) -> None:
    """End this process at once when the process ``parent``, whose child it is, is gone: one that
    was killed tells nobody, and a child would wait for work for ever."""

    def look() -> None:
        while os.getppid() == parent:
            time.sleep(_LOOK_EVERY_S)
        os.kill(os.getpid(), signal.SIGKILL)

    threading.Thread(target=look, daemon=True).start()
