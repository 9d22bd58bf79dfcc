"""A scheduler and workers as processes of their own, as they run on other machines."""

import os
import signal
import subprocess
import sys
import tempfile
from pathlib import Path

import psutil

from airtrim.compute.cluster import Link
from tests.serving import free_port
from tests.waiting import eventually

AIRTRIM = Path(sys.executable).with_name("airtrim")
DASK = Path(sys.executable).with_name("dask")


class Machines:
    """Other machines, made of processes of this one."""

    def __init__(self) -> None:
        port = free_port()
        self.address = f"tcp://127.0.0.1:{port}"
        self.folder = tempfile.TemporaryDirectory()
        self.all: list[subprocess.Popen[bytes]] = []
        self.scheduler = self.start(
            DASK, "scheduler", "--host", "127.0.0.1", "--port", str(port), "--no-dashboard"
        )

    def start(self, *command: object) -> "subprocess.Popen[bytes]":
        """A process in a folder of its own."""
        paths = [Path.cwd(), *filter(None, [os.environ.get("PYTHONPATH")])]
        process = subprocess.Popen(
            [str(part) for part in command],
            cwd=self.folder.name,
            env={**os.environ, "PYTHONPATH": os.pathsep.join(map(str, paths))},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        self.all.append(process)
        return process

    def worker(self, core: int | None = None) -> "subprocess.Popen[bytes]":
        """One that does a call at a time, on one core of its own if that is told."""
        only = ("taskset", "-c", str(core)) if core is not None else ()
        return self.start(*only, AIRTRIM, "worker", self.address, "--processes", "1")

    def close(self) -> None:
        """End all, with what they began."""
        for process in reversed(self.all):
            for one in family(process):
                one.kill()
            process.wait()
        self.folder.cleanup()


def family(process: "subprocess.Popen[bytes]") -> list[psutil.Process]:
    """A process and all that it began."""
    if not psutil.pid_exists(process.pid):
        return []
    own = psutil.Process(process.pid)
    return [own, *own.children(recursive=True)]


def at_work(process: "subprocess.Popen[bytes]") -> psutil.Process:
    """The process in which a worker does its calls."""
    found = eventually(
        lambda: [
            one
            for one in family(process)[1:]
            if "spawn_main" in " ".join(one.cmdline()) and one.status() != psutil.STATUS_ZOMBIE
        ]
    )
    return found[0]


def stop(process: psutil.Process) -> None:
    """Let it hang, as a machine does that is out of memory."""
    process.send_signal(signal.SIGSTOP)


def workers_of(link: Link, needs: frozenset[str], count: int) -> None:
    """Wait until so many workers can do what is needed."""
    eventually(lambda: len(link.able(needs)) == count)
