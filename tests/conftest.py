"""What many tests need: the demo's recordings and a place to keep things."""

import fcntl
import json
import os
import pickle
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import pytest

from airtrim.core.media.take import TakeReader, store_take
from airtrim.demo import fill

T = TypeVar("T")
DEMO = Path(__file__).parent.parent / "demo"


@pytest.fixture(scope="session")
def demo() -> Path:
    """The demo's folder."""
    return DEMO


@pytest.fixture(scope="session")
def mistakes() -> dict[str, list[dict[str, object]]]:
    """Where every planted mistake of the demo lies, in seconds of its take."""
    return json.loads((DEMO / "mistakes.json").read_text())


@pytest.fixture(scope="session")
def once(tmp_path_factory: pytest.TempPathFactory) -> Callable[[str, Callable[[], T]], T]:
    """What takes long and is always the same is made by one of the processes that run tests, and
    read by the others."""
    shared = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        shared = shared.parent

    def made(name: str, make: Callable[[], T]) -> T:
        with (shared / f"{name}.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            kept = shared / f"{name}.pickle"
            if not kept.exists():
                kept.write_bytes(pickle.dumps(make()))
            return pickle.loads(kept.read_bytes())

    return made


@pytest.fixture(scope="session")
def host_take(tmp_path_factory: pytest.TempPathFactory) -> TakeReader:
    """The host's first recording, stored."""
    folder = tmp_path_factory.mktemp("host")
    store_take(
        DEMO / "sound" / "host-opening.flac", folder / "sound", folder / "peaks", name="host"
    )
    return TakeReader(folder / "sound")


@pytest.fixture(scope="session")
def laid_out(tmp_path_factory: pytest.TempPathFactory, demo: Path) -> Path:
    """The demo laid out once, to be copied."""
    folder = tmp_path_factory.mktemp("demo") / "data"
    fill(folder, demo)
    return folder
