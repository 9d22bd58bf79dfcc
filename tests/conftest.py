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

# Tests wait for what is done in the background, which would give way to whatever else the machine
# does for as long as that lasts.
os.environ["AIRTRIM_WORKER_NICE"] = "0"


@pytest.fixture(scope="session")
def demo() -> Path:
    """The demo's folder."""
    return DEMO


@pytest.fixture(scope="session")
def mistakes() -> dict[str, list[dict[str, object]]]:
    """Where every planted mistake of the demo lies, in seconds of its take."""
    return json.loads((DEMO / "mistakes.json").read_text())


@pytest.fixture(scope="session")
def for_all(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder that all processes which run tests have in common."""
    own = tmp_path_factory.getbasetemp()
    return own.parent if "PYTEST_XDIST_WORKER" in os.environ else own


@pytest.fixture(scope="session")
def once(for_all: Path) -> Callable[[str, Callable[[], T]], T]:
    """What takes long and is always the same is made by one of the processes that run tests, and
    read by the others."""

    def made(name: str, make: Callable[[], T]) -> T:
        with (for_all / f"{name}.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            kept = for_all / f"{name}.pickle"
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
def laid_out(once: Callable[[str, Callable[[], Path]], Path], for_all: Path, demo: Path) -> Path:
    """The demo laid out once, to be copied."""

    def lay_out() -> Path:
        folder = for_all / "demo" / "data"
        fill(folder, demo)
        return folder

    return once("demo", lay_out)
