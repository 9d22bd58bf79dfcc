"""The wheel that ``make wheel`` built, in an empty environment of its own and without Node: it
holds the interface, the stand-ins and the demo, and starts."""

import os
import subprocess
import sys
import zipfile
from pathlib import Path

import httpx
import pytest

from tests.serving import free_port

DIST = Path(__file__).parents[1] / "dist"


@pytest.fixture(scope="module")
def wheel() -> Path:
    found = sorted(DIST.glob("airtrim-*.whl"))
    assert found, "`make wheel` builds it; `make test` does so before the tests"
    return found[-1]


def test_the_wheel_holds_all_that_is_needed(wheel: Path) -> None:
    names = zipfile.ZipFile(wheel).namelist()
    for wanted in (
        "airtrim/web_dist/index.html",
        "airtrim/demo_data/episode.json",
        "airtrim/demo_data/sound/intro.flac",
        "airtrim/standins/voice.flac",
        "airtrim/store/migrations/script.py.mako",
        "airtrim/store/migrations/versions/0001_first_tables.py",
    ):
        assert wanted in names
    assert any(name.endswith(".woff2") for name in names)
    assert not any(name.startswith(("tests/", "bench/", "demo/")) for name in names)


def test_it_installs_and_starts_the_demo_without_node(wheel: Path, tmp_path: Path) -> None:
    venv = [sys.executable, "-m", "venv", "--without-pip", str(tmp_path / "venv")]
    subprocess.run(venv, check=True)
    binaries = tmp_path / "venv" / "bin"
    pip = [sys.executable, "-m", "pip", "--python", str(binaries / "python")]
    quiet = ["--quiet", "--disable-pip-version-check", "--no-compile"]
    install = [*pip, "install", *quiet, str(wheel)]
    subprocess.run(install, check=True, stderr=subprocess.DEVNULL, timeout=600)
    # Nothing of this machine but what every system has; whatever else was called would be missed.
    empty = tmp_path / "empty"
    empty.mkdir()
    environment = {"PATH": str(binaries), "HOME": str(tmp_path), "AIRTRIM_KEEP_FREE_BYTES": "0"}
    port = free_port()
    process = subprocess.Popen(
        [str(binaries / "airtrim"), "demo", "--port", str(port)],
        cwd=empty,
        env={**environment, "LD_LIBRARY_PATH": os.environ.get("LD_LIBRARY_PATH", "")},
        stderr=subprocess.PIPE,
        text=True,
    )
    try:
        assert process.stderr
        told = []
        for line in process.stderr:
            told.append(line)
            if "Air Trim is at" in line:
                break
        assert process.poll() is None, "".join(told)
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60) as client:
            (show,) = client.get("/api/shows").json()
            (episode,) = show["episodes"]
            page = client.get("/")
            assert "<div id=" in page.text
            for source in page.text.split('"')[1::2]:
                if source.startswith("/assets/"):
                    assert client.get(source).status_code == 200
            place = {"revision": client.get(f"/api/episodes/{episode['id']}").json()["revision"]}
            sound = client.get(
                f"/api/episodes/{episode['id']}/audio", params={**place, "start": 0, "frames": 4800}
            )
            assert sound.content[:4] == b"RIFF"
    finally:
        process.terminate()
        process.wait(120)
