"""From a document to a checked file: measure, level, limit, encode, tag, read back."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.levelling import even_out
from airtrim.core.loudness.meter import (
    CELL_FRAMES,
    Measurement,
    Profile,
    measure,
    section_loudness,
)
from airtrim.core.progress import Progress
from airtrim.core.release.formats.base import Format, format_named
from airtrim.core.release.tags import Id3Version, read_tags
from airtrim.core.render.graph import Takes, levelling_curve, profile_mix, render, section_ramps
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.loudness import EvenOut
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import TakeWords
from airtrim.errors import BadInput

_MOST_TRIES = 3


@dataclass(frozen=True, slots=True)
class _Trial:
    """How a codec's overshoot is tried out before all is written."""

    pieces: int = 32
    piece_cells: int = 600
    """How many moments are tried, those where the limiter works hardest, and how long each is."""
    fade_frames: int = 960
    least_room_db: float = 0.3
    """What is kept free for it, whatever the trial says."""
    untried_db: float = 0.5
    """What is kept free for the moments that are not tried, which are many: with 0.4, one of nine
    loud files that this was not tuned on was over its ceiling at the first attempt."""


_TRIAL = _Trial()


FormatName = Annotated[str, AfterValidator(lambda name: format_named(name).name)]


class ExportSettings(BaseModel):
    """What to write: the format by its name, and its rate, the usual one where none is told."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: FormatName = "mp3"
    kbits: int | None = Field(default=None, gt=0, le=1000)
    id3_version: Id3Version = "2.3"


class ExportReport(BaseModel):
    """What was written, as read back from the finished file. ``sections_lufs``: the loudness of
    each section there."""

    model_config = ConfigDict(frozen=True)

    bytes: int
    measured: Measurement
    sections_lufs: tuple[float | None, ...]
    tags: dict[str, str]
    target_lufs: float
    ceiling_dbtp: float
    gain_db: float
    warnings: tuple[str, ...]


def level(
    timeline: Timeline,
    words: TakeWords,
    profile: Profile,
    *,
    sections: bool,
    ceiling_dbtp: float | None = None,
) -> EvenOut:
    """The edit that brings ``timeline`` to its target: with ``sections`` each by its own gain,
    else the whole only, the sections' present gains held."""
    plan = even_out(
        profile,
        [section.at for section in timeline.sections],
        section_ramps(timeline, words),
        target_lufs=timeline.loudness.target,
        ceiling_dbtp=timeline.loudness.ceiling_dbtp if ceiling_dbtp is None else ceiling_dbtp,
        gains_db=None if sections else [section.gain_db for section in timeline.sections],
    )
    return EvenOut(section_gains_db=plan.section_gains_db, gain_db=plan.gain_db)


def export(
    timeline: Timeline,
    takes: Takes,
    words: TakeWords,
    path: Path,
    settings: ExportSettings,
    *,
    artwork: bytes | None = None,
    profile: Profile | None = None,
    progress: Progress = lambda _fraction, _doing: None,
) -> ExportReport:
    """Write ``timeline`` to ``path`` on its target and read the file back.

    The gain of the whole is found anew, so that cuts made since the last measurement do not move
    the file off target. A codec overshoots, so its overshoot is tried out on the loudest moments
    first; where the decoded file is over the ceiling or off target all the same, it is written
    once more. Raises BadInput for an empty episode.
    """
    if timeline.frames == 0:
        raise BadInput("There is nothing in this episode yet, so there is nothing to export.")
    if profile is None:
        profile = profile_mix(timeline, takes, lambda f: progress(0.2 * f, "Measuring"))
    form = format_named(settings.format)
    kbits = settings.kbits or form.usual_kbits(timeline.loudness.layout)
    wanted = timeline.loudness.ceiling_dbtp
    ceiling = wanted
    if form.overshoots:
        ceiling = wanted - _codec_room(timeline, takes, words, profile, path, form, kbits)
    timeline = levelled(timeline, words, profile, ceiling)
    channels = timeline.loudness.channels
    warnings: list[str] = []
    for attempt in range(_MOST_TRIES):
        blocks = _counted(
            render(timeline, takes, words, ceiling_dbtp=ceiling),
            timeline.frames,
            lambda f: progress(0.2 + 0.65 * f, "Writing the file"),
        )
        form.write(blocks, path, frames=timeline.frames, channels=channels, kbits=kbits)
        meter = meter_file(path, progress=lambda f: progress(0.85 + 0.1 * f, "Reading it back"))
        measured = measure(meter)
        peak, loud = measured.true_peak_dbtp, measured.integrated_lufs
        over = peak is not None and peak > wanted + 0.005
        off = loud is not None and abs(loud - timeline.loudness.target) > 0.1
        if not (over or off) or attempt == _MOST_TRIES - 1:
            break
        if over and peak is not None:
            ceiling -= peak - wanted + 0.1
            timeline = levelled(timeline, words, profile, ceiling)
        elif off and loud is not None:
            gain = timeline.loudness.gain_db + timeline.loudness.target - loud
            timeline = replace(timeline, loudness=replace(timeline.loudness, gain_db=gain))
    if measured.integrated_lufs is None:
        warnings.append("The file is silent.")
    elif abs(measured.integrated_lufs - timeline.loudness.target) > 0.2:
        warnings.append(
            f"The file reads {measured.integrated_lufs:.1f} LUFS, "
            f"not {timeline.loudness.target:.1f}: its peaks "
            "stand too high above its speech for this target and ceiling."
        )
    progress(0.97, "Writing tags")
    if why := form.why_untagged(timeline.frames, channels):
        warnings.append(why)
    else:
        form.tag(
            path,
            timeline.tags,
            artwork=artwork,
            version=settings.id3_version,
            duration_s=timeline.frames / 48_000,
        )
    return ExportReport(
        bytes=path.stat().st_size,
        measured=measured,
        sections_lufs=section_loudness(meter.profile().energy, [s.at for s in timeline.sections]),
        tags=read_tags(path),
        target_lufs=timeline.loudness.target,
        ceiling_dbtp=wanted,
        gain_db=timeline.loudness.gain_db,
        warnings=tuple(warnings),
    )


def levelled(
    timeline: Timeline, words: TakeWords, profile: Profile, ceiling_dbtp: float
) -> Timeline:
    """``timeline`` with its whole on target under a ceiling, section gains as they are."""
    return apply(
        timeline, level(timeline, words, profile, sections=False, ceiling_dbtp=ceiling_dbtp)
    )


def _codec_room(
    timeline: Timeline,
    takes: Takes,
    words: TakeWords,
    profile: Profile,
    path: Path,
    form: Format,
    kbits: int | None,
) -> float:
    """How much lower (dB) than the file's ceiling the limiter has to stop: the overshoot that the
    encoder shows on the moments where the limiter works hardest, and some more for the others,
    which are many."""
    ceiling = timeline.loudness.ceiling_dbtp - _TRIAL.least_room_db
    timeline = levelled(timeline, words, profile, ceiling)
    curve = levelling_curve(timeline, words)
    whole = len(profile.peak) // _TRIAL.piece_cells
    highest = (
        profile.peak[: whole * _TRIAL.piece_cells].reshape(whole, _TRIAL.piece_cells).max(axis=1)
    )
    middles = (np.arange(whole) + 0.5) * _TRIAL.piece_cells * CELL_FRAMES
    highest = highest * 10.0 ** (np.interp(middles, curve.frames, curve.db) / 20.0)
    hardest = np.argsort(highest)[::-1][: _TRIAL.pieces]
    hardest = np.sort(hardest[highest[hardest] > 0.8 * 10.0 ** (ceiling / 20.0)])
    if not len(hardest):
        return _TRIAL.least_room_db
    fade = np.linspace(0.0, 1.0, _TRIAL.fade_frames, dtype=np.float32)[:, None]

    def pieces() -> Iterator[NDArray[np.float32]]:
        for number in hardest:
            start = int(number) * _TRIAL.piece_cells * CELL_FRAMES
            frames = _TRIAL.piece_cells * CELL_FRAMES
            piece = np.concatenate(
                list(render(timeline, takes, words, start, frames, ceiling_dbtp=ceiling))
            )
            piece[: _TRIAL.fade_frames] *= fade
            piece[-_TRIAL.fade_frames :] *= fade[::-1]
            yield piece

    frames = len(hardest) * _TRIAL.piece_cells * CELL_FRAMES
    channels = timeline.loudness.channels
    form.write(pieces(), path, frames=frames, channels=channels, kbits=kbits)
    peak = measure(meter_file(path)).true_peak_dbtp
    overshoot = 0.0 if peak is None else peak - ceiling
    return max(_TRIAL.least_room_db, overshoot + _TRIAL.untried_db)


def _counted(
    blocks: Iterator[NDArray[np.float32]], total: int, progress: Callable[[float], None]
) -> Iterator[NDArray[np.float32]]:
    done = 0
    for block in blocks:
        yield block
        done += len(block)
        progress(done / total)
