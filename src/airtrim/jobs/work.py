"""The kinds of work, each a function of the store and a job row."""

import hashlib
import json
import shutil
import time
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path

from pydantic import BaseModel, TypeAdapter

from airtrim.core.media import FRAME_RATE
from airtrim.core.media.take import TakeInfo, store_recorded, store_take
from airtrim.core.release.export import ExportReport, ExportSettings, export
from airtrim.core.render.graph import profile_mix
from airtrim.core.render.match import matching_gain
from airtrim.core.speech.recognise import transcribe
from airtrim.core.timeline.edits import MarkerAt, Place, Record, RecordedTake
from airtrim.core.timeline.model import Timeline, Track, TrackKind
from airtrim.errors import AirTrimError, Cancelled, NotFound
from airtrim.settings import Settings
from airtrim.store.files import settle
from airtrim.store.recordings import Landing, Recording, Recordings
from airtrim.store.store import Store
from airtrim.store.tables import JobRow, RecordingRow, TakeRow

_REPORT_EVERY_S = 0.2
MOST_ATTEMPTS = 3

_TRACKS = TypeAdapter(tuple[Track, ...])
_REPORT = TypeAdapter(ExportReport)


class ImportParams(BaseModel):
    """An uploaded file to bring in: where it lies, what it is called, and where it goes."""

    upload: str
    name: str
    track_name: str = "Voice"
    track_kind: TrackKind = "voice"


class RecordParams(BaseModel):
    """A recording to put into its episode, and where."""

    recording: str
    landing: Landing


class TranscribeParams(BaseModel):
    """A take to write the words of."""

    take: str


class MeasureParams(BaseModel):
    """A revision to measure."""

    revision: int


class ExportParams(BaseModel):
    """A revision to write out, and how."""

    revision: int
    settings: ExportSettings
    file_name: str


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
    mix = _TRACKS.dump_json(timeline.tracks) + timeline.loudness.layout.encode()
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
    with store.files.beside() as folder:
        take = folder / "take"
        take.mkdir()
        info = store_take(
            upload,
            take / "sound",
            take / "peaks",
            name=params.name,
            progress=lambda f: report(f, "Bringing in the sound"),
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
        )
        change(place, f"Added “{params.name}”")
        next_job = store.add_job_in(
            change.session,
            "transcribe",
            job.episode_id,
            TranscribeParams(take=take_id).model_dump_json(),
        )
    for left in upload.parent.glob(f"{upload.name}*"):
        left.unlink(missing_ok=True)
    return {"take": take_id, "notice": info.notice, "next": [next_job.id]}


def _keep_original(upload: Path, original: Path) -> None:
    try:
        original.hardlink_to(upload)
    except OSError:
        shutil.copyfile(upload, original)


def _record(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = RecordParams.model_validate_json(job.params)
    recordings = Recordings(store)
    recording = recordings.get(params.recording)
    following: list[str] = []
    if recording.state != "added":
        if recording.state == "open":
            recordings.change(recording.id, "adding", "open")
        try:
            following = _add_recording(store, recording, params.landing, report)
        except Exception:
            recordings.change(recording.id, "open", "adding")
            raise
    shutil.rmtree(store.files.recording(recording.id), ignore_errors=True)
    return {"recording": recording.id, "next": following}


def _add_recording(
    store: Store, recording: Recording, landing: Landing, report: Report
) -> list[str]:
    """Make a take of each microphone and put them in; returns the jobs that follow."""
    pieces = Recordings(store).pieces(recording)
    store.files.need(recording.frames * 4 * len(recording.tracks))
    made: list[tuple[RecordedTake, TakeInfo]] = []
    for index, track in enumerate(recording.tracks):

        def progress(done: float, before: int = index) -> None:
            report((before + done) / len(recording.tracks), "Adding the recording")

        new = RecordedTake(take=f"{recording.id}-{index}", track_name=track)
        with store.files.beside() as folder:
            (folder / "take").mkdir()
            info = store_recorded(
                pieces.channel(index),
                folder / "take" / "sound",
                folder / "take" / "peaks",
                name=track,
                frames=recording.frames,
                progress=progress,
            )
            settle(folder / "take", store.files.take(new.take))
        made.append((new, info))
    if landing.replacing and landing.at is not None:
        head = store.episode(recording.episode_id)[0].head_id or 0
        timeline = store.timeline(recording.episode_id, head)
        span = landing.at, landing.replacing
        for number, (new, info) in enumerate(made):
            gain_db = matching_gain(timeline, store.reader, *span, new.take)
            made[number] = new.model_copy(update={"gain_db": gain_db}), info
    gaps = (
        MarkerAt(at=gap.at, kind="gap", name=f"{gap.frames / FRAME_RATE:.1f} s did not arrive")
        for gap in pieces.gaps()
    )
    following = []
    with store.changing(recording.episode_id, None) as change:
        row = change.session.get(RecordingRow, recording.id)
        assert row is not None
        Recordings.change_in(row, "added", "adding")
        for new, info in made:
            change.session.add(
                TakeRow(
                    id=new.take,
                    episode_id=recording.episode_id,
                    name=f"{new.track_name}, {row.created_at.astimezone():%-d %b %H:%M}",
                    frames=info.frames,
                    channels=info.channels,
                    sha256=info.sha256,
                    notice=info.notice,
                )
            )
        change.session.flush()
        change(
            Record(
                takes=tuple(new for new, _ in made),
                frames=recording.frames,
                at=landing.at,
                replacing=landing.replacing,
                alongside=landing.alongside,
                markers=(*recording.flags, *gaps),
            )
        )
        for new, _ in made:
            hear = TranscribeParams(take=new.take).model_dump_json()
            job = store.add_job_in(change.session, "transcribe", recording.episode_id, hear)
            following.append(job.id)
    return following


def _transcribe(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = TranscribeParams.model_validate_json(job.params)
    take = store.take(params.take)
    words = tuple(
        transcribe(
            store.reader(take.id).read,
            take.frames,
            settings.model_folder,
            progress=lambda f: report(f, "Writing down the words"),
        )
    )
    store.set_words(take.id, words)
    return {"words": len(words)}


def _measure(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = MeasureParams.model_validate_json(job.params)
    timeline = store.timeline(job.episode_id, params.revision)
    key = profile_key(timeline)
    if store.profile(key) is None:
        profile = profile_mix(timeline, store.reader, lambda f: report(f, "Measuring loudness"))
        store.save_profile(key, profile)
    return {"revision": params.revision}


def _export(store: Store, settings: Settings, job: JobRow, report: Report) -> object:
    params = ExportParams.model_validate_json(job.params)
    timeline = store.timeline(job.episode_id, params.revision)
    store.files.need(timeline.frames * timeline.loudness.channels * 3)
    artwork = store.files.artwork(timeline.artwork).read_bytes() if timeline.artwork else None
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


KINDS: dict[str, Callable[[Store, Settings, JobRow, Report], object]] = {
    "import": _import,
    "record": _record,
    "transcribe": _transcribe,
    "measure": _measure,
    "export": _export,
}


def run(store: Store, settings: Settings, job_id: str, wake: Callable[[str], None]) -> None:
    """Do a queued job and note how it ended. ``wake`` is called with a job that follows it."""
    job = store.job(job_id)
    if job.state != "queued":
        return
    if job.cancel:
        store.update_job(job_id, state="cancelled", doing="Cancelled")
        return
    store.update_job(job_id, state="running", doing="Starting", attempts=job.attempts + 1)
    try:
        result = KINDS[job.kind](store, settings, job, Report(store, job_id))
    except Cancelled:
        store.update_job(job_id, state="cancelled", doing="Cancelled")
    except AirTrimError as error:
        store.update_job(job_id, state="failed", error=str(error), doing="Stopped")
    except Exception as error:
        sentence = f"This went wrong inside Air Trim ({type(error).__name__}). Nothing was changed."
        store.update_job(job_id, state="failed", error=sentence, doing="Stopped")
        raise
    else:
        done = json.dumps(result)
        store.update_job(job_id, state="done", progress=1.0, doing="Done", result=done)
        if isinstance(result, dict):
            for following in result.get("next", ()):
                wake(following)


def recover(store: Store) -> list[str]:
    """Put what a stopped worker left back in the queue; returns the jobs to wake, oldest first.

    A job that has already been begun three times is marked interrupted; the host can run it again.
    """
    waiting = []
    for job in store.jobs(states=("queued", "running")):
        if job.attempts >= MOST_ATTEMPTS:
            sentence = "Air Trim was stopped while this ran. Nothing was lost; run it again."
            store.update_job(job.id, state="interrupted", error=sentence, doing="Stopped")
        else:
            store.update_job(job.id, state="queued", doing="Waiting")
            waiting.append(job.id)
    return waiting
