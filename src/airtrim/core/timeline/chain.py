"""What is done to the sound of a track, as values. Nothing is on until the host asks for it."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

BandKind = Literal["low_shelf", "peak", "notch", "high_shelf"]

MOST_BANDS = 12

Hertz = Annotated[float, Field(ge=20.0, le=20_000.0, allow_inf_nan=False)]
BandGain = Annotated[float, Field(ge=-24.0, le=18.0, allow_inf_nan=False)]
Quality = Annotated[float, Field(ge=0.3, le=60.0, allow_inf_nan=False)]


NoiseMethod = Literal["steady", "learnt"]
"""By the room's own spectrum, which has to stay as it is, or by what a network knows of voices."""


@dataclass(frozen=True, slots=True)
class Noise:
    """Noise reduction. ``strength`` 0 to 1: how far the room is lowered, 1 as far as is safe."""

    on: bool = False
    strength: Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)] = 0.6
    method: NoiseMethod = "steady"


@dataclass(frozen=True, slots=True)
class Echo:
    """The echo of the room lowered."""

    on: bool = False


@dataclass(frozen=True, slots=True)
class Hum:
    """Mains hum taken out: narrow notches on ``hz`` and its harmonics up to the ``highest``th."""

    on: bool = False
    hz: Annotated[float, Field(ge=45.0, le=65.0, allow_inf_nan=False)] = 50.0
    highest: Annotated[int, Field(ge=1, le=20)] = 6


@dataclass(frozen=True, slots=True)
class LowCut:
    """Everything under ``hz`` taken out, by 24 dB an octave. 70 to 100 Hz is common practice."""

    on: bool = False
    hz: Annotated[float, Field(ge=20.0, le=400.0, allow_inf_nan=False)] = 80.0


@dataclass(frozen=True, slots=True)
class Band:
    """One band of the equaliser; a notch has no gain, a shelf takes ``q`` as its slope's."""

    kind: BandKind
    hz: Hertz
    gain_db: BandGain = 0.0
    q: Quality = 0.7
    on: bool = True


@dataclass(frozen=True, slots=True)
class DeEss:
    """Sharp s lowered: around ``hz``, where it stands more than ``threshold_db`` above the whole
    voice's level there, by ``most_db`` at most."""

    on: bool = False
    hz: Annotated[float, Field(ge=3000.0, le=12_000.0, allow_inf_nan=False)] = 6500.0
    threshold_db: Annotated[float, Field(ge=-30.0, le=0.0, allow_inf_nan=False)] = -12.0
    most_db: Annotated[float, Field(ge=0.0, le=18.0, allow_inf_nan=False)] = 6.0


@dataclass(frozen=True, slots=True)
class Compressor:
    """Loud moments held down. Levels in dBFS of the peak; −13 dB and 3:1 are where common practice
    begins."""

    on: bool = False
    threshold_db: Annotated[float, Field(ge=-60.0, le=0.0, allow_inf_nan=False)] = -13.0
    ratio: Annotated[float, Field(ge=1.0, le=20.0, allow_inf_nan=False)] = 3.0
    knee_db: Annotated[float, Field(ge=0.0, le=24.0, allow_inf_nan=False)] = 6.0
    attack_ms: Annotated[float, Field(ge=0.1, le=200.0, allow_inf_nan=False)] = 8.0
    release_ms: Annotated[float, Field(ge=10.0, le=1000.0, allow_inf_nan=False)] = 150.0
    make_up_db: Annotated[float, Field(ge=-12.0, le=24.0, allow_inf_nan=False)] = 0.0


@dataclass(frozen=True, slots=True)
class Chain:
    """All of it, in the order in which it is done."""

    echo: Echo = Echo()
    noise: Noise = Noise()
    hum: Hum = Hum()
    low_cut: LowCut = LowCut()
    bands: Annotated[tuple[Band, ...], Field(max_length=MOST_BANDS)] = ()
    de_ess: DeEss = DeEss()
    compressor: Compressor = Compressor()

    @property
    def shapes(self) -> bool:
        """Whether any step is on but those that the take brings with it: echo and noise."""
        steps = (self.hum.on, self.low_cut.on, self.de_ess.on, self.compressor.on)
        return any(steps) or any(band.on for band in self.bands)


NEUTRAL = Chain()
