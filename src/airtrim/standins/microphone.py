"""Simulated microphones of the demo: a shipped recording as if spoken, with a choice of faults."""

from pathlib import Path
from typing import Literal

import numpy as np
import soundfile
from numpy.typing import NDArray

Fault = Literal["none", "quiet", "clipping", "hum", "noise"]
Voice = Literal["voice", "second", "both"]

DEVICES = {
    "sim:voice:none": "Simulated microphone",
    "sim:second:none": "Simulated second voice",
    "sim:both:none": "Simulated interface with two channels",
    "sim:voice:quiet": "Simulated: too quiet",
    "sim:voice:clipping": "Simulated: far too loud",
    "sim:voice:hum": "Simulated: with mains hum",
    "sim:voice:noise": "Simulated: noisy room",
    "sim:voice:unplugged": "Simulated: unplugged after 5 s",
    "sim:loop": "Simulated: hears the loudspeaker",
}
"""What lists of devices show, by their ids: voice and fault."""

_HERE = Path(__file__).parent


def simulated(voice: Voice = "voice", fault: Fault = "none") -> NDArray[np.float32]:
    """Twenty seconds of ``voice`` with ``fault``, shape ``(frames, channels)`` at 48 kHz, made to
    be repeated end to end. ``both`` is an interface with a voice on each of two channels."""
    if voice == "both":
        return np.hstack([simulated("voice", fault), simulated("second", fault)])
    sound, rate = soundfile.read(_HERE / f"{voice}.flac", dtype="float32", always_2d=True)
    assert rate == 48_000
    time = np.arange(len(sound))[:, None] / rate
    match fault:
        case "quiet":
            sound = sound * np.float32(0.08)
        case "clipping":
            sound = np.clip(sound * np.float32(12.0), -1.0, 1.0)
        case "hum":
            sound = sound + (0.006 * np.sin(2 * np.pi * 50 * time)).astype(np.float32)
        case "noise":
            rng = np.random.default_rng(5)
            sound = sound + (0.009 * rng.standard_normal(sound.shape)).astype(np.float32)
    return np.asarray(sound, np.float32)
