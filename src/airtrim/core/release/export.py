"""From a document to a checked file: measure, level, limit, encode, tag, read back."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from airtrim.core.loudness.levelling import even_out
from airtrim.core.loudness.meter import Measurement, Profile
from airtrim.core.release.encode import FileFormat, measure_file, write_mp3, write_wav
from airtrim.core.release.tags import Id3Version, read_tags, write_tags
from airtrim.core.render.graph import Takes, profile_mix, render, section_ramps
from airtrim.core.timeline.edits import EvenOut, apply
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import TakeWords
from airtrim.errors import BadInput

_CODEC_ROOM_DB = 0.6
"""An MP3 overshoots what went in; this much is kept free at first."""
_MOST_TRIES = 3

Progress = Callable[[float, str], None]
"""Called with a fraction 0–1 and what is being done; may raise Cancelled."""


class ExportSettings(BaseModel):
    """What to write. ``kbits`` is for MP3 only."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: FileFormat = "mp3"
    kbits: int = Field(default=96, ge=64, le=192)
    id3_version: Id3Version = "2.3"


@dataclass(frozen=True, slots=True)
class ExportReport:
    """What was written, as read back from the finished file."""

    bytes: int
    measured: Measurement
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
    the file off target. Where the decoded file's true peak is over the ceiling it is written once
    more with that much more room (a codec overshoots). Raises BadInput for an empty episode.
    """
    if timeline.frames == 0:
        raise BadInput("There is nothing in this episode yet, so there is nothing to export.")
    if profile is None:
        profile = profile_mix(timeline, takes, lambda f: progress(0.2 * f, "Measuring"))
    wanted = timeline.loudness.ceiling_dbtp
    ceiling = wanted - (_CODEC_ROOM_DB if settings.format == "mp3" else 0.0)
    whole = level(timeline, words, profile, sections=False, ceiling_dbtp=ceiling)
    timeline = apply(timeline, whole)
    channels = timeline.loudness.channels
    warnings: list[str] = []
    for attempt in range(_MOST_TRIES):
        blocks = _counted(
            render(timeline, takes, words, ceiling_dbtp=ceiling),
            timeline.frames,
            lambda f: progress(0.2 + 0.65 * f, "Writing the file"),
        )
        if settings.format == "mp3":
            write_mp3(blocks, path, channels=channels, kbits=settings.kbits)
        else:
            write_wav(blocks, path, channels=channels)
        measured = measure_file(
            path, progress=lambda f: progress(0.85 + 0.1 * f, "Reading it back")
        )
        peak, loud = measured.true_peak_dbtp, measured.integrated_lufs
        over = peak is not None and peak > wanted + 0.005
        off = loud is not None and abs(loud - timeline.loudness.target) > 0.1
        if not (over or off) or attempt == _MOST_TRIES - 1:
            break
        if over and peak is not None:
            ceiling -= peak - wanted + 0.1
        if off and loud is not None:
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
    write_tags(
        path,
        timeline.tags,
        artwork=artwork,
        version=settings.id3_version,
        duration_s=timeline.frames / 48_000,
    )
    return ExportReport(
        bytes=path.stat().st_size,
        measured=measured,
        tags=read_tags(path),
        target_lufs=timeline.loudness.target,
        ceiling_dbtp=wanted,
        gain_db=timeline.loudness.gain_db,
        warnings=tuple(warnings),
    )


def _counted(
    blocks: Iterator[NDArray[np.float32]], total: int, progress: Callable[[float], None]
) -> Iterator[NDArray[np.float32]]:
    done = 0
    for block in blocks:
        yield block
        done += len(block)
        progress(done / total)
