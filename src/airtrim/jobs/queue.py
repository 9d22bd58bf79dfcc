"""The queue between server and worker: huey on a SQLite file beside the store."""

import contextlib
import logging
import math
import os
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from huey import SqliteHuey
from huey.consumer import Consumer

from airtrim.compute.cluster import compute_at
from airtrim.jobs.kinds import KINDS
from airtrim.jobs.lifecycle import recover, run
from airtrim.logs import event, set_up
from airtrim.processes import follow
from airtrim.settings import Settings
from airtrim.store.store import Store

_LOOK_EVERY_S = 15.0
_JUMP_S, _STEADY_S = 10.0, 60.0
_BEAT_EVERY_S, _SILENT_S = 2.0, 30.0


def _set_aside_if_damaged(path: Path) -> None:
    """Rename a queue that SQLite cannot read. It holds nothing that the store does not know: the
    jobs that wait are put in line again when the worker starts."""
    try:
        with contextlib.closing(sqlite3.connect(path)) as connection:
            if connection.execute("PRAGMA quick_check").fetchone() == ("ok",):
                return
    except sqlite3.OperationalError:
        return  # it is locked, or the disk is full
    except sqlite3.DatabaseError:
        pass
    path.replace(path.with_suffix(".damaged"))
    for ending in ("-wal", "-shm"):
        path.with_name(f"{path.name}{ending}").unlink(missing_ok=True)
    event("queue damaged", file=path.name)


class Queue:
    """Puts jobs in line; in the worker process also takes them out. There are two lines: what a
    host waits for, and what gives way."""

    def __init__(self, store: Store, settings: Settings) -> None:
        _set_aside_if_damaged(settings.data_dir / "queue.db")

        def line(name: str) -> SqliteHuey:
            file = str(settings.data_dir / "queue.db")
            return SqliteHuey(name, filename=file, results=False, fsync=False)

        def work(job_id: str) -> None:
            run(store, settings, job_id, self.wake)

        def work_aside(job_id: str) -> None:
            aside = store.with_compute(compute_at(settings.compute, urgent=False))
            run(aside, settings, job_id, lambda follows: self._aside(follows, priority=1))

        self.first, self.aside = line("airtrim"), line("airtrim-aside")
        self._store = store
        self._task, self._aside = self.first.task()(work), self.aside.task()(work_aside)

    def wake(self, job_id: str) -> None:
        """Tell the worker that this job waits."""
        kind = KINDS.get(self._store.job(job_id).kind)
        (self._aside if kind and kind.gives_way else self._task)(job_id)

    @property
    def waiting(self) -> int:
        """How many jobs the worker was told of and has not begun."""
        return int(self.first.pending_count() + self.aside.pending_count())


class _Consumer(Consumer):  # type: ignore[misc]  # huey has no types
    """Ends the process at once on SIGTERM.

    A slow end lets running jobs meet pools that are already shut down, and they would fail. A job
    that is cut off stays *running* and starts again at the next start (``recover``). SIGINT is the
    server's: it comes to both when a host presses Ctrl+C.
    """

    def _set_signal_handlers(self) -> None:
        signal.signal(signal.SIGTERM, lambda *_: os._exit(0))
        signal.signal(signal.SIGINT, signal.SIG_IGN)


def work_forever(settings: Settings, server: int, heartbeat: int | None = None) -> None:
    """The worker process: recover what was left, then work until the process ``server`` is gone.

    ``heartbeat`` is the file descriptor on which the server hears that this process still runs.
    """
    follow(server)
    if heartbeat is not None:
        threading.Thread(target=_beat, args=(heartbeat,), daemon=True).start()
    os.nice(settings.worker_nice)
    set_up(settings.log_format, settings.log_level)
    store = Store(settings.data_dir, settings.keep_free_bytes)
    store.files.owner = "worker"
    store.compute = compute_at(settings.compute)
    queue = Queue(store, settings)
    queue.first.flush()
    queue.aside.flush()
    waiting = recover(store)
    store.files.sweep()
    for job_id in waiting:
        queue.wake(job_id)
    threading.Thread(target=_wake_forgotten, args=(store, queue), daemon=True).start()
    taking = {"periodic": False, "initial_delay": 0.05, "max_delay": 0.25}
    _Consumer(queue.aside, workers=1, **taking).start()
    _Consumer(queue.first, workers=settings.workers, **taking).run()


def _beat(heartbeat: int) -> None:
    with contextlib.suppress(OSError):  # the server is gone
        while True:
            os.write(heartbeat, b".")
            time.sleep(_BEAT_EVERY_S)


def _wake_forgotten(store: Store, queue: Queue) -> None:
    """Wake jobs whose time has come, and those that wait with nobody told of them, as a full disk
    can leave them."""
    clock = SteadyClock()
    while True:
        time.sleep(_LOOK_EVERY_S)
        with _logged("reserve"):
            store.files.reserve.restore(store.files.free())
        if clock.has_jumped():
            continue
        for kind in KINDS.values():
            with _logged(kind.name):
                for job_id in kind.on_look(store) if kind.on_look else ():
                    queue.wake(job_id)
        with _logged("queue"):
            if not queue.waiting:
                for job in store.jobs(states=("queued",)):
                    queue.wake(job.id)


@contextlib.contextmanager
def _logged(name: str) -> Iterator[None]:
    """Log any error and go on: one look that fails, as on a full disk, must not be the last."""
    try:
        yield
    except Exception:
        logging.getLogger("airtrim").exception("look failed", extra={"fields": {"kind": name}})


class SteadyClock:
    """Notices when the system clock jumps.

    A clock that is wrong for a moment, as before the first time synchronisation, must not publish
    anything early. After a jump nothing is due until the clock has been steady for a minute.

    Parameters
    ----------
    wall, monotonic
        Seconds since 1970 and seconds of the steady clock.
    """

    def __init__(
        self,
        wall: Callable[[], float] = time.time,
        monotonic: Callable[[], float] = time.monotonic,
    ) -> None:
        self._wall, self._monotonic = wall, monotonic
        self._offset_s = wall() - monotonic()
        self._steady_from_s = monotonic()

    def has_jumped(self) -> bool:
        """Whether the clock jumped by over ten seconds within the last minute."""
        offset_s, at_s = self._wall() - self._monotonic(), self._monotonic()
        if abs(offset_s - self._offset_s) > _JUMP_S:
            self._steady_from_s = at_s + _STEADY_S
        self._offset_s = offset_s
        return at_s < self._steady_from_s


class Watch:
    """Starts the worker process and starts it again if it ends."""

    def __init__(self, settings: Settings) -> None:
        self._environment = {**os.environ, "AIRTRIM_DATA_DIR": str(settings.data_dir)}
        self._stopping = threading.Event()
        self._process: subprocess.Popen[bytes] | None = None
        self._beat_s = math.inf  # until it has been started
        self._thread = threading.Thread(target=self._run, daemon=True)

    def start(self) -> None:
        """Start it."""
        self._thread.start()

    @property
    def running(self) -> bool:
        """Whether it runs and has reported within half a minute. A worker that was stopped by a
        signal, or hangs, does not."""
        alive = self._process is not None and self._process.poll() is None
        return alive and time.monotonic() - self._beat_s < _SILENT_S

    def stop(self) -> None:
        """End it and wait."""
        self._stopping.set()
        if self._process:
            self._process.terminate()
            try:
                self._process.wait(5)
            except subprocess.TimeoutExpired:
                self._process.kill()

    def _launch(self) -> "subprocess.Popen[bytes]":
        hears, beats = os.pipe()
        command = [sys.executable, "-m", "airtrim.jobs.worker", str(os.getpid()), str(beats)]
        process = subprocess.Popen(
            command, env=self._environment, cwd=Path.cwd(), pass_fds=(beats,)
        )
        os.close(beats)
        self._beat_s = time.monotonic()
        threading.Thread(target=self._hear, args=(hears,), daemon=True).start()
        return process

    def _hear(self, hears: int) -> None:
        with os.fdopen(hears, "rb", buffering=0) as pipe:
            while pipe.read(64):
                self._beat_s = time.monotonic()

    def _run(self) -> None:
        while not self._stopping.is_set():
            self._process = self._launch()
            self._process.wait()
            self._stopping.wait(1.0)
