"""From a document to a checked file: measure, level, limit, encode, tag, read back."""

import hashlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Annotated

import numpy as np
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from airtrim.core.loudness.files import meter_file
from airtrim.core.loudness.levelling import even_out
from airtrim.core.loudness.meter import (
    CELL_FRAMES,
    Measurement,
    Meter,
    Profile,
    loudness_over_time,
    measure,
    section_loudness,
)
from airtrim.core.media.shared import share
from airtrim.core.progress import Progress
from airtrim.core.release.chapters import Chapter, chapters_of
from airtrim.core.release.formats.base import Format, Sound, format_named
from airtrim.core.release.labels import Id3Version, Labels
from airtrim.core.release.tags import read_chapters, read_tags
from airtrim.core.render.graph import Takes, levelling_curve, profile_mix, render, section_ramps
from airtrim.core.timeline.edits import apply
from airtrim.core.timeline.edits.loudness import EvenOut
from airtrim.core.timeline.model import Timeline
from airtrim.core.timeline.words import TakeWords
from airtrim.errors import empty_episode

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
    """What was written, as read back from the finished file. ``label`` is what the format is
    called, ``sections_lufs`` the loudness of each section there, ``loudness_lufs`` that of equal
    stretches from its beginning to its end, ``chapters`` how many it has."""

    model_config = ConfigDict(frozen=True)

    format: str
    label: str
    bytes: int
    sha256: str
    measured: Measurement
    sections_lufs: tuple[float | None, ...]
    loudness_lufs: tuple[float | None, ...] = ()
    tags: dict[str, str]
    chapters: int
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


@dataclass(frozen=True, slots=True)
class Source:
    """What is written out: the document, its sound, words, and the pictures of its labels by their
    SHA-256; ``profile`` where it was measured already."""

    timeline: Timeline
    takes: Takes
    words: TakeWords
    artwork: bytes | None = None
    pictures: Mapping[str, bytes] = field(default_factory=dict)
    profile: Profile | None = None


@dataclass(slots=True)
class _File:
    """A file on its way: how it is written, where its limiter stops, its gain, how it reads."""

    path: Path
    settings: ExportSettings
    form: Format
    kbits: int | None
    ceiling: float
    gain_db: float = 0.0
    meter: Meter | None = None
    measured: Measurement | None = None


def export(
    source: Source,
    path: Path,
    settings: ExportSettings,
    *,
    progress: Progress = lambda _fraction, _doing: None,
) -> ExportReport:
    """One file: see ``export_all``."""
    return export_all(source, [(path, settings)], progress=progress)[0]


def export_all(
    source: Source,
    files: Sequence[tuple[Path, ExportSettings]],
    *,
    progress: Progress = lambda _fraction, _doing: None,
) -> tuple[ExportReport, ...]:
    """Write a document to each of ``files`` on its target, from one render, and read them back.

    The gain of the whole is found anew, so that cuts made since the last measurement do not move
    a file off target. A codec overshoots, so its overshoot is tried out on the loudest moments
    first, and the lowest ceiling holds for all; a file that is over its ceiling or off target when
    decoded is written once more by itself. Raises BadInput for an empty episode.
    """
    timeline = source.timeline
    if timeline.frames == 0:
        raise empty_episode("there is nothing to export")
    profile = source.profile
    if profile is None:
        profile = profile_mix(timeline, source.takes, lambda f: progress(0.2 * f, "Measuring"))
    wanted = timeline.loudness.ceiling_dbtp
    layout = timeline.loudness.layout
    made = []
    for path, settings in files:
        form = format_named(settings.format)
        made.append(_File(path, settings, form, settings.kbits or form.usual_kbits(layout), wanted))
    lossy = [one for one in made if one.form.overshoots]
    if lossy:
        ceiling = wanted - _codec_room(source, profile, lossy)
        for one in made:
            one.ceiling = ceiling
    ceiling = min(one.ceiling for one in made)
    level_now = levelled(timeline, source.words, profile, ceiling)
    for one in made:
        one.gain_db = level_now.loudness.gain_db
    _write(source, level_now, made, ceiling, lambda f: progress(0.2 + 0.6 * f, "Writing the file"))
    _read_back(made, lambda f: progress(0.8 + 0.1 * f, "Reading it back"))
    doing = "Writing it again, nearer to its target"
    for one in made:
        again = level_now
        for _ in range(_MOST_TRIES - 1):
            off = _off(one, timeline.loudness.target, wanted)
            if off is None:
                break
            if off.over_db > 0:
                one.ceiling -= off.over_db + 0.1
                again = levelled(timeline, source.words, profile, one.ceiling)
            else:
                gain = again.loudness.gain_db + off.missing_db
                again = replace(again, loudness=replace(again.loudness, gain_db=gain))
            one.gain_db = again.loudness.gain_db
            _write(source, again, [one], one.ceiling, lambda f: progress(0.9 + 0.05 * f, doing))
            _read_back([one], lambda _f: None)
    progress(0.97, "Writing tags")
    chapters = chapters_of(timeline, source.pictures)
    return tuple(_finished(source, one, chapters) for one in made)


@dataclass(frozen=True, slots=True)
class _Off:
    """How far a file is over its ceiling, and how much it lacks of its target."""

    over_db: float
    missing_db: float


def _off(one: _File, target: float, ceiling: float) -> _Off | None:
    """None where a file reads as it should."""
    assert one.measured is not None
    peak, loud = one.measured.true_peak_dbtp, one.measured.integrated_lufs
    if peak is not None and peak > ceiling + 0.005:
        return _Off(peak - ceiling, 0.0)
    if loud is not None and abs(loud - target) > 0.1:
        return _Off(0.0, target - loud)
    return None


def _write(
    source: Source,
    timeline: Timeline,
    files: Sequence[_File],
    ceiling: float,
    progress: Callable[[float], None],
) -> None:
    """Render once, and encode all of ``files`` from it."""
    blocks = _counted(
        render(timeline, source.takes, source.words, ceiling_dbtp=ceiling),
        timeline.frames,
        progress,
    )
    chapters = chapters_of(timeline, source.pictures)

    def writing(one: _File) -> Callable[[Iterator[Sound]], None]:
        return lambda each: one.form.write(
            each,
            one.path,
            frames=timeline.frames,
            channels=timeline.loudness.channels,
            kbits=one.kbits,
            chapters=chapters,
        )

    if len(files) == 1:
        writing(files[0])(blocks)
    else:
        share(blocks, [writing(one) for one in files])


def _read_back(files: Sequence[_File], progress: Callable[[float], None]) -> None:
    """Decode and measure each, two at a time."""

    def read(one: _File) -> None:
        share_of = 1.0 / len(files)
        one.meter = meter_file(one.path, progress=lambda f: progress(f * share_of))
        one.measured = measure(one.meter)

    with ThreadPoolExecutor(2) as pool:
        for done in [pool.submit(read, one) for one in files]:
            done.result()


def _finished(source: Source, one: _File, chapters: Sequence[Chapter]) -> ExportReport:
    """A file with its labels, as it reads."""
    timeline = source.timeline
    target = timeline.loudness.target
    assert one.measured is not None
    assert one.meter is not None
    warnings: list[str] = []
    loud = one.measured.integrated_lufs
    if loud is None:
        warnings.append("The file is silent.")
    elif abs(loud - target) > 0.2:
        warnings.append(
            f"The file reads {loud:.1f} LUFS, not {target:.1f}: its peaks "
            "stand too high above its speech for this target and ceiling."
        )
    if why := one.form.why_untagged(timeline.frames, timeline.loudness.channels):
        warnings.append(why)
    else:
        one.form.label_file(
            one.path,
            Labels(
                timeline.tags,
                source.artwork,
                chapters,
                timeline.frames,
                one.settings.id3_version,
            ),
        )
    energy = one.meter.profile().energy
    return ExportReport(
        format=one.form.name,
        label=one.form.label(one.kbits),
        bytes=one.path.stat().st_size,
        sha256=_checksum(one.path),
        measured=one.measured,
        sections_lufs=section_loudness(energy, [s.at for s in timeline.sections]),
        loudness_lufs=loudness_over_time(energy),
        tags=read_tags(one.path),
        chapters=len(read_chapters(one.path)),
        target_lufs=target,
        ceiling_dbtp=timeline.loudness.ceiling_dbtp,
        gain_db=one.gain_db,
        warnings=tuple(warnings),
    )


def _checksum(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def levelled(
    timeline: Timeline, words: TakeWords, profile: Profile, ceiling_dbtp: float
) -> Timeline:
    """``timeline`` with its whole on target under a ceiling, section gains as they are."""
    return apply(
        timeline, level(timeline, words, profile, sections=False, ceiling_dbtp=ceiling_dbtp)
    )


def _codec_room(source: Source, profile: Profile, files: Sequence[_File]) -> float:
    """How much lower (dB) than the files' ceiling the limiter has to stop: the largest overshoot
    that their encoders show on the moments where the limiter works hardest, and some more for the
    others, which are many."""
    words = source.words
    ceiling = source.timeline.loudness.ceiling_dbtp - _TRIAL.least_room_db
    timeline = levelled(source.timeline, words, profile, ceiling)
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
    frames = _TRIAL.piece_cells * CELL_FRAMES
    pieces = []
    for number in hardest:
        piece = np.concatenate(
            list(
                render(
                    timeline,
                    source.takes,
                    words,
                    int(number) * frames,
                    frames,
                    ceiling_dbtp=ceiling,
                )
            )
        )
        piece[: _TRIAL.fade_frames] *= fade
        piece[-_TRIAL.fade_frames :] *= fade[::-1]
        pieces.append(piece)

    def overshoot(one: _File) -> float:
        one.form.write(
            iter(pieces),
            one.path,
            frames=len(pieces) * frames,
            channels=timeline.loudness.channels,
            kbits=one.kbits,
        )
        peak = measure(meter_file(one.path)).true_peak_dbtp
        return 0.0 if peak is None else peak - ceiling

    with ThreadPoolExecutor(2) as pool:
        most = max(pool.map(overshoot, files))
    return max(_TRIAL.least_room_db, most + _TRIAL.untried_db)


def _counted(
    blocks: Iterator[Sound], total: int, progress: Callable[[float], None]
) -> Iterator[Sound]:
    done = 0
    for block in blocks:
        yield block
        done += len(block)
        progress(done / total)
