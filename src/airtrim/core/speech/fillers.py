"""Where somebody hesitates, as the recogniser's encoder hears it.

A recogniser is trained to leave fillers out of what it writes, but it hears them: a small network
on the encoder's frames (one hidden layer on three frames side by side) tells for each whether it is
part of an open filler (uh) or of one that ends with closed lips (um). It was trained on made speech
by ``training/fillers.py``, whose weights lie beside this file, and is judged on voices and texts it
never met (``bench/fillers.py``).
"""

from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.special import softmax

from airtrim.core.speech import HOP, HOP_S, MODEL_RATE, frame_at
from airtrim.core.speech.edges import sounding
from airtrim.core.speech.models import load_model, packaged_model
from airtrim.core.speech.voice import voice_of
from airtrim.core.timeline.snap import runs

WEIGHTS = Path(__file__).with_name("fillers.npz")
FRAME_S = 0.02
"""The encoder's frame."""

_WINDOW_S, _MARGIN_S = 30, 1
"""The encoder hears windows of this length; what is near their edges is taken from the next."""
_APART = 2
"""The frames beside one that are heard with it, before and after it."""


@dataclass(frozen=True, slots=True)
class FillerLimits:
    """What is taken for a filler. Tuned on voices and texts kept from training."""

    likely: float = 0.25
    """How likely each of its frames is (0–1)."""
    shortest_s: float = 0.12
    longest_s: float = 1.6
    least_voiced: float = 0.5
    """How much of what sounds of it is a voice (0–1)."""


LIMITS = FillerLimits()


@dataclass(frozen=True, slots=True)
class Filler:
    """A hesitation, in seconds, and how sure it is (0–1)."""

    start_s: float
    end_s: float
    sure: float
    text: str

    def frames(self, first_frame: int) -> tuple[int, int]:
        """Where it begins and ends in a take, if its sound begins at ``first_frame`` of that."""
        return frame_at(self.start_s, first_frame), frame_at(self.end_s, first_frame)


def fillers_in(
    sound: NDArray[np.float32], frames: NDArray[np.float32] | None = None
) -> list[Filler]:
    """The fillers in mono ``sound`` at 16 kHz, in order, none over another: what the network takes
    for one, as far as it sounds, if it is a voice. ``frames``: the sound as ``encoded`` gives it,
    where that is known.

    >>> fillers_in(np.zeros(16_000, np.float32))
    []
    """
    if not len(sound):
        return []
    frames = encoded(sound) if frames is None else frames
    loud = sounding(sound, MODEL_RATE)
    out = []
    for one in spans(likelihood(frames)):
        start, end = round(one.start_s / HOP_S), round(one.end_s / HOP_S)
        inside = np.flatnonzero(loud[start:end])
        if not len(inside):
            continue
        start, end = start + int(inside[0]), start + int(inside[-1]) + 1
        length_s = (end - start) * HOP_S
        voice = voice_of(sound[start * HOP : end * HOP])
        voiced = voice.voiced(0, len(voice.periodicity))
        if (
            LIMITS.shortest_s - HOP_S < length_s < LIMITS.longest_s
            and voiced >= LIMITS.least_voiced
        ):
            at, to = round(start * HOP_S, 2), round(end * HOP_S, 2)
            out.append(replace(one, start_s=at, end_s=to))
    return out


def encoded(sound: NDArray[np.float32]) -> NDArray[np.float32]:
    """What the packaged recogniser's encoder makes of mono ``sound`` at 16 kHz: 384 numbers for
    each 20 ms, shape ``(frames, 384)``."""
    model = load_model(str(packaged_model()))
    whole = round(len(sound) / MODEL_RATE / FRAME_S)
    margin = round(_MARGIN_S / FRAME_S)
    step = _WINDOW_S * MODEL_RATE - 2 * _MARGIN_S * MODEL_RATE
    padded = np.pad(sound, (_MARGIN_S * MODEL_RATE, _WINDOW_S * MODEL_RATE))
    out = []
    for at in range(0, max(1, len(sound)), step):
        mel = model.feature_extractor(padded[at : at + _WINDOW_S * MODEL_RATE])[:, :3000]
        found = np.asarray(model.encode(mel), np.float32)[0]
        out.append(found[margin : margin + round(step / MODEL_RATE / FRAME_S)])
    return np.concatenate(out)[:whole]


def beside(frames: NDArray[np.float32]) -> NDArray[np.float32]:
    """Each frame between two of those around it, shape ``(frames, 1152)``."""
    padded = np.pad(frames, ((_APART, _APART), (0, 0)), mode="edge")
    return np.concatenate([padded[: -2 * _APART], frames, padded[2 * _APART :]], axis=1)


def likelihood(frames: NDArray[np.float32]) -> NDArray[np.float32]:
    """How likely each encoded frame is no filler, part of an uh and part of an um (0–1), shape
    ``(frames, 3)``."""
    weights = _weights()
    hidden = np.maximum(0, beside(frames) @ weights["hidden"] + weights["hidden_bias"])
    return np.asarray(softmax(hidden @ weights["out"] + weights["out_bias"], axis=1), np.float32)


def spans(likely: NDArray[np.float32]) -> list[Filler]:
    """Fillers by how likely each frame is one; see ``likelihood``.

    >>> likely = np.eye(3, dtype=np.float32)[[0, 0, *[1] * 10, 0, 0, 0, 1, 0]]
    >>> spans(likely)
    [Filler(start_s=0.02, end_s=0.26, sure=0.83, text='uh')]
    """
    smooth = np.apply_along_axis(np.convolve, 0, likely[:, 1:], np.ones(3) / 3, mode="same")
    any_of = smooth.sum(axis=1)
    out = []
    for low, high in runs(any_of > LIMITS.likely):
        if (high - low) * FRAME_S >= LIMITS.shortest_s:
            uh, um = smooth[low:high].sum(axis=0)
            sure = round(float(any_of[low:high].mean()), 2)
            text = "um" if um > uh else "uh"
            out.append(Filler(round(low * FRAME_S, 2), round(high * FRAME_S, 2), sure, text))
    return out


@lru_cache(maxsize=1)
def _weights() -> dict[str, NDArray[np.float32]]:
    with np.load(WEIGHTS) as stored:
        return {name: np.asarray(stored[name], np.float32) for name in stored.files}
