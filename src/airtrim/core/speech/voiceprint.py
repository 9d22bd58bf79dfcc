"""What a voice is like, whatever it says: 256 numbers for a window of 1.6 seconds.

The GE2E embedding (Wan, Wan, Yu and Lopez Moreno, "Generalized end-to-end loss for speaker
verification", ICASSP 2018): three recurrent layers over a mel spectrum; windows of one voice lie
close to each other. The weights are those of ``resemblyzer`` 0.1.4 (Apache 2.0), made smaller by
``training/voices.py``; the layers run in onnxruntime.
"""

from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from airtrim.core.graphs import session
from airtrim.core.speech import HOP, MODEL_RATE
from airtrim.errors import BadInput

WEIGHTS = Path(__file__).with_name("voiceprint.npz")

WINDOW_HOPS = 160
"""1.6 s, which the layers were trained on."""

NUMBERS = 256
_FFT = 400
_BANDS = 40
_LAYERS = 3
_USUAL_POWER = 0.4
"""Of all bands of a hop together, where speech has −30 dBFS."""
_BATCH = 64


def voiceprints(samples: NDArray[np.float32], starts: NDArray[np.int64]) -> NDArray[np.float32]:
    """The embedding of windows of mono ``samples`` at 16 kHz that begin at ``starts``, in hops of
    10 ms; shape ``(len(starts), 256)``, each of length one. What lies beyond the sound is silence.
    """
    mel = np.pad(_mel(samples), ((0, WINDOW_HOPS), (0, 0)))
    out = np.zeros((len(starts), NUMBERS), np.float32)
    for first in range(0, len(starts), _BATCH):
        batch = starts[first : first + _BATCH]
        windows = np.stack([_levelled(mel[at : at + WINDOW_HOPS]) for at in batch], axis=1)
        (raw,) = _layers().run(None, {"mel": windows})
        length = np.linalg.norm(raw, axis=1, keepdims=True)
        out[first : first + _BATCH] = raw / np.maximum(length, 1e-9)
    return out


def _levelled(mel: NDArray[np.float32]) -> NDArray[np.float32]:
    """A window at the level that the layers were trained at, so that who speaks further from the
    microphone is no other voice."""
    power = float(mel.sum(axis=1).mean())
    return mel * np.float32(_USUAL_POWER / max(power, 1e-12))


def _mel(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """Power in 40 mel bands, shape ``(hops, 40)``, each hop around its sample."""
    padded = np.pad(samples, _FFT // 2)
    count = max(0, (len(padded) - _FFT) // HOP + 1)
    window = np.hanning(_FFT + 1)[:-1].astype(np.float32)
    frames = np.lib.stride_tricks.sliding_window_view(padded, _FFT)[::HOP][:count]
    out = np.empty((count, _BANDS), np.float32)
    for first in range(0, count, 1000):
        spectrum = np.fft.rfft(frames[first : first + 1000] * window)
        out[first : first + 1000] = (np.abs(spectrum) ** 2) @ _bands().T
    return out


@lru_cache(maxsize=1)
def _bands() -> NDArray[np.float32]:
    """Triangles on the mel scale of Slaney's Auditory Toolbox (1998), each of area one, shape
    ``(40, bins)``: linear below 1 kHz, logarithmic above."""
    per_mel, corner_hz = 200 / 3, 1000.0
    corner, step = corner_hz / per_mel, np.log(6.4) / 27
    highest = corner + np.log(MODEL_RATE / 2 / corner_hz) / step
    mels = np.linspace(0, highest, _BANDS + 2)
    hz = np.where(mels < corner, mels * per_mel, corner_hz * np.exp(step * (mels - corner)))
    bins = np.arange(_FFT // 2 + 1) * MODEL_RATE / _FFT
    low, middle, high = hz[:-2, None], hz[1:-1, None], hz[2:, None]
    rising, falling = (bins - low) / (middle - low), (high - bins) / (high - middle)
    area = 2 / (high - low)
    return np.asarray(np.maximum(0, np.minimum(rising, falling)) * area, np.float32)


@lru_cache(maxsize=1)
def _layers() -> Any:
    """The layers as a graph of onnxruntime, which takes any number of windows at once."""
    import onnx
    from onnx import helper, numpy_helper

    if not WEIGHTS.is_file():
        raise BadInput("The weights that tell voices apart are missing. Install Air Trim again.")
    with np.load(WEIGHTS) as kept:
        weights = {name: kept[name].astype(np.float32) for name in kept.files}
    nodes, given = [], []

    def constant(name: str, value: NDArray[Any]) -> str:
        given.append(numpy_helper.from_array(np.ascontiguousarray(value), name))
        return name

    before = "mel"
    for layer in range(_LAYERS):
        biases = [_gates(weights[f"lstm.bias_{of}_l{layer}"]) for of in ("ih", "hh")]
        inputs = [
            before,
            constant(f"w{layer}", _gates(weights[f"lstm.weight_ih_l{layer}"])[None]),
            constant(f"r{layer}", _gates(weights[f"lstm.weight_hh_l{layer}"])[None]),
            constant(f"b{layer}", np.concatenate(biases)[None]),
        ]
        outputs = [f"all{layer}", f"last{layer}"]
        nodes.append(helper.make_node("LSTM", inputs, outputs, hidden_size=NUMBERS))
        nodes.append(
            helper.make_node(
                "Squeeze", [f"all{layer}", constant(f"one{layer}", np.array([1]))], [f"out{layer}"]
            )
        )
        before = f"out{layer}"
    nodes += [
        helper.make_node(
            "Squeeze", [f"last{_LAYERS - 1}", constant("zero", np.array([0]))], ["last"]
        ),
        helper.make_node(
            "Gemm",
            [
                "last",
                constant("w", weights["linear.weight"]),
                constant("b", weights["linear.bias"]),
            ],
            ["line"],
            transB=1,
        ),
        helper.make_node("Relu", ["line"], ["voice"]),
    ]
    number = onnx.TensorProto.FLOAT
    graph = helper.make_graph(
        nodes,
        "voice",
        [helper.make_tensor_value_info("mel", number, [WINDOW_HOPS, "windows", _BANDS])],
        [helper.make_tensor_value_info("voice", number, ["windows", NUMBERS])],
        given,
    )
    model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 17)], ir_version=9)
    return session(model)


def _gates(value: NDArray[np.float32]) -> NDArray[np.float32]:
    """The four gates of a layer in the order of ONNX (input, output, forget, cell), which PyTorch
    has as input, forget, cell, output."""
    enter, forget, cell, leave = np.split(value, 4)
    return np.concatenate([enter, leave, forget, cell])
