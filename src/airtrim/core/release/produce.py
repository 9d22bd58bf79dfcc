"""The main job in one call: files in, a levelled, tagged and checked file out."""

import shutil
import tempfile
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from airtrim.compute.inline import INLINE
from airtrim.compute.order import Compute, told
from airtrim.core.loudness.meter import section_loudness
from airtrim.core.loudness.riding import Riding
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.peaks import Peaks
from airtrim.core.media.take import TakeReader, store_take
from airtrim.core.progress import Progress
from airtrim.core.release import transcript
from airtrim.core.release.artwork import check_artwork
from airtrim.core.release.export import ExportSettings, Source, export, level
from airtrim.core.release.formats import FORMATS
from airtrim.core.release.labels import Id3Version
from airtrim.core.render.graph import Mix, as_recorded, profile_mix
from airtrim.core.render.solo import loudness_between, ride_phrases, track_energy
from airtrim.core.snags.decide import How, coverable, tidy
from airtrim.core.snags.find import find_snags
from airtrim.core.snags.listen import listen
from airtrim.core.snags.talk import talk_of
from airtrim.core.sound.choosing import AskedMethod, settled
from airtrim.core.sound.cleaning import made_clean
from airtrim.core.sound.denoise import Cleaned, share_of
from airtrim.core.sound.fill import RoomToneFill, made_up
from airtrim.core.sound.roomtone import RoomTone, find_room_tone
from airtrim.core.speech.recognise import transcribe
from airtrim.core.speech.voices import with_voices
from airtrim.core.timeline.chain import Chain, Echo, Noise
from airtrim.core.timeline.cleaned import Cleaning, cleaned_of, is_cleaned, needed
from airtrim.core.timeline.edits import apply, complete
from airtrim.core.timeline.edits.cutting import Cut
from airtrim.core.timeline.edits.loudness import SetLoudness
from airtrim.core.timeline.edits.placing import Place
from airtrim.core.timeline.edits.release import SetTags
from airtrim.core.timeline.edits.sections import SectionStart, SetSections
from airtrim.core.timeline.edits.tracks import SetChain
from airtrim.core.timeline.model import Layout, Span, Timeline
from airtrim.core.timeline.snap import Read
from airtrim.core.timeline.tags import Tags
from airtrim.core.timeline.talk import Talk
from airtrim.core.timeline.tone import is_tone
from airtrim.core.timeline.words import TakeWords, talk_in, words_on
from airtrim.errors import BadInput


class Treatment(BaseModel):
    """What is done to sound, whichever it is."""

    model_config = ConfigDict(frozen=True)

    layout: Layout | None = None
    """None: stereo where any of the files is."""
    target_lufs: float | None = Field(default=None, ge=-36.0, le=-8.0)
    ceiling_dbtp: float = Field(default=-1.0, ge=-9.0, le=-0.1)
    kbits: int | None = None
    id3_version: Id3Version = "2.3"
    model_folder: Path | None = None
    """None: no words are heard, so that nothing can be tidied."""
    speech_language: str = ""
    tidy: How | None = None
    clean: float | None = Field(default=None, ge=0.0, le=1.0)
    """How far the room is lowered, 0 to 1."""
    clean_method: AskedMethod = "auto"
    echo: bool = False
    """Whether the echo of the room is lowered before its noise is."""
    level: bool = False
    """Whether phrases are brought nearer to each other, before the sections are."""


class Request(Treatment):
    """What to make. Times in seconds of the raw sound, all files joined in order."""

    files: tuple[Path, ...] = Field(min_length=1)
    output: Path
    section_starts_s: tuple[float, ...] = (0.0,)
    cuts_s: tuple[tuple[float, float], ...] = ()
    tags: Tags = Tags()
    artwork: bytes | None = None
    transcript: Path | None = None
    """Where what is said is written as WebVTT."""


def run(
    request: Request, progress: Progress = lambda _f, _d: None, compute: Compute = INLINE
) -> dict[str, Any]:
    """Make the file; returns a report of what was done and measured. ``compute``: where its words
    are heard and its room is taken out.

    Raises BadInput, and leaves no file, where anything asked for cannot be done.
    """
    suffix = request.output.suffix.lower().removeprefix(".")
    if suffix not in FORMATS:
        endings = " or ".join(f".{name}" for name in FORMATS)
        raise BadInput(f"“{request.output.name}”: the output has to end in {endings}.")
    if not request.output.parent.is_dir():
        raise BadInput(f"The folder for “{request.output.name}” is not there.")
    if request.artwork is not None:
        check_artwork(request.artwork)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        takes: dict[str, TakeReader] = {}
        tones: dict[str, RoomTone] = {}
        words: TakeWords = {}
        timeline = Timeline()
        found_layout: Layout = "mono"
        for number, file in enumerate(request.files):
            take = f"take{number}"
            progress(0.0, f"Bringing in {file.name}")
            info = store_take(file, folder / take, folder / f"{take}.peaks", name=file.name)
            takes[take] = TakeReader(folder / take)
            timeline = apply(timeline, Place(take=take, take_frames=info.frames))
            if info.channels == 2:
                found_layout = "stereo"
            several = len(request.section_starts_s) > 1
            wanted = request.tidy or request.level or request.transcript or several
            if request.model_folder and wanted:
                heard = transcribe(
                    takes[take].read,
                    info.frames,
                    request.model_folder,
                    language=request.speech_language,
                    progress=lambda f: progress(0.25 * f, told("Writing down the words", compute)),
                    compute=compute,
                )
                words[take] = with_voices(
                    takes[take],
                    tuple(heard),
                    lambda f: progress(0.25 + 0.05 * f, told("Telling voices apart", compute)),
                    compute,
                )
            if (request.tidy and take in words) or request.clean:
                peaks = Peaks(folder / f"{take}.peaks", info.frames)
                found = find_room_tone(peaks, info.frames, words.get(take, ()))
                if found:
                    tones[take] = found
        raw_frames = timeline.frames
        timeline = _prepared(timeline, request, request.layout or found_layout, takes)
        tidied = None
        if request.tidy:
            progress(0.3, "Looking for snags")
            timeline, tidied = tidied_up(timeline, request.tidy, words, takes, tones)

        if request.clean or request.echo:
            chain = _cleaning_chain(request, takes, progress)
            for track in timeline.tracks:
                timeline = apply(timeline, SetChain(track=track.id, chain=chain))
        cleaned = _made_clean(timeline, folder, takes, tones, progress, compute)

        @lru_cache
        def reader(take: str) -> TakeReader | RoomToneFill | Cleaned:
            if is_cleaned(take):
                how, strength = cleaned_of(take)
                before = cleaned[how.before] if how.before else takes[how.take]
                whole = cleaned[how]
                return Cleaned(before, whole, share_of(strength)) if how.method else whole
            return made_up(take, takes.__getitem__) if is_tone(take) else takes[take]

        not_levelled = ""
        if request.level:
            energies = {
                track.id: track_energy(
                    timeline, reader, track.id, lambda f: progress(f, "Measuring the phrases")
                )
                for track in timeline.tracks
            }
            try:
                timeline = apply(timeline, ride_phrases(timeline, words, energies, Riding()))
            except BadInput as error:  # nobody speaks, or all are as loud already
                not_levelled = str(error)
        profile = profile_mix(timeline, reader, lambda f: progress(f, "Measuring"))
        before = section_loudness(profile.energy, [s.at for s in timeline.sections])
        timeline = apply(timeline, level(timeline, words, profile, sections=True))
        out = folder / f"out.{suffix}"
        settings = ExportSettings.model_validate(
            {"format": suffix, "kbits": request.kbits, "id3_version": request.id3_version}
        )
        source = Source(timeline, reader, words, request.artwork, profile=profile)
        written = export(source, out, settings, progress=progress)
        for take_reader in takes.values():
            take_reader.close()
        if request.transcript:
            cues = transcript.cues_of(words_on(timeline, words), {})
            request.transcript.write_text(transcript.written(cues, "vtt"), encoding="utf-8")
        shutil.move(out, request.output)
    report = written.model_dump(exclude={"sections_lufs"})
    return {
        "output": str(request.output),
        "raw_s": raw_frames / FRAME_RATE,
        "trimmed_s": timeline.trimmed / FRAME_RATE,
        "cuts": len(timeline.cuts),
        "tidied": tidied,
        "not_levelled": not_levelled,
        "sections": [
            {
                "start_s": s.at / FRAME_RATE,
                "before_lufs": was,
                "gain_db": s.gain_db,
                "after_lufs": now,
            }
            for s, was, now in zip(timeline.sections, before, written.sections_lufs, strict=True)
        ],
        **report,
    }


def _cleaning_chain(request: Request, takes: Mapping[str, TakeReader], progress: Progress) -> Chain:
    """What is taken out of every track."""
    noise = Noise()
    if request.clean:
        progress(0.0, "Listening to the noise")
        method = settled(request.clean_method, takes.values()).method
        noise = Noise(True, request.clean, method)
    return Chain(echo=Echo(request.echo), noise=noise)


def _made_clean(
    timeline: Timeline,
    folder: Path,
    takes: Mapping[str, TakeReader],
    tones: Mapping[str, RoomTone],
    progress: Progress,
    compute: Compute,
) -> dict[Cleaning, TakeReader]:
    """All cleaned takes that a document needs, each written beside what it is made of."""
    out: dict[Cleaning, TakeReader] = {}
    for number, how in enumerate(needed(timeline)):
        path = folder / f"cleaned{number}"
        source = out[how.before] if how.before else takes[how.take]

        def telling(fraction: float) -> None:
            progress(fraction, told("Taking the room out", compute))

        made_clean(source, how.method, tones.get(how.take), path, telling, compute)
        out[how] = TakeReader(path)
    return out


def tidied_up(
    timeline: Timeline,
    how: How,
    words: TakeWords,
    takes: dict[str, TakeReader],
    tones: dict[str, RoomTone],
) -> tuple[Timeline, dict[str, int]]:
    """The document after a whole pass, and how many snags of each kind that settled. Where a take
    has no room tone, what would have been covered stays."""
    listened = {
        take: listen(reader.read, timeline.lengths[take], words.get(take, ()))
        for take, reader in takes.items()
    }
    snags = find_snags(timeline, words, listened)
    proposal = tidy(talk_of(timeline, words), snags, how)
    sources = _Files(timeline, takes, words, tones)
    edit = complete(coverable(proposal.edit, sources), sources, snap=True)
    return apply(timeline, edit), {**proposal.counts, "pauses": proposal.pauses}


@dataclass(frozen=True)
class _Files:
    """``Sources`` of an episode that is made of files in one go."""

    timeline: Timeline
    takes: dict[str, TakeReader]
    given_words: TakeWords
    tones: dict[str, RoomTone]

    def timeline_at(self, revision: int) -> Timeline:
        raise BadInput("There is no other state of this episode.")

    def numbered(self, take: str) -> int:
        return len(self.words(self.timeline).get(take, ()))

    def take_frames(self, take: str) -> int:
        return self.takes[take].frames if take in self.takes else 0

    def words(self, timeline: Timeline) -> TakeWords:
        return self.given_words

    def talk(self, timeline: Timeline) -> dict[str, Talk]:
        return {take: talk_in(words) for take, words in self.given_words.items()}

    def room_tone(self, take: str) -> Span | None:
        tone = self.tones.get(take)
        return Span(take, tone.start, tone.frames) if tone else None

    def sound(self, timeline: Timeline) -> Read:
        return Mix(as_recorded(timeline), self.takes.__getitem__).read

    def loudness(self, timeline: Timeline, start: int, end: int) -> float | None:
        return loudness_between(timeline, self.takes.__getitem__, start, end)


def _prepared(
    timeline: Timeline, request: Request, layout: Layout, takes: dict[str, TakeReader]
) -> Timeline:
    """The document before levelling: settings, sections, cuts from the last to the first."""
    loudness = SetLoudness(
        layout=layout, target_lufs=request.target_lufs, ceiling_dbtp=request.ceiling_dbtp
    )
    timeline = apply(timeline, loudness)
    starts = tuple(SectionStart(at=round(start * FRAME_RATE)) for start in request.section_starts_s)
    timeline = apply(timeline, SetSections(sections=starts))
    timeline = apply(timeline, SetTags(tags=request.tags))
    reached = timeline.frames
    for start_s, end_s in sorted(request.cuts_s, reverse=True):
        start, end = round(start_s * FRAME_RATE), round(end_s * FRAME_RATE)
        if end > reached:
            raise BadInput(f"The cut {start_s}-{end_s} overlaps another or lies past the end.")
        sources = _Files(timeline, takes, {}, {})
        wanted = complete(Cut(start=start, frames=end - start), sources, snap=True)
        timeline = apply(timeline, wanted)
        reached = wanted.start
    return timeline
