"""The queue between server and worker: huey on a SQLite file beside the store."""

import contextlib
import os
import sqlite3
import subprocess
import sys
import threading
import time
from pathlib import Path

from huey import SqliteHuey
from huey.consumer import Consumer
from sqlalchemy.exc import SQLAlchemyError

from airtrim.compute.cluster import compute_at
from airtrim.jobs.kinds import KINDS
from airtrim.jobs.lifecycle import recover, run
from airtrim.logs import set_up
from airtrim.processes import follow
from airtrim.settings import Settings
from airtrim.store.store import Store

_LOOK_EVERY_S = 15.0


class Queue:
    """Puts jobs in line; in the worker process also takes them out. There are two lines: what a
    host waits for, and what gives way."""

    def __init__(self, store: Store, settings: Settings) -> None:
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


def work_forever(settings: Settings, server: int) -> None:
    """The worker process: recover what was left, then work until the process ``server`` is gone."""
    follow(server)
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
    Consumer(queue.aside, workers=1, **taking).start()
    Consumer(queue.first, workers=settings.workers, **taking).run()


def _wake_forgotten(store: Store, queue: Queue) -> None:
    """Wake jobs whose time has come, and those that wait with nobody told of them, as a full disk
    can leave them."""
    while True:
        time.sleep(_LOOK_EVERY_S)
        with contextlib.suppress(SQLAlchemyError, sqlite3.Error):
            for kind in KINDS.values():
                for job_id in kind.on_look(store) if kind.on_look else ():
                    queue.wake(job_id)
            if not queue.waiting:
                for job in store.jobs(states=("queued",)):
                    queue.wake(job.id)


class Watch:
    """Starts the worker process and starts it again if it ends."""

    def __init__(self, settings: Settings) -> None:
        self._environment = {**os.environ, "AIRTRIM_DATA_DIR": str(settings.data_dir)}
        self._stopping = threading.Event()
        self._process: subprocess.Popen[bytes] | None = None
        self._thread = threading.Thread(target=self._run, daemon=True)

    def start(self) -> None:
        """Start it."""
        self._thread.start()

    @property
    def running(self) -> bool:
        """Whether it runs just now."""
        return self._process is not None and self._process.poll() is None

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
        command = [sys.executable, "-m", "airtrim.jobs.worker", str(os.getpid())]
        return subprocess.Popen(command, env=self._environment, cwd=Path.cwd())

    def _run(self) -> None:
        while not self._stopping.is_set():
            self._process = self._launch()
            self._process.wait()
            self._stopping.wait(1.0)
