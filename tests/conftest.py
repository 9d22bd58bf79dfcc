"""What many tests need: the demo's recordings and a place to keep things."""

import json
from pathlib import Path

import pytest

from airtrim.core.media.take import TakeReader, store_take
from airtrim.demo import fill

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
