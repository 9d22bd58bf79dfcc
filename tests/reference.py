"""Things outside the project to check against: FFmpeg's meter, pyloudnorm, and small helpers."""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pyloudnorm
import soundfile
from numpy.typing import NDArray

RATE = 48_000
Sound = NDArray[np.float32]


def ffmpeg_loudness(sound: Sound) -> dict[str, float]:
    """Integrated (LUFS), range (LU) and true peak (dBTP) by FFmpeg's ebur128 at 48 kHz."""
    layout = "mono" if sound.shape[1] == 1 else "stereo"
    graph = av.filter.Graph()
    source = graph.add_abuffer(
        sample_rate=RATE, format="flt", layout=layout, time_base=Fraction(1, RATE)
    )
    meter = graph.add("ebur128", "peak=true:metadata=1")
    sink = graph.add("abuffersink")
    source.link_to(meter)
    meter.link_to(sink)
    graph.configure()
    last: dict[str, str] = {}
    for at in range(0, len(sound), RATE):
        block = np.ascontiguousarray(sound[at : at + RATE]).reshape(1, -1)
        frame = av.AudioFrame.from_ndarray(block, format="flt", layout=layout)
        frame.sample_rate, frame.pts = RATE, at
        graph.push(frame)
        while True:
            try:
                last = dict(graph.pull().metadata) or last
            except (av.error.BlockingIOError, av.error.EOFError):
                break
    return {
        "integrated": float(last["lavfi.r128.I"]),
        "range": float(last["lavfi.r128.LRA"]),
        "true_peak": 20 * np.log10(float(last["lavfi.r128.true_peak"])),
    }


def pyloudnorm_loudness(sound: Sound) -> float:
    """Integrated loudness by pyloudnorm with the coefficients of BS.1770."""
    meter = pyloudnorm.Meter(RATE, filter_class="DeMan")
    return float(meter.integrated_loudness(sound.astype(np.float64)))


def decoded(path: Path) -> Sound:
    """A file decoded by FFmpeg at 48 kHz, shape (frames, channels)."""
    with av.open(str(path)) as container:
        stream = container.streams.audio[0]
        layout = "mono" if stream.codec_context.channels == 1 else "stereo"
        resampler = av.AudioResampler(format="fltp", layout=layout, rate=RATE)
        parts = []
        for frame in container.decode(stream):
            parts += [part.to_ndarray().T for part in resampler.resample(frame)]
        parts += [part.to_ndarray().T for part in resampler.resample(None)]
    return np.concatenate(parts)


def programme(seconds: float, channels: int, seed: int) -> Sound:
    """Invented programme: noise of changing colour and level with pauses, like talk."""
    rng = np.random.default_rng(seed)
    count = int(seconds * RATE)
    noise = rng.standard_normal((count, channels))
    noise = np.apply_along_axis(lambda x: np.convolve(x, np.ones(6) / 6, "same"), 0, noise)
    steps = rng.uniform(-45, -12, int(seconds / 0.7) + 2)
    level = np.interp(np.arange(count) / RATE, np.arange(len(steps)) * 0.7, steps)
    return (noise * 10 ** (level / 20)[:, None]).astype(np.float32)


def write(path: Path, sound: Sound, rate: int = RATE, **options: str) -> Path:
    """Write a sound file."""
    soundfile.write(path, sound, rate, **options)
    return path
