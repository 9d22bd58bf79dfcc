"""The weights of the voice embedding, out of the package that they come in.

    pip download --no-deps resemblyzer==0.1.4
    python -m training.voices Resemblyzer-0.1.4-py3-none-any.whl

The package (Apache 2.0) needs PyTorch to run; its weights are three recurrent layers and a linear
one, kept in PyTorch's older format: pickled values that name stretches of raw numbers after them.
Half precision is enough: an embedding differs by less than 0.001 in its cosine.
"""

import io
import pickle
import sys
import zipfile
from collections import OrderedDict
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from airtrim.core.speech.voiceprint import WEIGHTS

_HEADERS = 3
"""Pickles before the values: a sign, a version, and sizes of numbers."""


class _Values(pickle.Unpickler):
    """Reads values of which only plain containers and tensors are made, nothing else."""

    def __init__(self, file: io.BytesIO) -> None:
        super().__init__(file)
        self.tensors: dict[int, tuple[str, int, tuple[int, ...]]] = {}

    def find_class(self, module: str, name: str) -> Any:
        if (module, name) == ("collections", "OrderedDict"):
            return OrderedDict
        if (module, name) == ("torch._utils", "_rebuild_tensor_v2"):
            return lambda storage, offset, size, *_: (storage, offset, tuple(size))
        return name

    def persistent_load(self, pid: Any) -> str:
        return str(pid[2])


def tensors(data: bytes) -> dict[str, NDArray[np.float32]]:
    """The values under ``model_state`` by their names."""
    file = io.BytesIO(data)
    for _ in range(_HEADERS):
        pickle.load(file)
    told = _Values(file).load()["model_state"]
    raw: dict[str, NDArray[np.float32]] = {}
    for key in pickle.load(file):
        count = int(np.frombuffer(file.read(8), "<i8")[0])
        raw[str(key)] = np.frombuffer(file.read(4 * count), "<f4")
    return {
        name: raw[storage][offset : offset + int(np.prod(size, dtype=int))].reshape(size)
        for name, (storage, offset, size) in told.items()
    }


def main(wheel: Path) -> None:
    """Write the weights that are used."""
    with zipfile.ZipFile(wheel) as packed:
        found = tensors(packed.read("resemblyzer/pretrained.pt"))
    used = {
        name: value.astype(np.float16)
        for name, value in found.items()
        if name.startswith(("lstm", "linear"))
    }
    np.savez_compressed(WEIGHTS, **used)
    print(", ".join(f"{name} {value.shape}" for name, value in used.items()))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
