"""The kinds of work, each a function of the store and a job row."""

import hashlib
import json
import logging
import shutil
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import asdict, replace
from pathlib import Path

import numpy as np
import soundfile
from pydantic import BaseModel, Field, TypeAdapter
from sqlalchemy.exc import OperationalError

from airtrim.core.loudness.meter import Profile
from airtrim.core.loudness.riding import Bed, Riding
from airtrim.core.media import FRAME_RATE
from airtrim.core.media.alignment import Run, Stretch, follow, holes, placed, plan, runs_of
from airtrim.core.media.decode import Block
from airtrim.core.media.take import TakeInfo, store_recorded, store_take
from airtrim.core.release.export import ExportReport, ExportSettings, export
from airtrim.core.release.reading import words_of
from airtrim.core.release.transcript import Cue
from airtrim.core.render.graph import profile_mix
from airtrim.core.render.match import matching_gain
from airtrim.core.render.solo import Energies, duck, ride_phrases, track_energy, voices_of
from airtrim.core.speech.recognise import aligned, recognised, transcribe
from airtrim.core.speech.script import placed as placed_words
from airtrim.core.timeline.bounds import MOST_FRAMES
from airtrim.core.timeline.edits.placing import MarkerAt, Place, Record, RecordedTake
from airtrim.core.timeline.model import Span, Timeline, Track, TrackKind
from airtrim.core.timeline.tone import is_tone
from airtrim.core.timeline.words import Word, gap_near, words_on
from airtrim.errors import AirTrimError, BadInput, Cancelled, Damaged, NotFound
from airtrim.logs import event
from airtrim.settings import Settings
from airtrim.store.files import FULL, settle
from airtrim.store.full import is_full
from airtrim.store.pieces import Pieces
from airtrim.store.recordings import RUNS, Landing, Recording, Recordings
from airtrim.store.store import Store
from airtrim.store.tables import JobRow, RecordingRow, TakeRow, now
from airtrim.store.uploads import Uploads

_REPORT_EVERY_S = 0.2
MOST_ATTEMPTS = 3
_NOTE_ATTEMPTS = 30

_log = logging.getLogger("airtrim")

_TRACKS = TypeAdapter(tuple[Track, ...])
_REPORT = TypeAdapter(ExportReport)
_TONES = TypeAdapter(dict[str, Span])


class ImportParams(BaseModel):
    """An uploaded file to bring in: where it lies, what it is called, and where it goes."""

    upload: str
    name: str
    track_name: str = Field(default="Voice", min_length=1, max_length=80)
    track_kind: TrackKind = "voice"
    at: int | None = Field(default=None, ge=0, le=MOST_FRAMES)
    insert: bool = False


class RecordParams(BaseModel):
    """A recording to put into its episode, where, and the guests' recordings that go beside it."""

    recording: str
    landing: Landing
    guests: tuple[str, ...] = ()


class TranscribeParams(BaseModel):
    """A take to write the words of; ``cues``: a transcript made elsewhere, to be aligned instead of
    recognised; ``back``: the words that it had before are brought back."""

    take: str
    cues: tuple[Cue, ...] = ()
    back: bool = False


class MeasureParams(BaseModel):
    """A revision to measure."""

    revision: int


class CleanParams(BaseModel):
    """A revision whose recordings are to be cleaned."""

    revision: int


class RideParams(BaseModel):
    """A revision whose gain is to be ridden: phrases brought nearer, or music held under the talk,
    whichever is told."""

    revision: int
    riding: Riding | None = None
    bed: Bed | None = None


class ExportParams(BaseModel):
    """A revision to write out, and how."""

    revision: int
    settings: ExportSettings
    file_name: str
    despite_damage: bool = False


class MendParams(BaseModel):
    """A take that is damaged, to be made anew."""

    take: str


class Report:
    """Writes a job's progress, now and then, and raises Cancelled when the host asked for it."""

    def __init__(self, store: Store, job_id: str) -> None:
        self._store, self._job_id = store, job_id
        self._last = 0.0

    def __call__(self, fraction: float, doing: str) -> None:
        """Note that ``fraction`` (0–1) is done, and what is being done."""
        now = time.monotonic()
        if now - self._last < _REPORT_EVERY_S:
            return
        self._last = now
        job = self._store.update_job(self._job_id, progress=round(fraction, 4), doing=doing)
        if job.cancel:
            raise Cancelled("Cancelled.")


def profile_key(timeline: Timeline) -> str:
    """Under what name the measurement of a document is kept: all that changes its mix."""
    return _key(timeline, timeline.tracks)


def track_key(timeline: Timeline, track: Track) -> str:
    """The same for one track by itself, muted or not."""
    return _key(timeline, (replace(track, muted=False, soloed=False),))


def _key(timeline: Timeline, tracks: Sequence[Track]) -> str:
    mix = _TRACKS.dump_json(tuple(tracks)) + timeline.loudness.layout.encode()
    if any(track.chain.noise.on for track in tracks):
        mix += _TONES.dump_json(timeline.room_tones)
    return hashlib.sha256(mix).hexdigest()


def _import(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = ImportParams.model_validate_json(job.params)
    upload = store.files.upload(params.upload)
    take_id = job.id
    if any(take.id == take_id for take in store.takes(job.episode_id)):
        return {"take": take_id}
    if not upload.exists():
        raise NotFound(f"The upload of “{params.name}” is gone. Add the file again.")
    store.files.need(upload.stat().st_size * 3)
    Uploads(store.files).check(params.upload)

    def decoding(fraction: float) -> None:
        store.files.need(0)  # what unfolds while it is decoded may be more than was thought
        report(fraction, "Bringing in the sound")

    with store.files.beside() as folder:
        take = folder / "take"
        take.mkdir()
        info = store_take(
            upload,
            take / "sound",
            take / "peaks",
            name=params.name,
            progress=decoding,
        )
        _keep_original(upload, take / "original")
        report(1.0, "Keeping it safe")
        settle(take, store.files.take(take_id))
    with store.changing(job.episode_id, None) as change:
        change.session.add(
            TakeRow(
                id=take_id,
                episode_id=job.episode_id,
                name=params.name,
                frames=info.frames,
                channels=info.channels,
                sha256=info.sha256,
                notice=info.notice,
            )
        )
        change.session.flush()
        place = Place(
            take=take_id,
            take_frames=info.frames,
            track_name=params.track_name,
            track_kind=params.track_kind,
            at=_between_words(store, change.timeline, params.at) if params.insert else params.at,
            insert=params.insert,
        )
        name = f"Added “{params.name}”"
        try:
            change(place, name)
        except BadInput:
            # It does not fit where it was let go: a track of its own, nothing is lost.
            own = _unused(params.track_name, change.tracks)
            change(place.model_copy(update={"track_name": own}), name)
        next_job = store.add_job_in(
            change.session,
            "transcribe",
            job.episode_id,
            TranscribeParams(take=take_id).model_dump_json(),
        )
    Uploads(store.files).remove(params.upload)
    return {"take": take_id, "notice": info.notice, "next": [next_job.id]}


def _between_words(store: Store, timeline: Timeline, at: int | None) -> int | None:
    """``at`` where nobody speaks there, or the middle of the nearest pause between words."""
    if at is None:
        return None
    near = words_on(timeline, store.words(timeline), max(0, at - 5 * FRAME_RATE), at + FRAME_RATE)
    start, end = gap_near(near, at, FRAME_RATE)
    return at if start <= at <= end else max(0, (start + end) // 2)


def _unused(name: str, taken: Sequence[str]) -> str:
    """``name`` with a number after it that no track has yet."""
    return next(
        candidate
        for number in range(2, len(taken) + 3)
        if (candidate := f"{name[:70]} {number}") not in taken
    )


def _keep_original(upload: Path, original: Path) -> None:
    try:
        original.hardlink_to(upload)
    except OSError:
        shutil.copyfile(upload, original)


def _record(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = RecordParams.model_validate_json(job.params)
    recordings = Recordings(store)
    recording = recordings.get(params.recording)
    guests = [recordings.get(guest) for guest in params.guests]
    following: list[str] = []
    if recording.state != "added":
        together = [one.id for one in (recording, *guests)]
        recordings.turn(together, "adding", "open", "adding")
        try:
            following = _Adding(store, recording, guests, report).add(params.landing)
        except Exception:
            recordings.turn(together, "open", "adding")
            raise
    for one in (recording, *guests):
        shutil.rmtree(store.files.recording(one.id), ignore_errors=True)
    return {"recording": recording.id, "next": following}


_HOLE_FRAMES = FRAME_RATE // 2
"""A guest missing for less than this at either end is not worth a marker."""


class _Adding:
    """Making takes of a recording and those beside it, and putting them in."""

    def __init__(
        self, store: Store, recording: Recording, guests: Sequence[Recording], report: Report
    ) -> None:
        self._store, self._report = store, report
        self._recordings = Recordings(store)
        self._recording, self._guests = recording, guests
        self._made: list[tuple[RecordedTake, TakeInfo]] = []
        self._markers: list[MarkerAt] = list(recording.flags)
        self._shares = len(recording.tracks) + len(guests)

    def add(self, landing: Landing) -> list[str]:
        """Do it; returns the jobs that follow."""
        store, recording = self._store, self._recording
        self._store.files.need(recording.frames * 4 * self._shares)
        pieces = self._recordings.pieces(recording)
        heard = runs_of(pieces.readings(), recording.frames)
        frames = recording.frames
        if recording.guest and (host := self._host_frames()):
            frames, heard = host, self._recordings.heard(recording.beside or "")
            landing = self._beside_host(landing, heard)
            self._add_guest(recording, frames, heard)
        else:
            for index, track in enumerate(recording.tracks):
                self._add_take(recording, index, track, pieces.channel(index), frames)
            for gap in pieces.gaps():
                self._mark(gap.at, f"{gap.frames / FRAME_RATE:.1f} s did not arrive")
            for guest in self._guests:
                self._add_guest(guest, frames, heard)
        if landing.replacing and landing.at is not None:
            self._match_loudness(landing.at, landing.replacing)
        return self._put_in(store, landing, frames, heard)

    def _mark(self, at: int, name: str) -> None:
        self._markers.append(MarkerAt(at=at, kind="gap", name=name[:120]))

    def _add_guest(self, guest: Recording, frames: int, host: Sequence[Run]) -> None:
        """A guest's take, in time with the host's and as long."""
        pieces = self._recordings.pieces(guest)
        name = guest.tracks[0]
        runs = runs_of(pieces.readings(), guest.frames)
        stretches = plan(host, runs)
        if not stretches:  # no clock was told: both are taken to have begun together
            together = min(frames, guest.frames)
            stretches = (Stretch(0, together, 0, together),)
            self._mark(0, f"{name}: no clock came with it, so it may be out of time")
        blocks = follow(stretches, frames, pieces.read)
        self._add_take(guest, 0, name, blocks, frames, pieces)
        for at, count in holes(stretches, frames):
            if count > _HOLE_FRAMES:
                self._mark(at, f"{name} was not recorded for {count / FRAME_RATE:.1f} s")
        lost = [
            (gap.at, f"{gap.frames / FRAME_RATE:.1f} s did not arrive") for gap in pieces.gaps()
        ]
        for at, what in (*lost, *((flag.at, flag.name) for flag in guest.flags)):
            at_host = placed(stretches, at)
            if at_host is not None:
                self._mark(at_host, f"{name}: {what}")

    def _add_take(
        self,
        recording: Recording,
        index: int,
        track: str,
        blocks: Iterator[Block],
        frames: int,
        original: Pieces | None = None,
    ) -> None:
        before = len(self._made)
        new = RecordedTake(take=f"{recording.id}-{index}", track_name=track)
        with self._store.files.beside() as folder:
            take = folder / "take"
            take.mkdir()
            info = store_recorded(
                blocks,
                take / "sound",
                take / "peaks",
                name=track,
                frames=frames,
                progress=lambda done: self._report(
                    (before + done) / self._shares, "Adding the recording"
                ),
            )
            if original:
                _keep_pieces(original, take / "original")
            settle(take, self._store.files.take(new.take))
        self._made.append((new, info))

    def _match_loudness(self, at: int, frames: int) -> None:
        episode_id = self._recording.episode_id
        head = self._store.episode(episode_id)[0].head_id or 0
        timeline = self._store.timeline(episode_id, head)
        for number in range(len(self._recording.tracks)):
            new, info = self._made[number]
            gain_db = matching_gain(timeline, self._store.reader, at, frames, new.take)
            self._made[number] = new.model_copy(update={"gain_db": gain_db}), info

    def _host_frames(self) -> int:
        """How long the host's take is that this guest's goes beside; 0 where it is not there."""
        takes = self._store.takes(self._recording.episode_id)
        beside = f"{self._recording.beside}-0"
        return next((take.frames for take in takes if take.id == beside), 0)

    def _beside_host(self, landing: Landing, heard: Sequence[Run]) -> Landing:
        """Where the host's take lies now, for what comes after it was added."""
        episode_id = self._recording.episode_id
        head = self._store.episode(episode_id)[0].head_id or 0
        take = f"{self._recording.beside}-0"
        for track in self._store.timeline(episode_id, head).tracks:
            for clip in track.clips:
                if clip.take == take and heard:
                    at = clip.at - clip.start
                    return Landing(at=max(0, at), alongside=True, skip=max(0, -at))
        return landing

    def _put_in(
        self, store: Store, landing: Landing, frames: int, heard: Sequence[Run]
    ) -> list[str]:
        episode_id = self._recording.episode_id
        following = []
        with store.changing(episode_id, None) as change:
            begun = now()
            for one in (self._recording, *self._guests):
                row = change.session.get(RecordingRow, one.id)
                assert row is not None
                begun = min(begun, row.created_at)
                Recordings.change_in(row, "added", "adding")
                row.heard = RUNS.dump_json(tuple(heard)).decode()
            for new, info in self._made:
                change.session.add(
                    TakeRow(
                        id=new.take,
                        episode_id=episode_id,
                        name=f"{new.track_name}, {begun.astimezone():%-d %b %H:%M}",
                        frames=info.frames,
                        channels=info.channels,
                        sha256=info.sha256,
                        notice=info.notice,
                    )
                )
            change.session.flush()
            change(
                Record(
                    takes=tuple(new for new, _ in self._made),
                    frames=frames,
                    at=landing.at,
                    replacing=landing.replacing,
                    alongside=landing.alongside,
                    skip=landing.skip,
                    markers=tuple(self._markers),
                )
            )
            for new, _ in self._made:
                hear = TranscribeParams(take=new.take).model_dump_json()
                job = store.add_job_in(change.session, "transcribe", episode_id, hear)
                following.append(job.id)
        return following


def _keep_pieces(pieces: Pieces, path: Path) -> None:
    """All of a recording as it came, also what was not brought into the episode."""
    with soundfile.SoundFile(
        str(path), "w", samplerate=FRAME_RATE, channels=1, format="RF64", subtype="FLOAT"
    ) as out:
        for block in pieces.channel(0):
            out.write(block)


def _transcribe(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = TranscribeParams.model_validate_json(job.params)
    take = store.take(params.take)
    read = store.reader(take.id).read

    def heard(fraction: float) -> None:
        report(fraction, "Writing down the words")

    found: Iterable[Word]
    if params.back:
        found = store.words_before(take.id)
    elif params.cues:
        found = _given_words(store, settings, take, params.cues, heard)
    else:
        found = transcribe(
            read,
            take.frames,
            settings.model_folder,
            language=settings.speech_language,
            progress=heard,
        )
    words = tuple(found)
    store.set_words(take.id, words)
    return {"words": len(words)}


def _given_words(
    store: Store,
    settings: Settings,
    take: TakeRow,
    cues: Sequence[Cue],
    heard: Callable[[float], None],
) -> Iterator[Word]:
    """The words of a transcript made elsewhere, in their places in a take. Text without times is
    placed by what the recogniser hears."""
    read = store.reader(take.id).read
    if cues[-1].end:
        words = words_of(cues, take.frames)
    else:
        known = recognised(
            read,
            take.frames,
            settings.model_folder,
            language=settings.speech_language,
            progress=lambda f: heard(0.6 * f),
        )
        words = placed_words(" ".join(cue.text for cue in cues), tuple(known))
    return aligned(
        read,
        take.frames,
        words,
        language=settings.speech_language,
        progress=lambda f: heard(0.6 + 0.4 * f),
    )


def _clean(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = CleanParams.model_validate_json(job.params)
    timeline = store.timeline(job.episode_id, params.revision)
    return {"cleaned": _cleaned(store, timeline, report)}


def _cleaned(store: Store, timeline: Timeline, report: Report) -> int:
    """Make what a document needs of cleaned takes and does not have; returns how many that were."""
    missing = store.cleaned.missing(timeline)
    for number, (take, tone) in enumerate(missing):

        def told(fraction: float, before: int = number) -> None:
            report((before + fraction) / len(missing), "Taking the room out")

        store.cleaned.make(take, tone, told)
    return len(missing)


def _measure(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = MeasureParams.model_validate_json(job.params)
    timeline = store.timeline(job.episode_id, params.revision)
    _cleaned(store, timeline, report)
    key = profile_key(timeline)
    if store.profile(key) is None:
        profile = profile_mix(timeline, store.reader, lambda f: report(f, "Measuring loudness"))
        store.save_profile(key, profile)
    energies_of(store, timeline, report)
    return {"revision": params.revision}


def energies_of(store: Store, timeline: Timeline, report: Report | None = None) -> Energies:
    """The energy of each voice by itself; measured now where it was not, if there is somebody to
    report to, or left out."""
    out: Energies = {}
    for track in voices_of(timeline):
        key = track_key(timeline, track)
        known = store.profile(key)
        if known is not None:
            out[track.id] = known.energy
        elif report is not None:
            energy = track_energy(
                timeline,
                store.reader,
                track.id,
                lambda f, name=track.name: report(f, f"Measuring {name}"),  # type: ignore[misc]
            )
            store.save_profile(key, Profile(energy, np.zeros(0, np.float32), 0.0))
            out[track.id] = energy
    return out


def _ride(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = RideParams.model_validate_json(job.params)
    timeline = store.timeline(job.episode_id, params.revision)
    words = store.words(timeline)
    _cleaned(store, timeline, report)
    energies = energies_of(store, timeline, report)
    if params.bed is not None:
        edit = duck(timeline, store.reader, words, energies, params.bed)
    else:
        edit = ride_phrases(timeline, words, energies, params.riding or Riding())
    revision = store.edit(job.episode_id, params.revision, edit)
    return {"revision": revision}


def _export(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = ExportParams.model_validate_json(job.params)
    timeline = store.timeline(job.episode_id, params.revision)
    store.files.need(timeline.frames * timeline.loudness.channels * 3)
    artwork = store.files.artwork(timeline.artwork).read_bytes() if timeline.artwork else None
    if not params.despite_damage:
        _check_takes(store, timeline, report)
    store.cleaned.drop_broken(timeline)
    _cleaned(store, timeline, report)
    with store.files.beside() as folder:
        out = folder / "out"
        out.mkdir()
        written = export(
            timeline,
            store.reader,
            store.words(timeline),
            out / f"file.{params.settings.format}",
            params.settings,
            artwork=artwork,
            profile=store.profile(profile_key(timeline)),
            progress=report,
        )
        settle(out, store.files.export(job.id))
    return asdict(written)


def _check_takes(store: Store, timeline: Timeline, report: Report) -> None:
    """Hold every recording that sounds against its checksum; one that is damaged is made anew.
    Raises Damaged where it cannot be."""
    used = sorted({t for track in timeline.tracks for t in track.clips.takes if not is_tone(t)})
    for number, take_id in enumerate(used):
        take = store.take(take_id)

        def done(fraction: float, before: int = number) -> None:
            report((before + fraction) / len(used), "Checking the recordings")

        if not store.soundness.is_whole(take, done):
            store.reader(take_id)  # says so where it is missing
            try:
                store.soundness.mend(take, done)
            except Damaged as error:
                raise Damaged(
                    f"{error} Nothing was exported: where it is damaged there would be silence."
                ) from error


def _mend(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = MendParams.model_validate_json(job.params)
    take = store.take(params.take)
    store.soundness.mend(take, lambda f: report(f, "Making a damaged recording anew"))
    store.touch(job.episode_id)
    return {"take": take.id}


KINDS: dict[str, Callable[[Store, Settings, JobRow, Report], object]] = {
    "import": _import,
    "record": _record,
    "transcribe": _transcribe,
    "clean": _clean,
    "measure": _measure,
    "ride": _ride,
    "export": _export,
    "mend": _mend,
}


def run(store: Store, settings: Settings, job_id: str, wake: Callable[[str], None]) -> None:
    """Do a queued job and note how it ended. ``wake`` is called with a job that follows it. Where
    the disk is so full that not even a beginning can be noted, it goes on waiting."""
    try:
        job = store.begin_job(job_id)
    except OperationalError as error:
        if is_full(error, store.files.free()):
            return
        raise
    if job is None:
        return
    begun = time.monotonic()
    try:
        result = KINDS[job.kind](store, settings, job, Report(store, job_id))
    except Cancelled:
        ended: dict[str, object] = {"state": "cancelled", "doing": "Cancelled"}
    except AirTrimError as error:
        ended = {"state": "failed", "error": str(error), "doing": "Stopped"}
    except Exception as error:
        inside = f"This went wrong inside Air Trim ({type(error).__name__}). Nothing was changed."
        if is_full(error, store.files.free()):
            inside = FULL
        else:
            _log.exception("job failed", extra={"fields": {"job": job_id, "kind": job.kind}})
        ended = {"state": "failed", "error": inside, "doing": "Stopped"}
    else:
        ended = {"state": "done", "progress": 1.0, "doing": "Done", "result": json.dumps(result)}
        for following in result.get("next", ()) if isinstance(result, dict) else ():
            wake(following)
    _note(store, job_id, ended)
    took_s = round(time.monotonic() - begun, 2)
    event("job", job=job_id, kind=job.kind, state=ended["state"], seconds=took_s)


def _note(store: Store, job_id: str, ended: dict[str, object]) -> None:
    """Note how a job ended; on a full disk as soon as there is room, within half a minute."""
    for attempt in range(_NOTE_ATTEMPTS):
        try:
            store.update_job(job_id, **ended)
            return
        except OperationalError as error:
            if attempt + 1 == _NOTE_ATTEMPTS or not is_full(error, store.files.free()):
                raise
            time.sleep(1.0)


def recover(store: Store) -> list[str]:
    """Put what a stopped worker left back in the queue; returns the jobs to wake, oldest first.

    A job that has already been begun three times is marked interrupted; the host can run it again.
    """
    waiting = []
    unended = store.jobs(states=("queued", "running", "interrupted"))
    named = [RecordParams.model_validate_json(j.params) for j in unended if j.kind == "record"]
    Recordings(store).free({one for params in named for one in (params.recording, *params.guests)})
    for job in store.jobs(states=("queued", "running")):
        if job.attempts >= MOST_ATTEMPTS:
            sentence = "Air Trim was stopped while this ran. Nothing was lost; run it again."
            store.update_job(job.id, state="interrupted", error=sentence, doing="Stopped")
        else:
            store.update_job(job.id, state="queued", doing="Waiting")
            waiting.append(job.id)
    return waiting
