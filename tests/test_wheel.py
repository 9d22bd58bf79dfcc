"""The wheel that ``make wheel`` built, in an empty environment of its own and without Node: it
holds the interface, the stand-ins and the demo, and starts."""

import os
import shutil
import subprocess
import sys
import zipfile
from collections.abc import Iterable, Iterator
from email.parser import BytesParser
from importlib.metadata import distribution
from pathlib import Path

import httpx
import pytest
from packaging.requirements import Requirement

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


def link_needed(wheel: Path, site: Path) -> None:
    """What the wheel says it needs, and what that needs, and nothing else, in the versions that
    were installed here: as `pip install` would lay it down, without fetching all of it again."""
    with zipfile.ZipFile(wheel) as opened:
        (name,) = (one for one in opened.namelist() if one.endswith(".dist-info/METADATA"))
        said = BytesParser().parsebytes(opened.read(name))
    waiting = [*holding(said.get_all("Requires-Dist", []), set())]
    found: set[tuple[str, frozenset[str]]] = set()
    while waiting:
        one = waiting.pop()
        key = (one.name, frozenset(one.extras))
        if key not in found:
            found.add(key)
            waiting += holding(distribution(one.name).requires or [], one.extras)
    for name in {name for name, _ in found}:
        there = distribution(name)
        for file in there.files or []:
            if ".." not in file.parts:
                (site / file).parent.mkdir(parents=True, exist_ok=True)
                (site / file).unlink(missing_ok=True)
                try:
                    os.link(str(there.locate_file(file)), site / file)
                except OSError:  # on another disk there are no links
                    shutil.copyfile(str(there.locate_file(file)), site / file)


def holding(lines: Iterable[str], extras: set[str]) -> Iterator[Requirement]:
    """Requirements that hold on this machine, with these extras."""
    for one in map(Requirement, lines):
        asked = ({"extra": extra} for extra in extras | {""})
        if one.marker is None or any(map(one.marker.evaluate, asked)):
            yield one


def test_it_installs_and_starts_the_demo_without_node(wheel: Path, tmp_path: Path) -> None:
    venv = [sys.executable, "-m", "venv", "--without-pip", str(tmp_path / "venv")]
    subprocess.run(venv, check=True)
    binaries = tmp_path / "venv" / "bin"
    link_needed(wheel, next((tmp_path / "venv" / "lib").glob("python*/site-packages")))
    pip = [sys.executable, "-m", "pip", "--python", str(binaries / "python")]
    quiet = ["--quiet", "--disable-pip-version-check"]
    install = [*pip, "install", *quiet, "--no-compile", "--no-deps", str(wheel)]
    subprocess.run(install, check=True, timeout=600)
    subprocess.run([*pip, "check", "--disable-pip-version-check"], check=True, timeout=600)
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
