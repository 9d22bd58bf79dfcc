"""A host's client, with the worker's work done on the spot."""

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from airtrim.api.app import create_app
from airtrim.settings import Settings
from tests.api.host import HERE, Host


@pytest.fixture
def host(tmp_path: Path) -> Iterator[Host]:
    settings = Settings(data_dir=tmp_path / "data", keep_free_bytes=0)
    with TestClient(create_app(settings, worker=False), base_url=HERE) as client:
        yield Host(client)


@pytest.fixture
def demo_host(tmp_path: Path, laid_out: Path) -> Iterator[Host]:
    """One on a folder with the demo on its shelf."""
    data = tmp_path / "demo"
    shutil.copytree(laid_out, data)
    settings = Settings(data_dir=data, keep_free_bytes=0)
    with TestClient(create_app(settings, worker=False), base_url=HERE) as client:
        yield Host(client)
