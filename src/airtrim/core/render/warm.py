"""Compile or load the numeric kernels ahead of their first use."""

import numpy as np

from airtrim.core.loudness.levelling import foresee
from airtrim.core.loudness.limiter import Limiter
from airtrim.core.loudness.meter import Meter
from airtrim.core.sound.treat import Treatment
from airtrim.core.timeline.chain import Chain, Compressor, DeEss, LowCut


def warm_up() -> None:
    """Run every kernel once on a moment of noise."""
    sound = np.random.default_rng(0).standard_normal((4800, 1)).astype(np.float32)
    meter = Meter(1)
    meter.push(sound)
    Limiter(1, -1.0).process(sound)
    foresee(meter.profile(), [0], [], [0.0], 0.0, -1.0)
    everything = Chain(
        low_cut=LowCut(on=True), de_ess=DeEss(on=True), compressor=Compressor(on=True)
    )
    Treatment(everything, 1).process(sound)


if __name__ == "__main__":
    warm_up()
